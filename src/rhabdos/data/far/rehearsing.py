"""What a figure will ask within cells, found by working it out once on answers that are near, and
fetched at once."""

from collections.abc import Callable

import numpy as np
from msgspec import structs

from rhabdos.arrays import FloatArray
from rhabdos.data.celled import Celled, Cells, Rehearsal
from rhabdos.data.sample_sets import SampleSet

_ROUNDS = 2  # the second finds what the first was a cell off


Wanted = dict[Cells, FloatArray]
"""Where the closed cells begin that are asked for."""


def wanted_by(samples: SampleSet, work: Callable[[SampleSet], object]) -> Wanted:
    """The cells that some work on samples will ask for; nothing is asked yet.

    Parameters
    ----------
    work : callable
        Is given samples that answer nearly right, and whose answers are kept nowhere.
    """
    rehearsals: dict[Cells, Rehearsal] = {}
    played = tuple(
        structs.replace(sample, cells=_of(rehearsals, sample.cells))
        if isinstance(sample, Celled)
        else structs.replace(sample)
        for sample in samples.samples
    )
    if not rehearsals:
        return {}
    work(structs.replace(samples, samples=played, pool=None))
    return {
        cells: np.unique(np.concatenate(rehearsal.wanted))
        for cells, rehearsal in rehearsals.items()
        if rehearsal.wanted
    }


def rehearse(samples: SampleSet, work: Callable[[SampleSet], object]) -> None:
    """Open the cells that some work on samples will ask for, with one question a variable.

    Raises
    ------
    DataChanged
        What is fetched is not what was counted.
    """
    for _ in range(_ROUNDS):
        asked = wanted_by(samples, work)
        for cells, begins in asked.items():
            cells.open_at(begins)
        if not asked:
            return


def _of(rehearsals: dict[Cells, Rehearsal], cells: Cells) -> Rehearsal:
    if cells not in rehearsals:
        rehearsals[cells] = Rehearsal(cells)
    return rehearsals[cells]
