"""The phrase of panels: by which factors, in how many columns, on which axes."""

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.grouping import factors_of, has_factors, labels_of
from rhabdos.figure.phrases.phrase import LINE, Choice, Phrase, Said, Setting
from rhabdos.figure.planning.ordering import VARIABLE
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.quoting import quoted


def _said_panels(readings: Readings) -> Said:
    labels = [d.label if d.name else "variable" for d in readings.plan.paneled]
    if readings.plan.crossed:
        rows, columns = ", ".join(labels[:-1]), labels[-1]
        if readings.plan.paneled[0].name == VARIABLE and not readings.plan.upright:
            rows, columns = ", ".join(labels[1:]), labels[0]
        return Said(", in panels of ", f"{rows} by {columns}")
    return Said(", in panels by ", labels[0] if labels else "nothing")


def _paneled(readings: Readings) -> list[Choice]:
    recipe = readings.recipe
    by = [readings.gathered.factor(name).name for name in recipe.panels.by]
    alone = not readings.plan.paneled
    choices = [Choice("one panel", "One panel", recipe.paneled(by=(), variables=None), alone), LINE]
    columns = factors_of(readings)
    choices += [
        Choice(c.label, f"Panels by {c.label}", recipe.paneled(by=(c.name,)), by == [c.name])
        for c in columns
    ]
    if by:
        first = labels_of(readings, by[:1])[0]
        seconds = [c for c in columns if c.name != by[0]]
        choices += [LINE] * bool(seconds)
        choices += [
            Choice(
                f"{first} in rows, {c.label} in columns",
                f"Panels by {first} and {c.label}",
                recipe.paneled(by=(by[0], c.name)),
                by == [by[0], c.name],
            )
            for c in seconds
        ]
    if len(by) > 1:
        first, second = labels_of(readings, by)
        words = f"swap: {second} in rows, {first} in columns"
        wanted = recipe.paneled(by=tuple(by[::-1]))
        choices += [LINE, Choice(words, f"Swap {first} and {second}", wanted)]
    return choices


def _factor_choices(readings: Readings) -> list[tuple[str, object]]:
    none: list[tuple[str, object]] = [("nothing", None)]
    return none + [(column.label, column.name) for column in factors_of(readings)]


def _panel_factor(at: int) -> Setting:
    """The list of factors for rows, or for columns."""

    def change(recipe: Recipe, value: object) -> Recipe:
        """The recipe with this factor in its place."""
        by = [*recipe.panels.by, None, None][:2]
        by[at] = str(value) if value is not None else None
        return recipe.paneled(by=tuple(dict.fromkeys(name for name in by if name is not None)))

    def value(readings: Readings) -> object:
        """The factor that is there now."""
        by = readings.recipe.panels.by
        return readings.gathered.factor(by[at]).name if at < len(by) else None

    label = "By" if at == 0 else "and across by"
    return Setting(
        "panels.by",
        label,
        "choice",
        "Panels by {}",
        choices=_factor_choices,
        change=change,
        value=value,
        matters=lambda readings: at == 0 or bool(readings.recipe.panels.by),
    )


def _read_columns(text: str, _readings: Readings) -> object:
    if not text:
        return None
    number = read_number(text)
    if number is None or number != int(number) or not 1 <= number <= 60:
        raise Refusal(f"Columns are to be a whole number from 1 to 60, and {quoted(text)} is none.")
    return int(number)


def _freed(axis: str, label: str, words: str) -> Setting:
    def change(recipe: Recipe, value: object) -> Recipe:
        """The recipe with this axis freed, or shared."""
        others = [other for other in recipe.panels.free if other != axis]
        return recipe.paneled(free=(*others, axis) if value else tuple(others))

    return Setting(
        "panels.free",
        label,
        "toggle",
        f"{words} of its own in each panel|{words} shared by panels",
        change=change,
        value=lambda readings: axis in readings.recipe.panels.free,
        matters=lambda readings: (
            len(readings.plan.panels) > 1 and (axis == "value" or bool(readings.plan.heights))
        ),
    )


PANELS = Phrase(
    "panels",
    "Panels",
    "Ctrl+Alt+P",
    _said_panels,
    matters=lambda readings: bool(readings.plan.paneled),
    alternatives=_paneled,
    settings=(
        _panel_factor(0),
        _panel_factor(1),
        Setting(
            "panels.columns",
            "Columns",
            "typed",
            "Panels in {} columns",
            shown=lambda readings: str(readings.recipe.panels.columns or ""),
            placeholder=lambda _readings: "as the page asks",
            read=_read_columns,
            matters=lambda readings: len(readings.plan.panels) > 1 and not readings.plan.crossed,
        ),
        _freed("value", "Own value axes", "Value axis"),
        _freed("height", "Own heights", "Heights"),
        Setting(
            "panels.variables",
            "By variable",
            "toggle",
            "Variables in panels|Variables as groups",
            value=lambda readings: any(d.name == VARIABLE for d in readings.plan.paneled),
            matters=lambda readings: len(readings.variables) > 1 and readings.plan.axes == 1,
        ),
        Setting(
            "show.standardised",
            "Standardised",
            "toggle",
            "Standardise|Values as they are",
            matters=lambda readings: (
                len(readings.variables) > 1 or readings.recipe.show.standardised
            ),
        ),
    ),
    hint="Panels share their axes, their bins and their words. By one factor they wrap; by two "
    "they stand in rows and columns.",
    parts=("panel",),
    besides=has_factors,
)
