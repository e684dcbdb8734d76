"""Text within a PNG that keeps its lines, which Qt would join: iTXt chunks of the PNG standard."""

import struct
import zlib
from collections.abc import Iterator

SIGNATURE = b"\x89PNG\r\n\x1a\n"
_LARGEST = 1 << 31


def with_text(png: bytes, keyword: str, text: str) -> bytes:
    """The same picture with one more text, packed, before its pixels."""
    content = zlib.compress(text.encode(), 9)
    held = keyword.encode("latin-1") + b"\x00\x01\x00\x00\x00" + content
    chunk = struct.pack(">I", len(held)) + b"iTXt" + held
    chunk += struct.pack(">I", zlib.crc32(b"iTXt" + held))
    after_header = len(SIGNATURE) + 12 + struct.unpack(">I", png[8:12])[0]
    return png[:after_header] + chunk + png[after_header:]


def text_in(png: bytes, keyword: str, most: int) -> str | None:
    """The text of a keyword in a picture; None where it has none.

    Raises
    ------
    ValueError
        It is no PNG, or damaged, or the text is longer than ``most`` bytes.
    """
    if not png.startswith(SIGNATURE):
        raise ValueError("no PNG")
    for kind, held in _chunks(png):
        key, _, rest = held.partition(b"\x00")
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
    place = len(SIGNATURE)
    while place < len(png):
        length = struct.unpack(">I", png[place : place + 4])[0]
        kind, held = png[place + 4 : place + 8], png[place + 8 : place + 8 + length]
        end = place + 12 + length
        if length > _LARGEST or end > len(png):
            raise ValueError("cut off")
        if zlib.crc32(kind + held) != struct.unpack(">I", png[end - 4 : end])[0]:
            raise ValueError("damaged")
        yield kind, held
        place = end
