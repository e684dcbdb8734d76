"""Files opened once: what is read of one comes from the same open file, whatever happens to its
name meanwhile."""

import io
import os
import select
import stat
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import IO, BinaryIO, Self, TypeVar, cast

from rhabdos.data.limits import ReadingError
from rhabdos.quoting import file_named, shortened_to

_PIECE = 1 << 20  # bytes that a thread reads at a time
_AT_ONCE = 2  # pieces of a file on disk that are read at the same time
_OUTER = (".gz", ".gzip", ".zst", ".zstd", ".bz2", ".xz", ".zip")
_IN_MEMORY = (
    1 << 30
)  # bytes of a file that are held in memory while it is read; of more there is a copy
_BEAT = 50  # milliseconds between looks whether the user has stopped the reading of a pipe
_LONGEST_SILENCE = 20.0  # seconds that a pipe may be silent before it is given up
_WRITER_COMES = 2.0  # seconds in which somebody must begin to write to a pipe
MOST_PIPED = 1 << 31

_Taken = TypeVar("_Taken")


Stamp = tuple[int, int, int]
"""A file's number, size and time of change: another one is another file, or other contents."""


def stamp_of(state: os.stat_result) -> Stamp:
    """What tells a file from what it may be later."""
    return state.st_ino, state.st_size, state.st_mtime_ns


def table_name(path: Path) -> str:
    """What the table of a file is called: its name without endings."""
    bare = path.with_suffix("") if path.suffix.lower() in _OUTER else path
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
                content, size = _piped(handle, path, most, beat)
                os.close(handle)
                return cls(path, content, size)
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
        """All bytes that there were when it was opened.

        Raises
        ------
        ReadingError
            It is shorter now.
        """
        content = self.head(self.size)
        if len(content) < self.size:
            raise self._changed
        return content

    def stream(self) -> BinaryIO:
        """The open file itself, at its beginning."""
        self._stream.seek(0)
        return self._stream

    @contextmanager
    def settled(self, report: Callable[[], None] | None = None) -> Iterator[BinaryIO]:
        """What a library may map into memory: bytes that nobody else can cut short.

        The contents of a file on disk are read, or copied where they are many; a mapped file that
        shrinks would end the program.
        """
        if not self.on_disk:
            yield self.stream()
        elif self.size <= _IN_MEMORY:
            yield self._held()
        else:
            with tempfile.TemporaryFile() as copy:
                self._copy_to(copy, report)
                yield cast("BinaryIO", copy)

    def _held(self) -> BinaryIO:
        """The file in memory."""
        memory = io.BytesIO(bytes(self.size))
        with memory.getbuffer() as room:

            def fill(begin: int) -> None:
                self._read_into(room[begin : begin + _PIECE], begin)

            self._each_piece(fill)
        return memory

    def _each_piece(self, take: Callable[[int], _Taken]) -> list[_Taken]:
        """What ``take`` makes of each place in a file on disk where a piece begins."""
        # Reading lets go of the interpreter, so that pieces are read side by side.
        with ThreadPoolExecutor(_AT_ONCE) as hands:
            return list(hands.map(take, range(0, self.size, _PIECE)))

    def _read_into(self, room: memoryview, begin: int) -> None:
        """Fill the room with what stands in a file on disk from a place on."""
        done = 0
        while done < len(room):
            more = os.preadv(self._stream.fileno(), [room[done:]], begin + done)
            if not more:
                raise self._changed
            done += more

    def pieces(self) -> Iterator[bytes]:
        """All bytes that there were when it was opened, one piece after another."""
        source, left = self.stream(), self.size
        while left > 0:
            if not (piece := source.read(min(_PIECE, left))):
                raise self._changed
            yield piece
            left -= len(piece)

    def _copy_to(self, copy: IO[bytes], report: Callable[[], None] | None) -> None:
        for piece in self.pieces():
            if report:
                report()
            copy.write(piece)
        copy.seek(0)

    def grown(self) -> str:
        """What is to be said of a file that has grown since it was opened; nothing of others.

        Raises
        ------
        ReadingError
            It is shorter now, or was written anew.
        """
        if not self.on_disk or self.stamp is None:
            return ""
        now = stamp_of(os.fstat(self._stream.fileno()))
        if now == self.stamp:
            return ""
        if now[1] <= self.stamp[1]:
            raise self._changed
        return (
            f"{file_named(self.path.name)} grew while it was read. Rows that came meanwhile are "
            "not among these; reload it for them."
        )

    @property
    def _changed(self) -> ReadingError:
        return ReadingError(
            f"{file_named(self.path.name)} changed while it was read. Wait until it is written, "
            "and open it again."
        )

    def count(self, byte: bytes) -> int:
        """How often a byte occurs.

        Raises
        ------
        ReadingError
            The file is shorter now.
        """
        if not self.on_disk:
            return sum(piece.count(byte) for piece in self.pieces())
        import numpy as np  # which a process that reads a file apart does without

        def within(begin: int) -> int:
            piece = np.empty(min(_PIECE, self.size - begin), np.uint8)
            self._read_into(piece.data, begin)
            return int(np.count_nonzero(piece == byte[0]))

        return sum(self._each_piece(within))


def _piped(
    handle: int, path: Path, most: int, beat: Callable[[], None] | None
) -> tuple[BinaryIO, int]:
    """All that comes out of a pipe until its writers close it, beside the memory; and its size."""
    content = cast("BinaryIO", tempfile.TemporaryFile())  # noqa: SIM115 - it is handed on
    size = 0
    try:
        for piece in _from_pipe(handle, path, beat):
            content.write(piece)
            size += len(piece)
            if size > most:
                limit = f"{most >> 20:,} MiB"
                raise ReadingError(
                    f"{file_named(path)} is a pipe that gives more than {limit}. Save it to a file "
                    "first."
                )
    except BaseException:
        content.close()
        raise
    return content, size


def _from_pipe(handle: int, path: Path, beat: Callable[[], None] | None) -> Iterator[bytes]:
    """What comes out of a pipe, piece by piece."""
    waiting = select.poll()
    waiting.register(handle, select.POLLIN)
    heard = time.monotonic()
    any_came = False
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
            yield piece
            heard, any_came = time.monotonic(), True
        elif any_came:
            return
        elif silent > _WRITER_COMES:
            raise ReadingError(
                f"{file_named(path)} is a pipe that nothing writes to. Open a file instead."
            )
        else:
            time.sleep(_BEAT / 1000)
