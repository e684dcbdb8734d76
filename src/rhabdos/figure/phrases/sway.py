"""The phrase of sway: what would be otherwise in another sample, or in bins that begin
elsewhere."""

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Phrase, Said, Setting, number
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.swaying import SWAYING, swaying
from rhabdos.wording import exact

_CHOICES: tuple[tuple[str, object], ...] = (
    ("nothing", None),
    ("another sample", "sample"),
    ("other starts of the bins", "start"),
)


def _shown(readings: Readings) -> bool:
    forms = (*readings.plan.heights, *readings.plan.strips)
    return any(swaying(readings, form) for form in forms)


def _could(readings: Readings) -> bool:
    forms = (*readings.plan.heights, *readings.plan.strips)
    return any(form in SWAYING for form in forms)


def _said(readings: Readings) -> Said:
    if readings.recipe.sway.of == "start":
        return Said("shades show ", "how heights sway with the start of the bins")
    sure = exact(round(100 * readings.recipe.sway.confidence, 10))
    return Said("shades show where ", f"{sure} % of other samples", " would lie")


def _read_confidence(text: str, readings: Readings) -> object:
    if not text:
        return 0.95
    percent = number("The share", 0)(text.removesuffix("%").strip(), readings)
    assert isinstance(percent, float)
    if not 0 < percent < 100:
        raise Refusal("The share must be more than 0 % and less than 100 %, such as 95.")
    return round(percent / 100, 12)


SWAY = Phrase(
    "sway",
    "Sway",
    "Ctrl+Alt+H",
    _said,
    clause=True,
    matters=_shown,
    settings=(
        Setting("sway.of", "Shaded", "choice", "Sway of {}", choices=lambda _readings: _CHOICES),
        Setting(
            "sway.confidence",
            "Share",
            "typed",
            "Shades of {}",
            shown=lambda readings: f"{exact(round(100 * readings.recipe.sway.confidence, 10))} %",
            read=_read_confidence,
            matters=lambda readings: readings.recipe.sway.of == "sample",
            tip="Of other samples, that would lie within the shades, place by place",
        ),
    ),
    hint="Another sample of as many values would come out otherwise: heights, curves, medians and "
    "quartiles mostly within the shades, those of a stack at the top of each part. Bins that begin "
    "elsewhere have other heights too, which is not told of stacks. Points have no shades; decile "
    "arrows and quantile pairs have intervals of their own.",
    besides=_could,
)
