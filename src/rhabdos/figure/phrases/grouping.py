"""The phrases that say how groups stand: factors and arrangement."""

from collections.abc import Sequence

from rhabdos.data.columns import CategoryColumn, Column
from rhabdos.data.gathering import can_split
from rhabdos.figure.phrases.phrase import LINE, Choice, Phrase, Said
from rhabdos.figure.phrases.shown import MOST_ENTRIES
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Arrange, Recipe
from rhabdos.figure.words.notice import listed_briefly

ARRANGED: dict[Arrange, str] = {
    "overlaid": "overlaid",
    "stacked": "stacked",
    "side-by-side": "side by side",
    "back-to-back": "back to back",
    "lanes": "in lanes",
}


def factors_of(readings: Readings) -> list[Column]:
    """The columns that may make groups or panels."""
    table, shown = readings.gathered.table, {v.name for v in readings.gathered.variables}
    factors = can_split(table) if table else []
    return [column for column in factors if column.name not in shown][:MOST_ENTRIES]


def has_factors(readings: Readings) -> bool:
    """Whether any column may make groups; a category tells at once, numbers are read for it."""
    table = readings.gathered.table
    if table and any(isinstance(c, CategoryColumn) and c.levels for c in table.columns):
        return True
    return bool(factors_of(readings))


def labels_of(readings: Readings, names: Sequence[str]) -> list[str]:
    """What factors are called in the figure."""
    return [readings.gathered.factor(name).label for name in names]


def split_by(recipe: Recipe, *factors: str) -> Recipe:
    """The same figure split by other factors; what held only for the old ones' levels is let go."""
    if factors == recipe.show.split:
        return recipe
    arrange = None if recipe.show.arrange == "back-to-back" else recipe.show.arrange
    return recipe.showing(split=factors, arrange=arrange).grouped(forward=())


def swapped(recipe: Recipe) -> Recipe:
    """The same figure with its two factors exchanged."""
    return split_by(recipe, *recipe.show.split[::-1])


def _said_split(readings: Readings) -> Said:
    split = labels_of(readings, readings.recipe.show.split)
    after = _afterwards(readings)
    if not split:
        together = "variable by variable" if readings.plan.within else "all together"
        return Said("", together, after)
    words = split[0]
    if len(split) > 1:
        outer = "in lanes" if readings.plan.heights else "in clusters"
        words = f"{split[0]} {outer} and {split[1]} in colour"
    return Said("split by ", words, after)


def _afterwards(readings: Readings) -> str:
    """The order of groups, and which are left out or brought forward, in words."""
    settings = readings.recipe.groups
    told = []
    if isinstance(settings.order, str) and settings.order not in ("data", "name"):
        size = ("smallest", "largest") if settings.order == "n" else ("least", "greatest")
        first, last = size[::-1] if settings.reverse else size
        what = "" if settings.order == "n" else f" {settings.order}"
        told.append(f"from the {first} to the {last}{what}")
    if settings.hidden:
        told.append(f"without {listed_briefly(list(settings.hidden), 3)}")
    forward = [name for name in settings.forward if any(not g.forward for g in readings.groups)]
    if forward:
        told.append(f"{listed_briefly(forward, 3)} brought forward")
    return "".join(f", {words}" for words in told)


def _factors(readings: Readings) -> list[Choice]:
    recipe = readings.recipe
    split = [readings.gathered.factor(name).name for name in recipe.show.split]
    choices = [Choice("all together", "All together", split_by(recipe), not split), LINE]
    columns = factors_of(readings)
    choices += [
        Choice(c.label, f"Split by {c.label}", split_by(recipe, c.name), split == [c.name])
        for c in columns
    ]
    if split:
        seconds = [c for c in columns if c.name != split[0]]
        first = labels_of(readings, split[:1])[0]
        choices += [LINE] * bool(seconds)
        choices += [
            Choice(
                f"{first}, and {c.label} in colour",
                f"Split by {first} and {c.label}",
                split_by(recipe, split[0], c.name),
                split == [split[0], c.name],
            )
            for c in seconds
        ]
    if len(split) > 1:
        first, second = labels_of(readings, split)
        words = f"swap: {second}, and {first} in colour"
        choices += [LINE, Choice(words, f"Swap {first} and {second}", swapped(recipe))]
    return choices


SPLIT = Phrase("split", "Groups", "Ctrl+2", _said_split, alternatives=_factors, parts=("lane",))


def arrangements(readings: Readings) -> list[tuple[Arrange, str, Recipe, str]]:
    """The arrangements of a figure's groups: name, words, the figure so arranged, and why not.

    Where one cannot be had as things are, the last is a sentence that tells why.
    """
    recipe, plan = readings.recipe, readings.plan
    groups = len(plan.within[-1].levels) if plan.within else 1
    texts: dict[Arrange, str] = {
        "overlaid": "overlaid, one over another",
        "stacked": "stacked, so that heights add up",
        "side-by-side": "side by side within each bin",
        "back-to-back": "back to back, to both sides of one axis",
        "lanes": "in lanes, side by side" if plan.upright else "in lanes, one above another",
    }
    answers = []
    for key, text in texts.items():
        wanted, why = recipe.showing(arrange=key), ""
        if key == "stacked" and readings.scale != "count" and recipe.show.of == "group":
            wanted = wanted.showing(of="all")  # parts of one whole, which add up
        if key in ("stacked", "side-by-side") and not recipe.bins.shared:
            wanted = wanted.binned(recipe.bins.changed(shared=True))
        if not plan.heights and key != "lanes":
            why = "Boxes, violins and points have lanes of their own."
        elif key == "side-by-side" and not {"bars", "outline"} & set(plan.heights):
            why = "Only bars stand side by side within a bin."
        elif key == "back-to-back" and groups != 2:
            why = f"Back to back there is room for two groups, and this figure has {groups:,}."
        answers.append((key, text, wanted, why))
    return answers


def _arrangements(readings: Readings) -> list[Choice]:
    here = readings.plan.arrange
    choices = [
        Choice(text, f"Groups {ARRANGED[key]}", recipe, key == here)
        for key, text, recipe, why in arrangements(readings)
        if not why
    ]
    panels = in_panels(readings)
    if panels is not None:
        choices += [LINE, Choice("in panels, each with axes of its own", *panels)]
    return choices


def in_panels(readings: Readings) -> tuple[str, Recipe] | None:
    """The step that makes panels of the groups, and the figure; None where there are no groups."""
    recipe, split = readings.recipe, readings.recipe.show.split
    if split:
        first = labels_of(readings, split[:1])[0]
        by = tuple(dict.fromkeys((*recipe.panels.by, split[0])))
        if len(by) > 2:
            return None
        return f"Panels by {first}", split_by(recipe, *split[1:]).paneled(by=by)
    if readings.plan.within:
        return "Panels by variable", recipe.paneled(variables=True)
    return None


def _said_arrangement(readings: Readings) -> Said:
    words = ARRANGED[readings.plan.arrange]
    if readings.plan.arrange == "lanes" and len(readings.plan.within) > 1:
        words = "each in a lane of its own"
    before = ", " if _afterwards(readings) or len(readings.plan.within) > 1 else " "
    return Said(before, words)


def _arranges(readings: Readings) -> bool:
    plan = readings.plan
    return bool(plan.within) and (bool(plan.heights) or len(plan.within) < 2)


ARRANGE = Phrase(
    "arrange",
    "Arrangement",
    "Ctrl+L",
    _said_arrangement,
    matters=_arranges,
    alternatives=_arrangements,
    hint="In lanes each group has its own strip along the same axis, and heights share one scale. "
    "More than four groups start in lanes, and so do boxes, violins and points. Of two factors the "
    "first makes the lanes, and the second lies within them.",
)
