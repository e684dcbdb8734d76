"""The phrases that say what is shown: variables, forms and direction."""

from collections.abc import Sequence
from typing import TypeVar

from rhabdos.data.columns import NumberColumn, natural
from rhabdos.figure.phrases.phrase import LINE, Choice, Phrase, Said, Setting
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import FORMS, heights_forms, strip_forms
from rhabdos.figure.recipe.recipe import MOST_VARIABLES, NUMBERS, Form, Recipe
from rhabdos.figure.recipe.recipe_axes import Axes, Axis

_Axis = TypeVar("_Axis", bound=Axis)
MOST_ENTRIES = 30  # variables in a menu; of more, “Find” leads to the others
FIND, KEEP, SEE, ALL = "find", "keep", "see", "all"
_LONGEST_KEPT = 80  # letters that the sentence says of the rows that were kept
_MOST_FAMILIES = 5  # runs of columns that are offered as one figure
_MOST_NAMED = 4  # variables that the sentence names
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
    ("pairs",),
    ("bars", "box"),
    ("curve", "box", "points"),
)


def drawn_as(readings: Readings, forms: Sequence[Form]) -> Recipe:
    """The same figure of other forms; an arrangement that boxes did not heed, and that these groups
    are too many for, is let go."""
    recipe, within = readings.recipe, readings.plan.within
    if recipe.show.arrange == "back-to-back" and within and len(within[-1].levels) > 2:
        recipe = recipe.showing(arrange=None)
    return recipe.showing(forms=tuple(forms))


def with_form(recipe: Recipe, changed: Form, wanted: object) -> Recipe:
    """The same figure with one form more, or without it; boxes where none would be left."""
    kept = (form for form in recipe.show.forms if form != changed)
    asked = {*kept, changed} if wanted else {*kept}
    return recipe.showing(forms=tuple(form for form in FORMS if form in asked) or ("box",))


def showing(recipe: Recipe, *variables: str) -> Recipe:
    """The same figure of other variables: what belongs to the old ones' values is let go."""
    if variables == recipe.show.variables:
        return recipe
    wanted = NUMBERS if variables == (NUMBERS,) else variables
    curve = recipe.curve.changed(lower=None, upper=None)
    if not isinstance(curve.bandwidth, str):
        curve = curve.changed(bandwidth="silverman")
    bins = recipe.bins.with_rule(recipe.bins.rule or "automatic")
    shown = recipe.showing(variables=wanted).changed(bins=bins, curve=curve)
    if len(variables) == 1 and variables != (NUMBERS,):
        shown = shown.showing(standardised=False).paneled(variables=None)
    if not set(recipe.show.variables) <= set(variables):
        check = recipe.check.changed(range=None)
        shown = shown.changed(axes=_without_places(recipe.axes), text=(), range=(), check=check)
    return shown.worded(title=None, value_axis=None)


def _without_places(axes: Axes) -> Axes:
    """The axes without limits, ticks and an even stretch at values of their own."""

    def freed(axis: _Axis) -> _Axis:
        """The same of one axis."""
        ticks = axis.ticks if isinstance(axis.ticks, str) else None
        return axis.changed(low=None, high=None, ticks=ticks, decimals=None, words=())

    return axes.changed(value=freed(axes.value).changed(near=None), height=freed(axes.height))


def with_variable(recipe: Recipe, readings: Readings, name: str) -> Recipe:
    """The same figure with one variable more, or without it where it is shown."""
    names = [variable.name for variable in readings.gathered.variables]
    others = [other for other in names if other != name]
    return showing(recipe, *(others if name in names and others else [*others, name]))


def _said_variable(readings: Readings) -> Said:
    labels = [variable.label for variable in readings.variables]
    words = labels[0]
    if readings.recipe.show.variables == NUMBERS:
        words = f"all {len(labels):,} numeric variables"
    elif 1 < len(labels) <= _MOST_NAMED:
        words = f"{', '.join(labels[:-1])} and {labels[-1]}"
    elif len(labels) > 1:
        words = f"{', '.join(labels[:2])} and {len(labels) - 2:,} more"
    return Said("", words, " of ")


def _said_rows(readings: Readings) -> Said:
    weight = readings.samples.weight
    weighed = f", counted by {weight.label}" if weight else ""
    standard = ", standardised" if readings.recipe.show.standardised else ""
    return Said("", rows_phrase(readings), f"{weighed}{standard}, ")


def rows_phrase(readings: Readings) -> str:
    """Which rows are drawn: "every row", or "2,404 of 2,416 rows, those from 40 to 110 mm"."""
    table = readings.samples.table
    missing = any(variable.missing for variable in readings.variables)
    if readings.gathered.provisional and table is not None:
        return f"a sample of {readings.gathered.provisional:,} rows (provisional)"
    if table is None or not table.of_all_rows:
        return "every row that has one" if missing else "every row"
    which = f", those {table.kept}" if len(table.kept) <= _LONGEST_KEPT else ""
    return f"{table.all_rows:,} of {table.of_all_rows:,} rows{which}"


def _row_choices(readings: Readings) -> list[Choice]:
    choices = [Choice("Keep some of them …", KEEP, None), Choice("See the rows", SEE, None)]
    table = readings.samples.table
    if table is not None and table.of_all_rows:
        choices += [LINE, Choice(f"All {table.of_all_rows:,} rows again", ALL, None)]
    return choices


def _variables(readings: Readings) -> list[Choice]:
    recipe, table = readings.recipe, readings.samples.table
    numbers = list(table.drawable) if table else []
    shown = [variable.name for variable in readings.variables]
    choices = [
        Choice(
            column.label,
            f"Show {column.label}",
            showing(recipe, column.name),
            [column.name] == shown,
        )
        for column in numbers[:MOST_ENTRIES]
    ]
    if len(numbers) > MOST_ENTRIES:
        choices += [LINE, Choice(f"Find among {len(numbers):,} …", FIND, None)]
    several: list[Choice] = []
    for family in families(numbers)[:_MOST_FAMILIES]:
        words = f"{family[0].label} to {family[-1].label}"
        names = tuple(column.name for column in family)
        several.append(
            Choice(words, f"Show {words}", showing(recipe, *names), list(names) == shown)
        )
    every = [column for column in table.numbers if column.n] if table else []
    if 1 < len(every) <= MOST_VARIABLES:
        words = f"all {len(every):,} numeric variables"
        current = recipe.show.variables == NUMBERS
        several.append(Choice(words, f"Show {words}", showing(recipe, NUMBERS), current))
    return choices + ([LINE, *several] if several else [])


def families(columns: Sequence[NumberColumn]) -> list[list[NumberColumn]]:
    """Variables that are named alike but for a number at the end, and have the same unit."""
    alike: dict[tuple[str, str], list[NumberColumn]] = {}
    for column in columns:
        stem = column.label.rstrip("0123456789")
        if stem and stem != column.label:
            alike.setdefault((stem, column.unit), []).append(column)
    several = [family for family in alike.values() if 1 < len(family) <= MOST_VARIABLES]
    return [sorted(family, key=lambda column: natural(column.label)) for family in several]


VARIABLE = Phrase(
    "variable", "Variable", "Ctrl+1", _said_variable, alternatives=_variables, parts=("note",)
)


ROWS = Phrase(
    "rows",
    "Rows drawn",
    "Ctrl+Alt+R",
    _said_rows,
    alternatives=_row_choices,
    facts=lambda readings: f"{rows_phrase(readings)[:1].upper()}{rows_phrase(readings)[1:]}.",
    hint="Rows are kept, joined and put right in the place “Rows” (F3); each step is a sentence "
    "there.",
    parts=("rows",),
)


def forms_phrase(readings: Readings) -> str:
    """The forms as one word: "bars + curve"."""
    forms = (*heights_forms(readings.recipe), *strip_forms(readings.recipe))
    return " + ".join(FORMS[form].title for form in forms)


def _forms(readings: Readings) -> list[Choice]:
    recipe = readings.recipe
    here = set(recipe.show.forms)
    choices = []
    for forms in _COMBINATIONS:
        words = " + ".join(FORMS[form].title for form in forms)
        wanted = drawn_as(readings, forms)
        choices.append(Choice(words, f"Drawn as {words}", wanted, set(forms) == here))
    return choices


FORMS_PHRASE = Phrase(
    "forms",
    "Drawn as",
    "Ctrl+3",
    lambda readings: Said(", drawn as ", forms_phrase(readings)),
    alternatives=_forms,
    hint="Forms combine: press as many as you like. Words, colours, bins and limits stay.",
)


_WAYS = {False: "lying", True: "standing"}


WAY = Phrase(
    "way",
    "Direction",
    "Ctrl+Alt+U",
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
