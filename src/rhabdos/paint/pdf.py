"""A scene as PDF: text as text, layers named by what they mean, and the same bytes on every run."""

import hashlib
import io
import re
from collections.abc import Sequence
from datetime import UTC, datetime
from itertools import groupby
from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
from PyQt6.QtGui import QPageSize, QPdfWriter

from rhabdos import __version__
from rhabdos.paint import fonts
from rhabdos.paint.names import RECIPE_FILE
from rhabdos.paint.painter import paint, painter_on
from rhabdos.paint.svg import meaning_words
from rhabdos.quoting import printable
from rhabdos.scene.marks import Mark, Scene

if TYPE_CHECKING:
    from pypdf import PageObject, PdfWriter
    from pypdf.generic import DictionaryObject, IndirectObject

_DPI = 1200  # of Qt's whole units, so that rounding to one is not to be seen
_POINT_IN_MM = 25.4 / 72  # as Qt takes the size of a page
_MADE = "D:20000101000000Z"  # a file is no other for being made at another time
# Parts of a page that are told apart by name; a figure of more is one.
_MOST_LAYERS = 400
_TAGGED = re.compile(r"/[A-Z]{6}\+(.+)")


def pdf(scene: Scene, transparent: bool = False, recipe: str | None = None) -> bytes:
    """A scene as a one-page PDF of the figure's size.

    Qt paints each layer on a page of its own; here they are laid over one another on one page, each
    with its name.
    """
    fonts.load()
    layers = _layers(scene)
    painted = _painted(scene, [marks for _, marks in layers], transparent)
    return _finished(scene, painted, [name for name, _ in layers], recipe)


def book(pages: Sequence[bytes], title: str) -> bytes:
    """PDFs of a page each as one of many pages, with a fixed date and name."""
    from pypdf import PdfReader, PdfWriter
    from pypdf.generic import ArrayObject, ByteStringObject

    writer = PdfWriter()
    digest = hashlib.sha256()
    for page in pages:
        reader = PdfReader(io.BytesIO(page))
        writer.append(reader, outline_item=None, import_outline=False)
        digest.update(page)
    writer.add_metadata(_about(title, ""))
    identity = ByteStringObject(digest.digest()[:16])
    writer._ID = ArrayObject([identity, identity])
    written = io.BytesIO()
    writer.write(written)
    return written.getvalue()


def _about(title: str, describing: str) -> dict[str, str]:
    return {
        "/Title": printable(title),
        "/Subject": describing,
        "/Creator": f"Rhabdos {__version__}",
        "/Producer": f"Rhabdos {__version__}",
        "/CreationDate": _MADE,
        "/ModDate": _MADE,
    }


def _layers(scene: Scene) -> list[tuple[str, list[Mark]]]:
    """Successive marks of one part of the figure, with what it is called."""
    groups = groupby(scene.marks, key=lambda mark: meaning_words(scene, mark.meaning)[0])
    layers = [(part, list(marks)) for part, marks in groups]
    if len(layers) <= _MOST_LAYERS:
        return layers
    return [("figure", list(scene.marks))]


def _painted(scene: Scene, layers: Sequence[Sequence[Mark]], transparent: bool) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.ReadWrite)
    writer = QPdfWriter(buffer)
    writer.setResolution(_DPI)
    exact = QPageSize.SizeMatchPolicy.ExactMatch
    size = QSizeF(*scene.points) * _POINT_IN_MM
    writer.setPageSize(QPageSize(size, QPageSize.Unit.Millimeter, "figure", exact))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    with painter_on(writer) as painter:
        # Qt rounds a PDF page to whole points; the figure fills it exactly all the same.
        painter.scale(writer.width() / scene.width, writer.height() / scene.height)
        paint(structs.replace(scene, marks=()), painter, paper=not transparent)
        for marks in layers:
            writer.newPage()
            paint(structs.replace(scene, marks=tuple(marks)), painter, paper=False)
    return buffer.data().data()


def _group(name: str) -> "DictionaryObject":
    """Content that a reader may switch on and off under a name."""
    from pypdf.generic import DictionaryObject, NameObject, TextStringObject

    group = DictionaryObject()
    group[NameObject("/Type")] = NameObject("/OCG")
    group[NameObject("/Name")] = TextStringObject(name)
    return group


def _shown_groups(groups: "list[IndirectObject]") -> "DictionaryObject":
    """All groups, in their order, switched on."""
    from pypdf.generic import ArrayObject, DictionaryObject, NameObject

    shown = ArrayObject(groups)
    order, optional = DictionaryObject(), DictionaryObject()
    order[NameObject("/Order")] = shown
    order[NameObject("/ON")] = shown
    optional[NameObject("/OCGs")] = shown
    optional[NameObject("/D")] = order
    return optional


def _finished(scene: Scene, painted: bytes, names: Sequence[str], recipe: str | None) -> bytes:
    """The layers on one page, with title, description, recipe, and a fixed date and name."""
    from pypdf import PdfReader, PdfWriter
    from pypdf.generic import (
        ArrayObject,
        ByteStringObject,
        DecodedStreamObject,
        DictionaryObject,
        NameObject,
    )

    pages = PdfReader(io.BytesIO(painted)).pages
    writer = PdfWriter()
    page = writer.add_blank_page(pages[0].mediabox.width, pages[0].mediabox.height)
    forms, switches, content = DictionaryObject(), DictionaryObject(), []
    known: dict[str, IndirectObject] = {}
    for number, (layer, name) in enumerate(zip(pages, ("paper", *names), strict=True)):
        if name not in known:
            known[name] = writer._add_object(_group(name))
        forms[NameObject(f"/L{number}")] = _form(writer, layer)
        switches[NameObject(f"/G{number}")] = known[name]
        content.append(f"/OC /G{number} BDC q /L{number} Do Q EMC")
    resources = DictionaryObject()
    resources[NameObject("/XObject")] = forms
    resources[NameObject("/Properties")] = switches
    page[NameObject("/Resources")] = resources
    stream = DecodedStreamObject()
    stream.set_data("\n".join(content).encode())
    page[NameObject("/Contents")] = writer._add_object(stream)
    writer._root_object[NameObject("/OCProperties")] = _shown_groups(list(known.values()))
    describing = printable(scene.describe())
    writer.add_metadata(_about(scene.name, describing))
    if recipe is not None:
        attached = writer.add_attachment(RECIPE_FILE, recipe.encode())
        dated = datetime(2000, 1, 1, tzinfo=UTC)
        attached.creation_date = attached.modification_date = dated
    _name_faces(writer)
    # A file is told by what it holds, not by when it was made.
    told = hashlib.sha256(describing.encode() + (recipe or "").encode()).digest()[:16]
    identity = ByteStringObject(told)
    writer._ID = ArrayObject([identity, identity])
    written = io.BytesIO()
    writer.write(written)
    return written.getvalue()


def _name_faces(writer: "PdfWriter") -> None:
    """Number the faces that are cut to their letters, which Qt names by chance."""
    from pypdf.generic import DictionaryObject, NameObject

    known: dict[str, str] = {}
    for part in writer._objects:
        if not isinstance(part, DictionaryObject) or "/FontName" not in part:
            continue
        name = str(part["/FontName"])
        if tagged := _TAGGED.fullmatch(name):
            number = known.setdefault(name, f"AAAAA{chr(65 + len(known) % 26)}")
            part[NameObject("/FontName")] = NameObject(f"/{number}+{tagged[1]}")


def _form(writer: "PdfWriter", layer: "PageObject") -> "IndirectObject":
    """A page as something that can be drawn on another."""
    from pypdf.generic import DecodedStreamObject, NameObject

    form = DecodedStreamObject()
    contents = layer.get_contents()
    form.set_data(contents.get_data() if contents is not None else b"")
    form[NameObject("/Type")] = NameObject("/XObject")
    form[NameObject("/Subtype")] = NameObject("/Form")
    form[NameObject("/BBox")] = layer.mediabox
    form[NameObject("/Resources")] = layer["/Resources"].clone(writer)
    return writer._add_object(form.flate_encode())
