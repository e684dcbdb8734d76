"""A scene as SVG: text as text, and groups named by what they mean."""

import re
import xml.etree.ElementTree as ET
from collections.abc import Iterator, Sequence
from itertools import groupby

import numpy as np

from rhabdos import __version__
from rhabdos.arrays import FloatArray
from rhabdos.paint.hatching import HATCH_LINE, HATCH_SLOPES, HATCH_STEP
from rhabdos.paint.names import RECIPE_SPACE
from rhabdos.paint.typeface import FAMILY, subset
from rhabdos.project.export_choice import Lettering
from rhabdos.quoting import printable
from rhabdos.scene.marks import Area, Dots, Mark, Meaning, Path, Scene, Segments, Swatch, Text

_SVG = "http://www.w3.org/2000/svg"
_ANCHORS = {"start": None, "middle": "middle", "end": "end"}
_FINE = 100.0  # times as large, for outlines of letters


def svg(
    scene: Scene, transparent: bool = False, letters: Lettering = "text", recipe: str | None = None
) -> bytes:
    """A scene as SVG 1.1; the same scene gives the same bytes.

    Parameters
    ----------
    letters : {"text", "embedded", "outlines"}
        Embedded are only letters of the usual family, and only those that are used.
    recipe : str, optional
        To be kept in the file, which can then be opened as a figure again.
    """
    ET.register_namespace("", _SVG)
    ET.register_namespace("rhabdos", RECIPE_SPACE)
    wide, high = (side / 72 * 25.4 for side in scene.points)
    root = ET.Element(
        f"{{{_SVG}}}svg",
        {
            "version": "1.1",
            "width": f"{_number(wide)}mm",
            "height": f"{_number(high)}mm",
            "viewBox": f"0 0 {_number(scene.width)} {_number(scene.height)}",
            "role": "img",
            "aria-labelledby": "figure-title figure-description",
        },
    )
    describing = printable(scene.describe())
    _child(root, "title", {"id": "figure-title"}).text = printable(scene.name)
    _child(root, "desc", {"id": "figure-description"}).text = describing
    if recipe is not None:
        metadata = _child(root, "metadata", {})
        kept = ET.SubElement(metadata, f"{{{RECIPE_SPACE}}}recipe", {"program": __version__})
        kept.text = _fit_for_xml(recipe)
    family = scene.font or FAMILY
    definitions = _child(root, "defs", {})
    if letters == "embedded" and not scene.font:
        _child(definitions, "style", {}).text = _faces(scene)
    _patterns(definitions, scene.marks)
    if not transparent:
        ground = {"width": _number(scene.width), "height": _number(scene.height)}
        _child(root, "rect", {"id": "paper", **ground, "fill": scene.paper.lower()})
    drawing = _child(root, "g", {"id": "figure", "font-family": f"{_css(family)}, sans-serif"})
    names: dict[str, int] = {}
    for meaning, marks in groupby(scene.marks, key=lambda mark: mark.meaning):
        _group(drawing, scene, meaning, list(marks), names, letters)
    written: bytes = ET.tostring(root, encoding="utf-8", xml_declaration=True)
    return written


_NO_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]|\r")


def _fit_for_xml(recipe: str) -> str:
    """A recipe in which characters that XML cannot hold, or would change, are written as TOML
    escapes them; such stand within quotation marks only."""
    return _NO_XML.sub(lambda found: f"\\u{ord(found[0]):04X}", recipe)


def _css(family: str) -> str:
    """The name of a family of letters within quotation marks, as style rules have it."""
    escaped = printable(family).replace("\\", "\\\\").replace("'", "\\'")
    return f"'{escaped}'"


def _child(parent: ET.Element, tag: str, attributes: dict[str, str]) -> ET.Element:
    return ET.SubElement(parent, f"{{{_SVG}}}{tag}", attributes)


def _number(value: float) -> str:
    """A number as short as a thousandth of a point needs."""
    text = f"{value:.3f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def meaning_words(scene: Scene, meaning: Meaning | None) -> tuple[str, str]:
    """What marks of a meaning are, as a name for a group of them: "bars" and "Saltmere"."""
    if meaning is None:
        return "grid", ""
    if meaning.group is not None and meaning.group < len(scene.groups):
        return meaning.part, scene.groups[meaning.group]
    return meaning.part, meaning.level or ""


def _group(
    parent: ET.Element,
    scene: Scene,
    meaning: Meaning | None,
    marks: Sequence[Mark],
    names: dict[str, int],
    letters: Lettering,
) -> None:
    part, of = meaning_words(scene, meaning)
    names[part] = names.get(part, 0) + 1
    again = f"-{names[part]}" if names[part] > 1 else ""
    attributes = {"id": f"{part}{again}", "class": part}
    if of:
        attributes["aria-label"] = printable(of)
    group = _child(parent, "g", attributes)
    for mark in marks:
        match mark:
            case Area():
                _area(group, mark)
            case Path() if mark.width and len(mark.points):
                _stroked(group, f"M{_points(mark.points)}", mark.colour, mark.width, mark.opacity,
                         mark.dash)  # fmt: skip
            case Segments() if len(mark.lines):
                lines = "".join(
                    f"M{_number(a)} {_number(b)}L{_number(c)} {_number(d)}"
                    for a, b, c, d in mark.lines.tolist()
                )
                _stroked(group, lines, mark.colour, mark.width, mark.opacity, mark.dash)
            case Dots():
                _dots(group, mark)
            case Swatch():
                _swatch(group, mark)
            case Text():
                _text(group, mark, scene.font, letters)


def _points(points: FloatArray) -> str:
    return "L".join(f"{_number(x)} {_number(y)}" for x, y in points.tolist())


def _see_through(name: str, opacity: float) -> dict[str, str]:
    return {} if opacity >= 1 else {name: _number(opacity)}


def _area(group: ET.Element, mark: Area) -> None:
    if not len(mark.points):
        return
    shape = f"M{_points(mark.points)}Z"
    fill = {"d": shape, "fill": mark.fill.lower(), "fill-rule": "evenodd"}
    _child(group, "path", {**fill, **_see_through("fill-opacity", mark.opacity)})
    if mark.hatch:
        _child(group, "path", {"d": shape, "fill": f"url(#{_hatch(mark.hatch, mark.fill)})"})


def _stroked(
    group: ET.Element,
    shape: str,
    colour: str,
    width: float,
    opacity: float,
    dash: tuple[float, ...],
) -> None:
    attributes = {"d": shape, "fill": "none", "stroke": colour.lower()}
    attributes["stroke-width"] = _number(width)
    attributes |= _see_through("stroke-opacity", opacity)
    if dash:
        attributes["stroke-dasharray"] = " ".join(_number(part) for part in dash)
    _child(group, "path", attributes)


def _dots(group: ET.Element, mark: Dots) -> None:
    half = mark.size / 2
    stroke = {"stroke": mark.colour.lower(), "stroke-width": _number(mark.width)}
    stroke |= _see_through("stroke-opacity", mark.opacity)
    filled = {"fill": mark.fill.lower() if mark.fill else "none"}
    if mark.shape == "disc":
        stroke = {}
        filled = {"fill": mark.colour.lower(), **_see_through("fill-opacity", mark.opacity)}
    for x, y in mark.places.tolist():
        if mark.shape in ("disc", "ring", "circle"):
            place = {"cx": _number(x), "cy": _number(y), "r": _number(half)}
            fill = {"fill": "none"} if mark.shape == "ring" else filled
            _child(group, "circle", {**place, **fill, **stroke})
        else:
            fill = {"fill": "none"} if mark.shape == "cross" else filled
            _child(group, "path", {"d": _marker(mark.shape, x, y, half), **fill, **stroke})


def _marker(shape: str, x: float, y: float, half: float) -> str:
    """The outline of a marker, as large as the painter draws it."""
    if shape == "cross":
        half *= 0.8
        ends = ((x - half, y - half, x + half, y + half), (x - half, y + half, x + half, y - half))
        return "".join(
            f"M{_number(a)} {_number(b)}L{_number(c)} {_number(d)}" for a, b, c, d in ends
        )
    if shape == "diamond":
        half *= 1.12
        corners = [(x, y - half), (x + half, y), (x, y + half), (x - half, y)]
    else:
        half *= 0.86
        corners = [(x - half, y - half), (x + half, y - half), (x + half, y + half),
                   (x - half, y + half)]  # fmt: skip
    return f"M{_points(np.array(corners))}Z"


def _swatch(group: ET.Element, mark: Swatch) -> None:
    place = {
        "x": _number(mark.x),
        "y": _number(mark.y),
        "width": _number(mark.size),
        "height": _number(mark.size),
    }
    fill = {"fill": mark.colour.lower(), **_see_through("fill-opacity", mark.opacity)}
    _child(group, "rect", {**place, **fill, "stroke": mark.colour.lower()})
    if mark.hatch:
        _child(group, "rect", {**place, "fill": f"url(#{_hatch(mark.hatch, mark.colour)})"})


# Hatching


def _hatch(hatch: int, colour: str) -> str:
    return f"hatching-{hatch}-{colour.lower().removeprefix('#')}"


def _patterns(definitions: ET.Element, marks: Sequence[Mark]) -> None:
    """A pattern for each hatching in each colour that is used."""
    for hatch, colour in dict.fromkeys(_hatchings(marks)):
        slopes = HATCH_SLOPES[hatch]
        slanting = slopes[0] in (1, -1)
        side = HATCH_STEP * 2**0.5 if slanting else HATCH_STEP  # what lines at 45° take along it
        attributes = {"id": _hatch(hatch, colour), "patternUnits": "userSpaceOnUse"}
        attributes |= {"width": _number(side), "height": _number(side)}
        if not slanting:  # they lie in the middle of a tile, where none of their width is cut off
            attributes["patternTransform"] = f"translate({_number(-side / 2)} {_number(-side / 2)})"
        pattern = _child(definitions, "pattern", attributes)
        lines = "".join(_tile_line(slope, side) for slope in slopes)
        _stroked(pattern, lines, colour, HATCH_LINE, 1.0, ())


def _tile_line(slope: int | None, side: float) -> str:
    """The line of a tile of a hatching, as a path."""
    middle, end = _number(side / 2), _number(side)
    if slope is None:
        return f"M{middle} 0L{middle} {end}"
    if slope == 0:
        return f"M0 {middle}L{end} {middle}"
    # Lines of the tiles around reach into the corners; without them each line has notches there.
    left, right = -side, 2 * side
    lowest = 0.0 if slope > 0 else -side
    lines = ""
    for at in (lowest, lowest + side, lowest + 2 * side):
        first, last = (_number(at - slope * x) for x in (left, right))
        lines += f"M{_number(left)} {first}L{_number(right)} {last}"
    return lines


def _hatchings(marks: Sequence[Mark]) -> Iterator[tuple[int, str]]:
    for mark in marks:
        if isinstance(mark, Area) and mark.hatch:
            yield mark.hatch, mark.fill
        elif isinstance(mark, Swatch) and mark.hatch:
            yield mark.hatch, mark.colour


# Letters


def _text(group: ET.Element, mark: Text, family: str, letters: Lettering) -> None:
    text = printable(mark.text)
    turned = f"rotate({_number(-mark.angle)} {_number(mark.x)} {_number(mark.y)})"
    if letters == "outlines":
        attributes = {"d": _outline(mark, text, family), "fill": mark.colour.lower()}
        attributes["aria-label"] = text
        if mark.angle:
            attributes["transform"] = turned
        _child(group, "path", attributes)
        return
    attributes = {
        "x": _number(mark.x),
        "y": _number(mark.y),
        "font-size": _number(mark.size),
        "fill": mark.colour.lower(),
    }
    if anchor := _ANCHORS[mark.anchor]:
        attributes["text-anchor"] = anchor
    if mark.bold:
        attributes["font-weight"] = "600"
    if mark.slant:
        attributes["font-style"] = "italic"
    if mark.angle:
        attributes["transform"] = turned
    if text != text.strip() or "  " in text:
        attributes["{http://www.w3.org/XML/1998/namespace}space"] = "preserve"
    _child(group, "text", attributes).text = text


def _outline(mark: Text, text: str, family: str) -> str:
    """The outlines of a line of letters, as the data of a path."""
    from PyQt6.QtCore import QPointF  # which no other SVG needs
    from PyQt6.QtGui import QPainterPath

    from rhabdos.paint import fonts
    from rhabdos.scene.style.lettering import face_of

    fonts.load()
    dressed = fonts.font(mark.size * _FINE, mark.bold, mark.slant, family)
    shift = {"start": 0.0, "middle": 0.5, "end": 1.0}[mark.anchor]
    face = face_of(mark.bold, mark.slant)
    back = shift * fonts.measure_in(family)(text, mark.size, face)
    path = QPainterPath()
    path.addText(QPointF(0, 0), dressed, text)
    kinds = QPainterPath.ElementType
    data, rest = [], 0
    for index in range(path.elementCount()):
        element = path.elementAt(index)
        x = _number(mark.x - back + element.x / _FINE)
        y = _number(mark.y + element.y / _FINE)
        if element.type == kinds.MoveToElement:
            data.append(f"M{x} {y}")
        elif element.type == kinds.LineToElement:
            data.append(f"L{x} {y}")
        elif element.type == kinds.CurveToElement:
            data.append(f"C{x} {y}")
            rest = 2
        else:
            data.append(f" {x} {y}")
            rest -= 1
    return "".join(data)


def _faces(scene: Scene) -> str:
    """Style rules with the letters that the scene uses, a rule a face."""
    import base64

    used: dict[tuple[bool, bool], set[str]] = {}
    for mark in scene.marks:
        if isinstance(mark, Text):
            used.setdefault((mark.bold, mark.slant), set()).update(printable(mark.text))
    rules = []
    for (bold, slant), letters in sorted(used.items()):
        data = base64.b64encode(subset("".join(sorted(letters)), bold, slant)).decode()
        rules.append(
            f"@font-face{{font-family:'{FAMILY}';font-weight:{600 if bold else 400};"
            f"font-style:{'italic' if slant else 'normal'};"
            f"src:url(data:font/ttf;base64,{data}) format('truetype')}}"
        )
    return "".join(rules)
