"""Lists what Rhabdos is shipped with and by which licences, from the metadata of what is installed:
``python tools/licences.py``, which writes docs/licences.md."""

import re
from email.message import Message
from importlib.metadata import PackageNotFoundError, distribution, requires
from pathlib import Path
from typing import cast

ROOT = Path(__file__).parents[1]
_EXTRAS = {"postgres": "for PostgreSQL", "spark": "for Spark"}
_SHORT = 60  # letters; a longer field holds the whole text of a licence
_CLASSIFIER = "License :: OSI Approved :: "
_TEXTS = (("Apache License", "Apache-2.0"), ("MIT License", "MIT"), ("BSD", "BSD-3-Clause"))


def shipped() -> dict[str, set[str]]:
    """Everything that comes with the program, each with the extras that bring it."""
    found: dict[str, set[str]] = {}

    def walk(name: str, extra: str, wanted: str = "") -> None:
        key = re.sub(r"[-_.]+", "-", name).lower()
        if extra in found.get(key, ()):
            return
        try:
            needed = requires(name) or []
        except PackageNotFoundError:
            return  # for another Python or system
        found.setdefault(key, set()).add(extra)
        for line in needed:
            part, _, marker = line.partition(";")
            only = re.search(r"extra\s*==\s*['\"]([^'\"]+)", marker)
            if only and only[1] != wanted:
                continue
            brought = re.search(r"\[([^\]]+)\]", part)
            walk(re.match(r"[A-Za-z0-9._-]+", part)[0], extra, brought[1] if brought else "")

    walk("rhabdos", "")
    for extra in _EXTRAS:
        found["rhabdos"].discard(extra)
        walk("rhabdos", extra, extra)
    del found["rhabdos"]
    return found


def licence_of(name: str) -> str:
    """The licence of a package, by its own metadata."""
    data = cast("Message", distribution(name).metadata)  # an e-mail's head, which its type hides
    if expression := data.get("License-Expression"):
        return str(expression)
    told = [
        c.removeprefix(_CLASSIFIER)
        for c in data.get_all("Classifier", [])
        if c.startswith(_CLASSIFIER)
    ]
    field = str(data.get("License") or "").strip()
    if field and len(field) < _SHORT and field.upper() != "UNKNOWN":
        return field.replace("\n", " ")
    for begin, short in _TEXTS:
        if begin in field:
            return short
    return ", ".join(told) or "see its own files"


def text() -> str:
    """The page."""
    packages = shipped()
    rows = [
        f"| {name} | {distribution(name).version} | {licence_of(name)} | "
        f"{'' if '' in extras else ', '.join(_EXTRAS[e] for e in sorted(extras) if e)} |"
        for name, extras in sorted(packages.items())
    ]
    return (
        "# Licences\n\nRhabdos is under the [MIT licence](../LICENSE). Its icon, its pictures, its "
        "demo data and its manual are its own, under the same. The font Source Sans is under the "
        "SIL Open Font License 1.1 and comes with the package font-source-sans-pro. Nothing else "
        "is copied into it; what is installed with it, in the versions that the lock names:\n\n"
        "| package | version | licence | only |\n|---|---|---|---|\n" + "\n".join(rows) + "\n\n"
        "PyQt6 is under the GNU General Public License 3. The sources of Rhabdos stay under MIT; a "
        "bundle or a Debian package that holds PyQt6 is, as a whole, passed on under the GPL 3, "
        "with these sources. Spark’s client (Apache-2.0) comes with the extra `spark` alone.\n\n"
        "`make sbom` writes the same as CycloneDX (`dist/rhabdos-VERSION.cdx.json`).\n"
    )


if __name__ == "__main__":
    (ROOT / "docs" / "licences.md").write_text(text(), encoding="utf-8")
