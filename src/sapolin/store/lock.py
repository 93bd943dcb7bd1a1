"""One server on one directory: the second is told where the first is."""

import fcntl
import json
import os
from pathlib import Path
from types import TracebackType

from sapolin.store.database import DatabaseFaultError

__all__ = ["DirectoryInUseError", "DirectoryLock"]


class DirectoryInUseError(DatabaseFaultError):
    """Another server works on this directory; `address` is where, empty when it does not say."""

    def __init__(self, message: str, address: str) -> None:
        super().__init__(message)
        self.address = address


class DirectoryLock:
    """Held while a server works on a database; let go by itself when the process ends, however it ends.

    Raises DirectoryInUseError when another server holds it, with the address of that one.
    """

    def __init__(self, database: Path, address: str) -> None:
        self._file = database.with_name(f"{database.stem}.lock")
        self._handle = os.open(self._file, os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(self._handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            held = os.read(self._handle, 1000)
            os.close(self._handle)
            address = _address(held)
            where = address or "another window"
            raise DirectoryInUseError(
                f"{database} is open already: Sapolin runs at {where}. Go on there, or end that one first.",
                address if address.startswith("http") else "",
            ) from error
        os.ftruncate(self._handle, 0)
        os.pwrite(self._handle, json.dumps({"pid": os.getpid(), "address": address}).encode(), 0)

    def release(self) -> None:
        """Let go."""
        os.close(self._handle)

    def __enter__(self) -> "DirectoryLock":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:  # fmt: skip
        self.release()


def _address(held: bytes) -> str:
    try:
        return str(json.loads(held)["address"])
    except (ValueError, KeyError, TypeError):
        return ""
