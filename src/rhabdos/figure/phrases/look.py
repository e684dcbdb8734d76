"""The phrase of the look: fills, lines, letters and the ground."""

from collections.abc import Callable

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Phrase, Said, Setting, always, number, or_usual
from rhabdos.figure.planning.plan import MOST_COLOURED
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import filled_forms, heights_forms
from rhabdos.figure.recipe.recipe_look import Look
from rhabdos.wording import exact

USUAL = "as the look"


def _look(readings: Readings) -> Look:
    look: Look = readings.recipe.look
    return look


def _shown(key: str, times: float = 1.0, unit: str = "") -> Callable[[Readings], str]:
    def shown(readings: Readings) -> str:
        """The number that is asked for."""
        value = getattr(_look(readings), key)
        return "" if value is None else f"{exact(round(value * times, 6))}{unit}"

    return shown


def _usual(_readings: Readings) -> str:
    return USUAL


def _read_share(text: str, readings: Readings) -> object:
    """A share typed in percent, of what is see-through."""
    if not text:
        return None
    percent = text.rstrip().endswith("%")
    value = number("How see-through fills are", 0, 100)(text.removesuffix("%").strip(), readings)
    assert isinstance(value, float)
    # A number up to 1 without its sign is a share, as recipes have it: 0.3 is 30 %.
    return value if value <= 1 and not percent else float(f"{value / 100:.12g}")


def _width(key: str, label: str, forms: tuple[str, ...]) -> Setting:
    read = number("The width of a line", 0, 10)
    return Setting(
        f"look.{key}",
        label,
        "typed",
        f"{label} {{}} points",
        shown=_shown(key),
        placeholder=_usual,
        read=or_usual(None, lambda text, readings: read(text.removesuffix("pt"), readings)),
        matters=lambda readings: bool(set(forms) & set(readings.recipe.show.forms)),
    )


def _colour(key: str, label: str) -> Setting:
    return Setting(f"look.{key}", label, "colour", f"{label} {{}}")


def _read_letters(text: str, readings: Readings) -> object:
    if not text:
        return None
    value = number("How large letters are", 50, 300)(text.removesuffix("%").strip(), readings)
    assert isinstance(value, float)
    return value / 100


def _font(text: str, _readings: Readings) -> object:
    if len(text) > 80:
        raise Refusal("The name of a font has at most 80 letters.")
    return text or None


def _has_areas(readings: Readings) -> bool:
    return bool(filled_forms(readings.recipe))


LOOK = Phrase(
    "look",
    "Look",
    "Ctrl+Alt+K",
    lambda _readings: Said("", "Look"),
    clause=True,
    matters=lambda _readings: False,
    settings=(
        Setting(
            "look.see_through",
            "See-through",
            "typed",
            "Fills {} see-through",
            shown=_shown("see_through", 100, " %"),
            placeholder=_usual,
            read=_read_share,
            matters=_has_areas,
        ),
        Setting(
            "look.hatching",
            "Hatching",
            "choice",
            "Hatching {}",
            choices=lambda _readings: ((USUAL, None), ("of each group", True), ("none", False)),
            matters=_has_areas,
        ),
        _width("outline", "Outline", ("bars", "outline", "violin")),
        _width("curve", "Curve", ("curve", "normal", "polygon", "ecdf")),
        _width("box", "Box", ("box",)),
        Setting(
            "look.dashes",
            "Dashes",
            "choice",
            "Lines {}",
            choices=lambda _readings: (
                (USUAL, None),
                ("whole", "whole"),
                ("dashed", "dashed"),
                ("dotted", "dotted"),
                ("different for each group", "by-group"),
            ),
            matters=lambda readings: bool(heights_forms(readings.recipe)),
        ),
        Setting(
            "look.point",
            "Points",
            "choice",
            "Points as {}",
            choices=lambda _readings: (
                (USUAL, None),
                ("discs", "disc"),
                ("rings", "ring"),
                ("diamonds", "diamond"),
                ("squares", "square"),
                ("crosses", "cross"),
            ),
            matters=lambda readings: "points" in readings.recipe.show.forms,
        ),
        Setting(
            "look.point_size",
            "Their size",
            "typed",
            "Points {} points wide",
            shown=_shown("point_size"),
            placeholder=_usual,
            read=or_usual(None, number("The size of points", 1, 20)),
            matters=lambda readings: "points" in readings.recipe.show.forms,
        ),
        Setting(
            "look.many_colours",
            "Many groups",
            "choice",
            "Many groups {}",
            choices=lambda _readings: (
                (USUAL, None),
                ("each in its own colour", True),
                ("in one colour where they are named", False),
            ),
            matters=lambda readings: readings.plan.colours > MOST_COLOURED,
        ),
        Setting(
            "look.sizes",
            "n of groups",
            "choice",
            "n of groups {}",
            choices=lambda _readings: (("beside their names", None), ("nowhere", False)),
        ),
        _colour("ink", "Ink"),
        _colour("paper", "Paper"),
        _colour("ground", "Ground of frames"),
        Setting(
            "look.font",
            "Font",
            "font",
            "Font {}",
            shown=lambda readings: _look(readings).font or "",
            read=_font,
        ),
        Setting(
            "look.letters",
            "Letters and lines",
            "typed",
            "Letters {}",
            shown=_shown("letters", 100, " %"),
            placeholder=lambda _readings: "100 %",
            read=_read_letters,
        ),
    ),
    parts=("swatch",),
    besides=always,
)
