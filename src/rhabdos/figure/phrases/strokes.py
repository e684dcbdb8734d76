"""The settings of a line: its colour, its width and its dash."""

from collections.abc import Callable

from rhabdos.figure.phrases.phrase import Setting, always, number, or_usual
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe_strokes import Drawn
from rhabdos.wording import exact


def stroke_settings(
    drawn: Drawn, title: str, matters: Callable[[Readings], bool] = always
) -> tuple[Setting, ...]:
    """The settings of one line, where a figure has it."""

    def width_shown(readings: Readings) -> str:
        """The width that is asked for."""
        width = readings.recipe.strokes.of(drawn).width
        return "" if width is None else f"{exact(width)} pt"

    return (
        Setting(f"strokes.{drawn}.colour", title, "colour", f"{title} in {{}}", matters=matters),
        Setting(
            f"strokes.{drawn}.width",
            f"{title}, width",
            "typed",
            f"{title} {{}} wide",
            shown=width_shown,
            placeholder=lambda _readings: "as the look",
            read=lambda text, readings: or_usual(None, number("A width", 0, 10))(
                text.removesuffix("pt").strip(), readings
            ),
            matters=matters,
        ),
        Setting(
            f"strokes.{drawn}.dash",
            f"{title}, dash",
            "choice",
            f"{title} {{}}",
            choices=lambda _readings: (
                ("as the look", None),
                ("whole", "whole"),
                ("dashed", "dashed"),
                ("dotted", "dotted"),
            ),
            matters=matters,
        ),
    )
