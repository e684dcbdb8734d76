"""The phrases of lines and of words."""

from rhabdos.figure.phrases.phrase import Phrase, Said, Setting, always
from rhabdos.figure.phrases.strokes import stroke_settings
from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.naming import default_value_title, usual_height_title

_CENTRES = ("mean", "median")


def _asked(readings: Readings) -> list[str]:
    return [name for name in _CENTRES if getattr(readings.recipe.lines, name)]


def _said(readings: Readings) -> Said:
    """Which lines there are, and which ranges are shaded."""
    lines, ranges = _asked(readings), len(readings.recipe.range)
    words = [f"the {' and the '.join(lines)}"] if lines else []
    if ranges == 1:
        from rhabdos.figure.edits.ranges import range_told  # which no start needs

        variable = readings.variable_in(readings.recipe.range[0].panel)
        words.append(range_told(variable, *range_ends(readings, 0)))
    elif ranges:
        words.append(f"{ranges} ranges")
    if not lines:
        return Said("shaded is " if ranges == 1 else "shaded are ", "".join(words))
    return Said("lines mark ", ", a shade ".join(words))


def _ranges_shown(readings: Readings) -> str:
    from rhabdos.figure.edits.ranges import ranges_written

    return ranges_written(readings)


def _read_ranges(text: str, readings: Readings) -> object:
    from rhabdos.figure.edits.ranges import ranges_typed

    return ranges_typed(readings, text)


LINES = Phrase(
    "lines",
    "Lines and ranges",
    "Ctrl+0",
    _said,
    clause=True,
    matters=lambda readings: bool(_asked(readings) or readings.recipe.range),
    settings=(
        Setting(
            "lines.mean", "At the mean, dashed", "toggle", "Mark the mean|Without the mean’s line"
        ),
        Setting(
            "lines.median",
            "At the median, whole",
            "toggle",
            "Mark the median|Without the median’s line",
        ),
        Setting(
            "range",
            "Ranges",
            "typed",
            "Shade {}",
            shown=_ranges_shown,
            placeholder=lambda _readings: "such as 60 to 72 for market; 90 to 99",
            tip="Ends of each range, and the words at it; its ends where there are none. Drag over "
            "the figure to read a range before it is kept",
            read=_read_ranges,
        ),
        *stroke_settings("mean_line", "Mean’s line", lambda r: r.recipe.lines.mean),
        *stroke_settings("median_line", "Median’s line", lambda r: r.recipe.lines.median),
    ),
    hint="Each group has its own line, in its colour and with its value. A range is shaded behind "
    "all that is drawn; drag over the figure to read one before it is kept.",
    parts=("centre", "range"),
    besides=always,
)


def _wording(key: str, label: str) -> Setting:
    usual = {"value_axis": default_value_title, "height_axis": usual_height_title}
    names = {
        "title": "title",
        "subtitle": "subtitle",
        "note": "note",
        "value_axis": "value axis title",
        "height_axis": "height axis title",
    }

    def change(recipe: Recipe, text: object) -> Recipe:
        """The recipe with this text."""
        return recipe.worded(**{key: text})

    return Setting(
        f"words.{key}",
        label,
        "words",
        f"Change {names[key]}",
        shown=lambda readings: getattr(readings.recipe.words, key) or "",
        placeholder=usual.get(key, lambda _readings: "none"),
        change=change,
        matters=lambda readings: key != "height_axis" or bool(readings.plan.heights),
    )


WORDS = Phrase(
    "words",
    "Words",
    "Ctrl+9",
    lambda _readings: Said("", "Words"),
    clause=True,
    matters=lambda _readings: False,
    settings=(
        _wording("title", "Title"),
        _wording("subtitle", "Subtitle"),
        _wording("value_axis", "Value axis"),
        _wording("height_axis", "Height axis"),
        _wording("note", "Note below"),
    ),
    hint="Left empty, an axis is named after its variable and unit.",
    parts=("title", "subtitle", "own-note", "value-title", "height-title", "factor", "text"),
    besides=always,
)
