"""The levels that groups are made of, and what a hand does to them: leave out, order, bring
forward."""

import re
from collections.abc import Mapping

from msgspec import Struct

from rhabdos.data.sample_sets import SampleSet
from rhabdos.figure.planning.ordering import (
    VARIABLE,
    Dimension,
    Level,
    level_without,
    levels_of,
    shown_cells,
    variables_as_levels,
)
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.memo import last_answers
from rhabdos.quoting import brief


def with_renamed(recipe: Recipe, become: Mapping[str, str]) -> Recipe:
    """The same figure where levels are called otherwise: all that names them follows, also within
    the names of groups and panels of several factors and in braces."""

    def renamed(levels: tuple[str, ...]) -> tuple[str, ...]:
        """Each level by its new name, once."""
        return tuple(dict.fromkeys(become.get(level, level) for level in levels))

    def called(name: str) -> str:
        """A level, or several of them."""
        if name in become:
            return become[name]
        return ", ".join(become.get(level, level) for level in name.split(", "))

    def told(text: str) -> str:
        """Words with numbers of levels in braces."""
        return _OF_LEVEL.sub(
            lambda found: f"{found[1]}{become.get(found[2].strip(), found[2])}{found[3]}", text
        )

    groups, words, compare = recipe.groups, recipe.words, recipe.compare
    order = renamed(groups.order) if isinstance(groups.order, tuple) else groups.order
    if compare is not None:
        compare = compare.changed(reference=called(compare.reference))
    texts = {key: told(text) for key in _TEXTS if (text := getattr(words, key))}
    legend = recipe.legend
    return recipe.changed(
        groups=groups.changed(
            order=order, hidden=renamed(groups.hidden), forward=renamed(groups.forward)
        ),
        compare=compare,
        look=recipe.look.changed(colours=with_new_names(recipe.look.colours, become)),
        words=words.changed(
            **texts, names={called(name): told(shown) for name, shown in words.names.items()}
        ),
        legend=legend.changed(title=told(legend.title)) if legend.title else legend,
        text=tuple(
            text.changed(text=told(text.text), panel=called(text.panel) if text.panel else None)
            for text in recipe.text
        ),
        range=tuple(
            kept.changed(
                words=told(kept.words) if kept.words else kept.words,
                panel=called(kept.panel) if kept.panel else None,
            )
            for kept in recipe.range
        ),
    )


def with_new_names(of_levels: Mapping[str, str], become: Mapping[str, str]) -> dict[str, str]:
    """What levels have of their own, by their new names; of levels that come to have one name the
    first keeps it."""
    kept: dict[str, str] = {}
    for level, own in of_levels.items():
        kept.setdefault(become.get(level, level), own)
    return kept


_TEXTS = ("title", "subtitle", "note", "value_axis", "height_axis")
_OF_LEVEL = re.compile(r"((?<!\{)\{[^{}]+? of )([^{}]+)(\}(?!\}))")


class ListedLevel(Struct, frozen=True):
    """A level as a list of groups shows it.

    Attributes
    ----------
    n : int
        Values of it, of all other levels that are shown.
    colour : int or None
        The place of its colour, where colours stand for its factor.
    missing : bool
        Whether it stands for the rows that have no level.
    name : str or None
        What it is called in the data: a variable by its name, where it is listed by its label.
    """

    label: str
    n: int
    shown: bool
    colour: int | None
    forward: bool
    missing: bool = False
    name: str | None = None


class LevelList(Struct, frozen=True):
    """The levels of one factor: those that are shown in their order, then those left out."""

    title: str
    levels: tuple[ListedLevel, ...]


def level_lists(readings: Readings) -> tuple[LevelList, ...]:
    """The levels of every factor that makes groups or panels; kept while only bins change."""
    return _lists(readings.gathered, readings)


@last_answers(
    lambda _, readings: (readings.recipe.show, readings.recipe.panels, readings.recipe.groups)
)
def _lists(_: SampleSet, /, readings: Readings) -> tuple[LevelList, ...]:
    plan = readings.plan
    dimensions = {dimension.name: dimension for dimension in (*plan.within, *plan.paneled)}
    return tuple(_listed(readings, dimension) for dimension in dimensions.values())


def _listed(readings: Readings, dimension: Dimension) -> LevelList:
    shown = list(dimension.levels)
    every = [*shown, *(level for level in _all_levels(readings, dimension) if level not in shown)]
    plan = readings.plan
    coloured = plan.coloured is not None and plan.coloured.name == dimension.name
    forward = set(readings.recipe.groups.forward)
    return LevelList(
        dimension.label,
        tuple(
            ListedLevel(
                level.label,
                _n(readings, dimension, level),
                level in shown,
                level.index if coloured else None,
                bool({level.name, level.label} & forward),
                level.name is None,
                level.name,
            )
            for level in every
        ),
    )


def _all_levels(readings: Readings, dimension: Dimension) -> list[Level]:
    """The levels of a factor, also those that are left out, in the order of the data."""
    gathered = readings.gathered
    if dimension.name == VARIABLE:
        return variables_as_levels(gathered)
    factor = gathered.factor(dimension.name)
    levels = levels_of(factor)
    return [*levels, level_without(factor)] if dimension.total > len(levels) else levels


def _n(readings: Readings, dimension: Dimension, level: Level) -> int:
    """The values of a level, in all groups that would be shown with it."""
    gathered, groups = readings.gathered, readings.recipe.groups
    with_it = groups.changed(
        hidden=tuple(name for name in groups.hidden if name not in (level.name, level.label)),
        missing=groups.missing or level.name is None,
    )
    cells = [
        (gathered.cells[index], gathered.samples[index]) for index in shown_cells(gathered, with_it)
    ]
    if dimension.name == VARIABLE:
        return sum(sample.n for cell, sample in cells if cell.variable == level.code)
    at = [factor.name for factor in gathered.factors].index(dimension.name)
    return sum(sample.n for cell, sample in cells if cell.codes[at] == level.code)


# What a hand does


def brought_forward(recipe: Recipe, label: str, more: bool = False) -> tuple[str, Recipe]:
    """A level brought forward, or put back; ``more`` keeps the others that are.

    Also what the step is called.
    """
    now = recipe.groups.forward
    if more:
        forward = tuple(n for n in now if n != label) if label in now else (*now, label)
    else:
        forward = () if now == (label,) else (label,)
    words = f"Bring {label} forward" if label in forward else "All groups alike"
    return words, recipe.grouped(forward=forward)


def left_out(recipe: Recipe, level: ListedLevel) -> tuple[str, Recipe]:
    """A level left out, or shown again; and what the step is called."""
    words = f"Leave out {level.label}" if level.shown else f"Show {level.label}"
    if level.missing:
        return words, recipe.grouped(missing=not level.shown)
    hidden = tuple(n for n in recipe.groups.hidden if n not in (level.label, level.name))
    # By its name, which no two variables share, as they may a label.
    return words, recipe.grouped(
        hidden=(*hidden, level.name or level.label) if level.shown else hidden
    )


def moved(readings: Readings, label: str, onto: str) -> tuple[str, Recipe] | None:
    """A level moved to the place of another of its factor; None where they have none in common."""
    for listed in level_lists(readings):
        labels = [level.label for level in listed.levels if not level.missing]
        if label in labels and onto in labels and label != onto:
            index = labels.index(onto)
            labels.remove(label)
            labels.insert(index, label)
            return by_hand(readings, {listed.title: labels})
    return None


def by_hand(readings: Readings, orders: dict[str, list[str]]) -> tuple[str, Recipe]:
    """The levels of some factors in an order by hand; all others stay as they are."""
    order: list[str] = []
    for listed in level_lists(readings):
        now = [level.label for level in listed.levels if not level.missing]
        order += orders.get(listed.title, now)
    wanted = readings.recipe.grouped(order=tuple(dict.fromkeys(order)), reverse=False)
    return "Order groups by hand", wanted


def with_own_colour(recipe: Recipe, level: str, colour: str) -> tuple[str, Recipe]:
    """What the step is called, and the figure with a colour of a level's own; its usual one where
    none is given."""
    own = {name: used for name, used in recipe.look.colours.items() if name != level}
    if colour:
        own[level] = colour
    words = f"Colour of {brief(level)}" if colour else f"{brief(level)} in its usual colour"
    return words, recipe.looking(colours=own)
