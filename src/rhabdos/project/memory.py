"""What is remembered between starts: recent files, how each is read, and the last export."""

from pathlib import Path
from typing import Self

import msgspec

from rhabdos.data.steps.reading import Read
from rhabdos.errors import Refusal
from rhabdos.log import record
from rhabdos.project.export_choice import ExportChoice

MOST_RECENT = 12
_MOST_READINGS = 200
_LONGEST = 1 << 20  # bytes of the file


class Memory(msgspec.Struct, frozen=True, omit_defaults=True):
    """Recent files, the last first; and how files are read, where their user chose that."""

    recent: tuple[str, ...] = ()
    readings: dict[str, Read] = {}
    export: ExportChoice | None = None

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

    def how(self, path: Path) -> Read | None:
        """How a file is read, where its user chose that."""
        return self.readings.get(str(path))


def memory_file() -> Path:
    """Where it is kept."""
    import platformdirs

    return Path(platformdirs.user_state_dir("rhabdos")) / "memory.json"


def recall() -> Memory:
    """What is remembered; nothing where it cannot be read, which the log says."""
    try:
        with memory_file().open("rb") as file:
            return msgspec.json.decode(file.read(_LONGEST), type=Memory)
    except FileNotFoundError:
        return Memory()
    except (OSError, msgspec.DecodeError) as error:
        record(error)
        return Memory()


def remember(memory: Memory) -> None:
    """Keep it; where that cannot be done, the log says so, and nothing else is lost."""
    from rhabdos.project.files import write_whole

    path = memory_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, msgspec.json.encode(memory))
    except (OSError, Refusal) as error:
        record(error)
