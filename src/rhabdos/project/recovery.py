"""What was open and is not saved, in the desktop's folder for what a program remembers: found again
after a crash, a kill or a logout.

Each window has a file, and holds a lock beside it for as long as it lives; a file whose lock nobody
holds was left behind.
"""

import fcntl
import os
import time
from contextlib import suppress
from pathlib import Path
from typing import Self

import msgspec

from rhabdos.data.preparing import AnyStep
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.figure.recipe.plate import Plate
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.document import Document, Figure, Source
from rhabdos.project.files import write_whole
from rhabdos.project.state_file import content_of, state_file

_FOLDER = "open"
_MOST = 256 << 20  # bytes of one file


class Kept(msgspec.Struct, frozen=True, omit_defaults=True):
    """What was open.

    Attributes
    ----------
    written : float
        Seconds since 1970.
    path : bytes
        The data file, as the system names it; empty of typed values and samples.
    demo : bool
        Whether the demo data were open.
    name : str
        What the window called the data.
    said : tuple of str
        What of it is not saved, in words.
    """

    written: float
    path: bytes = b""
    demo: bool = False
    name: str = ""
    said: tuple[str, ...] = ()
    steps: tuple[AnyStep, ...] = ()
    figures: tuple[Figure, ...] = ()
    shown: int = 0
    plates: tuple[Plate, ...] = ()
    recipe: Recipe | None = None  # the only figure, as it was written until several could be
    levels: LevelBars | None = None
    scatter: Scatter | None = None

    @property
    def chart(self) -> PlainChart | None:
        """What was looked at in place of the figure."""
        return self.levels or self.scatter

    @classmethod
    def of(cls, document: Document, name: str, said: tuple[str, ...]) -> Self:
        """A document as it is now."""
        source = document.source
        path = os.fsencode(source.path) if source and source.path else b""
        beginning = document.beginning
        makes = beginning is not None and beginning.makes_rows
        return cls(
            time.time(),
            path,
            not path and not makes,
            name,
            said,
            document.steps,  # type: ignore[arg-type]
            document.figures,
            document.shown,
            document.plates,
            levels=document.chart if isinstance(document.chart, LevelBars) else None,
            scatter=document.chart if isinstance(document.chart, Scatter) else None,
        )

    def document(self, source: Source) -> Document:
        """What was open, of the same data read anew."""
        figures = self.figures or ((Figure(self.recipe),) if self.recipe is not None else ())
        shown = max(0, min(self.shown, len(figures) - 1))
        return Document((source,), self.steps, figures, shown, self.chart, (), self.plates)


class Slot:
    """The file of a window; it is made when there is something to be written."""

    def __init__(self) -> None:
        self.path = state_file(_FOLDER) / f"{time.time_ns():x}-{os.getpid()}.json"
        self._lock: int | None = None

    def write(self, kept: Kept) -> None:
        """Write what is open.

        Raises
        ------
        OSError, Refusal
            It cannot be written.
        """
        if self._lock is None:
            self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._lock = _locked(_lock_of(self.path), make=True)
        write_whole(self.path, msgspec.json.encode(kept), lasting=False)

    def clear(self) -> None:
        """Nothing is unsaved any more."""
        with suppress(OSError):
            self.path.unlink()

    def close(self) -> None:
        """Let go of the file, which stays where it was not cleared."""
        if self._lock is not None:
            if not self.path.exists():
                with suppress(OSError):
                    _lock_of(self.path).unlink()
            os.close(self._lock)
            self._lock = None


class Orphan:
    """A file that a window left behind, held so that no other window offers it too."""

    def __init__(self, path: Path, lock: int, kept: Kept) -> None:
        self.path, self._lock, self.kept = path, lock, kept

    def let_go(self) -> None:
        """Leave it for the next start."""
        os.close(self._lock)

    def discard(self) -> None:
        """Take it away: it is not wanted, or was brought back and is kept anew."""
        for path in (self.path, _lock_of(self.path)):
            with suppress(OSError):
                path.unlink(missing_ok=True)
        os.close(self._lock)


def orphans() -> list[Orphan]:
    """What windows left behind that did not end by themselves, the last first; a file that cannot
    be read is told to the log, and stays."""
    left: list[Orphan] = []
    folder = state_file(_FOLDER)
    try:
        paths = sorted(path for path in folder.iterdir() if path.suffix == ".json")
    except OSError:
        return []
    for path in paths:
        lock = _locked(_lock_of(path), make=True)
        if lock is None:
            continue  # its window lives, or another one offers it
        try:
            content = content_of(path, _MOST)
            left.append(Orphan(path, lock, msgspec.json.decode(content, type=Kept)))
        except (OSError, ValueError, RecursionError, Refusal) as error:
            os.close(lock)
            from rhabdos.log import record

            record(error)
    return sorted(left, key=lambda orphan: -orphan.kept.written)


def _lock_of(path: Path) -> Path:
    return path.with_suffix(".lock")


def _locked(path: Path, make: bool) -> int | None:
    """A file that is held as long as its handle is open; None where somebody else holds it."""
    flags = os.O_RDWR | os.O_CLOEXEC | os.O_NONBLOCK | (os.O_CREAT if make else 0)
    try:
        handle = os.open(path, flags, 0o600)
    except OSError:
        return None
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle
