"""A table that is asked where it lies beside the same rows in memory: all answers must agree."""

import math
import time

import numpy as np
import polars as pl
import pytest

from rhabdos.data.far.gathering import gather_far
from rhabdos.data.pooled import Pooled
from rhabdos.data.sample_sets import SampleSet
from rhabdos.errors import Cancelled

_LEVELS = ["Ebba", "Kilen", "Marsund", "rack 10", "rack 2"]


def values_of(kind: str, n: int, chance: np.random.Generator) -> np.ndarray:
    """Values of a shape that cells may find hard."""
    match kind:
        case "decimals" | "decimals in four bytes":
            return np.round(chance.normal(60, 8, n), 1)
        case "large in four bytes":
            return np.round(chance.normal(60, 8, n), 1) * chance.choice(
                [1, 1e9], n, p=[0.999, 0.001]
            )
        case "four bytes":
            return np.exp(chance.normal(0, 3, n))
        case "normal":
            return chance.normal(0, 1, n)
        case "far tails":
            return chance.standard_cauchy(n)
        case "skewed":
            return np.exp(chance.normal(2, 1.5, n))
        case "whole":
            return chance.integers(-1000, 1000, n).astype(float)
        case "thirds":
            return chance.integers(0, 100_000, n) / 7
        case "tiny and none":
            return np.where(chance.random(n) < 0.5, chance.normal(0, 1e-8, n), 0.0)
        case "far from 0":
            return chance.normal(1e9, 1, n)
        case "of any size":
            return np.exp(chance.normal(0, 100, n))
        case "edges of decimals":
            return chance.choice([0.29, 0.57, 0.58, 1.15, 2.3, -0.29, 29.0, 1e308, -1e308], n)
        case "alike":
            return np.full(n, 3.7)
    return chance.choice(np.arange(0, 3, 0.01), n)


KINDS = (
    "decimals", "normal", "far tails", "skewed", "whole", "thirds", "tiny and none", "far from 0",
    "of any size", "edges of decimals", "alike", "steps", "four bytes", "decimals in four bytes",
    "large in four bytes",
)  # fmt: skip


def frame_of(kind: str, n: int, seed: int) -> pl.DataFrame:
    """Rows of a variable "x" and factors, with gaps, NaN and infinities now and then."""
    chance = np.random.default_rng(seed)
    x = values_of(kind, n, chance).astype(float)
    for odd in (np.nan, np.inf, -np.inf):
        if chance.random() < 0.3:
            x[chance.random(n) < 0.05] = odd
    frame = pl.DataFrame(
        {
            "x": x,
            "bay": chance.choice(_LEVELS, n),
            "grade": chance.integers(1, 4, n),
            "sold": chance.random(n) < 0.5,
            "landed": _moments(n, chance),
        }
    )
    if "four bytes" in kind:
        frame = frame.with_columns(pl.col("x").cast(pl.Float32))
    gaps = pl.Series(chance.random(n) < 0.1)
    if chance.random() < 0.5:
        frame = frame.with_columns(
            pl.when(gaps).then(None).otherwise(pl.col("x")).alias("x"),
            pl.when(gaps.reverse()).then(None).otherwise(pl.col("bay")).alias("bay"),
        )
    return frame


def _moments(n: int, chance: np.random.Generator) -> np.ndarray:
    """Any microsecond of some months, and often the first or the last of an hour or a day."""
    hour = 3_600_000_000
    since = chance.integers(0, 10**13, n)
    for share, grain in ((0.2, hour), (0.1, 24 * hour)):
        some = chance.random(n) < share
        since[some] += grain - since[some] % grain - chance.integers(0, 2, int(some.sum()))
    return np.datetime64("2024-01-01T00:00:00", "us") + since.astype("timedelta64[us]")


def assert_same(here: SampleSet, far: SampleSet, seed: int) -> None:
    """All that a sample answers is the same of both."""
    chance = np.random.default_rng(seed)
    assert here.cells == far.cells
    assert [f.levels for f in here.factors] == [f.levels for f in far.factors]
    pairs = zip((*here.samples, here.pooled), (*far.samples, far.pooled), strict=True)
    for sample, other in pairs:
        assert sample.n == other.n
        if not isinstance(sample, Pooled):
            assert (sample.label, sample.missing) == (other.label, other.missing)
        if not sample.n:
            continue
        assert (sample.minimum, sample.maximum) == (other.minimum, other.maximum)
        ranks = chance.integers(0, sample.n, 25)
        values = sample.at(ranks)
        assert np.array_equal(values, other.at(ranks))
        middle = float(sample.at(np.array([sample.n // 2]))[0])
        points = np.concatenate(
            [
                values,
                middle + chance.normal(0, 2, 10),
                np.arange(-3, 3, 0.05),
                np.nextafter(values, 9),
            ]
        )
        for inclusive in (False, True):
            told, asked = (s.below(points, inclusive=inclusive) for s in (sample, other))
            assert np.array_equal(told, asked)
        _assert_near(sample, other)
        start, stop = sorted(chance.integers(0, sample.n + 1, 2).tolist())
        if stop > start:
            room = 1e-9 * sample.moments.norm / math.sqrt(sample.n)
            told, asked = sample.mean_of(start, stop), other.mean_of(start, stop)
            assert math.isclose(told, asked, rel_tol=1e-9, abs_tol=room)


def _assert_near(sample: object, other: object) -> None:
    """Moments agree to the digits that sums of doubles have."""
    told, asked = sample.moments, other.moments
    if not math.isfinite(told.norm):
        return
    room = 1e-9 * told.norm / math.sqrt(sample.n)
    assert math.isclose(told.mean, asked.mean, rel_tol=1e-12, abs_tol=room)
    assert math.isclose(told.norm, asked.norm, rel_tol=1e-9)
    assert math.isclose(told.fourth, asked.fourth, rel_tol=1e-9)
    # A cube root of what nearly cancels has few digits.
    assert math.isclose(told.cube, asked.cube, rel_tol=1e-9, abs_tol=1e-4 * told.fourth)


def stopped(far, after: float) -> float:
    """Seconds until a question that is stopped so many seconds after it was asked ends."""
    begun = time.monotonic()

    def report(_stage, _share):
        if time.monotonic() - begun > after:
            raise Cancelled

    with pytest.raises(Cancelled):
        gather_far(far, ("x",), report=report)
    return time.monotonic() - begun
