"""Curves, boxes and moments of ten million values, and how the cost of a change grows with the
rows."""

import numpy as np
from scipy.stats import gaussian_kde

from benchmarks.timing import Report, seconds, side_by_side
from rhabdos.arrays import FloatArray
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.sample_sets import Cell, SampleSet
from rhabdos.data.samples import Sample
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.comparisons import comparisons
from rhabdos.figure.readings.ladder import ladder
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Compare, Recipe, Show, Sway
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.binning import counts, own_edges
from rhabdos.stats.binomial import binomial_ends
from rhabdos.stats.boxes import box
from rhabdos.stats.density import density
from rhabdos.stats.peaks import slide
from rhabdos.stats.resampling import resampled_quantiles

ROWS = 10_000_000
_KDE_ROWS, _POINTS = 100_000, 512
_DECILES = np.arange(1, 10) / 10


def _compared(report: Report, values: FloatArray) -> None:
    """Six groups compared, and what shades of another sample cost."""
    groups = 6
    rng = np.random.default_rng(3)
    samples = tuple(
        Sample(f"Bay {index}", np.sort(part + index))
        for index, part in enumerate(np.array_split(values, groups))
    )
    bay = CategoryColumn(
        "Bay",
        codes=rng.integers(0, groups, 10).astype(np.int8),
        levels=tuple(f"Bay {index}" for index in range(groups)),
    )
    cells = tuple(Cell(codes=(index,)) for index in range(groups))
    variable = NumberColumn("Shell length", values=values)
    recipe = Recipe(
        show=Show(variables=("Shell length",), split=("Bay",)),
        bins=Bins(width=0.5),
        compare=Compare(reference="Bay 0"),
        sway=Sway(of="sample"),
    )

    def gathered() -> Readings:
        """The same samples, of which nothing is known yet."""
        return read(recipe, SampleSet((variable,), (bay,), cells, samples))

    ours, theirs = side_by_side(lambda: comparisons(gathered()), lambda: np.sort(values), rounds=3)
    report.ratio("six groups compared in all ways", ours, theirs, 1, "numpy.sort of all values")
    counts_of = [counts(sample, own_edges(np.linspace(20, 120, 201))) for sample in samples]

    def shade() -> None:
        """Where another sample would lie, of 200 bins of six groups."""
        for sample, count in zip(samples, counts_of, strict=True):
            binomial_ends(count, sample.n, 0.95)

    shade()
    edges = np.linspace(20, 120, 201)
    ours, theirs = side_by_side(
        shade, lambda: np.histogram(samples[0].run(0, 1_000_000), edges), rounds=5, in_a_row=3
    )
    report.ratio("shades of another sample", ours, theirs, 1, "numpy.histogram of a million values")


def run(report: Report) -> None:
    values = np.random.default_rng(2).normal(70, 11, ROWS)
    sample = Sample("Shell length", np.sort(values))

    few = gaussian_kde(values[:_KDE_ROWS])
    theirs = seconds(lambda: few(np.linspace(20, 120, _POINTS))) * ROWS / _KDE_ROWS
    density(sample, 0.6)
    ours = min(seconds(lambda: density(sample, 0.7)) for _ in range(5))
    report.ratio(
        "a curve for a new bandwidth", ours, theirs, 1 / 1000, "scipy's gaussian_kde, extrapolated"
    )

    ours, theirs = side_by_side(
        lambda: box(sample), lambda: np.percentile(values, [25, 50, 75]), rounds=3, in_a_row=5
    )
    report.ratio("a box with its quartiles", ours, theirs, 1 / 1000, "numpy.percentile")

    variable = NumberColumn("Shell length", values=values)
    recipe = Recipe(show=Show(variables=("Shell length",)), bins=Bins(width=2.0))

    def climb() -> None:
        rungs = ladder(read(recipe, SampleSet((variable,), (), (Cell(),), (sample,))))
        assert len(rungs) == 9

    ours, theirs = side_by_side(climb, lambda: np.histogram(values, 50), rounds=3, in_a_row=5)
    report.ratio("a ladder of 9 widths with their peaks", ours, theirs, 1, "one numpy.histogram")

    _compared(report, values)

    def sort_and_sum() -> None:
        _ = Sample("", np.sort(values)).moments

    ours, theirs = side_by_side(sort_and_sum, lambda: np.sort(values), rounds=3)
    report.ratio("sorting and moments", ours, theirs, 2, "numpy.sort")

    edges = own_edges(np.linspace(20, 120, 201))
    for rows in (10_000, 100_000, 1_000_000, ROWS):
        part = Sample("", np.sort(values[:rows]))
        times = {
            "counts": min(seconds(lambda p=part: counts(p, edges)) for _ in range(7)),
            "curve": min(seconds(lambda p=part: density(p, 0.6)) for _ in range(7)),
            "box": min(seconds(lambda p=part: box(p)) for _ in range(7)),
            "sliding bins": min(seconds(lambda p=part: slide(p, 2.0, 20, 120)) for _ in range(7)),
            "resampled deciles": min(
                seconds(lambda p=part: resampled_quantiles(p, _DECILES, 7, 1)) for _ in range(3)
            ),
        }
        shown = ", ".join(f"{what} {1e6 * time:,.0f} µs" for what, time in times.items())
        report.say(f"{rows:>10,} values: {shown}")
