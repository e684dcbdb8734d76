"""Files that were opened are in the desktop's list of them too (recently-used.xbel, Desktop
Bookmark Specification), so that file dialogs and menus of other programs offer them."""

import threading
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from rhabdos.desktop import desktop_data_file
from rhabdos.project.files import write_whole
from rhabdos.project.memory import remember
from rhabdos.project.state_file import alone

if TYPE_CHECKING:
    from lxml import etree

FILE = "recently-used.xbel"
_MOST_BYTES = 16 << 20  # beyond which the list is somebody's fault, and left alone
_BOOKMARK = "http://www.freedesktop.org/standards/desktop-bookmarks"
_MIME = "http://www.freedesktop.org/standards/shared-mime-info"
_OWNER = "http://freedesktop.org"
_EMPTY = (f'<xbel version="1.0" xmlns:bookmark="{_BOOKMARK}" xmlns:mime="{_MIME}"></xbel>').encode()
_KINDS = {
    ".csv": "text/csv",
    ".tsv": "text/tab-separated-values",
    ".txt": "text/plain",
    ".json": "application/json",
    ".parquet": "application/vnd.apache.parquet",
    ".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ".ods": "application/vnd.oasis.opendocument.spreadsheet",
    ".rhabdos": "application/x-rhabdos-work",
    ".toml": "application/toml",
}


def note_opened(path: Path) -> None:
    """Remember that a file was opened, here and on the desktop."""
    whole = path.absolute()
    remember(lambda memory: memory.opened(whole))
    if whole.is_file():
        # The desktop's list may lie on a slow disk, and nobody waits for it.
        threading.Thread(target=_add, args=(whole,), name="recently used").start()


def _add(path: Path) -> None:
    """Add a file to the desktop's list; a list that cannot be read or written stays as it is."""
    from lxml.etree import XMLSyntaxError

    from rhabdos.errors import Refusal

    file = desktop_data_file(FILE)
    with suppress(OSError, Refusal, XMLSyntaxError, ValueError), alone(FILE):
        write_whole(file, with_file(_read(file), path, datetime.now(UTC)), lasting=False)


def _read(file: Path) -> bytes:
    try:
        if file.stat().st_size > _MOST_BYTES:
            raise ValueError
        return file.read_bytes()
    except FileNotFoundError:
        file.parent.mkdir(parents=True, exist_ok=True)
        return _EMPTY


def with_file(content: bytes, path: Path, now: datetime) -> bytes:
    """The list with one file more, and all else that stands in it.

    Parameters
    ----------
    content : bytes
        The list as XBEL.

    Raises
    ------
    XMLSyntaxError
        It is none.
    ValueError
        Its root is another.
    """
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, remove_blank_text=False)
    root = etree.fromstring(content, parser)
    if root.tag != "xbel":
        raise ValueError(root.tag)
    at, address = now.strftime("%Y-%m-%dT%H:%M:%SZ"), path.as_uri()
    mark = next((each for each in root.iter("bookmark") if each.get("href") == address), None)
    if mark is None:
        mark = etree.SubElement(root, "bookmark", href=address, added=at)
    mark.set("modified", at)
    mark.set("visited", at)
    _note_program(mark, path, at)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8"))


def _note_program(mark: "etree._Element", path: Path, at: str) -> None:
    """That this program opened it, and how often."""
    metadata = _within(_within(mark, "info"), "metadata", owner=_OWNER)
    kind = _within(metadata, f"{{{_MIME}}}mime-type")
    if kind.get("type") is None:
        kind.set("type", _KINDS.get(path.suffix.lower(), "application/octet-stream"))
    programs = _within(metadata, f"{{{_BOOKMARK}}}applications")
    ours = _within(programs, f"{{{_BOOKMARK}}}application", name="Rhabdos")
    ours.set("exec", "'rhabdos %u'")
    ours.set("modified", at)
    ours.set("count", str(int(ours.get("count", "0")) + 1))


def _within(parent: "etree._Element", tag: str, **known: str) -> "etree._Element":
    """The element of a tag with these attributes, made if there is none."""
    from lxml import etree

    for each in parent.findall(tag):
        if all(each.get(name) == value for name, value in known.items()):
            return each
    return etree.SubElement(parent, tag, attrib=known)
