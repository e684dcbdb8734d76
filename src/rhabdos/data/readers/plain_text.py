"""A text in UTF-8, whatever encoding it was in."""

import codecs
import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TextIO

from msgspec import Struct, structs

from rhabdos.data.files.encodings import encoding_of, named
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.limits import ReadingError
from rhabdos.data.readers.drawn_tables import LARGEST, looks_drawn, undrawn
from rhabdos.data.readers.notes import notes_told, remarks_at_end
from rhabdos.data.steps.reading import Read
from rhabdos.quoting import file_named, quoted

_HEAD_BYTES = 1 << 18
_LONGEST_LINE = 1 << 26


class Text(Struct, frozen=True, eq=False):
    """A text in UTF-8, its first part, and what is to be said of its encoding."""

    opened: OpenFile
    head: str
    encoding: str = "utf-8"
    remarks: tuple[str, ...] = ()


def as_text(opened: OpenFile, how: Read | None) -> Text:
    """The text of a file in UTF-8, and its first part; of a table that is drawn with bars and
    dashes, its cells parted by tabs.

    Raises
    ------
    ReadingError
        It is empty, or no text in the encoding that is asked for or told.
    """
    head, encoding, guessed = encoding_told(opened, how)
    if encoding == "utf-8" and not guessed and not returns_alone(head):
        text = Text(opened, head.decode("utf-8", errors="ignore"))
    else:
        text = _in_utf8(opened, encoding, guessed)
    text = _without_end_remarks(text)
    asked = None if how is None else how.separator
    return _parted(text) if asked in (None, "\t") and looks_drawn(text.head) else text


def returns_alone(head: bytes) -> bool:
    """Whether lines end as they did of old, which only decoding understands; the last may end as
    it does now."""
    alone = head.count(b"\r") - head.count(b"\r\n")
    return alone > 0 and alone >= head.count(b"\n")


def encoding_told(opened: OpenFile, how: Read | None) -> tuple[bytes, str, bool]:
    """The first bytes of a text, its encoding, and whether that had to be guessed.

    Raises
    ------
    ReadingError
        It is empty or no text, or there is no encoding of the name that is asked for.
    """
    name = file_named(opened.path.name)
    head = _head_of(opened)
    if not head.strip():
        raise _empty(name)
    if how is not None and how.encoding is not None:
        return head, _known_encoding(how.encoding), False
    return head, *encoding_of(head, name)


def _without_end_remarks(text: Text) -> Text:
    """A text without the remarks behind # that end it."""
    remarks = remarks_at_end(text.opened, text.head)
    if not remarks:
        return text
    content = text.opened.whole().rstrip()
    for _ in remarks:
        content = content[: max(content.rfind(end) for end in (b"\n", b"\r"))].rstrip()
    again = holding(text.opened, content + b"\n")
    head = _head_of(again).decode("utf-8", errors="ignore")
    return structs.replace(
        text, opened=again, head=head, remarks=(*text.remarks, *notes_told(remarks))
    )


def _parted(text: Text) -> Text:
    """A table that is drawn as one that is parted by tabs; any other text as it is."""
    if text.opened.size > LARGEST:
        return text
    parted = undrawn(text.opened.whole().decode("utf-8", errors="replace").lstrip("\ufeff"))
    if parted is None:
        return text
    again = holding(text.opened, parted.encode())
    head = _head_of(again).decode("utf-8", errors="ignore")
    name = file_named(text.opened.path.name)
    told = f"{name} is a table drawn with bars and dashes; its cells were read."
    return structs.replace(text, opened=again, head=head, remarks=(*text.remarks, told))


def as_other_text(opened: OpenFile, how: Read | None) -> Text:
    """A text that is not in UTF-8 after all, though its first bytes were.

    Raises
    ------
    ReadingError
        UTF-8 was asked for, or it is in no encoding that is known.
    """
    name = file_named(opened.path.name)
    if how is not None and how.encoding is not None:
        raise not_in("utf-8", name) from None
    encoding, guessed = encoding_of(_undecodable_part(opened), name)
    return _in_utf8(opened, encoding, guessed)


def _in_utf8(opened: OpenFile, encoding: str, guessed: bool) -> Text:
    """The same text written in UTF-8."""
    name = file_named(opened.path.name)
    text = _decoded(opened, encoding, "replace" if damaged(encoding, guessed) else "strict")
    if not text.strip("\ufeff \t\n"):
        raise _empty(name)
    again = holding(opened, text.encode(errors="replace"))
    remarks = (guessed_told(name, encoding),) if guessed else ()
    return Text(again, _head_of(again).decode("utf-8", errors="ignore"), encoding, remarks)


def damaged(encoding: str, guessed: bool) -> bool:
    """Whether a text is in UTF-8 but for some bytes, in whose place a sign stands."""
    return guessed and encoding == "utf-8"


def guessed_told(name: str, encoding: str) -> str:
    """What is to be said of a text whose encoding had to be guessed."""
    if damaged(encoding, True):
        return f"Some bytes of {name} are not UTF-8, and stand as “\ufffd”. Check these letters."
    return f"{name} is not in UTF-8; it was read as {encoding}. Check its accented letters."


def holding(opened: OpenFile, content: bytes) -> OpenFile:
    """Other bytes in place of those of a file."""
    return OpenFile(opened.path, io.BytesIO(content), len(content), opened.stamp)


def _empty(name: str) -> ReadingError:
    return ReadingError(f"{name} is empty. Choose a file with a row of names and rows of values.")


def not_in(encoding: str, name: str) -> ReadingError:
    """The refusal of a text that is not in an encoding."""
    return ReadingError(
        f"{name} cannot be read as {encoding}. Choose another encoding, or save it as CSV in UTF-8 "
        "and open that."
    )


def _known_encoding(asked: str) -> str:
    try:
        known = codecs.lookup(asked)
    except (LookupError, ValueError):
        raise ReadingError(
            f"{quoted(asked)} is no encoding that is known here. Common ones are utf-8, utf-16, "
            "windows-1252 and iso-8859-1."
        ) from None
    if not getattr(known, "_is_text_encoding", True):
        raise ReadingError(f"{quoted(asked)} is no encoding of text. Name another, such as utf-8.")
    return named(known.name)


def _head_of(opened: OpenFile) -> bytes:
    """The first bytes, with the whole first line at least."""
    count = _HEAD_BYTES
    while True:
        head = opened.head(count)
        lines = head.strip(b"\r\n")
        if len(head) < count or b"\n" in lines or (b"\r" in lines and b"\n" not in head):
            return head
        if count >= _LONGEST_LINE:
            raise ReadingError(
                f"The first line of {file_named(opened.path.name)} is longer than "
                f"{_LONGEST_LINE >> 20} MiB, so it is "
                "no row of names. Check that it is the file you mean."
            )
        count *= 4


def _undecodable_part(opened: OpenFile) -> bytes:
    """Bytes around the first that is not UTF-8, where the head promised it would be."""
    content = opened.whole()
    try:
        content.decode("utf-8")
    except UnicodeDecodeError as error:
        return content[max(0, error.start - _HEAD_BYTES) : error.start + _HEAD_BYTES]
    return content[:_HEAD_BYTES]


def _decoded(opened: OpenFile, encoding: str, errors: str) -> str:
    """The text with line ends as they are written now."""
    try:
        text = opened.whole().decode(encoding, errors)
    except (UnicodeDecodeError, UnicodeError) as error:
        raise not_in(encoding, file_named(opened.path.name)) from error
    return text.replace("\r\n", "\n").replace("\r", "\n")


@contextmanager
def text_of(opened: OpenFile) -> Iterator[TextIO]:
    """The text from its beginning, without a mark of its encoding; the file stays open."""
    text = io.TextIOWrapper(opened.stream(), encoding="utf-8-sig", newline="")
    try:
        yield text
    finally:
        text.detach()
