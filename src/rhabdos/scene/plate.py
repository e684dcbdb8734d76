"""Several figures set together on one page: frames aligned, letters beside them, one legend where
they share it, a common title and note."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.readings.legend_place import legend_place
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import POINTS_PER_INCH, Size
from rhabdos.figure.recipe.plate import Plate
from rhabdos.scene.build import build
from rhabdos.scene.common_axes import NOTHING_SHARED, CommonAxes
from rhabdos.scene.marks import Area, Dots, Mark, Meaning, Path, Scene, Segments, Swatch, Text
from rhabdos.scene.style.lettering import Measure, wrapped
from rhabdos.scene.style.look import colours_of, style_of

_AROUND, _GAP = 8.0, 10.0  # points around the figures, and between them
_LETTER, _TITLE, _NOTE = 12.0, 13.0, 8.0  # sizes
_ROW = 1.28  # of a size, from line to line
_PASSES, _NEAR = 4, 0.25  # times that frames are aligned, and points by which they may still differ
_LEFT_OVER = 0.3  # of its place, at least, that a frame in line with others keeps
_LEAST = POINTS_PER_INCH  # of a side of a figure
_LINES = 4  # of title and note


class Place(Struct, frozen=True):
    """A rectangle of the page, in points."""

    left: float
    top: float
    width: float
    height: float


class PlateScene(Struct, frozen=True, eq=False):
    """A plate as it is drawn: the page, and the place of each figure on it."""

    scene: Scene
    places: tuple[Place, ...]


def plate_scene(
    plate: Plate, figures: Sequence[Readings], measure: Measure, shared: CommonAxes = NOTHING_SHARED
) -> PlateScene:
    """Set figures together.

    Parameters
    ----------
    figures : sequence of Readings
        In the order of the plate.
    shared : CommonAxes
        The axes that they have in common.

    Raises
    ------
    Refusal
        The page is too small for them.
    """
    width, height = Size.parse(plate.size).points()
    style = style_of(figures[0].recipe)
    top, marks = _title(plate, width, measure, style.ink)
    bottom, note = _note(plate, width, height, measure, style.quiet)
    marks += note
    places = _places(plate, width, top, bottom)
    if any(min(place.width, place.height) < _LEAST for place in places):
        raise Refusal(
            f"{len(places)} figures have too little room on {plate.size}: each needs at least an "
            "inch either way. Choose a larger page or fewer columns."
        )
    shown = _with_one_legend(figures) if plate.legend == "one" else list(figures)
    for at, (inner, scene) in enumerate(_aligned(plate, shown, places, measure, shared)):
        called, ink = plate.letter(at), style.ink
        if scene.paper != style.paper:  # on which its letters would not be read
            marks.append(_paper(places[at], scene.paper, called))
            ink = style_of(figures[at].recipe).ink
        marks += [_moved(mark, inner, scene.letters, called) for mark in scene.marks]
        if plate.letters:
            meaning, left = Meaning(f"letter {called}"), places[at].left
            base = places[at].top + _LETTER
            marks.append(Text(left, base, called, _LETTER, "start", ink, meaning, bold=True))

    def describe() -> str:
        """All figures in words."""
        told = [plate.title] if plate.title else []
        for at, readings in enumerate(figures):
            told.append(f"{plate.letter(at)}: {build(readings, measure).describe()}")
        return " ".join(text if text.endswith(".") else f"{text}." for text in told)

    page = Scene(width, height, tuple(marks), (), (), describe, style.paper, style.font)
    return PlateScene(structs.replace(page, title=plate.title), places)


def _paper(place: Place, colour: str, called: str) -> Area:
    """The paper of a figure whose look has another than the page."""
    left, top = place.left, place.top
    right, bottom = left + place.width, top + place.height
    corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
    return Area(corners, colour, 1.0, Meaning(f"{called} paper"))


def _title(plate: Plate, width: float, measure: Measure, ink: str) -> tuple[float, list[Mark]]:
    """How far down the title reaches, and its lines."""
    if not plate.title:
        return _AROUND, []
    lines = wrapped(plate.title, width - 2 * _AROUND, _TITLE, 1, measure, _LINES)
    meaning = Meaning("title")
    texts: list[Mark] = [
        Text(_AROUND, _AROUND + _TITLE * (1 + _ROW * n), line, _TITLE, "start", ink, meaning, True)
        for n, line in enumerate(lines)
    ]
    return _AROUND + _TITLE * _ROW * len(lines) + _GAP, texts


def _note(
    plate: Plate, width: float, height: float, measure: Measure, quiet: str
) -> tuple[float, list[Mark]]:
    """Where the note begins, and its lines."""
    if not plate.note:
        return height - _AROUND, []
    lines = wrapped(plate.note, width - 2 * _AROUND, _NOTE, 0, measure, _LINES)
    begins = height - _AROUND - _NOTE * _ROW * len(lines)
    meaning = Meaning("note")
    texts: list[Mark] = [
        Text(_AROUND, begins + _NOTE * (1 + _ROW * n), line, _NOTE, "start", quiet, meaning)
        for n, line in enumerate(lines)
    ]
    return begins - _GAP / 2, texts


def _places(plate: Plate, width: float, top: float, bottom: float) -> tuple[Place, ...]:
    """Where each figure lies, line by line."""
    across, down = plate.across, plate.down
    wide = width - 2 * _AROUND - _GAP * (len(across) - 1)
    high = bottom - top - _GAP * (len(down) - 1)
    places = []
    for at in range(len(plate.figures)):
        row, column = divmod(at, len(across))
        left = _AROUND + sum(across[:column]) * wide + _GAP * column
        begin = top + sum(down[:row]) * high + _GAP * row
        places.append(Place(left, begin, across[column] * wide, down[row] * high))
    return tuple(places)


def _with_one_legend(figures: Sequence[Readings]) -> list[Readings]:
    """The figures, of which those that have the legend of the first one have none."""
    first = figures[0]
    if legend_place(first) == "none":
        return list(figures)
    key = _legend_key(first)
    shown = [first]
    for readings in figures[1:]:
        bare = readings
        if _legend_key(readings) == key:
            recipe = readings.recipe
            bare = read(
                recipe.changed(legend=recipe.legend.changed(place="none")), readings.gathered
            )
        shown.append(bare)
    return shown


def _legend_key(readings: Readings) -> object:
    labels = tuple(group.label for group in readings.groups)
    return labels, colours_of(readings)


def _aligned(
    plate: Plate,
    figures: Sequence[Readings],
    places: Sequence[Place],
    measure: Measure,
    shared: CommonAxes = NOTHING_SHARED,
) -> list[tuple[Place, Scene]]:
    """Each figure with the part of its place that it is laid out on, so that frames begin and end
    together in each column and row."""
    columns = len(plate.across)
    inner = list(places)
    scenes = [_built(r, place, measure, shared) for r, place in zip(figures, inner, strict=True)]
    for _ in range(_PASSES):
        edges = np.array([_edges(s, place) for s, place in zip(scenes, inner, strict=True)])
        wanted = _in_line(edges, places, columns)
        off = wanted - edges
        if np.abs(off).max() < _NEAR:
            break
        for at, (left, top, right, bottom) in enumerate(off.tolist()):
            place = inner[at]
            moved = Place(
                place.left + left,
                place.top + top,
                place.width - left + right,
                place.height - top + bottom,
            )
            if min(moved.width, moved.height) >= _LEAST:
                inner[at] = moved
                scenes[at] = _built(figures[at], moved, measure, shared)
    return list(zip(inner, scenes, strict=True))


def _in_line(edges: FloatArray, places: Sequence[Place], columns: int) -> FloatArray:
    """Where frames end when those of each column and row are in line; they stay where too little
    would be left of them.

    Parameters
    ----------
    edges : array, shape (n, 4)
        Left, top, right and bottom of each.
    """
    wanted = edges.copy()
    for at, place in enumerate(places):
        column = edges[[n for n in range(len(places)) if n % columns == at % columns]]
        row = edges[[n for n in range(len(places)) if n // columns == at // columns]]
        left, right = column[:, 0].max(), column[:, 2].min()
        if right - left >= _LEFT_OVER * place.width:
            wanted[at, 0], wanted[at, 2] = left, right
        top, bottom = row[:, 1].max(), row[:, 3].min()
        if bottom - top >= _LEFT_OVER * place.height:
            wanted[at, 1], wanted[at, 3] = top, bottom
    return wanted


def _built(readings: Readings, place: Place, measure: Measure, shared: CommonAxes) -> Scene:
    size = Size(place.width / POINTS_PER_INCH, place.height / POINTS_PER_INCH, "in")
    return build(readings, measure, shared.limits(readings), size, top=shared.top)


def _edges(scene: Scene, place: Place) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of all frames of a figure, on the page."""
    frames, scale = scene.frames, scene.letters
    return (
        place.left + scale * min(frame.left for frame in frames),
        place.top + scale * min(frame.top for frame in frames),
        place.left + scale * max(frame.right for frame in frames),
        place.top + scale * max(frame.bottom for frame in frames),
    )


def _moved(mark: Mark, to: Place, scale: float, letter: str) -> Mark:
    """A mark of a figure where it lies on the page."""

    def points(places: FloatArray) -> FloatArray:
        """Places on the page."""
        return np.asarray(places * scale + np.array([to.left, to.top]))

    def twice(corners: FloatArray) -> FloatArray:
        """Pairs of places on the page, shape (n, 4)."""
        return np.asarray(corners * scale + np.array([to.left, to.top, to.left, to.top]))

    meaning = mark.meaning
    called = None if meaning is None else Meaning(f"{letter} {meaning.part}", None, meaning.level)
    if isinstance(mark, Area):
        bars = mark.bars if mark.bars is None else twice(mark.bars)
        return structs.replace(mark, points=points(mark.points), bars=bars, meaning=called)
    if isinstance(mark, Path):
        dash, width = tuple(d * scale for d in mark.dash), mark.width * scale
        moved = points(mark.points)
        return structs.replace(mark, points=moved, width=width, dash=dash, meaning=called)
    if isinstance(mark, Segments):
        lines = twice(mark.lines)
        dash, width = tuple(d * scale for d in mark.dash), mark.width * scale
        return structs.replace(mark, lines=lines, width=width, dash=dash, meaning=called)
    if isinstance(mark, Dots):
        places = points(mark.places)
        size, width = mark.size * scale, mark.width * scale
        return structs.replace(mark, places=places, size=size, width=width, meaning=called)
    x, y = to.left + scale * mark.x, to.top + scale * mark.y
    if isinstance(mark, Swatch | Text):
        return structs.replace(mark, x=x, y=y, size=mark.size * scale, meaning=called)
    raise TypeError(type(mark).__name__)
