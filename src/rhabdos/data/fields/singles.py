"""Numbers that are kept in single precision, four bytes each, where 40.3 is 40.29999923706055."""

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    import polars as pl

_LOOKED_AT = 2_000  # values, of which is told how they were written


def of_few_digits(series: "pl.Series") -> bool:
    """Whether values in single precision are decimals of at most six digits, as people write and
    instruments round them; told of some at evenly spaced rows.

    Parameters
    ----------
    series : Series
        Of single precision.
    """
    known = series.drop_nulls()
    values = known.gather_every(max(1, len(known) // _LOOKED_AT)).to_numpy()
    values = values[np.isfinite(values)]
    # Six digits come back from four bytes as they were written, whatever they are.
    written = np.array([f"{value:.6g}" for value in values.tolist()], dtype=np.float64)
    return bool(len(values)) and np.array_equal(written.astype(np.float32), values)


def doubles_of(series: "pl.Series") -> "pl.Series":
    """Values in single precision as doubles: decimals of few digits as those that are written
    alike, so that 40.3 lies at the edge 40.3 and not below it.

    Parameters
    ----------
    series : Series
        Of single precision.
    """
    import polars as pl

    whole = bool((series == series.floor()).all())  # which are the same in any precision
    if whole or not of_few_digits(series):
        return series.cast(pl.Float64)
    return series.cast(pl.String).cast(pl.Float64)
