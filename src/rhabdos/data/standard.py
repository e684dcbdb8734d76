"""Values in standard deviations from their mean."""

import math

import numpy as np
from msgspec import structs

from rhabdos.arrays import IntArray
from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.table import VariableError
from rhabdos.quoting import quoted


def standardised(column: NumberColumn, weights: IntArray | None) -> NumberColumn:
    """A column in standard deviations from its mean, without a unit.

    Parameters
    ----------
    column : NumberColumn
        In any unit.
    weights : array of int, shape (rows,), optional
        How many cases each row stands for.

    Raises
    ------
    VariableError
        Its values do not differ.
    """
    scale, mean, sd = scaled_mean_and_sd(column, weights)
    shown = (column.values / scale - mean) / sd
    if isinstance(column, DateColumn):  # which are numbers now, and no dates any more
        plain = column.name, column.label, "", column.missing_as, column.stood
        return NumberColumn(*plain, values=shown)
    return structs.replace(column, values=shown, unit="", lower=None, upper=None)


def scaled_mean_and_sd(
    column: NumberColumn, weights: IntArray | None
) -> tuple[float, float, float]:
    """The largest size of a value, and the mean and the standard deviation as shares of it, which
    keeps those of very large values from overflowing.

    Parameters
    ----------
    column : NumberColumn
        In any unit.
    weights : array of int, shape (rows,), optional
        How many cases each row stands for.

    Raises
    ------
    VariableError
        Its values do not differ.
    """
    known = ~np.isnan(column.values)
    values = column.values[known]
    scale = float(np.abs(values).max(initial=0.0)) or 1.0
    cases = np.ones(len(values)) if weights is None else weights[known].astype(np.float64)
    total = cases.sum()
    mean = float((values / scale) @ cases / total) if total else 0.0
    away = values / scale - mean
    variance = float((away * away) @ cases / (total - 1)) if total > 1 else 0.0
    if not variance > 0:
        raise VariableError(
            f"{quoted(column.name)} cannot be standardised: its values do not differ. Take it out, "
            "or show the values as they are."
        )
    return scale, mean, math.sqrt(variance)
