"""Compressed files: unpacked once, beside the memory, up to a limit."""

import gzip
import sys
import tempfile
import zlib
from collections.abc import Iterator
from typing import BinaryIO, cast

from rhabdos.data.dialect import ReadingError
from rhabdos.data.gathering import Report
from rhabdos.data.opening import OpenFile
from rhabdos.quoting import file_named, shortened_to

GZIP, ZSTD = b"\x1f\x8b", b"\x28\xb5\x2f\xfd"
MOST_UNPACKED = 16 << 30
"""Bytes that a compressed file may hold."""
_ENDLESS = 300  # times its own size, which no table is unpacked to
_UNSUSPECTED = 256 << 20
_PIECE = 1 << 20


def unpacked(opened: OpenFile, report: Report) -> OpenFile:
    """The file within a gzip or zstd file; the same file where it is neither.

    Raises
    ------
    ReadingError
        It is damaged or cut short, or unpacks to more than any table is.
    """
    magic = opened.head(4)
    if not magic.startswith((GZIP, ZSTD)):
        return opened
    name = file_named(opened.path.name)
    store = cast("BinaryIO", tempfile.TemporaryFile())  # noqa: SIM115 - it is handed on
    size, most = 0, max(_UNSUSPECTED, _ENDLESS * opened.size)
    try:
        for piece in _pieces(opened, magic.startswith(GZIP), name):
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
    except BaseException:
        store.close()
        raise
    store.flush()
    return OpenFile(opened.path, store, size, opened.stamp)


def _pieces(opened: OpenFile, gzipped: bool, name: str) -> Iterator[bytes]:
    try:
        with gzip.open(opened.stream()) if gzipped else _zstd(opened.stream()) as text:
            while piece := text.read(_PIECE):
                yield piece
    except EOFError:
        raise ReadingError(
            f"{name} is cut short: what is compressed in it ends in the middle. Copy or download "
            "it again."
        ) from None
    except (gzip.BadGzipFile, zlib.error, _zstd_error()) as error:
        raise ReadingError(
            f"{name} is compressed but damaged ({shortened_to(80, str(error))}). Copy or download "
            "it again."
        ) from error


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
