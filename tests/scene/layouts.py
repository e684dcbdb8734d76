"""Random figures, and what is wrong with where their words lie: an oracle of its own geometry."""

import math
import random
from itertools import combinations

import numpy as np

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.scene.marks import Area, Dots, Path, Scene, Segments, Text
from tests.figures import FORMS, name

_ASCENT, _DESCENT = 0.66, 0.14  # of its size, that letters without accents take


def figure(seed: int) -> tuple[Recipe, Readings] | None:
    """A random figure; None where what was asked for is refused."""
    chance = random.Random(seed)
    rng = np.random.default_rng(seed)
    groups = chance.choice((1, 2, 3, 4, 6, 9, 15, 30, 60))
    rows = chance.choice((groups * 3, 400))
    levels = tuple(dict.fromkeys(name(chance) for _ in range(groups * 2)))[:groups]
    other = tuple(dict.fromkeys(name(chance, 20) for _ in range(6)))[: chance.choice((1, 2, 4))]
    values = rng.normal(chance.choice((0, 70, 1e6, 1e-4)), chance.choice((1, 12)), rows)
    values *= chance.choice((1.0, 1.0, 1e-3, 1e5))
    codes = rng.integers(0, len(levels), rows).astype(np.int8)
    others = rng.integers(0, len(other), rows).astype(np.int8)
    label, unit = name(chance), chance.choice(("", "mm", name(chance, 12)))
    table = Table(
        "t",
        (
            NumberColumn("v", label=label, unit=unit, values=values),
            CategoryColumn("g", label=name(chance), codes=codes, levels=levels),
            CategoryColumn("h", label=name(chance, 20), codes=others, levels=other),
        ),
    )
    text = _asked(chance)
    try:
        recipe = read_recipe(text)
        return recipe, read(recipe, gather(table, recipe.show.variables, recipe.factors))
    except Refusal:
        return None


def _asked(chance: random.Random) -> str:
    forms = chance.sample(FORMS, chance.choice((1, 1, 2, 3)))
    split = chance.choice(('["g"]', '["g"]', '["g", "h"]', "[]"))
    by = chance.choice(('["h"]', "[]", "[]", '["g"]'))
    lines = ["rhabdos = 1", "[show]", 'variables = ["v"]', f"split = {split}", f"forms = {forms}"]
    heights = chance.choice(("count", "percent", "proportion", "density"))
    lines += [f'heights = "{heights}"']
    if chance.random() < 0.5:
        lines.append(f"upright = {chance.choice(('true', 'false'))}")
    if chance.random() < 0.5:
        arrange = chance.choice(("overlaid", "stacked", "side-by-side", "lanes"))
        lines.append(f'arrange = "{arrange}"')
    lines += ["[panels]", f"by = {by}"]
    lines += ["[legend]", f'place = "{chance.choice(PLACES)}"'] if chance.random() < 0.6 else []
    if chance.random() < 0.3:
        lines += ["[bars]", 'labels = "count"']
    if chance.random() < 0.3:
        lines += ["[lines]", "mean = true", f"median = {chance.choice(('true', 'false'))}"]
    if chance.random() < 0.3:
        lines += ["[box]", 'numbers = ["n", "mean"]', 'names = "row"']
    lines += ["[words]"]
    for key in ("title", "subtitle", "note"):
        if chance.random() < 0.5:
            lines.append(f'{key} = """{name(chance)} {name(chance)}"""')
    if chance.random() < 0.4:
        lines += ["[words.title_style]", f'place = "{chance.choice(("left", "middle", "right"))}"']
    lines += _styles(chance)
    lines += ["[axes.value]", f"turn = {chance.choice((0, 0, 45, 90))}"]
    lines += chance.choice(([], [], ["reversed = true"], ['ticks = "edges"']))
    lines += ["[axes.height]", f"turn = {chance.choice((0, 0, 90))}"]
    lines += chance.choice(([], [], ['second = "percent"']))
    if chance.random() < 0.2:
        lines += ["[axes]", f"aspect = {chance.choice((0.4, 1.0, 2.0))}"]
    lines += ["[look]", f'base = "{chance.choice(("house", "slide", "paper"))}"']
    wide = chance.choice((5, 8.5, 12, 16, 25, 40))
    high = chance.choice((4, 6, 10, 14, 30))
    lines += ["[page]", f'size = "{wide}x{high}cm"']
    return "\n".join(lines)


def _styles(chance: random.Random) -> list[str]:
    """How some of the words are set."""
    lines = []
    for words in ("levels", "legend_title", "panels", "numbers", "value_axis"):
        if chance.random() < 0.15:
            lines += [f"[words.{words}_style]", f"size = {chance.choice((5, 7, 11, 14, 24))}"]
            lines += [f"bold = {chance.choice(('true', 'false'))}"]
    if chance.random() < 0.2:
        lines += ["[words.names]", 'h = """Second {up 2}\nof {mu}"""']
    return lines


PLACES = ("above", "right", "below", "top-left", "bottom-right", "lines", "none")


def corners(text: Text, measure) -> np.ndarray:
    """The corners of the letters of a text, turned as it is, shape (4, 2)."""
    face = int(text.bold) + 2 * int(text.slant)
    wide = measure(text.text, text.size, face)
    back = {"start": 0.0, "middle": 0.5, "end": 1.0}[text.anchor] * wide
    x = np.array([-back, wide - back, wide - back, -back])
    y = np.array([-_ASCENT, -_ASCENT, _DESCENT, _DESCENT]) * text.size
    turn = math.radians(text.angle)
    cos, sin = math.cos(turn), math.sin(turn)
    return np.stack([text.x + x * cos + y * sin, text.y - x * sin + y * cos], axis=1)


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """By how many points two rectangles lie over one another, by separating axes; 0 for none."""
    least = math.inf
    for shape in (one, other):
        for start in (0, 1):
            side = shape[start + 1] - shape[start]
            length = math.hypot(*side)
            if length == 0:
                return 0.0
            axis = side / length
            a, b = one @ axis, other @ axis
            shared = min(a.max(), b.max()) - max(a.min(), b.min())
            if shared <= 0:
                return 0.0
            least = min(least, shared)
    return least


def faults(scene: Scene, measure, slack: float = 0.4) -> list[str]:
    """What is wrong with where words lie."""
    texts = [mark for mark in scene.marks if isinstance(mark, Text) and mark.text.strip()]
    shapes = [corners(text, measure) for text in texts]
    wrong = []
    for text, shape in zip(texts, shapes, strict=True):
        beyond = max(
            -shape[:, 0].min(), -shape[:, 1].min(),
            shape[:, 0].max() - scene.width, shape[:, 1].max() - scene.height,
        )  # fmt: skip
        if beyond > slack:
            wrong.append(f"outside by {beyond:.1f}: {_named(text)}")
    boxes = [(*shape.min(axis=0), *shape.max(axis=0)) for shape in shapes]
    for (at, a), (there, b) in combinations(enumerate(boxes), 2):
        if a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]:
            by = overlap(shapes[at], shapes[there])
            if by > slack:
                wrong.append(f"overlap {by:.1f}: {_named(texts[at])} / {_named(texts[there])}")
    return wrong


def struck(scene: Scene, measure) -> list[str]:
    """Words that lines or dots cover or strike through, unless they stand on a ground of their own.

    Hairlines of grids and edges of frames may pass; texts that a user placed stand where they were put.
    """
    marks = [
        mark for mark in scene.marks
        if isinstance(mark, Text)
        or (mark.meaning is not None and mark.meaning.part not in ("panel", "text"))
    ]  # fmt: skip
    pieces = [None if isinstance(mark, Text) else _pieces(mark) for mark in marks]
    reaches = np.array([_reach(lines) for lines in pieces]).reshape(-1, 4)
    wrong = []
    for at, text in enumerate(marks):
        if not isinstance(text, Text) or not text.text.strip():
            continue
        if text.meaning is not None and text.meaning.part == "text":
            continue
        inside = _local(text, measure)
        first = 0  # what lies under a ground does not count
        for place in range(at):
            if isinstance(marks[place], Area) and _is_ground(marks[place], inside):
                first = place + 1
        shape = corners(text, measure)
        near = np.all(reaches[:, :2] <= shape.max(axis=0), axis=1)
        near &= np.all(reaches[:, 2:] >= shape.min(axis=0), axis=1)
        for place in np.flatnonzero(near).tolist():
            if place >= first and place != at and _strikes(pieces[place], inside):
                how = "covered" if place > at else "struck through"
                kind = type(marks[place]).__name__
                wrong.append(f"{how}: {_named(text)} by {kind} of {marks[place].meaning}")
                break
    return wrong


def _pieces(mark) -> np.ndarray | None:
    """The straight pieces of a mark, shape (n, 4); of dots, their diameters."""
    if isinstance(mark, Segments):
        return mark.lines
    if isinstance(mark, Path) and len(mark.points) > 1:
        return np.hstack([mark.points[:-1], mark.points[1:]])
    if isinstance(mark, Dots):
        half = np.array([mark.size / 2, 0.0])
        return np.hstack([mark.places - half, mark.places + half])
    return None


def _reach(lines: np.ndarray | None) -> tuple[float, float, float, float]:
    """From where to where on the page straight pieces reach; nowhere without any."""
    if lines is None or not len(lines):
        return math.inf, math.inf, -math.inf, -math.inf
    ends = lines.reshape(-1, 2)
    return (*ends.min(axis=0), *ends.max(axis=0))


def _local(text: Text, measure):
    """What brings a place of the page into the letters' own directions, and their box there."""
    face = int(text.bold) + 2 * int(text.slant)
    wide = measure(text.text, text.size, face)
    back = {"start": 0.0, "middle": 0.5, "end": 1.0}[text.anchor] * wide
    turn = math.radians(text.angle)
    cos, sin = math.cos(turn), math.sin(turn)

    def inwards(points):
        x, y = points[..., 0] - text.x, points[..., 1] - text.y
        return x * cos - y * sin, x * sin + y * cos

    slack = 0.3
    box = (
        -back + slack,
        wide - back - slack,
        -_ASCENT * text.size + slack,
        _DESCENT * text.size - slack,
    )
    return inwards, box


def _strikes(lines: np.ndarray, inside) -> bool:
    """Whether some piece passes through the box, by cutting it at the box's four sides in turn."""
    inwards, (left, right, top, bottom) = inside
    x1, y1 = inwards(lines[:, :2])
    x2, y2 = inwards(lines[:, 2:])
    start, end = np.zeros(len(x1)), np.ones(len(x1))
    with np.errstate(divide="ignore", invalid="ignore"):
        for origin, step, low, high in ((x1, x2 - x1, left, right), (y1, y2 - y1, top, bottom)):
            one, other = (low - origin) / step, (high - origin) / step
            still = step == 0
            out = still & ((origin <= low) | (origin >= high))
            one, other = np.where(still, -np.inf, one), np.where(still, np.inf, other)
            start = np.maximum(start, np.minimum(one, other))
            end = np.where(out, -1.0, np.minimum(end, np.maximum(one, other)))
    return bool(np.any(start < end))


def _is_ground(area: Area, inside) -> bool:
    """Whether a fill is paper under a whole text."""
    if area.meaning.part not in ("words-ground", "legend"):
        return False
    inwards, (left, right, top, bottom) = inside
    x, y = inwards(area.points)
    return x.min() <= left and x.max() >= right and y.min() <= top and y.max() >= bottom


def _named(text: Text) -> str:
    part = text.meaning.part if text.meaning else "-"
    return f"[{part}] {text.text[:16]!r}"
