"""What is remembered between starts: recent files, how each is read, which data recipes drew, and
the last export."""

from collections.abc import Callable
from pathlib import Path
from typing import Self

import msgspec

from rhabdos.data.steps.reading import Read
from rhabdos.project.export_choice import ExportChoice
from rhabdos.project.state_file import alone, kept_in, recalled

FILE = "memory.json"
MOST_RECENT = 12
_MOST_READINGS = 200  # figures whose numbers are kept
_LONGEST = 1 << 20  # bytes of the file


class Memory(msgspec.Struct, frozen=True, omit_defaults=True):
    """Recent files, the last first; how files are read, where their user chose that; and of
    recipes the file of data that they drew last; which further columns and shares the foot of the
    window lists."""

    recent: tuple[str, ...] = ()
    readings: dict[str, Read] = {}
    drawn: dict[str, str] = {}
    export: ExportChoice | None = None
    columns: tuple[str, ...] = ()
    shares: tuple[float, ...] = ()

    def opened(self, path: Path) -> Self:
        """One file more."""
        name = str(path)
        others = tuple(other for other in self.recent if other != name)
        return msgspec.structs.replace(self, recent=(name, *others)[:MOST_RECENT])

    def read_so(self, path: Path, how: Read | None) -> Self:
        """A file that shall be read so from now on; None for as it looks."""
        readings = {name: read for name, read in self.readings.items() if name != str(path)}
        if how is not None and how != Read():
            readings[str(path)] = how
        kept = dict(list(readings.items())[-_MOST_READINGS:])
        return msgspec.structs.replace(self, readings=kept)

    def drew(self, recipe: Path, data: Path) -> Self:
        """A recipe that drew a file of data."""
        drawn = {name: of for name, of in self.drawn.items() if name != str(recipe)}
        drawn[str(recipe)] = str(data)
        kept = dict(list(drawn.items())[-_MOST_READINGS:])
        return msgspec.structs.replace(self, drawn=kept)

    def data_of(self, recipe: Path) -> Path | None:
        """The file of data that a recipe drew last."""
        data = self.drawn.get(str(recipe))
        return Path(data) if data else None

    def how(self, path: Path) -> Read | None:
        """How a file is read, where its user chose that."""
        return self.readings.get(str(path))


def recall() -> Memory:
    """What is remembered."""
    return recalled(FILE, Memory(), _LONGEST)


def remember(change: Callable[[Memory], Memory]) -> Memory:
    """Change what is remembered, as it is now: another window may have changed it meanwhile."""
    with alone(FILE):
        memory = change(recall())
        kept_in(FILE, memory)
    return memory
