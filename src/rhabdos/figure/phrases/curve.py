"""The phrase of density curves."""

from collections.abc import Callable
from typing import Literal

from rhabdos.figure.phrases.phrase import (
    Phrase,
    Said,
    Setting,
    distance,
    in_unit,
    number,
    or_usual,
    place,
)
from rhabdos.figure.phrases.strokes import stroke_settings
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.recipe import Form, Recipe
from rhabdos.wording import counted, exact


def _widths(readings: Readings) -> list[float]:
    from rhabdos.figure.forms.curve import density_curves  # which no figure of bars waits for

    return [reading.bandwidth for reading in density_curves(readings) if reading.curve]


def curve_phrase(readings: Readings) -> str:
    """The bandwidths of the curves, and where they come from."""
    from rhabdos.stats.bandwidths import TITLES

    settings = readings.recipe.curve
    by = f"by {TITLES[settings.bandwidth]}" if isinstance(settings.bandwidth, str) else "by hand"
    if settings.factor != 1:
        by += f", times {exact(settings.factor)}"
    widths = _widths(readings)
    if not widths or readings.plan.axes > 1:
        return by
    from rhabdos.figure.forms.curve import bandwidth_words

    least, most = (bandwidth_words(width, readings) for width in (min(widths), max(widths)))
    text = (
        least if least == most else f"{least.removesuffix(f' {readings.variable.unit}')} to {most}"
    )
    return f"{text.replace(' to a factor of ', ' to ')}, {by}"


def _facts(readings: Readings) -> str:
    if not _smooths(readings):
        return "Nothing is smoothed in this figure; how its lines are drawn is set here."
    number_of = counted(len(_widths(readings)), "curve", "curves")
    return f"{number_of}, bandwidth {curve_phrase(readings)}"


_BY_HAND = "by hand"


def _rules(_readings: Readings) -> list[tuple[str, object]]:
    from rhabdos.stats.bandwidths import TITLES

    return [*((title, rule) for rule, title in TITLES.items()), (_BY_HAND, _BY_HAND)]


def _rule_shown(readings: Readings) -> object:
    bandwidth = readings.recipe.curve.bandwidth
    return bandwidth if isinstance(bandwidth, str) else _BY_HAND


def _rule_chosen(rule: object, readings: Readings) -> object:
    """By hand, the bandwidth begins where the rule's is."""
    return (
        (mean_bandwidth(readings) or readings.recipe.curve.bandwidth) if rule == _BY_HAND else rule
    )


def mean_bandwidth(readings: Readings) -> float | None:
    """The mean of the groups' bandwidths, rounded: where a hand begins."""
    widths = _widths(readings)
    digits = 4 if readings.by_ratio else 3
    return float(f"{sum(widths) / len(widths):.{digits}g}") if widths else None


def _kernels(_readings: Readings) -> list[tuple[str, object]]:
    from rhabdos.stats.kernels import KERNELS

    return [(kernel.capitalize(), kernel) for kernel in KERNELS]


def _width_shown(readings: Readings) -> str:
    bandwidth = readings.recipe.curve.bandwidth
    if isinstance(bandwidth, str):
        return ""
    if readings.kind != "linear":
        return exact(bandwidth)
    return readings.variable.format_difference(bandwidth)


def _typed_width(text: str, readings: Readings) -> object:
    """A bandwidth in the variable's unit; on an axis of logs, a ratio."""
    if readings.by_ratio:
        what = f"On {WORDS[readings.kind].on} the bandwidth is a ratio, which"
        return number(what, 1.0, above=True)(text, readings)
    return distance("The bandwidth")(text, readings)


def _with_width(recipe: Recipe, width: object) -> Recipe:
    factor = recipe.curve.factor if isinstance(width, str) else 1.0
    return recipe.changed(curve=recipe.curve.changed(bandwidth=width, factor=factor))


def _by_nature(readings: Readings, which: str) -> str:
    """The bound that the variable has by nature, for where none is typed."""
    known: float | None = getattr(readings.variable, which)
    return (
        f"{readings.variable.format_with_unit(known)}, known" if known is not None else "no bound"
    )


def _bound(which: str) -> Setting:
    label = {"lower": "Not below", "upper": "Not above"}[which]
    return Setting(
        f"curve.{which}",
        label,
        "typed",
        f"{label} {{}}",
        shown=lambda readings: in_unit(getattr(readings.recipe.curve, which), readings),
        placeholder=lambda readings: _by_nature(readings, which),
        read=or_usual(None, place("The bound")),
        matters=_smooths,
    )


_LINES: tuple[Literal["curve", "normal", "polygon", "ecdf"], ...] = (
    "curve", "normal", "polygon", "ecdf",
)  # fmt: skip


def _draws(form: Form) -> Callable[[Readings], bool]:
    return lambda readings: form in readings.recipe.show.forms


def _smooths(readings: Readings) -> bool:
    return bool({"curve", "violin"} & set(readings.recipe.show.forms))


def _begun(title: str) -> str:
    """The title of a form at the beginning of a line."""
    return title[0].upper() + title[1:]


CURVE = Phrase(
    "curve",
    "Curve",
    "Ctrl+6",
    lambda readings: Said("curve bandwidth is ", curve_phrase(readings)),
    clause=True,
    matters=_smooths,
    settings=(
        Setting(
            "curve.bandwidth",
            "Rule",
            "choice",
            "Bandwidth by {}",
            choices=_rules,
            value=_rule_shown,
            chosen=_rule_chosen,
            change=_with_width,
            matters=_smooths,
        ),
        Setting(
            "curve.bandwidth",
            "Bandwidth",
            "typed",
            "Bandwidth {}",
            shown=_width_shown,
            placeholder=lambda _readings: "by the rule",
            read=or_usual("silverman", _typed_width),
            change=_with_width,
            matters=_smooths,
        ),
        Setting(
            "curve.factor",
            "Factor",
            "typed",
            "Factor {}",
            shown=lambda readings: exact(readings.recipe.curve.factor),
            read=or_usual(1.0, number("The factor", 0, above=True)),
            matters=_smooths,
        ),
        Setting(
            "curve.kernel", "Kernel", "choice", "Kernel {}", choices=_kernels, matters=_smooths
        ),
        _bound("lower"),
        _bound("upper"),
        Setting(
            "curve.fill",
            "Shape",
            "choice",
            "Curves drawn as {}",
            choices=lambda _readings: [
                ("line", False),
                ("line and filled", True),
                ("filled", "only"),
            ],
            matters=lambda readings: "curve" in readings.recipe.show.forms,
        ),
        *(
            setting
            for form in _LINES
            for setting in stroke_settings(form, _begun(FORMS[form].title), _draws(form))
        ),
    ),
    besides=lambda readings: any(_draws(form)(readings) for form in _LINES),
    facts=_facts,
    hint="A wider bandwidth smooths more. A bound is a value that nothing can pass, such as 0 for "
    "a mass. Or take the bell on the rod by its flank.",
    hinted=_smooths,
    parts=("curve", "normal", "ecdf"),
)
