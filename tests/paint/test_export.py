"""Exports are checked for what they contain."""

import io
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from pypdf import PdfReader
from PyQt6.QtGui import QColor, QImage

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.demo_recipe import demo_recipe
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.page import Size
from rhabdos.figure.readings import read
from rhabdos.figure.recipe import Recipe, Show, Words
from rhabdos.paint.export import ExportError, format_of, image, pdf, png, svg, write_figure
from rhabdos.paint.fonts import measure
from rhabdos.scene.build import build
from rhabdos.scene.marks import Text

WORDS = [
    "Two harvests hide in Saltmere",
    "Percent of each bay",
    "Shell length (mm)",
    "Heron Sound",
    "n = 817",
]


@pytest.fixture
def readings(demo):
    return read(demo_recipe(), gather(demo, "Shell length", "Bay"))


@pytest.fixture
def scene(qapp, readings):
    return build(readings, measure)


def test_svg_keeps_text_as_text_and_its_size(scene):
    root = ET.fromstring(svg(scene))
    assert (root.get("width"), root.get("height")) == ("160mm", "100mm")
    written = [element.text for element in root.iter("{http://www.w3.org/2000/svg}text")]
    assert written == [mark.text for mark in scene.marks if isinstance(mark, Text)]
    assert root.find("{http://www.w3.org/2000/svg}desc").text == scene.describe()


def test_pdf_keeps_text_as_text_and_its_size(scene):
    (page,) = PdfReader(io.BytesIO(pdf(scene))).pages
    text = " ".join(page.extract_text().split())
    for words in WORDS:
        assert words in text
    assert float(page.mediabox.width) == pytest.approx(scene.width, abs=0.5)
    assert float(page.mediabox.height) == pytest.approx(scene.height, abs=0.5)


@pytest.mark.parametrize("dpi", [72, 150, 300])
def test_png_has_its_size_and_resolution(scene, dpi):
    pixels = QImage.fromData(png(scene, dpi))
    assert pixels.width() == round(16 / 2.54 * dpi)
    assert pixels.height() == round(10 / 2.54 * dpi)
    assert pixels.dotsPerMeterX() == round(dpi / 0.0254)
    assert pixels.text("Description") == scene.describe()


def test_a_size_in_pixels_is_that_many_pixels(qapp, readings):
    scene = build(readings, measure, size=Size.parse("1234x777px"), dpi=220)
    pixels = QImage.fromData(png(scene, 220))
    assert (pixels.width(), pixels.height()) == (1234, 777)


def test_paper_is_white_or_left_out(scene):
    white, clear = (
        QImage.fromData(png(scene, 96)),
        QImage.fromData(png(scene, 96, transparent=True)),
    )
    assert not white.hasAlphaChannel()
    assert white.pixelColor(1, 1) == QColor("white")
    assert clear.pixelColor(1, 1).alpha() == 0
    assert b"#ffffff" in svg(scene)
    assert svg(scene).count(b"#ffffff") > svg(scene, transparent=True).count(b"#ffffff")


def test_the_tallest_bar_is_where_it_belongs(scene, readings):
    """The picture is read back: above the tallest bar there is paper, within it there is its colour."""
    pixels = image(scene, 144)
    heron = bars(readings)[0]
    bin_ = int(np.argmax(heron.heights))
    middle = (readings.edges.values[bin_] + readings.edges.values[bin_ + 1]) / 2
    x = scene.frame.along(middle) * 2
    top = scene.frame.band.ats(heron.heights)[bin_] * 2
    assert pixels.pixelColor(round(x), round(top) - 5).lightness() > 240
    inside = pixels.pixelColor(round(x), round(top) + 6)
    assert inside.lightness() < 235
    assert inside.blue() > inside.red()


def test_svg_and_png_come_from_the_same_scene(scene):
    from PyQt6.QtGui import QPainter
    from PyQt6.QtSvg import QSvgRenderer

    drawn = image(scene, 72)
    again = QImage(drawn.size(), QImage.Format.Format_ARGB32_Premultiplied)
    again.fill(QColor("white"))
    painter = QPainter(again)
    QSvgRenderer(svg(scene)).render(painter)
    painter.end()
    ours, theirs = (
        np.frombuffer(p.constBits().asarray(p.sizeInBytes()), np.uint8).astype(int)
        for p in (drawn, again)
    )
    assert np.mean(np.abs(ours - theirs)) < 6


@pytest.mark.parametrize("ending", ["png", "svg", "pdf"])
def test_figures_are_written_by_their_ending(scene, tmp_path, ending):
    path = tmp_path / f"figure.{ending}"
    write_figure(scene, path, 96)
    assert path.read_bytes()[:5] in (b"\x89PNG\r", b"<?xml", b"%PDF-")


@pytest.mark.parametrize("name", ["figure", "figure.doc", "figure.png.txt"])
def test_other_endings_are_refused(name):
    with pytest.raises(ExportError, match=r"must end in \.png"):
        format_of(name)


@pytest.mark.parametrize(("dpi", "reason"), [(5, "resolution"), (99_999, "resolution")])
def test_pictures_beyond_reason_are_refused(scene, dpi, reason):
    with pytest.raises(ExportError, match=reason):
        png(scene, dpi)


def test_a_picture_too_large_is_refused(qapp, readings):
    with pytest.raises(ExportError, match="too large"):
        png(build(readings, measure, size=Size.parse("280x200cm")), 600)


@pytest.mark.parametrize(
    "odd", ["\x00\x1b[31m", "\ufffe\uffff", "\ud800", "a\u202eb", "]]> & <b>", "\x7f\x9b"]
)
def test_no_word_makes_an_svg_that_cannot_be_read(demo, odd, qapp):
    columns = (
        NumberColumn(f"Mass {odd}", values=np.arange(40.0)),
        CategoryColumn(
            f"Bay {odd}", codes=np.repeat([0, 1], 20).astype(np.int8), levels=(f"A{odd}", f"B{odd}")
        ),
    )
    recipe = Recipe(
        show=Show(variables=(columns[0].name,), split=(columns[1].name,)),
        words=Words(title=odd, height_axis=odd),
    )
    readings = read(recipe, gather(Table("t", columns), columns[0].name, columns[1].name))
    tree = ET.fromstring(svg(build(readings, measure)))
    assert "Mass" in "".join(tree.itertext())
    assert png(build(readings, measure), 72)
