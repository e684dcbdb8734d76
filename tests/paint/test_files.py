"""What exported files hold, read by parsers that are not ours; and that they are the same again."""

import io
import re
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from fontTools.ttLib import TTFont
from msgspec import structs
from pypdf import PdfReader
from PyQt6.QtCore import QByteArray, QRectF, QSize
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtSvg import QSvgRenderer
from svgelements import SVG, Group
from svgelements import Text as SvgText

from rhabdos.data.gathering import gather
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from rhabdos.paint.export import image, png
from rhabdos.paint.fonts import letters_notice, measure, measure_for
from rhabdos.paint.inside import is_picture, recipe_in, recipe_text
from rhabdos.paint.painter import hatched
from rhabdos.paint.pdf import pdf
from rhabdos.paint.svg import svg
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Text
from rhabdos.scene.words.label_places import rect_of
from tests.conftest import set_of

SPACE = {"s": "http://www.w3.org/2000/svg"}
TEXT = r"""rhabdos = 1
[show]
variables = ["Shell length"]
split = ["Bay"]
forms = ["bars", "curve", "box", "points"]
[words]
title = "Shells < 50 & > 90 “mm” ]]> {slant Ostrea} ♥"
subtitle = "\u0007hidden‮ and عربي and 貝"
[look]
hatching = true
dashes = "by-group"
[[text]]
text = "here"
value = 60
arrow = {value = 70, share = 0.5}
"""


@pytest.fixture
def recipe():
    return read_recipe(TEXT)


@pytest.fixture
def scene(qapp, demo, recipe):
    return build(read(recipe, gather(demo, "Shell length", "Bay")), measure_for(recipe))


def texts_of(scene):
    return [mark.text for mark in scene.marks if isinstance(mark, Text)]


def test_an_svg_is_read_by_independent_parsers(scene):
    written = svg(scene)
    ET.fromstring(written)
    assert QSvgRenderer(QByteArray(written)).isValid()
    parsed = SVG.parse(io.BytesIO(written))
    shown = [element.text for element in parsed.elements() if isinstance(element, SvgText)]
    assert len(shown) == len(texts_of(scene))
    assert "Shell length (mm)" in shown
    names = {element.id for element in parsed.elements() if isinstance(element, Group)}
    assert {"bars", "curve", "box", "points", "title", "legend", "value-axis", "text"} <= {
        re.sub(r"-\d+$", "", name) for name in names if name
    } | {"legend"}


def test_groups_of_an_svg_are_named_by_what_they_mean(scene):
    root = ET.fromstring(svg(scene))
    groups = root.findall(".//s:g", SPACE)
    ids = [group.get("id") for group in groups]
    assert len(set(ids)) == len(ids)
    bars = [group for group in groups if group.get("class") == "bars"]
    assert {group.get("aria-label") for group in bars} >= {
        "Heron Sound", "Saltmere", "Wick Narrows",
    }  # fmt: skip


@pytest.mark.parametrize("written", [svg, pdf, lambda scene: png(scene, 100)])
def test_the_same_figure_is_the_same_bytes(written, scene, demo, recipe):
    again = build(read(recipe, gather(demo, "Shell length", "Bay")), measure_for(recipe))
    assert written(scene) == written(again)


def test_a_pdf_is_read_by_independent_parsers_with_layers_by_name(scene, tmp_path):
    written = pdf(scene)
    reader = PdfReader(io.BytesIO(written))
    (page,) = reader.pages
    text = " ".join(page.extract_text().split())
    assert "Shell length (mm)" in text
    layers = reader.trailer["/Root"]["/OCProperties"]["/OCGs"]
    names = {layer.get_object()["/Name"] for layer in layers}
    assert {"bars", "curve", "box", "points", "title", "value-axis"} <= names
    path = tmp_path / "figure.pdf"
    path.write_bytes(written)
    document = QPdfDocument(None)
    document.load(str(path))
    assert document.pageCount() == 1
    assert "Heron Sound" in document.getAllText(0).text()
    drawn = document.render(0, document.pagePointSize(0).toSize() * 2)
    assert any(drawn.pixelColor(x, drawn.height() // 2).lightness() < 200
               for x in range(drawn.width()))  # fmt: skip


def inked(picture):
    """The rectangle of what is not paper: left, top, right and bottom, in pixels."""
    plain = picture.convertToFormat(QImage.Format.Format_RGB32)
    pixels = np.frombuffer(plain.bits().asarray(plain.sizeInBytes()), np.uint8)
    colours = pixels.reshape(plain.height(), plain.width(), 4)[:, :, :3].astype(int)
    dark = (colours.max(axis=2) + colours.min(axis=2)) // 2 < 160  # their lightness
    down, across = np.nonzero(dark)
    return across.min(), down.min(), across.max(), down.max()


def test_words_in_a_pdf_are_as_wide_as_on_the_screen(scene, tmp_path):
    path = tmp_path / "figure.pdf"
    path.write_bytes(pdf(scene))
    document = QPdfDocument(None)
    document.load(str(path))
    ours = image(scene, 288)
    theirs = document.render(0, ours.size())
    words = [m for m in scene.marks if isinstance(m, Text) and len(m.text) > 7 and m.text.isascii()]
    level = [m for m in words if not m.angle]
    assert {m.size for m in level} >= {7.5, 8.5}  # which are no whole pixels
    for mark in level:
        where = rect_of(mark, measure)
        wide = (where.right - where.left) * 1.1  # wider letters would reach as far
        high = where.bottom - where.top
        place = QRectF(4 * where.left - 8, 4 * where.top, 4 * wide, 4 * high).toRect()
        both = inked(ours.copy(place)), inked(theirs.copy(place))
        assert both[0] == pytest.approx(both[1], abs=3), mark.text


def test_what_a_pdf_shows_lies_where_the_screen_has_it(scene, tmp_path):
    path = tmp_path / "figure.pdf"
    path.write_bytes(pdf(scene))
    document = QPdfDocument(None)
    document.load(str(path))
    page = document.render(0, QSize(round(scene.width), round(scene.height)))
    ours, theirs = inked(image(scene, 72)), inked(page)
    assert ours == pytest.approx(theirs, abs=2.5)


@pytest.mark.parametrize("letters", ["text", "embedded", "outlines"])
def test_words_are_text_with_their_font_or_outlines(scene, letters):
    root = ET.fromstring(svg(scene, letters=letters))
    written = root.findall(".//s:text", SPACE)
    style = root.find(".//s:style", SPACE)
    assert bool(written) == (letters != "outlines")
    assert (style is not None) == (letters == "embedded")
    if letters == "embedded":
        import base64

        faces = re.findall(r"base64,([A-Za-z0-9+/=]+)", style.text)
        assert len(faces) >= 2
        held = TTFont(io.BytesIO(base64.b64decode(faces[0]))).getBestCmap()
        assert ord("S") in held
        assert ord("ж") not in held  # only letters that are used
    if letters == "outlines":
        outlined = root.findall(".//s:path[@aria-label='Shell length (mm)']", SPACE)
        assert len(outlined) == 1
        plain, drawn = (QImage(800, 500, QImage.Format.Format_RGB32) for _ in range(2))
        from PyQt6.QtGui import QPainter

        for image, kind in ((plain, "text"), (drawn, "outlines")):
            image.fill(0xFFFFFFFF)
            painter = QPainter(image)
            QSvgRenderer(QByteArray(svg(scene, letters=kind))).render(painter)
            painter.end()
        apart = sum(
            plain.pixelColor(x, y).lightness() - drawn.pixelColor(x, y).lightness() > 120
            for x in range(0, 800, 2)
            for y in range(0, 500, 2)
        )
        assert apart < 800


# Opened again


def files_of(scene, recipe, folder):
    text = write_recipe(recipe)
    for ending, content in (
        ("svg", svg(scene, recipe=text)),
        ("pdf", pdf(scene, recipe=text)),
        ("png", png(scene, 72, recipe=text)),
    ):
        path = folder / f"figure.{ending}"
        path.write_bytes(content)
        yield path


def test_a_figure_that_holds_its_recipe_can_be_opened_again(scene, recipe, tmp_path):
    for path in files_of(scene, recipe, tmp_path):
        assert is_picture(path)
        assert read_recipe(recipe_text(path)) == recipe


@pytest.mark.parametrize("ending", ["svg", "pdf", "png"])
def test_a_figure_without_its_recipe_says_so(scene, tmp_path, ending):
    path = tmp_path / f"bare.{ending}"
    path.write_bytes({"svg": svg, "pdf": pdf, "png": lambda s: png(s, 72)}[ending](scene))
    with pytest.raises(Refusal, match="holds no recipe"):
        recipe_in(path)


@pytest.mark.parametrize(("ending", "head"), [("svg", b"<svg"), ("png", b"\x89PNG"),
                                              ("pdf", b"%PDF-1.4")])  # fmt: skip
def test_a_damaged_picture_is_refused_in_words(tmp_path, ending, head):
    path = tmp_path / f"damaged.{ending}"
    path.write_bytes(head + b"\x00\xff" * 40)
    assert is_picture(path)
    with pytest.raises(Refusal, match=f"cannot be read as {ending.upper()}"):
        recipe_in(path)


def test_data_that_only_look_like_a_picture_are_data(tmp_path):
    path = tmp_path / "catch.png"
    path.write_text("v\n1\n2\n")
    assert not is_picture(path)
    assert not is_picture(tmp_path / "nowhere.svg")


def test_a_png_keeps_every_letter_and_line_of_its_recipe(scene):
    from rhabdos.paint.png import text_in

    text = write_recipe(read_recipe(TEXT)) + "# two  blanks\n\n\ttab ♥"
    packed = png(scene, 72, recipe=text)
    assert text_in(packed, "rhabdos-recipe", 1 << 20) == text
    assert QImage.fromData(packed).width() == round(scene.width)  # and is a picture as before
    with pytest.raises(ValueError, match="too long"):
        text_in(packed, "rhabdos-recipe", 100)


@pytest.mark.parametrize("letter", ["\ufffe", "\x0c", "\x7f", "\r", "\u2028", "𝔘", "]]>", "\\"])
def test_a_recipe_survives_letters_that_xml_has_no_place_for(scene, tmp_path, letter):
    recipe = read_recipe(TEXT).worded(title=f"a{letter}b")
    path = tmp_path / "figure.svg"
    path.write_bytes(svg(scene, recipe=write_recipe(recipe)))
    assert read_recipe(recipe_in(path)) == recipe


def test_files_say_their_title_and_their_sentence(scene, demo):
    title = "Shells < 50 & > 90 “mm” ]]> Ostrea ♥"
    plain = read_recipe('rhabdos = 1\n[show]\nvariables = ["Shell length"]')
    bare = build(read(plain, gather(demo, "Shell length")), measure_for(plain))
    for of, named in ((scene, title), (bare, None)):
        root = ET.fromstring(svg(of))
        told = [root.find("s:title", SPACE).text, root.find("s:desc", SPACE).text]
        about = PdfReader(io.BytesIO(pdf(of))).metadata
        picture = QImage.fromData(png(of, 72))
        assert told == [about.title, about.subject]
        assert told == [picture.text("Title"), picture.text("Description")]
        assert told[1].startswith("Shell length of every row that has one")
        assert told[0] == (named or told[1].partition(". ")[0])


def test_letters_that_no_font_here_has_are_told():
    def told(title):
        """The notice of a figure with this title."""
        recipe = read_recipe(
            f'rhabdos = 1\n[show]\nvariables = ["Length"]\n[words]\ntitle = "{title}"'
        )
        return letters_notice(build(read(recipe, set_of([1.0, 2, 3])), measure_for(recipe)))

    assert told("Länge, μ ± σ → x") is None
    assert told("a\u200db") is None  # which only joins its neighbours
    for letter in "\u0378\U000323b0":  # of no script yet
        assert f"No font here has {letter}: boxes or gaps" in told(f"Ä {letter}").text
    assert "\u0378, \u0379" in told("\u0378\u0379\u0380\u0381\u0382\u0383\u038b").text
    assert "and 2 more" in told("\u0378\u0379\u0380\u0381\u0382\u0383\u038b").text


@pytest.mark.parametrize("pair", ["अइ", "กข", "கங", "あい", "ᠠᠡ", "ꦲꦤ", "აბ", "ԱԲ", "шщ", "אב"])
def test_letters_that_are_painted_alike_are_told_to_be_lacking(qapp, pair):
    """Fonts here have some of these scripts; where they have not, all letters are one box."""

    def drawn(letter):
        recipe = read_recipe(f'rhabdos = 1\nshow.variables = ["x"]\nwords.title = "{letter}"')
        return build(read(recipe, set_of([1.0, 2, 3])), measure_for(recipe))

    first, second = map(drawn, pair)
    alike = image(first, 150) == image(second, 150)
    assert (letters_notice(first) is not None) == (letters_notice(second) is not None) == alike


def test_words_of_a_pdf_are_copied_letter_by_letter(qapp, demo):
    words = "Shift often after; \ufb01rst fit, flow, office, fjord, mitt, Th Thus, 1/2 (a-b) 10:00"
    text = f"rhabdos = 1\nshow.variables = ['Shell length']\nwords.title = '{words}'\n"
    text += f"words.note = '{words}'\nwords.title_style.slant = true\n"
    recipe = read_recipe(text)
    drawn = build(read(recipe, gather(demo, "Shell length")), measure_for(recipe))
    told = " ".join(PdfReader(io.BytesIO(pdf(drawn))).pages[0].extract_text().split())
    assert told.count(words) == 2


@pytest.mark.parametrize("hatch", range(1, 7))
def test_hatchings_of_an_svg_lie_where_the_screen_has_them_without_notches(scene, hatch):
    """Ink at places of the paper, by their distance to the painted lines and to those of a tile."""
    area = next(mark for mark in scene.marks if isinstance(mark, Area))
    hatching = structs.replace(area, hatch=hatch)
    root = ET.fromstring(svg(structs.replace(scene, marks=(hatching,))))
    pattern = root.find(".//s:pattern", SPACE)
    line = pattern.find("s:path", SPACE)
    side, half = float(pattern.get("width")), float(line.get("stroke-width")) / 2
    drawn = np.array(re.findall(r"M(\S+) (\S+?)L(\S+) ([^M\s]+)", line.get("d"))).astype(float)
    moved = re.findall(r"translate\((\S+) (\S+)\)", pattern.get("patternTransform", ""))
    moved = np.array(moved[0]).astype(float) if moved else np.zeros(2)
    painted = hatched(QRectF(0, 0, 12, 12), hatch)
    painted = np.array([[at.x1(), at.y1(), at.x2(), at.y2()] for at in painted])
    points = np.random.default_rng(hatch).uniform(0.5, 11.5, (4000, 2))
    on_paper, in_tile = _distance(points, painted), _distance((points - moved) % side, drawn)
    plain = np.abs(on_paper - half) > 0.01  # so near an edge, a thousandth rounded may decide
    assert 0.1 < np.mean(on_paper < half) < 0.3
    assert ((on_paper < half) == (in_tile < half))[plain].all()


@pytest.mark.parametrize("hatch", range(1, 7))
def test_lines_of_a_hatching_end_where_they_leave_what_they_fill(hatch):
    lines = hatched(QRectF(100, 40, 500, 30), hatch)
    assert len(lines) >= 7
    for line in lines:
        assert 38 < min(line.y1(), line.y2()) <= max(line.y1(), line.y2()) < 72
        assert 98 < line.x1() <= line.x2() < 604


def _distance(points, lines):
    """From each point to the nearest of the lines, which end where they end: butt caps."""
    start, way = lines[:, :2], lines[:, 2:] - lines[:, :2]
    apart = points[:, None] - start
    along = (apart * way).sum(-1) / (way**2).sum(-1)
    across = np.abs(apart[..., 0] * way[:, 1] - apart[..., 1] * way[:, 0]) / np.hypot(*way.T)
    return np.where((along >= 0) & (along <= 1), across, np.inf).min(1)
