"""What a hand does to bins: each gesture turns edges into the bins of a new recipe."""

import math
from decimal import Decimal

from rhabdos.figure.readings.even_bins import even_edges
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.binning import Edges
from rhabdos.stats.boxes import Box
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rounding import exponent_of, multiple_below, nearest_round_step

_STEPS_PER_WIDTH = 40  # to which the start of bins snaps while a hand moves it
_FINEST = 5e-324  # the smallest number above 0
_LIMIT_PIXELS = 6.0  # to which limits of axes snap
_REACH_STEP, _FINEST_REACH = 0.05, 0.01  # multiples of the IQR
MOST_DRAGGED = 200  # bins that a hand makes; narrower ones are typed
_COUNTS_TRIED = 4  # counts near the wished one that are looked at for round edges
_FURTHEST_STEPS = 1e14  # from where on a step is lost beside a value


def width_dragged(edges: Edges, sample: Ordered, tab: int, value: float, per_pixel: float) -> Bins:
    """The width with which edge number ``tab`` (from 1) comes to lie at ``value``, the start
    staying.

    Parameters
    ----------
    per_pixel : float
        What one pixel stands for, in the variable's unit; widths are rounded no finer than it makes
        sense.
    """
    current = edges.width or float(edges.widths.mean())
    step = _step(max(per_pixel / tab, current / _STEPS_PER_WIDTH), sample)
    width = max(step, _snapped((value - edges.low) / tab, step))
    return _equal(edges.low, width, sample, edges)


def even_dragged(edges: Edges, sample: Ordered, tab: int, value: float) -> Bins:
    """As many bins equal in logs, or along another axis, as bring edge number ``tab`` (from 1) next
    to ``value``.

    Parameters
    ----------
    edges : Edges
        The bins that there are.
    sample : Ordered
        All values that are shown, in the variable's unit.
    tab : int
        The edge that is held, from 1.
    value : float
        Where the hand is.
    """
    axis = _axis_of(edges)
    reached = axis.place(value) - axis.place(edges.low) if value > edges.low else 0.0
    if not reached:
        return _even(MOST_DRAGGED, edges)
    most = max(MOST_DRAGGED, edges.count)
    # Whole at first, since halves would be rounded to even numbers alone.
    wanted = math.floor(min(most, edges.count * edges.step * tab / reached))

    def away(bins: Bins) -> float:
        """How far the edge lies from the hand on the axis: the edges are rounded anew."""
        values = even_edges(bins, sample, axis).edges.values
        return abs(axis.place(float(values[tab])) - axis.place(value))

    near = sorted(range(-_COUNTS_TRIED, _COUNTS_TRIED + 1), key=abs)  # at a tie, the first
    return min((_even(max(tab, wanted + more), edges) for more in near), key=away)


def even_shifted(edges: Edges, start: float, end: float) -> Bins:
    """All edges of bins equal along an axis moved as far on it as from one value to another: from
    now on, edges of their own.

    Parameters
    ----------
    edges : Edges
        The bins that there are.
    start, end : float
        Where the hand took hold, and where it is.
    """
    axis = _axis_of(edges)
    if not (axis.admits(start) and axis.admits(end) and math.isfinite(end)):
        start = end = 1.0
    return _moved_along(edges, axis.place(end) - axis.place(start))


def _moved_along(edges: Edges, by: float) -> Bins:
    axis = _axis_of(edges)
    places = axis.placed(edges.values) + by
    if axis.kind == "root":  # which begins at 0
        places = places - min(0.0, float(places[0]))
    return _own([float(f"{edge:.4g}") for edge in axis.values(places).tolist()], edges)


def _axis_of(edges: Edges) -> AxisScale:
    assert edges.along is not None
    return edges.along


def _even(count: float, edges: Edges) -> Bins:
    count = min(max(1, round(count)), max(MOST_DRAGGED, edges.count))
    logs = True if _axis_of(edges).log else None  # along another axis they lie unasked
    return Bins(count=count, logs=logs, closed=edges.closed)


def width_stepped(edges: Edges, sample: Ordered, steps: int) -> Bins:
    """The width made larger (or smaller, for negative steps) by a little that shows; of bins equal
    along an axis, one less or more.

    Parameters
    ----------
    edges : Edges
        The bins that there are.
    sample : Ordered
        All values that are shown, in the variable's unit.
    steps : int
        How often a key was pressed; negative for narrower bins.
    """
    if edges.along is not None:
        return _even(edges.count - steps, edges)
    current = edges.width or float(edges.widths.mean())
    step = _step(current / _STEPS_PER_WIDTH * 2, sample)
    return _equal(edges.low, max(step, _snapped(current + steps * step, step)), sample, edges)


def start_dragged(edges: Edges, sample: Ordered, shift: float, per_pixel: float) -> Bins:
    """All edges moved by ``shift``. Equal bins begin anew below the smallest value, so that none is
    lost.

    Parameters
    ----------
    edges : Edges
        The bins that there are.
    sample : Ordered
        All values that are shown, in the variable's unit.
    shift : float
        How far the hand has moved, in the variable's unit.
    per_pixel : float
        What a pixel stands for at that place, in the variable's unit.
    """
    if edges.width is None:
        step = _step(per_pixel, sample)
        moved = _snapped(shift, step)
        return _own([_tidy(edge + moved, step) for edge in edges.values.tolist()], edges)
    step = _step(max(per_pixel, edges.width / _STEPS_PER_WIDTH), sample)
    # Bins about whole numbers move from one to the next.
    ahead = 0.5 if edges.centred and sample.whole else 0.0
    return _equal(_snapped(edges.low - ahead + shift, step) + ahead, edges.width, sample, edges)


def start_stepped(edges: Edges, sample: Ordered, steps: int) -> Bins:
    """All edges moved by a little that shows."""
    if edges.along is not None:
        return _moved_along(edges, edges.step * 2 * steps / _STEPS_PER_WIDTH)
    width = edges.width or float(edges.widths.min())
    step = _step(width / _STEPS_PER_WIDTH * 2, sample)
    return start_dragged(edges, sample, steps * step, step)


def edge_moved(edges: Edges, sample: Ordered, tab: int, value: float, per_pixel: float) -> Bins:
    """One edge moved alone, as far as its neighbours allow.

    Parameters
    ----------
    edges : Edges
        The bins that there are.
    sample : Ordered
        All values that are shown, in the variable's unit.
    tab : int
        The edge that is held, from 0.
    value : float
        Where the hand is.
    per_pixel : float
        What a pixel stands for at that place, in the variable's unit.
    """
    values = edges.values.tolist()
    step = _step(per_pixel, sample, whole=False)
    moved = _snapped(value, step)
    if tab > 0:
        moved = max(moved, _tidy(values[tab - 1] + step, step))
    if tab < len(values) - 1:
        moved = min(moved, _tidy(values[tab + 1] - step, step))
    low = values[tab - 1] if tab > 0 else -float("inf")
    high = values[tab + 1] if tab < len(values) - 1 else float("inf")
    if low < moved < high:
        values[tab] = moved
    return _own(values, edges)


def edge_stepped(edges: Edges, sample: Ordered, tab: int, steps: int) -> Bins:
    """One edge moved alone by a little that shows.

    Parameters
    ----------
    edges : Edges
        The bins that there are.
    sample : Ordered
        All values that are shown, in the variable's unit.
    tab : int
        The edge that is chosen, from 0.
    steps : int
        Negative to the smaller values.
    """
    beside = edges.widths[max(0, tab - 1) : tab + 1]
    per_pixel = float(beside.min()) / _STEPS_PER_WIDTH * 4
    step = _step(per_pixel, sample, whole=False)
    return edge_moved(edges, sample, tab, float(edges.values[tab]) + steps * step, step)


def bin_split(edges: Edges, position: int) -> Bins:
    """Bin number ``position`` (from 0) cut in the middle."""
    values = edges.values.tolist()
    middle = values[position] / 2 + values[position + 1] / 2
    if (axis := edges.along) is not None:
        ends = axis.place(values[position]), axis.place(values[position + 1])
        middle = axis.value(ends[0] / 2 + ends[1] / 2)
    tidy = float(f"{middle:.12g}")
    if not values[position] < tidy < values[position + 1]:
        tidy = middle
    return _own([*values[: position + 1], tidy, *values[position + 1 :]], edges)


def bin_merged(edges: Edges, tab: int) -> Bins | None:
    """The bins on both sides of an inner edge made one; None where there is nothing to merge."""
    values = edges.values.tolist()
    if not 0 < tab < len(values) - 1:
        return None
    return _own([*values[:tab], *values[tab + 1 :]], edges)


def _own(values: list[float], edges: Edges) -> Bins:
    """Bins with edges of their own; as they were where numbers cannot hold those."""
    try:
        return Bins(edges=tuple(values), closed=edges.closed)
    except ValueError:
        return Bins(edges=tuple(edges.values.tolist()), closed=edges.closed)


def bandwidth_dragged(distance: float, per_pixel: float) -> float:
    """The bandwidth of a kernel whose flank is so far from its middle, where one pixel stands for
    ``per_pixel``.

    Parameters
    ----------
    distance : float
        From the middle of the kernel to the hand, in the variable's unit.
    per_pixel : float
        What a pixel stands for at that place, in the variable's unit.
    """
    step = nearest_round_step(max(per_pixel / 2, _FINEST))
    return max(step, _snapped(distance, step))


def ratio_bandwidth_dragged(decades: float, per_pixel: float) -> float:
    """The same on an axis of logs: the ratio of a kernel whose flank is so many powers of ten from
    its middle."""
    ratio = 10 ** min(max(decades, per_pixel / 2), 300.0)
    # Along an axis of logs a step is a share of the value, never below what doubles tell.
    excess = nearest_round_step(max((10**per_pixel - 1) / 2, 1e-9))
    return max(1 + excess, _snapped(ratio, excess))


def ratio_bandwidth_stepped(bandwidth: float, steps: int) -> float:
    """A ratio made wider (or narrower, for negative steps) by a little that shows."""
    return 1 + bandwidth_stepped(bandwidth - 1, steps)


def bandwidth_stepped(bandwidth: float, steps: int) -> float:
    """A bandwidth made wider (or narrower, for negative steps) by a little that shows."""
    step = nearest_round_step(max(bandwidth / _STEPS_PER_WIDTH * 2, _FINEST))
    return max(step, _snapped(bandwidth + steps * step, step))


def reach_dragged(box: Box, value: float, upper: bool, per_pixel: float) -> float | None:
    """The multiple of the IQR at which whiskers reach up to a value; None where the IQR is 0.

    Parameters
    ----------
    upper : bool
        Whether it is the whisker above the box, or the one below.
    per_pixel : float
        What one pixel stands for, in the variable's unit.
    """
    iqr = box.q3 - box.q1
    if not (iqr > 0 and math.isfinite(iqr)):
        return None
    distance = value - box.q3 if upper else box.q1 - value
    step = nearest_round_step(max(per_pixel / iqr, _FINEST_REACH))
    multiple = _snapped(distance / iqr, step)
    return max(0.0, multiple) if math.isfinite(multiple) else None


def reach_stepped(multiple: float, steps: int) -> float:
    """A reach of whiskers made longer (or shorter, for negative steps) by a little that shows."""
    return max(0.0, float(f"{multiple + steps * _REACH_STEP:.12g}"))


def limit_dragged(value: float, per_pixel: float, axis: AxisScale) -> float:
    """Where an axis ends that a hand has dragged there, as round as a pixel allows.

    Parameters
    ----------
    per_pixel : float
        What one pixel stands for there, in the variable's unit.
    """
    limit = _snapped(value, nearest_round_step(per_pixel * _LIMIT_PIXELS))
    if axis.log and limit <= 0:
        return float(f"{value:.1g}")
    return max(limit, 0.0) if axis.kind == "root" else limit


def place_dragged(value: float, per_pixel: float, low: float, high: float) -> float:
    """A value between two ends as round as a pixel allows.

    Parameters
    ----------
    value : float
        Where the hand is.
    per_pixel : float
        What a pixel stands for at that place, in the variable's unit.
    low, high : float
        The ends that it stays between.
    """
    return min(max(_snapped(value, nearest_round_step(per_pixel)), low), high)


def _equal(start: float, width: float, sample: Ordered, edges: Edges) -> Bins:
    """Equal bins through ``start``, beginning with the bin that holds the smallest value."""
    if not (math.isfinite(width) and math.isfinite(start)):  # past the range of numbers: as it was
        width, start = edges.width or sample.maximum - sample.minimum, edges.low
    away = (sample.minimum - start) / width
    if not abs(away) < _FURTHEST_STEPS:
        return Bins(width=width, closed=edges.closed)
    # Rounding may have taken a value at an edge for one just before it.
    steps = math.floor(away * (1 + 1e-12)) + 1
    first = _along(start, width, steps)
    while first > sample.minimum:
        steps -= 1
        first = _along(start, width, steps)
    if not math.isfinite(first):  # below all numbers
        return Bins(width=width, closed=edges.closed)
    return Bins(width=width, start=first, closed=edges.closed)


def _along(start: float, width: float, steps: int) -> float:
    """Start + steps x width, free of what adding would leave behind."""
    return float(Decimal(repr(start)) + steps * Decimal(repr(width)))


def _step(least: float, sample: Ordered, whole: bool = True) -> float:
    """A round step near ``least``, but no finer than whole numbers where the values are whole."""
    return nearest_round_step(max(least, _FINEST), whole and sample.whole)


def _snapped(value: float, step: float) -> float:
    """The multiple of ``step`` nearest to a value."""
    below = multiple_below(value, step)
    return below if value - below < step / 2 else _tidy(below + step, step)


def _tidy(value: float, step: float) -> float:
    """Take away digits far below the step, which only arithmetic put there."""
    exponent = exponent_of(step) - 6
    if exponent < -300 or not math.isfinite(value) or abs(value) >= _FURTHEST_STEPS * step:
        return value
    if exponent >= 0:
        return float(round(Decimal(repr(value)), -exponent))
    return float(f"{value:.{-exponent}f}")
