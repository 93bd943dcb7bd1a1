#!/bin/sh
# Starts Sapolin from this folder. The first time it installs itself beside this file; no network is needed.
set -eu
here=$(dirname "$(readlink -f "$0")")
if [ ! -x "$here/installed/bin/sapolin" ]; then
  command -v python3 >/dev/null || { echo "Python 3.11 or later is needed." >&2; exit 1; }
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or later is needed." >&2; exit 1; }
  python3 -m venv "$here/installed"
  "$here/installed/bin/pip" install --quiet --disable-pip-version-check --no-index --find-links "$here/wheelhouse" sapolin
fi
exec "$here/installed/bin/sapolin" "$@"
