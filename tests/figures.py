"""Random figures of the whole space of recipes, of odd data: what sheets show and tests recompute."""

import json
import random

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.toml_text import read_recipe

SCRIPTS = (
    "abcdefghijklmnopqrstuvwxyz ABCDEFG 0123456789",
    "αβγδεζηθικλμ ΑΒΓΔ",
    "абвгдежзиклмн АБВГ",
    "ابتثجحخدذرزسش",
    "貝牡蠣海湾水深長さ殻",
    "अआइईउऊऋएऐ",
    "🦪🌊⚓️😀",
)
BAYS = ("Saltmere", "Greywater", "Long Reach", "Upper Pens (north)", "Rack 7", "Low")
SHAPES = (
    "bell", "far", "tiny", "skewed", "long tail", "two humps", "whole", "grades", "tied", "equal",
    "zeros", "negative", "days", "years", "hours",
)  # fmt: skip
DATES = ("days", "years", "hours")
FORMS = (
    *("bars", "outline", "polygon", "curve", "normal", "ecdf", "violin", "box", "points"),
    *("shift", "pairs"),
)
BESIDE = ("normal", "lognormal", "uniform", "logistic", "exponential", "reference")
ARRANGEMENTS = ("overlaid", "stacked", "side-by-side", "back-to-back", "lanes")
HEIGHTS = ("count", "percent", "proportion", "density")
LOOKS = ("house", "paper", "slide", "ink", "night")


class RandomFigure(Struct, frozen=True):
    """A figure made from a seed: its recipe as text, its rows, and what they are like."""

    seed: int
    shape: str
    text: str
    table: Table

    @property
    def recipe(self) -> Recipe:
        """Raises Refusal where the recipe is none."""
        return read_recipe(self.text)

    def readings(self) -> Readings | None:
        """None where what is asked for is refused."""
        try:
            recipe = self.recipe
            return read(recipe, gather(self.table, recipe.show.variables, recipe.factors))
        except Refusal:
            return None


def values_of(shape: str, rng: np.random.Generator, rows: int) -> np.ndarray:
    """Values of one shape; those of dates are days since 1970."""
    normal = rng.normal(size=rows)
    return {
        "bell": lambda: np.round(70 + 12 * normal, 1),
        "far": lambda: 1.61e9 + 1e3 * normal,
        "tiny": lambda: 3e-7 + 4e-8 * normal,
        "skewed": lambda: np.round(rng.gamma(2.0, 9.0, rows), 2),
        "long tail": lambda: np.exp(1.6 * normal + 1),
        "two humps": lambda: np.where(rng.random(rows) < 0.4, 20 + 3 * normal, 52 + 6 * normal),
        "whole": lambda: rng.poisson(14, rows).astype(float),
        "grades": lambda: rng.integers(1, 8, rows).astype(float),
        "tied": lambda: rng.choice([2.0, 2.0, 2.0, 2.0, 5.0, 11.0], rows),
        "equal": lambda: np.full(rows, 4.2),
        "zeros": lambda: np.where(rng.random(rows) < 0.6, 0.0, rng.exponential(8.0, rows)),
        "negative": lambda: -30 + 15 * normal,
        "days": lambda: 20_500.0 + rng.integers(0, 300, rows),
        "years": lambda: 12_000.0 + rng.integers(0, 9_000, rows),
        "hours": lambda: 20_600 + np.round(24 * 60 * rng.beta(3, 4, rows)) / (24 * 60),
    }[shape]()


def name(chance: random.Random, longest: int = 80) -> str:
    """A name of 1 to 80 letters in one of several scripts."""
    letters = chance.choice(SCRIPTS if chance.random() < 0.5 else SCRIPTS[:1])
    length = chance.choice((1, 3, 8, 12, 20, 40, longest))
    text = "".join(chance.choice(letters) for _ in range(length))
    return text.strip() or "x"


def _levels(chance: random.Random, count: int) -> tuple[str, ...]:
    if count <= len(BAYS) and chance.random() < 0.5:
        return BAYS[:count]
    return tuple(dict.fromkeys(name(chance, 40) for _ in range(count * 2)))[:count]


def random_figure(seed: int) -> RandomFigure:
    """Rows and a recipe of any kind; some are refused."""
    chance, rng = random.Random(seed), np.random.default_rng(seed)
    groups = chance.choice((1, 2, 2, 3, 4, 6, 9, 30))
    rows = chance.choice((groups * 3, 60, 400))
    shape = chance.choice(SHAPES)
    values = values_of(shape, rng, rows)
    levels, others = _levels(chance, groups), _levels(chance, chance.choice((1, 2, 3)))
    codes = rng.integers(0, len(levels), rows).astype(np.int8)
    if chance.random() < 0.2 and len(levels) > 1:
        codes[codes == 1] = 0  # a level of which there is no row
    gone = 0
    if chance.random() < 0.2:
        last = codes == len(levels) - 1
        if 0 < last.sum() < rows:
            values[last] = np.nan  # a group without values
            gone = int(last.sum())
    column = DateColumn if shape in DATES else NumberColumn
    unit = "" if shape in DATES else chance.choice(("", "mm", "g", "%"))
    label = chance.choice(("Shell length", "Soak", name(chance)))
    table = Table(
        "t",
        (
            column("v", label=label, unit=unit, values=values, missing_as={"blank": gone}),
            CategoryColumn(
                "g", label=chance.choice(("Bay", name(chance))), codes=codes, levels=levels
            ),
            CategoryColumn(
                "h",
                label=chance.choice(("Season", name(chance, 20))),
                codes=rng.integers(0, len(others), rows).astype(np.int8),
                levels=others,
            ),
        ),
    )
    return RandomFigure(seed, shape, recipe_text(chance, shape, values), table)


def recipe_text(chance: random.Random, shape: str, values: np.ndarray) -> str:
    """A recipe, table by table."""
    lines = ["rhabdos = 1", *_shown(chance), *_bins(chance, shape, values), *_axes(chance, shape)]
    if chance.random() < 0.5:
        by = chance.choice(('["h"]', "[]", '["g"]'))
        lines += ["[panels]", f"by = {by}"]
        lines += chance.choice(([], [], ['free = ["height"]'], ['free = ["value"]']))
    if chance.random() < 0.3:
        order = chance.choice(("n", "mean", "median", "sd", "data", "name"))
        lines += ["[groups]", f'order = "{order}"', f"reverse = {_truth(chance)}"]
    lines += ["[bars]", f"gap = {chance.choice((0, 0, 0.1, 0.4, 0.9))}"]
    if chance.random() < 0.4:
        lines.append(f'labels = "{chance.choice(HEIGHTS)}"')
    if chance.random() < 0.4:
        lines += ["[lines]", f"mean = {_truth(chance)}", f"median = {_truth(chance)}"]
    lines += _boxes(chance) + _curves(chance)
    if chance.random() < 0.4:
        place = chance.choice(
            ("above", "right", "below", "top-left", "bottom-right", "lines", "none")
        )
        lines += ["[legend]", f'place = "{place}"']
        lines += chance.choice(([], ["forms = true"], ["forms = false"]))
    lines += ["[words]"]
    for key in ("title", "subtitle", "note"):
        if chance.random() < 0.3:
            lines.append(f"{key} = {json.dumps(name(chance) + ' {n} ' + name(chance))}")
    if chance.random() < 0.2:
        lines += ["[words.note_style]", 'ground = "#FFF3C4"', f"padding = {chance.choice((0, 9))}"]
    if chance.random() < 0.2 and shape not in DATES:
        middle = float(np.nanmedian(values))
        lines += ["[[text]]", 'text = "a ground"', f"value = {middle}"]
        lines += ["[text.style]", 'ground = "#E3F1EE"', 'border = "#1F838A"']
    lines += ["[look]", f'base = "{chance.choice((*LOOKS, "house", "house"))}"']
    size = chance.choice(("16x10", "16x10", "12x9", "24x16", "8.5x7"))
    aside = random.Random(len("".join(lines)))  # of its own, so that all else stays
    lines += ranges(aside, values) if shape not in DATES else []
    lines += strokes(aside)
    if aside.random() < 0.3:
        lines += ["[sway]", f'of = "{aside.choice(("sample", "sample", "start"))}"']
        lines += aside.choice(([], ["confidence = 0.5"], ["confidence = 0.999"]))
    if aside.random() < 0.5:
        lines += ["[pairs]", f'beside = "{aside.choice(BESIDE)}"']
        lines += aside.choice(([], ["confidence = 0.5"], ["band = false"]))
    return "\n".join([*lines, "[page]", f'size = "{size}cm"'])


def ranges(chance: random.Random, values: np.ndarray) -> list[str]:
    """Ranges of values that are shaded, some beyond all values."""
    lines, held = [], values[np.isfinite(values)]
    low, span = float(held.min()), float(np.ptp(held)) or 1.0
    for _ in range(chance.choice((0, 0, 1, 2))):
        first = low + span * chance.uniform(-0.3, 1.1)
        lines += [
            "[[range]]",
            f"from = {first}",
            f"to = {first + span * chance.uniform(0.01, 0.6)}",
        ]
        lines += chance.choice(([], ['words = ""'], ['words = "for the market in town"']))
    return lines


def strokes(chance: random.Random) -> list[str]:
    """Lines of some forms by themselves."""
    lines = []
    for form in ("curve", "normal", "polygon", "ecdf", "bars", "box", "median", "mean_line"):
        if chance.random() < 0.2:
            lines += [f"[strokes.{form}]", f"width = {chance.choice((0, 0.5, 3.5, 10))}"]
            lines += chance.choice(([], ['colour = "#AA00CC"'], ['colour = "#FFFFFF"']))
            lines += chance.choice(([], ['dash = "dotted"'], ['dash = "whole"']))
    return lines


def _truth(chance: random.Random) -> str:
    return chance.choice(("true", "false"))


def _shown(chance: random.Random) -> list[str]:
    forms = chance.sample(FORMS, chance.choice((1, 1, 2, 2, 3)))
    split = chance.choice(('["g"]', '["g"]', '["g"]', '["g", "h"]', '["h"]', "[]"))
    lines = ["[show]", 'variables = ["v"]', f"split = {split}", f"forms = {json.dumps(forms)}"]
    lines += [f'heights = "{chance.choice(HEIGHTS)}"', f'of = "{chance.choice(("group", "all"))}"']
    if chance.random() < 0.6:
        lines.append(f'arrange = "{chance.choice(ARRANGEMENTS)}"')
    if chance.random() < 0.6:
        lines.append(f"upright = {_truth(chance)}")
    if chance.random() < 0.2:
        lines.append("cumulative = true")
    return lines


def _bins(chance: random.Random, shape: str, values: np.ndarray) -> list[str]:
    held = values[np.isfinite(values)]
    low, high = float(held.min()), float(held.max())
    span = high - low or 1.0
    lines = ["[bins]", f'closed = "{chance.choice(("left", "left", "right"))}"']
    way = chance.choice(("", "", "count", "width", "edges", "uneven", "logs", "own", "every"))
    if way == "count":
        lines.append(f"count = {chance.choice((1, 5, 14, 40))}")
    elif way == "width":
        lines.append(f"width = {float(f'{span / chance.choice((4, 11, 30)):.2g}')}")
    elif way == "edges":
        step = span / 7
        lines.append(f"edges = {[low + step * each for each in range(1, 7)]}")
    elif way == "uneven":
        lines.append(f"edges = {[low - span * 0.01, low + span * 0.1, low + span * 0.3, high]}")
    elif way == "logs" and shape not in DATES:
        lines.append("logs = true")
    elif way == "own":
        lines.append("shared = false")
    elif way == "every" and shape in DATES:
        lines.append(f'every = "{chance.choice(("day", "week", "month", "quarter", "year"))}"')
    return lines


def _axes(chance: random.Random, shape: str) -> list[str]:
    lines = ["[axes.value]"]
    if shape not in DATES and chance.random() < 0.3:
        lines.append(f'scale = "{chance.choice(("log", "log", "root", "arsinh"))}"')
    lines += chance.choice(([], [], [], ["reversed = true"], ['ticks = "edges"'], ["turn = 45"]))
    lines += ["[axes.height]"]
    lines += chance.choice(([], [], [], ['second = "percent"'], ['second = "count"']))
    lines += chance.choice(([], [], ['words = [[0, "none"], [10, "ten of them"]]']))
    return lines


def _boxes(chance: random.Random) -> list[str]:
    lines = ["[box]"]
    lines += chance.choice(([], ['numbers = ["n", "mean"]'], ['names = "row"'], ["mean = true"]))
    lines += chance.choice(([], ["notches = true"], ['width = "by-n"'], ['whiskers = "range"']))
    lines += chance.choice(([], ['numbers_as = "table"'], ["mark_size = 7", "name_size = 6"]))
    return lines


def _curves(chance: random.Random) -> list[str]:
    lines = ["[curve]", f"fill = {chance.choice(('true', 'false'))}"]
    kernels = ("gaussian", "epanechnikov", "rectangular")
    lines += chance.choice(([], [f'kernel = "{chance.choice(kernels)}"'], ["factor = 0.4"]))
    return lines


def combined(
    form: str, arrange: str, gap: float, heights: str, upright: bool, axis: str, seed: int
) -> RandomFigure:
    """One figure of a combination of choices, of rows with empty bins and, at times, empty groups.

    ``axis`` is "linear", "log", "root", "arsinh" or "date".
    """
    chance, rng = random.Random(seed), np.random.default_rng(seed)
    groups, rows = chance.choice((2, 3, 4)), chance.choice((12, 90))
    shape = chance.choice(
        {"linear": ("bell", "whole", "tied", "negative"), "log": ("long tail", "zeros", "skewed"),
         "root": ("long tail", "zeros", "whole"), "arsinh": ("long tail", "zeros", "negative"),
         "date": DATES}[axis]
    )  # fmt: skip
    if arrange == "back-to-back":
        groups = 2
    values = values_of(shape, rng, rows)
    codes = rng.integers(0, groups, rows).astype(np.int8)
    if chance.random() < 0.3 and groups > 2:
        codes[codes == 1] = 0
    column = DateColumn if axis == "date" else NumberColumn
    table = Table(
        "t", (column("v", values=values), CategoryColumn("g", codes=codes, levels=BAYS[:groups]))
    )
    lines = [
        "rhabdos = 1", "[show]", 'variables = ["v"]', 'split = ["g"]', f'forms = ["{form}"]',
        f'heights = "{heights}"', f'of = "{chance.choice(("group", "all"))}"',
        f'arrange = "{arrange}"', f"upright = {str(upright).lower()}",
        f"cumulative = {str(chance.random() < 0.25).lower()}",
        *_bins(chance, shape, values), "[bars]", f"gap = {gap}",
        *(['labels = "percent"'] if chance.random() < 0.3 else []),
        "[axes.value]", f'scale = "{"linear" if axis == "date" else axis}"',
        f"reversed = {str(chance.random() < 0.2).lower()}",
        *(["[curve]", f"fill = {str(chance.random() < 0.5).lower()}"] if form == "curve" else []),
    ]  # fmt: skip
    return RandomFigure(seed, shape, "\n".join(lines), table)
