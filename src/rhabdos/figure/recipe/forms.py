"""The table of the forms that a figure may be drawn as, and what a recipe asks of it."""

from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec import Struct

from rhabdos.figure.recipe.recipe import Form, Recipe


class FormLine(Struct, frozen=True):
    """What is known of a form without its file.

    Attributes
    ----------
    title : str
        What it is called in a sentence.
    home : str
        Its file, here and in ``scene/forms``.
    part : str
        The part of the figure that it is, which leads to a phrase when it is clicked.
    strip : bool
        Whether it is drawn in a strip of its own; all others are drawn over an axis of heights.
    bins : {"always", "as high", "never"}
        When it changes with the bins: as high as bars would be, all but densities do.
    """

    title: str
    home: str
    part: str
    strip: bool = False
    bins: Literal["always", "as high", "never"] = "never"


FORMS: Mapping[Form, FormLine] = {
    "bars": FormLine("bars", "bars", "bars", bins="always"),
    "outline": FormLine("outline", "bars", "bars", bins="always"),
    "polygon": FormLine("polygon", "polygon", "bars", bins="always"),
    "curve": FormLine("curve", "curve", "curve", bins="as high"),
    "normal": FormLine("normal curve", "normal", "normal", bins="as high"),
    "ecdf": FormLine("ECDF", "ecdf", "ecdf"),
    "violin": FormLine("violin", "violin", "curve", strip=True),
    "box": FormLine("box", "box", "box", strip=True),
    "points": FormLine("points", "points", "points", strip=True),
    "shift": FormLine("decile arrows", "shift", "shift", strip=True),
    "pairs": FormLine("quantile pairs", "pairs", "pairs", strip=True),
}
"""In the order in which they lie over one another, and strips under one another."""


def heights_forms(recipe: Recipe) -> tuple[Form, ...]:
    """The forms of a figure that need an axis of heights, in drawing order."""
    return tuple(form for form in forms_asked(recipe) if not FORMS[form].strip)


def strip_forms(recipe: Recipe) -> tuple[Form, ...]:
    """The forms of a figure that need none, from top to bottom."""
    return tuple(form for form in forms_asked(recipe) if FORMS[form].strip)


def forms_asked(recipe: Recipe) -> Iterable[Form]:
    """The forms of a figure, in drawing order."""
    return (form for form in FORMS if form in recipe.show.forms)


def filled_forms(recipe: Recipe) -> tuple[Form, ...]:
    """The forms of a figure that are areas, and not lines or points alone."""
    areas = {"bars", "violin", "box", *(("curve",) if recipe.curve.fill else ())}
    return tuple(form for form in forms_asked(recipe) if form in areas)


def needs_bins(recipe: Recipe) -> bool:
    """Whether a figure changes with its bins.

    It does where they are drawn, or where curves are as high as bars would be.
    """
    show = recipe.show
    as_high = show.heights != "density" and not show.cumulative
    needs = [FORMS[form].bins for form in show.forms]
    return "always" in needs or (as_high and "as high" in needs)
