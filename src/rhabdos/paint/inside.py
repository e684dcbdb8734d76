"""Recipes within figures that were exported: to be opened as figures again."""

import io
import os
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from pathlib import Path
from typing import Any, cast

from rhabdos.errors import Refusal
from rhabdos.paint.names import PNG_KEY, RECIPE_FILE, RECIPE_SPACE
from rhabdos.paint.png import text_in
from rhabdos.project.files import LONGEST_RECIPE, RECIPE_CAN_BE, read_content, read_text
from rhabdos.quoting import file_named

_BEGINNINGS: dict[str, tuple[bytes, ...]] = {
    ".svg": (b"<?xml", b"<svg"),
    ".png": (b"\x89PNG",),
    ".pdf": (b"%PDF",),
}
_HEAD = 64  # bytes that tell what a file is
_LARGEST = 256 << 20  # bytes of a figure that is looked into for its recipe
_PIECE = 1 << 16  # bytes parsed at a time, so that elements are counted before all are in memory
_MOST_ELEMENTS = 2_000_000  # of an SVG: nobody draws more, but to do harm


def is_picture(path: str | Path) -> bool:
    """Whether a file is a picture as figures are exported: by its ending, and by how it begins."""
    ending = Path(path).suffix.lower()
    if ending not in _BEGINNINGS or not os.path.isfile(path):
        return False
    try:
        with open(path, "rb") as file:
            head = file.read(_HEAD).lstrip(b"\xef\xbb\xbf \r\n\t")
    except OSError:
        return False  # whoever opens it says why
    return head.startswith(_BEGINNINGS[ending])


def recipe_text(path: str | Path) -> str:
    """The text of a recipe: of its own file, or of a figure that holds it.

    Raises
    ------
    Refusal
        The file cannot be read, or holds none.
    """
    return recipe_in(path) if is_picture(path) else read_text(path)


def recipe_in(path: str | Path) -> str:
    """The recipe that an exported figure holds.

    Raises
    ------
    Refusal
        It holds none, or is damaged.
    """
    name = file_named(str(path))
    content = read_content(path, _LARGEST, "a figure can be (256 MiB)")
    ending = Path(path).suffix.lower()
    try:
        text = {".svg": _in_svg, ".png": _in_png, ".pdf": _in_pdf}[ending](content)
    except Refusal:
        raise
    except Exception as error:
        raise Refusal(
            f"{name} cannot be read as {ending[1:].upper()}: it is damaged, or something else."
        ) from error
    if text is not None and len(text.encode()) > LONGEST_RECIPE:
        raise Refusal(
            f"The recipe in {name} is larger than {RECIPE_CAN_BE}. Check that it is the file you "
            "mean."
        )
    if text is None:
        raise Refusal(
            f"{name} holds no recipe. Only a figure that was exported with its recipe inside can "
            "be opened again; open the recipe itself, or the data."
        )
    return text


def _in_svg(content: bytes) -> str | None:
    """The recipe in an SVG, of which no more is held than what is open at a time."""
    if RECIPE_SPACE.encode() not in content and b"\x00" not in content[:_HEAD]:  # UTF-16 has some
        return None
    count = 0
    parser: ET.XMLPullParser[Any] = ET.XMLPullParser(("start", "end"))
    open_now: list[ET.Element] = []
    for start in range(0, len(content), _PIECE):
        parser.feed(content[start : start + _PIECE])
        for event, element in cast("Iterator[tuple[str, ET.Element]]", parser.read_events()):
            if event == "start":
                open_now.append(element)
                count += 1
                if count > _MOST_ELEMENTS:
                    raise ValueError("more elements than a figure has")
                continue
            if element.tag == f"{{{RECIPE_SPACE}}}recipe":
                return element.text
            open_now.pop()
            if open_now:  # what has ended is let go
                open_now[-1].remove(element)
    parser.close()
    return None


def _in_png(content: bytes) -> str | None:
    return text_in(content, PNG_KEY, LONGEST_RECIPE)


def _in_pdf(content: bytes) -> str | None:
    from rhabdos.apart import Limits, Overrun, apart

    limits = Limits(memory=2 << 30, seconds=20)
    try:
        answer, recipe = apart(
            "rhabdos.paint.attachments:attached",
            io.BytesIO(content),
            {"file": RECIPE_FILE, "most": LONGEST_RECIPE},
            limits,
        )
    except Overrun as overrun:
        raise ValueError(overrun.reason) from None
    return recipe.decode() if answer["found"] else None
