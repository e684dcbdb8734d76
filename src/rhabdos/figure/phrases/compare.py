"""The phrase of comparing: with which group, how sure, and whether arrows show it."""

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import LINE, Choice, Phrase, Said, Setting, number
from rhabdos.figure.phrases.shown import with_form
from rhabdos.figure.readings.pairing import ways_to_pair
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import compared_with
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.wording import exact

_OFFERED = 30  # groups in a list, of more the first


def _has_groups(readings: Readings) -> bool:
    return sum(group.n > 0 for group in readings.groups) > 1 and readings.divided is not None


def _compares(readings: Readings) -> bool:
    asked = readings.recipe.compare is not None or "shift" in readings.recipe.show.forms
    asked = asked or _shows_pairs(readings)
    return asked and _has_groups(readings)


def _references(readings: Readings) -> list[tuple[str, object]]:
    """The groups that have values, with the one that is asked for, whatever it has."""
    names = [group.label for group in readings.groups if group.n][:_OFFERED]
    present = compared_with(readings).reference
    return [(name, name) for name in (names if present in names else [*names, present])]


def _can_pair(readings: Readings) -> bool:
    asked = compared_with(readings).paired is not False
    return _has_groups(readings) and (asked or len(ways_to_pair(readings)) > 1)


def _with_reference(value: object, readings: Readings) -> object:
    return compared_with(readings).changed(reference=value)


def _confidence(readings: Readings) -> str:
    return f"{exact(round(100 * compared_with(readings).confidence, 10))} %"


def _read_confidence(text: str, readings: Readings) -> object:
    """A share in percent, as what it makes of the comparison."""
    if not text:
        return compared_with(readings).changed(confidence=0.95)
    percent = number("The confidence", 0)(text.removesuffix("%").strip(), readings)
    assert isinstance(percent, float)
    if not 0 < percent < 100:
        raise Refusal("The confidence must be more than 0 % and less than 100 %, such as 95.")
    return compared_with(readings).changed(confidence=round(percent / 100, 12))


def _with_arrows(recipe: Recipe, wanted: object) -> Recipe:
    return with_form(recipe, "shift", wanted)


def _with_pairs(recipe: Recipe, wanted: object) -> Recipe:
    """Quantile pairs beside the reference, or without them."""
    shown = with_form(recipe, "pairs", wanted)
    return shown.changed(pairs=shown.pairs.changed(beside="reference" if wanted else "normal"))


def _shows_pairs(readings: Readings) -> bool:
    recipe = readings.recipe
    return "pairs" in recipe.show.forms and recipe.pairs.beside == "reference"


def _compared(recipe: Recipe, settings: object) -> Recipe:
    return recipe.changed(compare=settings)


def _choices(readings: Readings) -> list[Choice]:
    present, recipe = compared_with(readings), readings.recipe
    choices = [
        Choice(
            words,
            f"Compare with {words}",
            recipe.changed(compare=present.changed(reference=name)),
            name == present.reference and _compares(readings),
        )
        for words, name in _references(readings)
    ]
    if _compares(readings):
        bare = _with_arrows(recipe.changed(compare=None), False)
        if _shows_pairs(readings):
            bare = _with_pairs(bare, False)
        choices += [LINE, Choice("no comparison", "Without comparison", bare)]
    return choices


def _facts(readings: Readings) -> str:
    return "" if _has_groups(readings) else "Two groups with values are needed."


COMPARE = Phrase(
    "compare",
    "Compare",
    "Ctrl+Alt+C",
    lambda readings: Said(
        f"each {(readings.divided or 'group').lower()} is compared with ",
        compared_with(readings).reference,
    ),
    clause=True,
    matters=_compares,
    alternatives=_choices,
    settings=(
        Setting(
            "compare.reference",
            "With",
            "choice",
            "Compare with {}",
            choices=_references,
            value=lambda readings: compared_with(readings).reference,
            chosen=_with_reference,
            change=_compared,
            matters=_has_groups,
        ),
        Setting(
            "compare.confidence",
            "Confidence",
            "typed",
            "Intervals of {}",
            shown=_confidence,
            read=_read_confidence,
            value=lambda readings: compared_with(readings).confidence,
            change=_compared,
            matters=_has_groups,
            tip="How often intervals made so hold what they are of, such as 95 %",
        ),
        Setting(
            "compare.together",
            "Intervals",
            "choice",
            "Intervals hold {}",
            choices=lambda _readings: (("each by itself", False), ("all together", True)),
            value=lambda readings: compared_with(readings).together,
            chosen=lambda wanted, readings: compared_with(readings).changed(together=wanted),
            change=_compared,
            matters=lambda readings: sum(group.n > 0 for group in readings.groups) > 2,
            tip="Each is made so much surer that all of them hold as often as is said: "
            "1 − (1 − confidence) / groups (Bonferroni; Dunn 1961)",
        ),
        Setting(
            "compare.paired",
            "Cases",
            "choice",
            "Cases: {}",
            choices=ways_to_pair,
            value=lambda readings: compared_with(readings).paired,
            chosen=lambda wanted, readings: compared_with(readings).changed(paired=wanted),
            change=_compared,
            matters=_can_pair,
            tip="Whether the same cases were measured twice, and what finds them: then groups are "
            "compared by the differences of each case",
        ),
        Setting(
            "show.forms",
            "Arrows at the deciles",
            "toggle",
            "Draw decile arrows|Without decile arrows",
            value=lambda readings: "shift" in readings.recipe.show.forms,
            change=_with_arrows,
            matters=_has_groups,
        ),
        Setting(
            "show.forms",
            "Quantile pairs",
            "toggle",
            "Draw quantile pairs|Without quantile pairs",
            value=_shows_pairs,
            change=_with_pairs,
            matters=_has_groups,
            tip="Each quantile of a group beside that of the reference, with a band of what chance "
            "allows where both are alike",
        ),
    ),
    facts=_facts,
    hint="Each arrow goes from a tenth of the reference to the same tenth of the other group: all "
    "of one length mean that it is merely shifted, growing lengths that it is spread otherwise. "
    "The shade at the tip is the interval of that arrow alone. All numbers stand at the foot.",
    parts=("shift",),
    besides=_has_groups,
)
