"""Files opened once: what is read of one comes from the same open file, whatever happens to its
name meanwhile."""

import io
import mmap
import os
import select
import stat
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO, Self

import numpy as np

from rhabdos.data.dialect import ReadingError
from rhabdos.quoting import file_named, shortened_to

_PIECE = 1 << 20
_COUNTED = 1 << 16  # bytes looked through at a time, so that they stay in the processor's cache
_BEAT = 50  # milliseconds between looks whether the user has stopped the reading of a pipe
_LONGEST_SILENCE = 20.0  # seconds that a pipe may be silent before it is given up
_WRITER_COMES = 2.0  # seconds in which somebody must begin to write to a pipe
MOST_PIPED = 1 << 31


Stamp = tuple[int, int, int]
"""A file's number, size and time of change: another one is another file, or other contents."""


def stamp_of(state: os.stat_result) -> Stamp:
    """What tells a file from what it may be later."""
    return state.st_ino, state.st_size, state.st_mtime_ns


def table_name(path: Path) -> str:
    """What the table of a file is called: its name without endings."""
    bare = (
        path.with_suffix("") if path.suffix.lower() in (".gz", ".zst", ".gzip", ".zstd") else path
    )
    return shortened_to(200, bare.stem)


class OpenFile:
    """The bytes of a file or a pipe.

    A file on disk stays on disk; a pipe is read to its end at once. Use it as a context, which
    closes it.

    Attributes
    ----------
    path : Path
        As it was given.
    size : int
        In bytes.
    on_disk : bool
        Whether these are the bytes of the file at the path, as they stand there.
    stamp : Stamp or None
        What tells whether the file on disk is still the same; of a pipe there is none.
    """

    def __init__(
        self,
        path: Path,
        stream: BinaryIO,
        size: int,
        stamp: "Stamp | None" = None,
        on_disk: bool = False,
    ) -> None:
        self.path = path
        self.on_disk = on_disk
        self.size = size
        self.stamp = stamp
        self._stream = stream

    @classmethod
    def open(
        cls, path: Path, most: int = MOST_PIPED, beat: Callable[[], None] | None = None
    ) -> Self:
        """Open a file, or read a pipe.

        Parameters
        ----------
        most : int
            Bytes that a pipe may give at the most.
        beat : callable, optional
            Called now and then while a pipe is waited for; may raise to give up.

        Raises
        ------
        OSError
            The file is missing or may not be read.
        ReadingError
            It is a folder, a device or a socket; or a pipe that gives nothing, or too much.
        """
        try:
            handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        except ValueError:
            raise FileNotFoundError(path) from None  # a name that no file can have
        try:
            state = os.fstat(handle)
            if stat.S_ISDIR(state.st_mode):
                raise ReadingError(f"{file_named(path)} is a folder. Open one of the files in it.")
            if stat.S_ISFIFO(state.st_mode):
                content = _piped(handle, path, most, beat)
                os.close(handle)
                return cls(path, io.BytesIO(content), len(content))
            if not stat.S_ISREG(state.st_mode):
                raise ReadingError(
                    f"{file_named(path)} is a device, no file. Save its data to a file and open "
                    "that."
                )
            return cls(path, os.fdopen(handle, "rb"), state.st_size, stamp_of(state), True)
        except ReadingError:
            os.close(handle)
            raise

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._stream.close()

    def head(self, count: int) -> bytes:
        """The first bytes."""
        self._stream.seek(0)
        return self._stream.read(count)

    def tail(self, count: int) -> bytes:
        """The last bytes."""
        self._stream.seek(max(0, self.size - count))
        return self._stream.read(count)

    def whole(self) -> bytes:
        """All bytes."""
        return self.head(-1)

    def stream(self) -> BinaryIO:
        """The open file itself, at its beginning."""
        self._stream.seek(0)
        return self._stream

    def count(self, byte: bytes) -> int:
        """How often a byte occurs."""
        with self._mapped() as content:
            if isinstance(content, mmap.mmap) and content.find(byte) < 0:
                return 0  # which is told several times faster than a number
            octets = np.frombuffer(content, dtype=np.uint8)
            code = ord(byte)
            pieces = range(0, len(octets), _COUNTED)
            times = sum(int(np.count_nonzero(octets[at : at + _COUNTED] == code)) for at in pieces)
            del octets  # which holds on to the mapping
        return times

    @contextmanager
    def _mapped(self) -> Iterator[memoryview | mmap.mmap]:
        """All bytes, without reading them."""
        if isinstance(self._stream, io.BytesIO):
            with self._stream.getbuffer() as held:
                yield held
        elif not self.size:  # of nothing there is no mapping
            yield memoryview(b"")
        else:
            with mmap.mmap(self._stream.fileno(), 0, access=mmap.ACCESS_READ) as mapping:
                yield mapping


def _piped(handle: int, path: Path, most: int, beat: Callable[[], None] | None) -> bytes:
    """All that comes out of a pipe until its writers close it."""
    content = bytearray()
    waiting = select.poll()
    waiting.register(handle, select.POLLIN)
    heard = time.monotonic()
    while True:
        if beat:
            beat()
        silent = time.monotonic() - heard
        try:
            piece = os.read(handle, _PIECE)
        except BlockingIOError:  # somebody writes, but nothing has come yet
            if silent > _LONGEST_SILENCE:
                raise ReadingError(
                    f"{file_named(path)} is a pipe that has given nothing for "
                    f"{_LONGEST_SILENCE:.0f} seconds. "
                    "Save its data to a file and open that."
                ) from None
            waiting.poll(_BEAT)
            continue
        if piece:
            content += piece
            heard = time.monotonic()
            if len(content) > most:
                size = f"{most >> 20:,} MiB"
                raise ReadingError(
                    f"{file_named(path)} is a pipe that gives more than {size}. Save it to a file "
                    "first."
                )
        elif content:
            return bytes(content)
        elif silent > _WRITER_COMES:
            raise ReadingError(
                f"{file_named(path)} is a pipe that nothing writes to. Open a file instead."
            )
        else:
            time.sleep(_BEAT / 1000)
