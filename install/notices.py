"""What Sapolin ships beside its own code: a table of it, a component list (CycloneDX 1.5), and the texts of all licences.

python install/notices.py            writes docs/third-party.md and docs/components.cdx.json
python install/notices.py --texts F  writes the licence texts into one file
"""

import json
import re
import sys
from dataclasses import dataclass
from importlib.metadata import Distribution, distribution
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parent.parent
LICENCE_FILE = re.compile(r"(licen[cs]e|copying|notice)", re.IGNORECASE)
BY_CLASSIFIER = "License :: OSI Approved :: "


@dataclass(frozen=True)
class Component:
    """A package that is shipped."""

    kind: str
    """`pypi` or `npm`."""
    name: str
    version: str
    licence: str
    texts: tuple[tuple[str, str], ...]
    """Name and content of its licence files."""


def _licence_of(found: Distribution) -> str:
    said = found.metadata.get("License-Expression") or found.metadata.get("License") or ""
    if not said or "\n" in said or len(said) > 60:
        classified = [one for one in found.metadata.get_all("Classifier") or [] if one.startswith(BY_CLASSIFIER)]
        said = " and ".join(one.removeprefix(BY_CLASSIFIER) for one in classified) or said.partition("\n")[0]
    return said or "see its text"


def python_components() -> list[Component]:
    """What requirements.txt pins for running, as installed here."""
    pinned = re.findall(
        r"^([\w.-]+)==([^\s;\\]+)", (ROOT / "requirements.txt").read_text(encoding="utf-8"), re.MULTILINE
    )
    components = []
    for name, version in pinned:
        found = distribution(name)
        texts = tuple(
            (Path(str(file)).name, found.locate_file(file).read_text(encoding="utf-8", errors="replace"))  # type: ignore[attr-defined]
            for file in found.files or ()
            if LICENCE_FILE.search(Path(str(file)).name) and Path(str(file)).suffix in ("", ".txt", ".md", ".rst")
        )
        components.append(Component("pypi", name, version, _licence_of(found), texts))
    return components


def web_components() -> list[Component]:
    """What the front end is built from, without what only builds or tests it."""
    lock: dict[str, Any] = json.loads((ROOT / "web" / "package-lock.json").read_text(encoding="utf-8"))
    components = []
    for place, entry in lock["packages"].items():
        if not place or entry.get("dev") or entry.get("optional"):
            continue
        directory = ROOT / "web" / place
        texts = tuple(
            (file.name, file.read_text(encoding="utf-8", errors="replace"))
            for file in sorted(directory.glob("*"))
            if file.is_file() and LICENCE_FILE.search(file.name)
        )
        name = place.rpartition("node_modules/")[2]
        components.append(Component("npm", name, entry["version"], entry.get("license", "see its text"), texts))
    return components


def _table(components: list[Component]) -> str:
    lines = [
        "# Third-party components",
        "",
        "What runs as a part of Sapolin, with its licence, written by `./run notices` from the lists of pinned packages. The",
        "licence texts are in `NOTICES.txt` of every package that `./run package` makes. Two typefaces for print are in",
        "`src/sapolin/exchange/fonts` with their licence; the typefaces of the screen are among the packages below.",
        "",
        "| component | version | licence | from |",
        "|---|---|---|---|",
        *(f"| {one.name} | {one.version} | {one.licence} | {one.kind} |" for one in components),
    ]
    return "\n".join(lines) + "\n"


def _cyclonedx(components: list[Component]) -> str:
    listed = [
        {
            "type": "library", "name": one.name, "version": one.version,
            "purl": f"pkg:{one.kind}/{one.name.replace('@', '%40')}@{one.version}",
            "licenses": [{"license": {"name": one.licence}}],
        }
        for one in components
    ]  # fmt: skip
    document = {"bomFormat": "CycloneDX", "specVersion": "1.5", "version": 1, "components": listed}
    return json.dumps(document, indent=1, ensure_ascii=False) + "\n"


def main() -> None:
    """Write the files."""
    components = [*python_components(), *web_components()]
    if sys.argv[1:2] == ["--texts"]:
        parts = [
            f"{'=' * 100}\n{one.name} {one.version}, {one.licence}: {name}\n{'=' * 100}\n{text}\n"
            for one in components
            for name, text in one.texts
        ]
        Path(sys.argv[2]).write_text("".join(parts), encoding="utf-8")
        return
    (ROOT / "docs" / "third-party.md").write_text(_table(components), encoding="utf-8")
    (ROOT / "docs" / "components.cdx.json").write_text(_cyclonedx(components), encoding="utf-8")
    without = [one.name for one in components if not one.texts]
    print(f"{len(components)} components; without a licence file: {', '.join(without) or 'none'}")


if __name__ == "__main__":
    main()
