"""Exports are checked for what they contain."""

import io
import re
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from msgspec import structs
from pypdf import PdfReader
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Recipe, Show, Words
from rhabdos.paint.export import (
    ExportError,
    check_pixels,
    format_of,
    image,
    pdf,
    png,
    svg,
    write_figure,
)
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
    check_pixels(12_500, 20_000, 72)  # points, each a pixel then: a quarter of a thousand millions
    check_pixels(6_250, 10_000, 144)
    for width, dpi in ((12_501, 72), (12_400, 73)):
        with pytest.raises(ExportError, match="too large"):
            check_pixels(width, 20_000, dpi)


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


@pytest.mark.parametrize("live", [False, True])
@pytest.mark.parametrize("shape", ["ring", "disc", "diamond", "circle", "square", "cross"])
def test_dots_are_painted_where_they_lie(qapp, shape, live):
    """A ring and a cross leave paper beside their lines; the others are filled."""
    from rhabdos.paint.painter import paint, painter_on
    from rhabdos.scene.coordinates import Frame
    from rhabdos.scene.marks import Dots, Meaning, Scene

    places = np.array([[20.0 + 20 * (i % 5), 20.0 + 20 * (i // 5)] for i in range(20)])
    fill = "" if shape in ("ring", "disc") else "#00FF00"
    dots = Dots(places, shape, 10.0, "#FF0000", 1.0, Meaning("points"), fill)
    scene = Scene(120, 120, (dots,), (), Frame(0, 0, 120, 120, 0, 1), lambda: "")
    picture = QImage(480, 480, QImage.Format.Format_ARGB32_Premultiplied)
    with painter_on(picture) as painter:
        painter.scale(4, 4)
        paint(scene, painter, live=live)
    middles = {picture.pixelColor(*(places[i] * 4).astype(int).tolist()).name() for i in range(20)}
    expected = {"ring": "#ffffff", "disc": "#ff0000", "cross": "#ff0000"}.get(shape, "#00ff00")
    assert middles == {expected}
    red = sum(
        picture.pixelColor(x, y).red() > 200 > picture.pixelColor(x, y).blue()
        and picture.pixelColor(x, y).green() < 90
        for x in range(60, 102)
        for y in range(60, 102)
    )
    assert red > 40
    assert picture.pixelColor(120, 120).name() == "#ffffff"  # between four dots


@pytest.mark.parametrize("shape", ["ring", "disc", "diamond", "circle", "square", "cross"])
def test_dots_of_an_svg_are_those_that_are_painted(qapp, shape):
    from PyQt6.QtSvg import QSvgRenderer

    from rhabdos.paint.painter import paint, painter_on
    from rhabdos.scene.coordinates import Frame
    from rhabdos.scene.marks import Dots, Meaning, Scene

    fill = "" if shape in ("ring", "disc") else "#00FF00"
    dots = Dots(np.array([[30.0, 30.0]]), shape, 24.0, "#FF0000", 1.0, Meaning("points"), fill)
    scene = Scene(60, 60, (dots,), (), Frame(0, 0, 60, 60, 0, 1), lambda: "")
    pictures = []
    for written in (False, True):
        picture = QImage(240, 240, QImage.Format.Format_ARGB32_Premultiplied)
        picture.fill(QColor("white"))
        with painter_on(picture) as painter:
            painter.scale(4, 4)
            if written:
                QSvgRenderer(svg(scene)).render(painter, QRectF(0, 0, 60, 60))
            else:
                paint(scene, painter)
        pixels = np.frombuffer(picture.constBits().asarray(picture.sizeInBytes()), np.uint8)
        pictures.append(pixels.reshape(240, 240, 4)[:, :, :3].astype(int))
    inked = (pictures[0] < 200).any(axis=2)
    assert inked.sum() > 500
    assert (np.abs(pictures[0] - pictures[1]).max(axis=2) > 90).sum() < 0.03 * inked.sum()


def test_a_stamped_dot_looks_like_a_drawn_one(qapp):
    from rhabdos.paint.painter import paint, painter_on
    from rhabdos.scene.coordinates import Frame
    from rhabdos.scene.marks import Dots, Meaning, Scene

    places = np.array([[12.25 + 10 * i, 30.5] for i in range(20)])
    dots = Dots(places, "disc", 6.0, "#1B7F8C", 0.5, Meaning("points"))
    scene = Scene(240, 60, (dots,), (), Frame(0, 0, 240, 60, 0, 1), lambda: "")
    pictures = []
    for live in (False, True):
        picture = QImage(480, 120, QImage.Format.Format_ARGB32_Premultiplied)
        with painter_on(picture) as painter:
            painter.scale(2, 2)
            paint(scene, painter, live=live)
        pixels = [picture.pixelColor(x, y).red() for x in range(480) for y in range(40, 80)]
        pictures.append(np.array(pixels, dtype=float))
    assert pictures[0].min() < 160
    assert abs(pictures[0].sum() - pictures[1].sum()) < 0.01 * (
        255 * len(pictures[0]) - pictures[0].sum()
    )
    assert np.abs(pictures[0] - pictures[1]).mean() < 4


@pytest.mark.parametrize("upright", [False, True], ids=["lying", "standing"])
@pytest.mark.parametrize("form", list(FORMS))
def test_exports_hold_every_form_as_it_is_laid_out(qapp, demo, form, upright):
    recipe = demo_recipe().showing(forms=(form,), upright=upright, arrange="lanes")
    recipe = recipe.changed(box=recipe.box.changed(names="Tag", mean=True, numbers=("mean",)))
    scene = build(read(recipe, gather(demo, "Shell length", "Bay")), measure)
    texts = [mark.text for mark in scene.marks if isinstance(mark, Text)]
    root = ET.fromstring(svg(scene))
    assert [e.text for e in root.iter("{http://www.w3.org/2000/svg}text")] == texts
    if form == "box":
        assert {"77.3 ± 6.1", "T-2706"} <= set(texts)
    (page,) = PdfReader(io.BytesIO(pdf(scene))).pages
    text = " ".join(page.extract_text().split())
    assert all(name in text for name in ("Heron Sound", "Saltmere", "Wick Narrows", "n = 776"))
    picture = QImage.fromData(png(scene, 96))
    scale = 96 / 72
    for mark in scene.marks:  # where data are drawn, the paper is not white
        points = getattr(mark, "places", getattr(mark, "points", None))
        if points is not None and mark.meaning.group is not None and len(points):
            near = []  # of three of them, since an end of an area is as thin as it is pointed
            for at in (len(points) // 4, len(points) // 2, 3 * len(points) // 4):
                x, y = (points[at] * scale).round().astype(int).tolist()
                near += [
                    picture.pixelColor(min(x + dx, picture.width() - 1), y + dy).lightness()
                    for dx in range(-3, 4)
                    for dy in range(-3, 4)
                ]
            assert min(near) < 235, mark


@pytest.mark.parametrize(
    "family", ["O'Hara", "a\\b", "x', serif; fill: red; '", '<&">', "a\u0001b"]
)
def test_any_name_of_a_font_is_one_name_in_an_svg(qapp, readings, family):
    scene = structs.replace(build(readings, measure), font=family)
    root = ET.fromstring(svg(scene))
    (drawing,) = [g for g in root if g.get("id") == "figure"]
    names = re.fullmatch(r"'((?:[^'\\]|\\.)*)', sans-serif", drawing.get("font-family"))
    assert re.sub(r"\\(.)", r"\1", names[1]) == family.replace("\u0001", "␁")
