"""What a figure will ask within cells, fetched at once: quartiles, fences, trimmed means, and the
distances that a MAD stands for."""

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.data.celled import Celled, Cells
from rhabdos.data.pooled import Pooled
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.summary import TRIMMED

_SHARES = (0.25, 0.5, 0.75)  # the quantiles that a first figure needs
_FENCES = (1.5, 3.0)  # interquartile ranges from the quartiles, as boxes have them unless asked
_PARTS, _ROUNDS = np.arange(1, 64) / 64, 10  # of a stretch that is searched, and how often
_FARTHEST = 8e307  # half of what doubles reach, so that twice of it is one still


def foresee(cells: Cells, samples: list[Celled]) -> None:
    """Open the cells about all places that a figure will ask for whatever it shows.

    What it asks for beyond them is fetched when it is asked.

    Raises
    ------
    DataChanged
        What is fetched is not what was counted.
    """
    whole: list[Ordered] = [*samples]
    if len(samples) > 1:
        whole.append(Pooled(tuple(samples)))
    points = [_places(sample) for sample in whole if sample.n]
    if points:
        every = np.unique(np.concatenate(points))
        cells.open_at(cells.cells_at(every, inclusive=False, ends=True))


def _places(sample: Ordered) -> FloatArray:
    """Values near which a figure asks, as far as they are known now."""
    n = sample.n
    cut = int(np.floor(TRIMMED * n))
    near = [np.floor((n - 1) * share) + step for share in _SHARES for step in (0, 1)]
    ranks = np.array([*near, cut - 1, cut, n - cut - 1, n - cut])
    at = sample.about_at(np.clip(ranks, 0, n - 1).astype(np.int64))
    low, median, high = at[0], at[2], at[4]
    fences = [
        end for far in _FENCES for end in (low - far * (high - low), high + far * (high - low))
    ]
    away = _half_away(sample, float(median))
    return np.array([*at, *fences, median - away, median + away])


def _half_away(sample: Ordered, centre: float) -> float:
    """About how far from the centre half of the values lie."""
    near, far = 0.0, min(max(sample.maximum - centre, centre - sample.minimum), _FARTHEST)
    for _ in range(_ROUNDS):  # of many places at once, which take hardly longer than one
        away = near + (far - near) * _PARTS
        below = sample.about_below(np.concatenate([centre - away[::-1], centre + away]))
        within = below[len(away) :] - below[: len(away)][::-1]
        at = int(np.searchsorted(within, sample.n / 2))
        near = near if at == 0 else float(away[at - 1])
        far = far if at == len(away) else float(away[at])
    return far
