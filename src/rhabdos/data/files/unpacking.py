"""Compressed files: unpacked once, beside the memory, up to a limit."""

import bz2
import gzip
import lzma
import sys
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from typing import BinaryIO, cast

from rhabdos.data.files.formats import begins, is_arrays, is_workbook, zip_names
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.limits import ReadingError
from rhabdos.data.reporting import Report
from rhabdos.quoting import file_named, listed, shortened_to

_HEAD = 1 << 8  # bytes that tell whether anything is compressed
ZIP = b"PK\x03\x04"
_KINDS = {b"\x1f\x8b": "gzip", b"\x28\xb5\x2f\xfd": "zstd", b"BZh": "bzip2", b"\xfd7zXZ\x00": "xz"}
_MOST_NAMED = 3  # files of an archive
OF_A_WORK = "data.parquet", "work.toml"
"""The parts of a work that has its data inside."""
MOST_UNPACKED = 16 << 30
"""Bytes that a compressed file may hold."""
_ENDLESS = 300  # times its own size, which no table is unpacked to
_UNSUSPECTED = 256 << 20  # bytes unpacked, up to which nothing is taken for a bomb
_PIECE = 1 << 20  # bytes unpacked at a time


def unpacked(opened: OpenFile, report: Report) -> OpenFile:
    """The file within a compressed one, or the only table within an archive; the same file where it
    is neither.

    Raises
    ------
    ReadingError
        It is damaged or cut short, unpacks to more than any table is, or holds several files.
    """
    head = opened.head(_HEAD)
    name = file_named(opened.path.name)
    if head.startswith(ZIP):
        inner = _only_table(opened, name)
        if inner is None:
            return opened
        pieces = _of_zip(opened, inner, name)
    elif kind := next((kind for mark, kind in _KINDS.items() if begins(head, mark)), None):
        pieces = _pieces(opened, kind, name)
    else:
        return opened
    store = cast("BinaryIO", tempfile.TemporaryFile())  # noqa: SIM115 - it is handed on
    size, most = 0, max(_UNSUSPECTED, _ENDLESS * opened.size)
    try:
        for piece in pieces:
            store.write(piece)
            size += len(piece)
            if size > MOST_UNPACKED or size > most:
                limit = (
                    f"more than {MOST_UNPACKED >> 30} GiB"
                    if size > MOST_UNPACKED
                    else f"over {_ENDLESS} times its own size"
                )
                raise ReadingError(
                    f"{name} unpacks to {limit}, which no table does, so unpacking was stopped. "
                    "Unpack it by other means, and open the part that you need."
                )
            report(f"Unpacking {name}, {size >> 20:,} MiB so far", None)
        opened.grown()  # which says so where it changed meanwhile
    except BaseException:
        store.close()
        raise
    store.flush()
    return OpenFile(opened.path, store, size, opened.stamp)


def _only_table(opened: OpenFile, name: str) -> str | None:
    """The only file in an archive; None where the archive is a format of its own.

    Raises
    ------
    ReadingError
        It holds several files, or none.
    """
    names = zip_names(opened)
    if is_workbook(names) or is_arrays(names):
        return None
    files = [
        part
        for part in names
        if not part.endswith("/")
        and not part.startswith("__MACOSX/")
        and not part.rpartition("/")[2].startswith(".")
    ]
    if len(files) == 1:
        return files[0]
    if sorted(files) == sorted(OF_A_WORK):  # which has its data inside
        return OF_A_WORK[0]
    if not files:
        raise ReadingError(f"{name} is an archive without a file in it. Choose another one.")
    raise ReadingError(
        f"{name} is an archive of {len(files):,} files: {listed(files[:_MOST_NAMED])}"
        f"{' and others' if len(files) > _MOST_NAMED else ''}. Unpack it, and open the one that "
        "you need."
    )


def _of_zip(opened: OpenFile, part: str, name: str) -> Iterator[bytes]:
    try:
        with zipfile.ZipFile(opened.stream()) as parts, parts.open(part) as content:
            while piece := content.read(_PIECE):
                yield piece
    except RuntimeError:
        raise ReadingError(
            f"{name} is behind a password. Unpack it, and open what is in it."
        ) from None
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, lzma.LZMAError) as error:
        raise _damaged(name, error) from error


def _pieces(opened: OpenFile, kind: str, name: str) -> Iterator[bytes]:
    try:
        with _stream_of(opened, kind) as text:
            while piece := text.read(_PIECE):
                yield piece
    except EOFError:
        raise ReadingError(
            f"{name} is cut short: what is compressed in it ends in the middle. Copy or download "
            "it again."
        ) from None
    except (gzip.BadGzipFile, zlib.error, lzma.LZMAError, _zstd_error()) as error:
        raise _damaged(name, error) from error
    except OSError as error:
        if kind != "bzip2" or error.errno is not None:
            raise
        raise _damaged(name, error) from error  # which is how its library says so


def _damaged(name: str, error: Exception) -> ReadingError:
    return ReadingError(
        f"{name} is compressed but damaged ({shortened_to(80, str(error))}). Copy or download "
        "it again."
    )


def _stream_of(opened: OpenFile, kind: str) -> BinaryIO:
    """What is within a compressed file, as it is read."""
    source = opened.stream()
    if kind == "gzip":
        return cast("BinaryIO", gzip.open(source))
    if kind == "bzip2":
        return cast("BinaryIO", bz2.open(source))
    if kind == "xz":
        return cast("BinaryIO", lzma.open(source))
    return _zstd(source)


def _zstd(stream: BinaryIO) -> BinaryIO:
    if sys.version_info >= (3, 14):
        from compression.zstd import ZstdFile
    else:
        from backports.zstd import ZstdFile
    return cast("BinaryIO", ZstdFile(stream))


def _zstd_error() -> type[Exception]:
    if sys.version_info >= (3, 14):
        from compression.zstd import ZstdError
    else:
        from backports.zstd import ZstdError
    return ZstdError
