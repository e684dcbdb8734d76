"""The plan: which lanes and groups a figure has, by names alone, before any value is read."""

from collections.abc import Sequence
from functools import cached_property

from msgspec import Struct

from rhabdos.figure.forms import heights_forms, strip_forms
from rhabdos.figure.recipe import Arrange, Form, Recipe

MOST_OVERLAID = 4  # groups; more of them hide one another, and start in lanes
_MOST_STANDING = 12  # lanes; more of them lie, where their names have room

Levels = tuple[tuple[str, str], ...]
"""Factors and levels that tell a group from all others: (("Bay", "Saltmere"),)."""


class PlannedGroup(Struct, frozen=True):
    """One group: its place among the samples, which is also that of its colour, and its levels."""

    place: int
    label: str
    levels: Levels


class PlannedLane(Struct, frozen=True):
    """A lane along the value axis, and the groups in it; without a label where all are in it."""

    label: str
    levels: Levels
    groups: tuple[PlannedGroup, ...]


class Plan(Struct, frozen=True, dict=True):
    """What stands where.

    Attributes
    ----------
    lanes : tuple of PlannedLane
        From the top down; of a standing figure from left to right.
    arrange : {"overlaid", "lanes"}
        All groups in one lane, or a lane a level.
    upright : bool
        Whether the value axis stands.
    heights, strips : tuple of str
        The forms over an axis of heights, and those in strips of their own.
    """

    lanes: tuple[PlannedLane, ...]
    arrange: Arrange
    upright: bool
    heights: tuple[Form, ...]
    strips: tuple[Form, ...]

    @cached_property
    def groups(self) -> tuple[PlannedGroup, ...]:
        """All groups, by place."""
        every = (group for lane in self.lanes for group in lane.groups)
        return tuple(sorted(every, key=lambda group: group.place))


def plan_of(recipe: Recipe, factor: str | None, labels: Sequence[str]) -> Plan:
    """Plan a figure.

    Parameters
    ----------
    factor : str or None
        What splits it.
    labels : sequence of str
        The factor's levels in order, or the variable's label alone.
    """
    heights, strips = heights_forms(recipe), strip_forms(recipe)
    groups = tuple(
        PlannedGroup(place, label, ((factor, label),) if factor is not None else ())
        for place, label in enumerate(labels)
    )
    arrange = _arrangement(recipe, len(groups) if factor is not None else 1)
    if arrange == "lanes":
        lanes = tuple(PlannedLane(group.label, group.levels, (group,)) for group in groups)
    else:
        lanes = (PlannedLane("", (), groups),)
    upright = recipe.show.upright
    if upright is None:
        upright = not heights and 1 < len(lanes) <= _MOST_STANDING
    return Plan(lanes, arrange, upright, heights, strips)


def _arrangement(recipe: Recipe, groups: int) -> Arrange:
    """Boxes, points and violins have lanes; so do groups too many to lie over one another."""
    if groups == 1:
        return "overlaid"
    if not heights_forms(recipe):
        return "lanes"
    if recipe.show.arrange is not None:
        return recipe.show.arrange
    crowded = groups > MOST_OVERLAID or not recipe.bins.shared
    return "lanes" if crowded or strip_forms(recipe) else "overlaid"
