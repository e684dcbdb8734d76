"""The look of a figure as a value: layout is given it, and has no colour of its own."""

from functools import lru_cache

from msgspec import Struct

from rhabdos.scene.palette import GROUPS, HAIRLINE, INK, PAPER, QUIET, RECEDED, group_colours


class Style(Struct, frozen=True):
    """Colours, widths in points and opacities of all that is drawn.

    Attributes
    ----------
    palette : tuple of str
        The colours of the first groups; more of them get colours of their own.
    alone, least_together, together, step : float
        How opaque bars are: one group alone; of several ``together``, less by a ``step`` a group.
    forward : float
        How opaque they are at least where one is brought forward of others.
    """

    paper: str = PAPER
    ink: str = INK
    quiet: str = QUIET
    hairline: str = HAIRLINE
    palette: tuple[str, ...] = GROUPS
    outline: float = 1.0
    fine_outline: float = 0.35
    curve: float = 1.4
    box_line: float = 0.8
    median_line: float = 1.8
    grid_line: float = 0.6
    axis_line: float = 0.8
    alone: float = 0.82
    together: float = 0.25
    step: float = 0.03
    forward: float = 0.5
    least_together: float = 0.09
    curve_fill: float = 0.22
    stacked_fill: float = 0.6
    receded: str = RECEDED
    box_fill: float = 0.42
    point_fill: float = 0.5
    dot: float = 3.4
    point: float = 2.4

    def colours(self, count: int) -> tuple[str, ...]:
        """A colour for each of so many groups, all different."""
        if self.palette is GROUPS or self.palette == GROUPS:
            return group_colours(count)
        return _own_colours(self.palette, count)

    def bar_fill(self, groups: int) -> float:
        """How opaque the bars of a group are, of so many that lie over one another."""
        if groups == 1:
            return self.alone
        return max(self.least_together, self.together - self.step * groups)


HOUSE = Style()


@lru_cache
def _own_colours(palette: tuple[str, ...], count: int) -> tuple[str, ...]:
    if count <= len(palette):
        return palette[:count]
    return palette + group_colours(count + len(palette))[len(palette) : count]
