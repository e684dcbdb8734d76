"""Files of the PNG standard: rows of pixels, packed one part after the other, and texts with all
their letters and lines."""

import struct
import zlib
from collections.abc import Iterator, Mapping

import numpy as np
from zlib_ng import zlib_ng

from rhabdos.arrays import ByteArray

SIGNATURE = b"\x89PNG\r\n\x1a\n"
_LARGEST = 1 << 31  # bytes that a chunk's length may be, by the standard
INCH_IN_METRES = 0.0254
_TRUE_COLOUR = {3: 2, 4: 6}  # by the bytes of a pixel, the last of four its opacity
_PERCEPTUAL = b"\x00"  # how colours are to be met on a device that does not have them all
_UP = 2  # each byte less the one above it: most of a figure is like what is above it
_LEVEL = 3  # of 9; more packs figures hardly tighter
_ROWS_AT_ONCE = 64  # which stay in the processor's cache
_LONGEST_CHUNK = 1 << 20  # bytes, of which readers take one after the other


class PngFile:
    """A picture that is written from its top down.

    Parameters
    ----------
    width, height : int
        In pixels.
    channels : {3, 4}
        Bytes of a pixel: red, green, blue, and perhaps opacity.
    dpi : float
        Dots per inch.
    texts : mapping
        By keyword; those named in ``packed`` take less room, and are not shown by every program.
    """

    def __init__(
        self,
        width: int,
        height: int,
        channels: int,
        dpi: float,
        texts: Mapping[str, str],
        packed: tuple[str, ...] = (),
    ) -> None:
        self._packer = zlib_ng.compressobj(_LEVEL)
        self._pixels: list[bytes] = []
        self._above = np.zeros(width * channels, np.uint8)
        per_metre = round(dpi / INCH_IN_METRES)
        header = struct.pack(">IIBBBBB", width, height, 8, _TRUE_COLOUR[channels], 0, 0, 0)
        self._head = [SIGNATURE, _chunk(b"IHDR", header)]
        self._head.append(_chunk(b"sRGB", _PERCEPTUAL))
        self._head.append(_chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1)))
        self._head += [_text(key, text, key in packed) for key, text in texts.items()]

    def add(self, rows: ByteArray) -> None:
        """The next rows, from the top of the picture to its bottom.

        Parameters
        ----------
        rows : array of bytes, shape (k, width * channels)
            From 0 to 255; the channels of a pixel stand side by side.
        """
        filtered = np.empty((min(len(rows), _ROWS_AT_ONCE), 1 + rows.shape[1]), np.uint8)
        filtered[:, 0] = _UP
        for first in range(0, len(rows), _ROWS_AT_ONCE):
            part = rows[first : first + _ROWS_AT_ONCE]
            differences = filtered[: len(part), 1:]
            np.subtract(part[0], rows[first - 1] if first else self._above, out=differences[0])
            np.subtract(part[1:], part[:-1], out=differences[1:])
            self._pixels.append(self._packer.compress(filtered[: len(part)]))
        self._above = rows[-1].copy()

    def done(self) -> bytes:
        """The whole file, once all rows are in it."""
        pixels = b"".join([*self._pixels, self._packer.flush()])
        parts = range(0, len(pixels), _LONGEST_CHUNK)
        data = [_chunk(b"IDAT", pixels[first : first + _LONGEST_CHUNK]) for first in parts]
        return b"".join([*self._head, *data, _chunk(b"IEND", b"")])


def _text(keyword: str, text: str, packed: bool) -> bytes:
    content = zlib.compress(text.encode(), 9) if packed else text.encode()
    marks = b"\x00\x01\x00" if packed else b"\x00\x00\x00"
    return _chunk(b"iTXt", keyword.encode("latin-1") + marks + b"\x00\x00" + content)


def _chunk(kind: bytes, content: bytes) -> bytes:
    return (
        struct.pack(">I", len(content))
        + kind
        + content
        + struct.pack(">I", zlib.crc32(kind + content))
    )


def text_in(png: bytes, keyword: str, most: int) -> str | None:
    """The text of a keyword in a picture; None where it has none.

    Raises
    ------
    ValueError
        It is no PNG, or damaged, or the text is longer than ``most`` bytes.
    """
    if not png.startswith(SIGNATURE):
        raise ValueError("no PNG")
    for kind, content in _chunks(png):
        key, _, rest = content.partition(b"\x00")
        if kind != b"iTXt" or key != keyword.encode("latin-1"):
            continue
        packed = rest[:1] == b"\x01"
        content = rest[2:].split(b"\x00", 2)[2]  # behind the language and the keyword in it
        if packed:
            unpacker = zlib.decompressobj()
            content = unpacker.decompress(content, most)
            if unpacker.unconsumed_tail:
                raise ValueError("too long")
        return content.decode()
    return None


def _chunks(png: bytes) -> Iterator[tuple[bytes, bytes]]:
    """The chunks of a picture, each checked by its sum."""
    at = len(SIGNATURE)
    while at < len(png):
        length = struct.unpack(">I", png[at : at + 4])[0]
        kind, content = png[at + 4 : at + 8], png[at + 8 : at + 8 + length]
        end = at + 12 + length
        if length > _LARGEST or end > len(png):
            raise ValueError("cut off")
        if zlib.crc32(kind + content) != struct.unpack(">I", png[end - 4 : end])[0]:
            raise ValueError("damaged")
        yield kind, content
        at = end
