"""The phrases that say what is shown: variable, groups, arrangement, forms and direction."""

from rhabdos.data.gathering import can_split
from rhabdos.figure.forms import FORMS, heights_forms, strip_forms
from rhabdos.figure.phrases.phrase import LINE, Choice, Phrase, Said, Setting
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Form, Recipe

MOST_ENTRIES = 30
FIND = "find"
# The few that are wanted most; the panel beside the figure combines them at will.
_COMBINATIONS: tuple[tuple[Form, ...], ...] = (
    ("bars",),
    ("bars", "curve"),
    ("bars", "normal"),
    ("outline",),
    ("polygon",),
    ("curve",),
    ("ecdf",),
    ("box",),
    ("violin", "box"),
    ("points",),
    ("bars", "box"),
    ("curve", "box", "points"),
)


def showing(recipe: Recipe, variable: str) -> Recipe:
    """The same figure of another variable: what belongs to the old one's values is let go."""
    if variable == recipe.variable:
        return recipe
    curve = recipe.curve.changed(lower=None, upper=None)
    if not isinstance(curve.bandwidth, str):
        curve = curve.changed(bandwidth="silverman")
    bins = recipe.bins.with_rule(recipe.bins.rule or "automatic")
    shown = recipe.showing(variables=(variable,)).changed(bins=bins, curve=curve)
    return shown.worded(title=None, value_axis=None)


def _said_variable(readings: Readings) -> Said:
    rows = "every row that has one" if readings.variable.missing else "every row"
    weight = readings.samples.weight
    weighed = f", counted by {weight.label}" if weight else ""
    return Said("", readings.variable.label, f" of {rows}{weighed}, ")


def _variables(readings: Readings) -> list[Choice]:
    recipe, table = readings.recipe, readings.samples.table
    numbers = [column for column in table.numbers if column.n] if table else []
    choices = [
        Choice(
            column.label,
            f"Show {column.label}",
            showing(recipe, column.name),
            column.name == readings.variable.name,
        )
        for column in numbers[:MOST_ENTRIES]
    ]
    if len(numbers) > MOST_ENTRIES:
        choices += [LINE, Choice(f"Find among {len(numbers):,} …", FIND, None)]
    return choices


VARIABLE = Phrase(
    "variable",
    "Variable",
    "Ctrl+1",
    _said_variable,
    alternatives=_variables,
    parts=("value-axis", "note"),
)


def _said_split(readings: Readings) -> Said:
    if readings.split:
        return Said("split by ", readings.split.label)
    return Said("", "all together")


def _factors(readings: Readings) -> list[Choice]:
    recipe, table = readings.recipe, readings.samples.table
    here = readings.split.name if readings.split else None
    choices = [Choice("all together", "All together", recipe.showing(split=()), here is None), LINE]
    factors = can_split(table)[:MOST_ENTRIES] if table else []
    return choices + [
        Choice(
            factor.label,
            f"Split by {factor.label}",
            recipe.showing(split=(factor.name,)),
            factor.name == here,
        )
        for factor in factors
    ]


SPLIT = Phrase(
    "split", "Groups", "Ctrl+2", _said_split, alternatives=_factors, parts=("legend", "lane")
)


_ARRANGED = {"overlaid": "overlaid", "lanes": "in lanes"}


def _arrangements(readings: Readings) -> list[Choice]:
    recipe, here = readings.recipe, readings.plan.arrange
    texts = {"overlaid": "overlaid, one over another", "lanes": "in lanes, one above another"}
    if readings.plan.upright:
        texts["lanes"] = "in lanes, side by side"
    if not heights_forms(recipe):
        texts.pop("overlaid")  # boxes and points would cover one another
    return [
        Choice(text, f"Groups {_ARRANGED[key]}", recipe.showing(arrange=key), key == here)
        for key, text in texts.items()
    ]


ARRANGE = Phrase(
    "arrange",
    "Arrangement",
    "Ctrl+L",
    lambda readings: Said(" ", _ARRANGED[readings.plan.arrange]),
    matters=lambda readings: readings.split is not None,
    alternatives=_arrangements,
    settings=(
        Setting(
            "show.arrange",
            "Groups",
            "choice",
            "Groups {}",
            choices=lambda readings: [
                (_ARRANGED[key], key)
                for key in ("overlaid", "lanes")
                if key == "lanes" or readings.plan.heights
            ],
            value=lambda readings: readings.plan.arrange,
        ),
    ),
    hint="In lanes each group has its own strip along the same axis, and heights share one scale. "
    "More than four groups start in lanes, and so do boxes, violins and points.",
)


def forms_phrase(readings: Readings) -> str:
    """The forms as one word: "bars + curve"."""
    asked = (*heights_forms(readings.recipe), *strip_forms(readings.recipe))
    return " + ".join(FORMS[form].title for form in asked)


def _forms(readings: Readings) -> list[Choice]:
    recipe = readings.recipe
    here = set(recipe.show.forms)
    choices = []
    for forms in _COMBINATIONS:
        words = " + ".join(FORMS[form].title for form in forms)
        wanted = recipe.showing(forms=forms)
        choices.append(Choice(words, f"Drawn as {words}", wanted, set(forms) == here))
    return choices


FORMS_PHRASE = Phrase(
    "forms",
    "Drawn as",
    "Ctrl+3",
    lambda readings: Said(", drawn as ", forms_phrase(readings)),
    alternatives=_forms,
    parts=("form",),
    hint="Forms combine: press as many as you like. Words, colours, bins and limits stay.",
)


_WAYS = {False: "lying", True: "standing"}


WAY = Phrase(
    "way",
    "Direction",
    "Ctrl+U",
    lambda readings: Said(", ", _WAYS[readings.plan.upright]),
    alternatives=lambda readings: [
        Choice(
            f"{words}: values run {where}",
            f"Draw it {words}",
            readings.recipe.showing(upright=upright),
            upright == readings.plan.upright,
        )
        for upright, words, where in (
            (False, "lying", "from left to right"),
            (True, "standing", "from bottom to top"),
        )
    ],
    settings=(
        Setting(
            "show.upright",
            "Values run",
            "choice",
            "Values {}",
            choices=lambda _readings: [("from left to right", False), ("from bottom to top", True)],
            value=lambda readings: readings.plan.upright,
        ),
    ),
    hint="The rod lies under a lying axis, and stands beside a standing one.",
)
