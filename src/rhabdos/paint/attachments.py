"""Files within a PDF, read by the library in a process of its own: see `rhabdos.apart`."""

from typing import Any, BinaryIO

from rhabdos.apart import Answer


def attached(source: BinaryIO, options: dict[str, Any]) -> Answer:
    """The bytes of the attached file that is asked for, where there is one of no more bytes than
    asked."""
    from pypdf import PdfReader

    files = PdfReader(source).attachments.get(options["file"])
    if not files:
        return {"found": False}, b""
    return {"found": True}, files[0][: options["most"] + 1]
