"""What is to be said of the axes: values that limits hide, heights that do not begin at 0."""

from rhabdos.figure.readings.axis_limits import beyond_limits, bounds_on
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.second_axis import why_no_second
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.words.notice import DIFFERS, HIDES, LACKS, Notice, listed_briefly
from rhabdos.wording import counted, exact

_FILLED = ("bars",)


def axis_notices(readings: Readings) -> list[Notice | None]:
    """The notices of both axes."""
    return [
        _hidden(readings),
        _elsewhere(readings),
        _without_place(readings),
        _cut(readings),
        _no_second(readings),
        _ecdf_beside(readings),
        _no_shares(readings),
    ]


def _hidden(readings: Readings) -> Notice | None:
    settings = readings.recipe.axes.value
    if settings.low is None and settings.high is None:
        return None
    beyond = beyond_limits(readings)
    hidden = beyond.below + beyond.above
    if not hidden:
        return None
    values = counted(hidden, "value lies", "values lie")
    where = f"beyond the value axis, {beyond.below:,} below it and {beyond.above:,} above it"
    if not (beyond.below and beyond.above):
        where = f"{'below' if beyond.below else 'above'} the value axis"
    return Notice(
        "limits-hide",
        f"{values} {where}; bars, boxes and curves are worked out from all values all the same.",
        readings.recipe.with_value_axis(low=None, high=None),
        "show them",
        HIDES,
    )


def _elsewhere(readings: Readings) -> Notice | None:
    """Axes of several that have no values between the limits."""
    settings = readings.recipe.axes.value
    if readings.plan.axes == 1 or (settings.low is None and settings.high is None):
        return None
    free = {a for a in range(readings.plan.axes) if bounds_on(readings, a) == (None, None)}
    named = dict.fromkeys(g.variable.label for g in readings.groups if g.axis in free)
    if not named:
        return None
    have, axes = "have", "their axes run as their values do"
    if len(named) == 1:
        have, axes = "has", "its axis runs as its values do"
    return Notice(
        "limits-elsewhere",
        f"{listed_briefly(list(named))} {have} no values between the limits that are asked for, so "
        f"{axes}.",
        readings.recipe.with_value_axis(low=None, high=None),
        "let all run so",
        DIFFERS,
    )


def _without_place(readings: Readings) -> Notice | None:
    beyond = beyond_limits(readings) if readings.kind in ("log", "root") else None
    if beyond is None or not beyond.without_place:
        return None
    values = counted(beyond.without_place, "value is", "values are")
    none = "0 or less" if readings.kind == "log" else "less than 0"
    return Notice(
        "log-axis-hides" if readings.kind == "log" else "root-axis-hides",
        f"{values} {none} and cannot be shown on {WORDS[readings.kind].on}.",
        readings.recipe.with_value_axis(scale="arsinh"),
        "show logs to both sides of 0",
        HIDES,
    )


def _cut(readings: Readings) -> Notice | None:
    least = readings.recipe.axes.height.low
    if not readings.plan.heights or least is None or least <= 0:
        return None
    of = "bars" if set(_FILLED) & set(readings.plan.heights) else "lines"
    return Notice(
        "heights-cut",
        f"The heights begin at {exact(least)} and not at 0, so {of} that differ a little look very "
        "different.",
        readings.recipe.with_height_axis(low=None),
        "begin at 0",
    )


def _no_second(readings: Readings) -> Notice | None:
    why = why_no_second(readings)
    if not why or not readings.plan.heights:
        return None
    second = readings.recipe.axes.height.second
    return Notice(
        "no-second-axis",
        f"There is no second axis in {'counts' if second == 'count' else second}: {why}.",
        readings.recipe.with_height_axis(second=None),
        "do without it",
        LACKS,
    )


def _ecdf_beside(readings: Readings) -> Notice | None:
    """A share and a share per unit on one axis."""
    forms = readings.plan.heights
    if "ecdf" not in forms or len(forms) == 1 or readings.scale != "density":
        return None
    return Notice(
        "ecdf-on-density",
        "The ECDF rises to 1, and the other heights are densities: on one axis they cannot be "
        "compared.",
        readings.recipe.showing(cumulative=True),
        "let all heights add up",
    )


def _no_shares(readings: Readings) -> Notice | None:
    settings = readings.recipe.axes.height.numbers
    if settings != "percent" or readings.scale != "count" or not readings.plan.heights:
        return None
    recipe = readings.recipe
    return Notice(
        "counts-no-shares",
        "The heights are counts, which are no shares, so their numbers are not written in percent.",
        recipe.changed(show=recipe.show.changed(heights="percent")),
        "show percent",
        DIFFERS,
    )
