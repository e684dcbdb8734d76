"""The phrase of quantile pairs: what they stand beside, and how sure their band is."""

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Choice, Phrase, Said, Setting, always, number
from rhabdos.figure.phrases.shown import with_form
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import shown_reference
from rhabdos.stats.named_shapes import MOST_SURE


def _drawn(readings: Readings) -> bool:
    return "pairs" in readings.recipe.show.forms


def _beside(readings: Readings) -> list[tuple[str, object]]:
    """The named shapes, and the reference where there is one."""
    from rhabdos.figure.forms.pairs import SHAPE_WORDS

    choices: list[tuple[str, object]] = [(words, name) for name, words in SHAPE_WORDS.items()]
    reference = shown_reference(readings)
    if reference is not None or readings.recipe.pairs.beside == "reference":
        choices.append((f"{beside_reference(readings)}, the reference", "reference"))
    return choices


def beside_reference(readings: Readings) -> str:
    """The name of the group that others would stand beside."""
    reference = shown_reference(readings)
    return reference.label if reference is not None else "a reference"


def _choices(readings: Readings) -> list[Choice]:
    recipe = with_form(readings.recipe, "pairs", True)
    return [
        Choice(
            words,
            f"Pairs beside {words}",
            recipe.changed(pairs=recipe.pairs.changed(beside=value)),
            _drawn(readings) and value == recipe.pairs.beside,
        )
        for words, value in _beside(readings)
    ]


def _read_confidence(text: str, readings: Readings) -> object:
    if not text:
        return 0.95
    percent = number("The share", 0)(text.removesuffix("%").strip(), readings)
    assert isinstance(percent, float)
    if not 0 < percent <= 100 * MOST_SURE:
        raise Refusal(
            f"The share must be more than 0 % and at most {100 * MOST_SURE:g} %, such as 95."
        )
    return round(percent / 100, 12)


# What tells of the form is imported with the first pairs that are drawn.


def _band(readings: Readings) -> str:
    from rhabdos.figure.forms.pairs import band_told

    return band_told(readings)


def _said(readings: Readings) -> Said:
    from rhabdos.figure.forms.pairs import beside_words

    return Said("quantiles stand beside those of ", beside_words(readings))


PAIRS = Phrase(
    "pairs",
    "Quantile pairs",
    "Ctrl+Alt+Q",
    _said,
    clause=True,
    matters=_drawn,
    alternatives=_choices,
    settings=(
        Setting(
            "show.forms",
            "Draw them",
            "toggle",
            "Draw quantile pairs|Without quantile pairs",
            value=_drawn,
            change=lambda recipe, wanted: with_form(recipe, "pairs", wanted),
        ),
        Setting(
            "pairs.beside", "Beside", "choice", "Pairs beside {}", choices=_beside, matters=_drawn
        ),
        Setting(
            "pairs.band",
            "Band of chance",
            "toggle",
            "Band of chance|Without a band",
            matters=_drawn,
        ),
        Setting(
            "pairs.confidence",
            "Share",
            "typed",
            "Band of {}",
            shown=_band,
            read=_read_confidence,
            matters=lambda readings: _drawn(readings) and readings.recipe.pairs.band,
            tip="Of samples of that shape, or of pairs of groups that are alike, whose points all "
            "lie in the band; up to 99 %",
        ),
    ),
    hint="Points on the line: the shape is the same. A straight run beside it: the same shape, "
    "elsewhere or spread otherwise. Ends that bend away: longer or shorter tails. The band holds "
    "the points of most samples whole, so that one point beyond it already tells.",
    parts=("pairs",),
    besides=always,
)
