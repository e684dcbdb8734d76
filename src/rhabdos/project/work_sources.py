"""The data of a work: told as they are when it is saved, and found again when it is opened."""

import datetime
import hashlib
import os
from functools import lru_cache
from pathlib import Path

from msgspec import Struct

from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.project.document import Document
from rhabdos.project.paths import beside, seen_from
from rhabdos.project.work_file import KeptSource, WorkFile
from rhabdos.quoting import file_named, listed
from rhabdos.wording import counted

_PIECE = 1 << 20  # bytes hashed at a time
_MOST_NAMED = 3  # variables that came or went


def kept_source(document: Document, folder: Path, table: Table | None) -> KeptSource:
    """Where the data of a document are, seen from a folder, and what they are now."""
    source, beginning = document.source, document.beginning
    variables = tuple(column.name for column in table.columns) if table else ()
    rows = table.all_rows if table else 0
    if source is None or source.path is None:
        makes = beginning is not None and beginning.makes_rows
        return KeptSource(rows=rows, variables=variables, demo=source is not None and not makes)
    path = seen_from(folder, str(source.path))
    try:
        now = source.path.stat()
    except OSError:  # it has gone, and the work can still be saved
        return KeptSource(path, rows=rows, variables=variables)
    modified = _modified(now)
    # To go through a file that does not fit into memory for its checksum would take minutes.
    far = table is not None and table.far is not None
    checksum = "" if far else sha256(str(source.path), now.st_size, now.st_mtime_ns)
    return KeptSource(path, now.st_size, modified, checksum, rows, variables)


def _modified(state: os.stat_result) -> str:
    """When a file was last changed, to the second."""
    changed = datetime.datetime.fromtimestamp(int(state.st_mtime), datetime.UTC)
    return changed.isoformat().replace("+00:00", "Z")


@lru_cache(maxsize=256)  # told apart by size and time, so that a large file is read once
def sha256(path: str, _size: int, _changed: int) -> str:
    """What the content of a file comes to; kept as long as its size and time stay. Empty where it
    cannot be read."""
    digest = hashlib.sha256()
    try:
        with open(path, "rb") as file:
            while piece := file.read(_PIECE):
                digest.update(piece)
    except OSError:
        return ""
    return digest.hexdigest()


class Found(Struct, frozen=True):
    """Where a file of a work lies.

    Attributes
    ----------
    path : Path or None
        None where there is no such file.
    outside : bool
        Whether it is outside the folder of the work.
    """

    path: Path | None
    outside: bool


def found(folder: Path, file: str) -> Found:
    """Where a file lies that a work in a folder names."""
    try:
        whole = Path(os.path.realpath(os.path.join(folder, file)))
        outside = not whole.is_relative_to(os.path.realpath(folder))
        return Found(whole if whole.is_file() or whole.is_dir() else None, outside)
    except (OSError, ValueError):  # no file can be called so
        return Found(None, True)


def files_outside(work: WorkFile, folder: Path) -> list[Path]:
    """The files outside its folder that a work would read, each once."""
    names = [work.source.path] if work.source.path else []
    names += [file for step in work.steps for file in step.files]
    places = [found(folder, name) for name in names]
    return list(dict.fromkeys(place.path for place in places if place.outside and place.path))


def steps_seen_from(folder: Path, steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """Steps with their files as a work in a folder names them."""
    return tuple(step.with_files(lambda file: seen_from(folder, file)) for step in steps)


def steps_found(folder: Path, steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """Steps with the whole paths of the files that a work in a folder names."""
    return tuple(step.with_files(lambda file: beside(folder, file)) for step in steps)


def told_changes(before: KeptSource, path: Path, table: Table) -> str:
    """In what the data of a work differ from those it was saved with; empty where they are the
    same."""
    try:
        now = path.stat()
    except OSError:
        return ""
    if now.st_size == before.size and before.sha256:
        if sha256(str(path), now.st_size, now.st_mtime_ns) == before.sha256:
            return ""
    elif not before.size:  # nothing was told of them
        return ""
    elif not before.sha256 and (now.st_size, _modified(now)) == (before.size, before.modified):
        return ""  # too large to be gone through
    parts = []
    if table.all_rows != before.rows:
        parts.append(f"{counted(table.all_rows, 'row', 'rows')} instead of {before.rows:,}")
    names = [column.name for column in table.columns]
    if gone := [name for name in before.variables if name not in names]:
        parts.append(f"without {listed(gone, most=_MOST_NAMED)}")
    if new := [name for name in names if name not in before.variables]:
        parts.append(f"with {listed(new, most=_MOST_NAMED)}")
    what = "; ".join(parts) or "other values"
    return f"{file_named(path.name)} has changed since the work was saved: {what}."
