"""The phrase that says what heights stand for."""

from rhabdos.figure.phrases.phrase import Choice, Phrase, Said, Setting
from rhabdos.figure.planning.titles import height_axis_title
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.recipe import Of
from rhabdos.stats.heights import Scale
from rhabdos.wording import in_running_text

SCALES: dict[Scale, tuple[str, str]] = {
    "count": ("Count", "how many values lie in each bin"),
    "percent": ("Percent", "of the values, in each bin"),
    "proportion": ("Proportion", "from 0 to 1, also called relative frequency"),
    "density": ("Density", "proportion per unit, so that areas add up to 1"),
}


def heights_phrase(readings: Readings) -> str:
    """What heights are in, for the sentence."""
    if readings.scale == "count":
        return "cumulative counts" if readings.cumulative else "counts"
    of, divided = readings.recipe.show.of, readings.divided
    if readings.scale == "density":
        words = in_running_text(height_axis_title("density", of, divided, ""))
        return f"{words} per {readings.per}" if readings.per else words
    return in_running_text(height_axis_title(readings.scale, of, divided, "", readings.cumulative))


def _unequal(readings: Readings) -> bool:
    """Whether no other height than density would be fair."""
    return readings.needs_bins and not readings.fair and not readings.cumulative


def offered(readings: Readings) -> list[Scale]:
    """The scales that this figure may have."""
    if _unequal(readings):
        return ["density"]
    return [scale for scale in SCALES if scale != "density" or not readings.cumulative]


def _wholes(readings: Readings, scale: Scale) -> tuple[Of, ...]:
    """What heights of a scale may be shares of."""
    if scale == "density" and readings.plan.stacks_curves:
        return ("all",)
    return ("group", "all")


def _heights(readings: Readings) -> list[Choice]:
    recipe, choices = readings.recipe, []
    split = readings.divided
    for scale in offered(readings):
        shares = split and scale != "count"
        for of in _wholes(readings, scale) if shares else (recipe.show.of,):
            words = height_axis_title(scale, of, split, readings.per, readings.cumulative)
            current = scale == readings.scale and (
                of == recipe.show.of or scale == "count" or not split
            )
            wanted = recipe.showing(heights=scale, of=of)
            step = f"Heights in {SCALES[scale][0].lower()}"
            choices.append(Choice(words, step, wanted, current))
    return choices


def _facts(readings: Readings) -> str:
    if _unequal(readings) and readings.kind != "linear":
        return (
            f"The bins are not equal on {WORDS[readings.kind].on}, so only density is fair: by any "
            "other height the bins that are widest there would look too large."
        )
    if _unequal(readings):
        return (
            "The bins are unequal, so only density is fair: by any other height a wide bin would "
            "look taller than its values deserve."
        )
    if readings.cumulative:
        return "Densities add up to a proportion."
    return f"{SCALES[readings.scale][0]}: {SCALES[readings.scale][1]}."


def _shares(readings: Readings) -> list[tuple[str, object]]:
    each = in_running_text(readings.divided) if readings.divided else "group"
    words = {"group": f"each {each}", "all": "all values"}
    return [(words[of], of) for of in _wholes(readings, readings.scale)]


def _scales(readings: Readings) -> list[tuple[str, object]]:
    of = readings.recipe.show.of
    possible = (scale for scale in offered(readings) if of in _wholes(readings, scale))
    return [(SCALES[scale][0].lower(), scale) for scale in possible]


HEIGHTS = Phrase(
    "heights",
    "Heights",
    "Ctrl+4",
    lambda readings: Said(", heights in ", heights_phrase(readings)),
    matters=lambda readings: bool(readings.plan.heights),
    alternatives=_heights,
    settings=(
        Setting(
            "show.heights",
            "In",
            "choice",
            "Heights in {}",
            choices=_scales,
            value=lambda readings: readings.scale,
        ),
        Setting(
            "show.of",
            "Shares of",
            "choice",
            "Shares of {}",
            choices=_shares,
            matters=lambda readings: readings.divided is not None and readings.scale != "count",
        ),
        Setting(
            "show.cumulative",
            "Add up from left to right",
            "toggle",
            "Cumulative heights|Heights of single bins",
        ),
    ),
    facts=_facts,
)
