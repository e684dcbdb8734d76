"""What a recipe asks of its bins."""

import math
from typing import Annotated, Self

import numpy as np
from msgspec import Meta

from rhabdos.figure.recipe.recipe_part import Part, Truth, ValuePlace
from rhabdos.stats.axis_scale import ScaleKind
from rhabdos.stats.binning import MOST_BINS, BinningError, Side, own_edges
from rhabdos.stats.calendar import EVERY, Every
from rhabdos.stats.rules import RULES, RuleName

# Each description completes the sentence "… must be" when a recipe is refused.
Rules = Annotated[RuleName, Meta(description=f"{', '.join(list(RULES)[:-1])} or {list(RULES)[-1]}")]
BinCount = Annotated[
    int, Meta(ge=1, le=MOST_BINS, description=f"a whole number from 1 to {MOST_BINS:,}")
]
Width = Annotated[float, Meta(gt=0, description="a finite number above 0")]
EdgeList = Annotated[
    tuple[float, ...],
    Meta(
        description="a list of two or more rising numbers or dates, such as [0, 5, 10], or a text "
        "such as 0 to 60 by 5"
    ),
]
Everies = Annotated[Every, Meta(description=f"{', '.join(list(EVERY)[:-1])} or {list(EVERY)[-1]}")]
Sides = Annotated[Side, Meta(description="left or right")]

_WAYS_OF_BINS = ("rule", "count", "width", "edges", "every")


class Bins(Part, frozen=True):
    """How bins are made: one of ``rule``, ``count``, ``width``, ``edges`` and, of dates, ``every``;
    automatic where none is given. ``logs`` makes them equal in logs; where it is not said, they are
    equal along an axis of logs or roots, as long as nothing else is asked of them than a rule or a
    number."""

    rule: Rules | None = None
    count: BinCount | None = None
    width: Width | None = None
    edges: EdgeList | None = None
    every: Everies | None = None
    start: ValuePlace | None = None
    closed: Sides = "left"
    round: Truth = True
    shared: Truth = True
    logs: Truth | None = None

    def __post_init__(self) -> None:
        # A complaint begins with the key that it is about, so that it can be told with its path and
        # value.
        given = [name for name in _WAYS_OF_BINS if getattr(self, name) is not None]
        if len(given) > 1:
            raise ValueError(f"{given[1]}: it excludes {given[0]}; keep one of the two")
        if self.edges is not None and self.start is not None:
            raise ValueError(
                "start: it excludes edges, whose first number is the start; keep one of the two"
            )
        other = next((n for n in ("width", "edges", "every", "start") if getattr(self, n)), None)
        if self.logs and other is not None:
            raise ValueError(f"logs: it excludes {other}; keep one of the two")
        for name in ("width", "start"):
            value = getattr(self, name)
            if value is not None and not math.isfinite(value):
                raise ValueError(f"{name}: it must be a finite number")
        if self.edges is not None:
            try:
                own_edges(np.array(self.edges))
            except BinningError as error:
                raise ValueError(f"edges: {error}") from error

    # Each way of making bins lets go of the others, and keeps the rest.

    def with_rule(self, rule: RuleName) -> Self:
        """Bins by a rule; "automatic" is what no rule means."""
        return self._made_anew(rule=None if rule == "automatic" else rule)

    def with_count(self, count: int) -> Self:
        """So many bins, from where they start now."""
        return self._made_anew(count=count, start=self.start)

    def with_width(self, width: float, start: float | None = None) -> Self:
        """Bins of one width, from a start of its own or from below the smallest value.

        Parameters
        ----------
        width : float
            Above 0, in the variable's unit; of dates in days.
        start : float, optional
            The first edge.
        """
        return self._made_anew(width=width, start=start, round=True)

    def with_edges(self, edges: tuple[float, ...]) -> Self:
        """Bins between these edges."""
        return self._made_anew(edges=edges, round=True)

    def with_every(self, every: Every) -> Self:
        """Bins along the calendar: one a day, a week, a month …"""
        return self._made_anew(every=every)

    @property
    def by_rule(self) -> bool:
        """Whether a rule makes them."""
        return all(getattr(self, name) is None for name in _WAYS_OF_BINS if name != "rule")

    def _made_anew(self, **way: object) -> Self:
        nothing = dict.fromkeys((*_WAYS_OF_BINS, "start"))
        kept = set(way) <= {"rule", "count", "start"}
        start = {"start": None} if self.logs and kept else {}
        return self.changed(**{**nothing, "logs": self.logs if kept else None, **way, **start})

    def in_logs(self, logs: bool) -> Self:
        """Bins equal in logs, as many as there are by a rule or by number; or back."""
        if not logs:
            return self.changed(logs=False)
        return self._made_anew(rule=self.rule, count=self.count).changed(logs=True)

    def along_the_axis(self, kind: ScaleKind) -> Self:
        """Bins equal along an axis of some kind, as many as there are by a rule or by number."""
        if kind in ("log", "linear"):  # whose own bins are equal without being asked
            return self.in_logs(True)
        return self._made_anew(rule=self.rule, count=self.count).changed(logs=None, start=None)

    @property
    def follow_the_axis(self) -> bool:
        """Whether they are equal along an axis of logs or roots: where nothing else is asked than
        a rule or a number."""
        free = all(getattr(self, name) is None for name in ("width", "edges", "every", "start"))
        return self.logs is None and free
