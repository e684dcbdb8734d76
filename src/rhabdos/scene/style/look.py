"""Whole looks of our own, and the style that comes of a look with what is changed in it."""

from functools import lru_cache

import msgspec
from msgspec import structs

from rhabdos.figure.readings.legend_place import in_one_colour
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form, Recipe
from rhabdos.figure.recipe.recipe_look import Base, Look
from rhabdos.figure.recipe.recipe_strokes import Drawn
from rhabdos.scene.style.style import DASHES, HOUSE, Style

TITLES: dict[Base, tuple[str, str]] = {
    "house": ("House", "as Rhabdos draws by itself"),
    "paper": ("Paper", "fine lines and stronger inks, for print"),
    "slide": ("Slide", "large letters and thick lines, to be seen from afar"),
    "ink": ("Ink", "black alone: groups are told apart by hatching and dashes"),
    "night": ("Night", "bright on a dark ground"),
}
_WHOLE: dict[Base, Look] = {
    "house": Look(),
    "paper": Look(base="paper", outline=0.7, curve=1.1, box=0.6, ink="#000000"),
    "slide": Look(base="slide", letters=1.45, outline=1.75, curve=2.75, box=1.45),
    "ink": Look(
        base="ink",
        palette="black",
        ink="#000000",
        outline=0.8,
        curve=1.2,
        hatching=True,
        dashes="by-group",
        point="ring",
    ),
    "night": Look(
        base="night",
        ink="#E9EEEB",
        paper="#141B1E",
        ground="#1C2629",
        palette="lamp",
        see_through=0.25,
    ),
}
_DARK = 0.35  # of white, under which a paper counts as dark
_KEYS = tuple(field for field in Look.__struct_fields__ if field not in ("base", "colours"))


def whole(look: Look) -> Look:
    """A look with everything that its base has and it does not change."""
    base = _WHOLE[look.base]
    merged = {
        key: getattr(base, key) if getattr(look, key) is None else getattr(look, key)
        for key in _KEYS
    }
    return structs.replace(look, **merged)


def style_of_look(look: Look) -> Style:
    """The style of a look, of words as they usually are."""
    return HOUSE if look == Look() else _style(msgspec.json.encode(look))


def style_of(recipe: Recipe) -> Style:
    """The style of a figure."""
    look, lettering = recipe.look, recipe.words.lettering
    style = style_of_look(look)
    if lettering == HOUSE.lettering:
        return style
    return structs.replace(style, lettering=lettering)


@lru_cache(maxsize=64)  # asked for each mark; there are few looks
def _style(encoded: bytes) -> Style:
    """The style of a look that is written as JSON, since names with colours have no hash."""
    look = whole(msgspec.json.decode(encoded, type=Look))
    letters = look.letters or 1.0

    def points(own: float | None, usual: float) -> float:
        """A width in units of the page: what is asked for is in points of the paper."""
        return usual if own is None else own / letters

    return structs.replace(
        HOUSE,
        **_inks(look),
        ground=look.ground or "",
        palette=look.palette or "reef",
        own=tuple(sorted(look.colours.items())),
        opacity=None if look.see_through is None else 1 - look.see_through,
        outline=points(look.outline, HOUSE.outline),
        curve=points(look.curve, HOUSE.curve),
        box_line=points(look.box, HOUSE.box_line),
        dashes=look.dashes or "whole",
        hatching=bool(look.hatching),
        point_shape=look.point or "disc",
        point=points(look.point_size, HOUSE.point),
        font=look.font or "",
        letters=letters,
    )


_POINTS = {
    "look.outline": "outline", "look.curve": "curve", "look.box": "box_line",
    "look.point_size": "point", "strokes.bars.width": "outline", "strokes.box.width": "box_line",
    "strokes.median.width": "median_line", "box.mark_size": "dot",
}  # fmt: skip


def usual_points(path: str, readings: Readings, style: Style) -> float | None:
    """How wide or large something is in a figure on paper that its recipe says nothing of; None of
    other things.

    Parameters
    ----------
    path : str
        Where the recipe would say it, such as "strokes.curve.width".
    """
    if name := _POINTS.get(path):
        return float(getattr(style, name) * style.letters)
    lines = {f"strokes.{drawn}.width": form for form, drawn in LINE_STROKES.items()}
    return usual_line(lines[path], readings, style)[0] * style.letters if path in lines else None


def _inks(look: Look) -> dict[str, str]:
    """Ink and paper, and the colours between them."""
    ink, paper = look.ink or HOUSE.ink, look.paper or HOUSE.paper
    dark = brightness(paper) < _DARK
    inks = {"ink": ink, "paper": paper}
    if look.ink is not None or look.paper is not None:
        inks |= {"quiet": mix(ink, paper, 0.3), "hairline": mix(ink, paper, 0.82 if dark else 0.88)}
    return inks | ({"receded": mix(ink, paper, 0.62)} if dark else {})


LINE_STROKES: dict[Form, Drawn] = {
    "outline": "bars", "curve": "curve", "normal": "normal", "polygon": "polygon", "ecdf": "ecdf",
}  # fmt: skip
"""The stroke of each form that is a line."""


def usual_line(
    form: Form, readings: Readings, style: Style
) -> tuple[float, tuple[float, ...] | None]:
    """How wide a line of a form is, and its dash where that is not its group's.

    A density curve, a normal curve and a polygon of the same values run close together, so they are
    told apart: the normal curve by dashes, or where dashes tell of the groups by a fine line, as
    polygons have beside curves.
    """
    forms = readings.recipe.show.forms
    if form == "normal" and "curve" in forms and style.dashes == "whole":
        return style.curve, DASHES["dashed"]
    beside = {"normal": ("curve",), "polygon": ("curve", "normal")}.get(form, ())
    fine = form == "outline" or any(other in forms for other in beside)
    return style.outline if fine else style.curve, None


def colours_of_levels(readings: Readings, style: Style) -> tuple[str, ...]:
    """The colour of each level that colours stand for, in the order of their places."""
    colours = list(style.colours(readings.plan.colours))
    if in_one_colour(readings):
        colours = [style.colours(1)[0]] * len(colours)
    own = dict(style.own)
    if own and readings.plan.coloured is None and len(colours) == 1:
        colours[0] = own.get(readings.variable.label, colours[0])
    if own and readings.plan.coloured is not None:
        for level in readings.plan.coloured.levels:
            if level.label in own and level.index < len(colours):
                colours[level.index] = own[level.label]
    return tuple(colours)


def colours_of(readings: Readings, style: Style | None = None) -> tuple[str, ...]:
    """The colour of each group of a figure, quiet where others are brought forward."""
    style = style_of(readings.recipe) if style is None else style
    every = colours_of_levels(readings, style)
    return tuple(
        every[group.colour] if group.forward else style.receded for group in readings.groups
    )


def parts_of(colour: str) -> tuple[int, int, int]:
    """Red, green and blue of a colour, 0 … 255."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def mix(one: str, other: str, share: float) -> str:
    """A colour on the way from one to another."""
    parts = zip(parts_of(one), parts_of(other), strict=True)
    return "#" + "".join(f"{round(a + share * (b - a)):02X}" for a, b in parts)


def brightness(colour: str) -> float:
    """How bright a colour is, from 0 to 1 (Rec. 709 weights)."""
    red, green, blue = parts_of(colour)
    return (0.2126 * red + 0.7152 * green + 0.0722 * blue) / 255
