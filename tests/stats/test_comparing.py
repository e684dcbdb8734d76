"""Comparisons with a reference, against SciPy, closed forms and counting by hand."""

import functools
import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import optimize
from scipy import stats as scipy_stats

from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.recipe.recipe import Compare
from rhabdos.stats.density import density
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.resampling import resampled_quantiles
from rhabdos.stats.two_samples import comparing
from rhabdos.stats.two_samples.comparing import (
    iqr_ratio,
    least_for_interval,
    mean_difference,
    overlap,
    quantile_differences,
    quantile_interval,
    sd_ratio,
)
from rhabdos.stats.two_samples.exceedance import ahead, exceedance
from rhabdos.stats.two_samples.shifting import shift
from tests.conftest import asking, sample_of, set_of

lists = st.lists(st.integers(-50, 50).map(lambda k: k / 2), min_size=1, max_size=25)
spread = st.lists(st.integers(-50, 50).map(lambda k: k / 2), min_size=3, max_size=25).filter(
    lambda v: len(set(v)) > 1
)


@given(spread, spread, st.sampled_from([0.8, 0.95, 0.99]))
def test_the_difference_of_means_is_welchs(ours, theirs, confidence):
    found = mean_difference(sample_of(ours), sample_of(theirs), confidence)
    known = scipy_stats.ttest_ind(ours, theirs, equal_var=False).confidence_interval(confidence)
    assert found.value == pytest.approx(np.mean(ours) - np.mean(theirs), abs=1e-9)
    assert (found.low, found.high) == pytest.approx((known.low, known.high), rel=1e-8, abs=1e-8)


@given(spread, spread)
def test_the_ratio_of_sds_has_the_interval_of_f(ours, theirs):
    found = sd_ratio(sample_of(ours), sample_of(theirs), 0.9)
    ratio = np.std(ours, ddof=1) / np.std(theirs, ddof=1)
    low, high = scipy_stats.f.ppf([0.05, 0.95], len(ours) - 1, len(theirs) - 1)
    assert found.value == pytest.approx(ratio)
    assert (found.low, found.high) == pytest.approx((ratio / high**0.5, ratio / low**0.5), rel=1e-8)


def left_out_exactly(n, m, confidence):
    """How many differences an interval may leave out, by the rank-sum statistic’s own distribution:
    counted, as in Mann and Whitney’s table, group by group of which value comes last."""

    @functools.cache
    def ways(first, second, pairs):
        if pairs < 0:
            return 0
        if first == 0 or second == 0:
            return int(pairs == 0)
        return ways(first - 1, second, pairs - second) + ways(first, second - 1, pairs)

    below, out = 0, -1
    for pairs in range(n * m + 1):
        below += ways(n, m, pairs)
        if 2 * below / math.comb(n + m, n) > (1 - confidence) * (1 + 1e-12):
            return out
        out = pairs
    return out


@pytest.mark.parametrize(
    ("n", "m", "out"), [(3, 3, -1), (4, 4, 0), (5, 5, 2), (8, 8, 13), (10, 10, 23), (20, 20, 127)]
)
def test_rank_intervals_of_small_groups_are_as_in_published_tables(n, m, out):
    # Critical values of U at 5 %, two-sided (Mann and Whitney 1947; Milton 1964).
    assert left_out_exactly(n, m, 0.95) == out
    ours, theirs = np.arange(n) * 1000.0, np.arange(m) * 1.0
    found = shift(sample_of(ours), sample_of(theirs), 0.95)
    differences = sorted(a - b for a, b in itertools.product(ours, theirs))
    if out < 0:
        assert math.isnan(found.high)
        assert "90 % at most" in found.lack
    else:
        assert found.low == differences[out]
        assert found.high == differences[-1 - out]


@given(lists, lists)
def test_the_shift_is_the_median_of_all_differences(ours, theirs):
    found = shift(sample_of(ours), sample_of(theirs), 0.95)
    differences = sorted(a - b for a, b in itertools.product(ours, theirs))
    assert found.value == pytest.approx(np.median(differences), abs=1e-9)
    n, m = len(ours), len(theirs)
    _, tied = np.unique(ours + theirs, return_counts=True)
    variance = n * m / 12 * (n + m + 1 - sum(t**3 - t for t in tied) / ((n + m) * (n + m - 1)))
    out = left_out_exactly(n, m, 0.95)
    assert out <= max(0, n * m / 2 - scipy_stats.norm.ppf(0.975) * math.sqrt(variance) + 1)
    if out < 0:
        assert math.isnan(found.low)
        assert f"Groups of {n} and {m} have a rank interval of" in found.lack
    else:
        assert (found.low, found.high) == pytest.approx(
            (differences[out], differences[-1 - out]), abs=1e-9
        )


far = st.integers(-20, 20).map(lambda k: 10.0**15 + k)
tiny = st.sampled_from([0.1, 0.2, 0.3, 1 / 3, 5e-324, -5e-324, 1e-300, 1e300, 7.0])


@pytest.mark.parametrize("numbers", [far, tiny, st.floats(-1e12, 1e12)])
@given(st.data())
def test_the_shift_is_exactly_one_of_the_differences_or_the_mean_of_two(numbers, data):
    ours, theirs = (data.draw(st.lists(numbers, min_size=1, max_size=20)) for _ in range(2))
    differences = sorted(a - b for a, b in itertools.product(ours, theirs))
    low, high = differences[(len(differences) - 1) // 2], differences[len(differences) // 2]
    assert shift(sample_of(ours), sample_of(theirs), 0.95).value == (low + high) / 2


def test_the_shift_of_values_near_the_largest_is_between_the_middle_two():
    estimate = shift(sample_of([1.0e308, 1.2e308]), sample_of([0.0]), 0.5)
    assert estimate.value == pytest.approx(1.1e308)


def test_the_shift_of_many_pairs_is_exact_too():
    rng = np.random.default_rng(2)
    ours, theirs = 1e15 + rng.integers(-300, 300, 1200), 1e15 + rng.integers(-280, 300, 1100)
    differences = np.sort((ours[:, None] - theirs[None, :]).ravel())
    middle = len(differences) // 2
    found = shift(sample_of(ours), sample_of(theirs), 0.95)
    assert found.value == (differences[middle - 1] + differences[middle]) / 2
    assert {found.low, found.high} <= set(differences.tolist())


def test_nothing_shifts_among_many_equal_values():
    found = shift(sample_of(np.zeros(333_333)), sample_of(np.zeros(100_000)), 0.95)
    assert (found.value, found.low, found.high) == (0, 0, 0)


def test_long_samples_are_thinned_and_keep_the_shift():
    rng = np.random.default_rng(8)
    ours, theirs = rng.normal(3, 1, 120_000), rng.normal(1, 1, 90_000)
    found = shift(sample_of(ours), sample_of(theirs), 0.95)
    assert found.value == pytest.approx(2, abs=0.02)
    assert found.low < found.value < found.high
    assert found.high - found.low == pytest.approx(
        2 * 1.96 * math.sqrt(1 / 120_000 + 1 / 90_000), rel=0.1
    )


@given(lists, lists)
def test_the_chance_to_exceed_counts_all_pairs_and_halves_ties(ours, theirs):
    found = ahead(sample_of(ours), sample_of(theirs))
    pairs = list(itertools.product(ours, theirs))
    assert found.exceeds == pytest.approx(
        sum((a > b) + (a == b) / 2 for a, b in pairs) / len(pairs)
    )
    assert found.level == pytest.approx(sum(a == b for a, b in pairs) / len(pairs))
    assert found.delta == pytest.approx(
        sum((a > b) - (a < b) for a, b in pairs) / len(pairs), abs=1e-12
    )
    assert found.exceeds == pytest.approx(
        scipy_stats.mannwhitneyu(ours, theirs).statistic / len(pairs)
    )


@pytest.mark.filterwarnings("ignore::RuntimeWarning")  # of its p value, which nobody asked for
@given(lists, lists)
def test_the_distance_of_the_ecdfs_is_that_of_kolmogorov_and_smirnov(ours, theirs):
    found = ahead(sample_of(ours), sample_of(theirs))
    known = scipy_stats.ks_2samp(ours, theirs, method="asymp")
    assert found.distance == pytest.approx(known.statistic)
    at = abs(np.mean(np.array(ours) <= found.at) - np.mean(np.array(theirs) <= found.at))
    assert at == pytest.approx(found.distance)


@pytest.mark.parametrize("apart", [0.0, 0.5, 1.0, 2.0, 6.0])
def test_the_overlap_of_two_normal_shapes_is_that_of_the_closed_form(apart):
    grid = scipy_stats.norm.ppf((np.arange(4000) + 0.5) / 4000)
    first, second = (density(sample_of(grid + move), 0.05) for move in (0, apart))
    assert overlap(first, second) == pytest.approx(2 * scipy_stats.norm.cdf(-apart / 2), abs=2e-3)


@pytest.mark.parametrize("definition", [1, 2, 6, 7])
@pytest.mark.parametrize("values", [[1.0], [1.0, 5.0], [1.0, 2.0, 4.0], [1.0, 2.0, 2.0, 7.0, 9.0]])
def test_resampled_quantiles_are_distributed_as_over_all_resamples(values, definition):
    shares = np.array([0.25, 0.5, 0.75])
    every = [
        tuple(quantiles(sample_of(resample), shares, definition).round(9))
        for resample in itertools.product(values, repeat=len(values))
    ]
    drawn = [
        tuple(row)
        for row in resampled_quantiles(sample_of(values), shares, definition, 3, 20_000).round(9)
    ]
    for outcome in set(every) | set(drawn):
        exact = every.count(outcome) / len(every)
        assert drawn.count(outcome) / len(drawn) == pytest.approx(
            exact, abs=4.5 * math.sqrt(0.25 / 20_000)
        )


def test_ratios_of_iqr_have_the_intervals_of_resampling_in_earnest():
    rng = np.random.default_rng(9)
    ours, theirs = rng.gamma(3, 2, 150), rng.gamma(2, 2, 120)
    ratio = iqr_ratio(sample_of(ours), sample_of(theirs), 7, 0.95, seed=1)
    assert ratio.value == pytest.approx(scipy_stats.iqr(ours) / scipy_stats.iqr(theirs))
    spreads = [scipy_stats.iqr(rng.choice(one, (8000, len(one))), axis=1) for one in (ours, theirs)]
    low, high = np.quantile(spreads[0] / spreads[1], [0.025, 0.975])
    assert (ratio.low, ratio.high) == pytest.approx((low, high), abs=0.12 * (high - low))


@pytest.mark.parametrize("confidence", [0.8, 0.95, 0.99])
@pytest.mark.parametrize("share", [0.1, 0.3, 0.5, 0.9])
def test_the_interval_of_a_quantile_lies_within_the_binomial_one_and_reaches_its_next_ranks(
    share, confidence
):
    for n in (37, 50, 333, 5_000):
        values = np.sort(np.random.default_rng(n).gamma(2, 3, n))
        low, high = quantile_interval(sample_of(values), share, confidence)
        if n < least_for_interval(share, confidence):
            continue
        tail = (1 - confidence) / 2
        # Ranks of the exact interval: those between which the binomial leaves at most a tail out.
        first = int(scipy_stats.binom.ppf(tail, n, share))
        last = int(scipy_stats.binom.ppf(1 - tail, n, share)) + 1
        assert values[max(first - 1, 0)] <= low <= values[first]
        assert values[last - 2] <= high <= values[min(last - 1, n - 1)]


def test_a_quantile_has_an_interval_from_the_size_at_which_one_exists():
    assert [least_for_interval(p, 0.95) for p in (0.5, 0.1, 0.9)] == [6, 36, 36]
    for share in (0.1, 0.2, 0.5, 0.7):
        for confidence in (0.8, 0.95, 0.99):
            least = least_for_interval(share, confidence)
            tail, outer = (1 - confidence) / 2, max(share, 1 - share)
            assert outer**least <= tail < outer ** (least - 1)
    few, many = sample_of(np.arange(35.0)), sample_of(np.arange(500.0))
    for ours, theirs in ((few, many), (many, few)):
        first, middle = quantile_differences(ours, theirs, np.array([0.1, 0.5]), 7, 0.95)
        assert math.isnan(first.low)
        assert "needs 36 values in either group" in first.lack
        assert middle.low < middle.value < middle.high


COVERED = (
    *((n, m, share) for n, m in ((36, 36), (40, 1_000), (150, 60)) for share in (0.1, 0.9)),
    *((n, m, share) for n, m in ((6, 6), (8, 300), (25, 25)) for share in (0.5,)),
)


@pytest.mark.slow
@pytest.mark.parametrize(("n", "m", "share"), COVERED)
@pytest.mark.parametrize(
    "shape", ["norm", "expon", ("lognorm", 1.0), ("t", 3), ("beta", 0.5, 0.5)], ids=str
)
def test_differences_of_quantiles_are_covered_as_often_as_is_said(shape, n, m, share):
    """300 pairs, of which 95 in 100 should be covered: fewer than 91 % happen once in a thousand."""
    name, *parameters = (shape,) if isinstance(shape, str) else shape
    of = getattr(scipy_stats, name)(*parameters)
    rng = np.random.default_rng([n, m, round(10 * share)])
    covered = 0
    for _ in range(300):
        ours, theirs = of.rvs(n, random_state=rng), 1.5 + 2 * of.rvs(m, random_state=rng)
        (found,) = quantile_differences(
            sample_of(ours), sample_of(theirs), np.array([share]), 7, 0.95
        )
        covered += found.low <= float(of.ppf(share)) * (1 - 2) - 1.5 <= found.high
    assert covered >= 0.91 * 300


@given(spread, spread, st.sampled_from([0.5, 2.0, 8.0]), st.integers(-64, 64))
def test_moving_and_scaling_both_groups_moves_and_scales_what_it_should(ours, theirs, factor, move):
    def of(*values):
        first, second = (sample_of(one) for one in values)
        found = shift(first, second, 0.95)
        return (
            mean_difference(first, second, 0.95),
            found,
            sd_ratio(first, second, 0.95),
            ahead(first, second),
        )

    plain = of(ours, theirs)
    moved = of(*(np.array(one) * factor + move for one in (ours, theirs)))
    for before, after in zip(plain[:2], moved[:2], strict=True):
        for name in ("value", "low", "high"):
            expected = getattr(before, name) * factor
            assert getattr(after, name) == pytest.approx(expected, abs=1e-8, nan_ok=True)
    assert moved[2].value == pytest.approx(plain[2].value)
    assert (moved[3].exceeds, moved[3].distance) == pytest.approx(
        (plain[3].exceeds, plain[3].distance)
    )


@pytest.mark.parametrize("scale", [1e-300, 1e-100, 1e100, 1e300])
def test_comparisons_survive_the_ends_of_the_range(scale):
    rng = np.random.default_rng(2)
    ours, theirs = rng.normal(0, 1, 40), rng.normal(1, 2, 50)
    plain, scaled = ([sample_of(ours * by), sample_of(theirs * by)] for by in (1.0, scale))
    assert sd_ratio(*scaled, 0.95).high == pytest.approx(sd_ratio(*plain, 0.95).high)
    assert mean_difference(*scaled, 0.95).low / scale == pytest.approx(
        mean_difference(*plain, 0.95).low
    )
    assert shift(*scaled, 0.95).low / scale == pytest.approx(shift(*plain, 0.95).low)
    areas = [
        overlap(*(density(one, by / 2) for one in pair))
        for pair, by in ((plain, 1.0), (scaled, scale))
    ]
    assert areas[1] == pytest.approx(areas[0])


@given(lists, lists)
def test_changing_the_roles_turns_the_sign(ours, theirs):
    one, other = (shift(*map(sample_of, pair), 0.95) for pair in ((ours, theirs), (theirs, ours)))
    assert one.value == pytest.approx(-other.value, abs=1e-9)
    assert ahead(sample_of(ours), sample_of(theirs)).delta == pytest.approx(
        -ahead(sample_of(theirs), sample_of(ours)).delta, abs=1e-12
    )


def test_too_few_values_give_a_difference_without_an_interval():
    found = mean_difference(sample_of([5.0]), sample_of([1.0, 2.0]), 0.95)
    assert found.value == 3.5
    assert math.isnan(found.low)
    assert math.isnan(shift(sample_of([5.0]), sample_of([1.0, 2.0]), 0.95).low)
    assert math.isnan(iqr_ratio(sample_of([5.0]), sample_of([1.0, 2.0]), 7, 0.95, 1).low)
    for alone, other in (([5.0], [1.0, 2.0]), ([1.0, 2.0], [5.0])):
        (median,) = quantile_differences(
            sample_of(alone), sample_of(other), np.array([0.5]), 7, 0.95
        )
        assert median.value == np.median(alone) - np.median(other)
        assert math.isnan(median.low)
        assert math.isnan(median.high)
    assert math.isnan(sd_ratio(sample_of([5.0]), sample_of([1.0, 2.0]), 0.95).value)
    assert math.isnan(ahead(sample_of([]), sample_of([1.0])).exceeds)


def test_comparisons_are_printed_for_every_group_but_the_reference():
    samples = set_of([1.0, 2, 3, 4], [2.0, 4, 6, 9], [5.0])
    settings = Compare(reference="B", confidence=0.8)
    recipe = asking().showing(split=("Bay",)).changed(compare=settings)
    found = numbers_data(read(recipe, samples))["comparisons"]
    assert [(one["sample"], one["reference"]) for one in found] == [("A", "B"), ("C", "B")]
    assert found[0]["mean"]["difference"] == -2.75
    assert found[0]["exceeds"]["probability"] == pytest.approx((0 + 0.5 + 1 + 1.5) / 16)
    assert found[1]["mean"]["low"] is None
    assert found[1]["overlap"]["share"] is None
    for one in found:  # a difference that is printed twice has one interval
        (at_half,) = (at for at in one["quantiles"]["at"] if at["share"] == 0.5)
        assert [at_half[part] for part in ("difference", "low", "high")] == [
            one["median"][part] for part in ("difference", "low", "high")
        ]
    assert found[0]["median"]["low"] < found[0]["median"]["difference"] < found[0]["median"]["high"]
    assert found[1]["median"]["low"] is None
    for one in found:
        for name, sentence in comparing.ASSUMES.items():
            assert one[name]["assumes"] == sentence
    assert "significan" not in str(found)
    assert "comparisons" not in numbers_data(read(recipe.changed(compare=None), samples))


@pytest.mark.parametrize(
    ("groups", "reference", "words"),
    [
        (([1.0, 2], [3.0]), "D", "compare.reference is “D”, which is no group"),
        (([1.0, 2], [math.nan]), "B", "“B” has no values"),
        (([1.0, 2],), "A", "needs groups"),
    ],
)
def test_a_reference_that_is_none_is_refused(groups, reference, words):
    split = ("Bay",) if len(groups) > 1 else ()
    recipe = asking().showing(split=split).changed(compare=Compare(reference))
    with pytest.raises(Refusal, match=words):
        numbers_data(read(recipe, set_of(*groups)))


# How sure intervals are


def test_the_interval_of_the_chance_to_exceed_is_that_of_scipys_rank_test():
    rng = np.random.default_rng(3)
    for ours, theirs in (
        (rng.normal(0.4, 2, 30), rng.normal(0, 1, 45)),
        (rng.integers(1, 6, 25) + 0.0, rng.integers(2, 7, 60) + 0.0),
    ):
        first, second = sample_of(ours), sample_of(theirs)
        found = exceedance(first, second, ahead(first, second), 0.9)
        pairs = np.subtract.outer(ours, theirs)
        chance = np.mean(pairs > 0) + np.mean(pairs == 0) / 2
        assert found.value == pytest.approx(chance)
        told = scipy_stats.brunnermunzel(ours, theirs)
        error = abs((chance - 0.5) / told.statistic)

        def beyond(freedom, told=told):
            return 2 * scipy_stats.t.sf(abs(told.statistic), freedom) - told.pvalue

        freedom = optimize.brentq(beyond, 1, 1000)
        odds, reach = np.log(chance / (1 - chance)), scipy_stats.t.ppf(0.95, freedom) * error
        ends = odds + np.array([-1, 1]) * reach / (chance * (1 - chance))
        assert [found.low, found.high] == pytest.approx(
            (1 / (1 + np.exp(-ends))).tolist(), rel=1e-6
        )


def test_there_is_no_such_interval_where_it_would_not_keep_its_word():
    few, many = sample_of([1.0, 5.0, 3.0]), sample_of(np.arange(40.0))
    found = exceedance(few, many, ahead(few, many), 0.95)
    assert math.isnan(found.low)
    assert "10 values in either group; these have 3 and 40" in found.lack
    apart = sample_of(np.arange(100.0, 140.0))
    found = exceedance(apart, many, ahead(apart, many), 0.95)
    assert (found.value, "one order" in found.lack) == (1.0, True)
    nothing = sample_of([])
    assert exceedance(nothing, many, ahead(nothing, many), 0.95).lack == ""


SHAPES = {
    "alike": (lambda r, n: r.normal(0, 1, n), lambda r, n: r.normal(0, 1, n)),
    "far": (lambda r, n: r.normal(2, 1, n), lambda r, n: r.normal(0, 1, n)),
    "wide": (lambda r, n: r.normal(0, 10, n), lambda r, n: r.normal(0, 1, n)),
    "skewed": (lambda r, n: r.lognormal(0.5, 1.5, n), lambda r, n: r.lognormal(0, 1, n)),
    "heavy": (lambda r, n: r.standard_cauchy(n) + 0.5, lambda r, n: r.standard_cauchy(n)),
    "ties": (lambda r, n: r.integers(1, 6, n) + 0.0, lambda r, n: r.integers(2, 7, n) + 0.0),
}


@pytest.mark.parametrize("sizes", [(10, 10), (12, 80), (60, 40)])
@pytest.mark.parametrize("shape", SHAPES)
def test_the_chance_to_exceed_lies_in_its_interval_as_often_as_is_said(shape, sizes):
    ours, theirs = SHAPES[shape]
    far = np.random.default_rng(1)
    x, y = ours(far, 400_000), np.sort(theirs(far, 400_000))
    places = np.searchsorted(y, x, "left") + np.searchsorted(y, x, "right")
    truth = float(np.mean(places / 2 / len(y)))
    rng, held, made = np.random.default_rng(2), 0, 0
    for _ in range(300):
        first, second = sample_of(ours(rng, sizes[0])), sample_of(theirs(rng, sizes[1]))
        found = exceedance(first, second, ahead(first, second), 0.95)
        if not found.lack:
            made += 1
            held += found.low <= truth <= found.high
    assert made > 240
    assert held / made > 0.95 - 3.5 * np.sqrt(0.95 * 0.05 / made)


def test_intervals_that_hold_together_are_those_of_a_surer_each():
    rng = np.random.default_rng(2)
    samples = set_of(*(rng.normal(at, 3, 40).tolist() for at in (10, 11, 14)))
    recipe = asking().showing(split=("Bay",))

    def found(**settings):
        compare = Compare(reference="A", **settings)
        return numbers_data(read(recipe.changed(compare=compare), samples))["comparisons"]

    together, surer = found(together=True, confidence=0.9), found(confidence=0.95)
    assert [one["together"] for one in together] == [True, True]
    for one, other in zip(together, surer, strict=True):
        for name in ("mean", "median", "shift", "sd_ratio", "exceeds"):
            assert one[name] == other[name]


def test_intervals_that_hold_together_do_so_as_often_as_is_said():
    """Of 300 times four groups and a reference of one shape, all four intervals of the medians hold."""
    rng = np.random.default_rng(17)
    hold = 0
    for _ in range(300):
        samples = [sample_of(rng.gamma(2, 2, n)) for n in (30, 30, 50, 20, 40)]
        each = [
            quantile_differences(one, samples[0], np.array([0.5]), 7, 1 - 0.05 / 4)[0]
            for one in samples[1:]
        ]
        hold += all(estimate.low <= 0 <= estimate.high for estimate in each)
    assert hold >= 0.92 * 300


def test_of_long_samples_some_stand_for_all_and_the_shares_are_those_of_all():
    rng = np.random.default_rng(23)
    first, second = rng.normal(0, 1, 1_200_000), rng.normal(0.4, 1.5, 1_100_000).round(1)
    found = ahead(sample_of(first), sample_of(second))
    below = np.sort(second).searchsorted(np.sort(first))
    assert found.above == pytest.approx(below.mean() / len(second), abs=1e-5)
    known = scipy_stats.ks_2samp(first, second)
    assert found.distance == pytest.approx(known.statistic, abs=2e-5)
    assert found.at == pytest.approx(known.statistic_location, abs=0.1)


def test_on_an_axis_of_logs_groups_are_compared_by_ratios():
    rng = np.random.default_rng(29)
    first, second = rng.lognormal(2, 0.5, 80), rng.lognormal(2.4, 0.7, 90)
    samples = set_of(first.tolist(), second.tolist())
    recipe = asking().showing(split=("Bay",)).changed(compare=Compare(reference="A"))
    on_logs = recipe.with_value_axis(scale="log")
    (found,) = numbers_data(read(on_logs, samples))["comparisons"]
    logs = [np.log(values) for values in (second, first)]
    welch = scipy_stats.ttest_ind(*logs, equal_var=False).confidence_interval(0.95)
    assert found["mean"]["ratio"] == pytest.approx(np.exp(logs[0].mean() - logs[1].mean()))
    assert (found["mean"]["low"], found["mean"]["high"]) == pytest.approx(
        (np.exp(welch.low), np.exp(welch.high))
    )
    medians = [np.exp(np.median(values)) for values in logs]
    assert found["median"]["ratio"] == pytest.approx(medians[0] / medians[1])
    assert found["median"]["low"] < found["median"]["ratio"] < found["median"]["high"]
    assert {"share", "ratio", "low", "high"} == set(found["quantiles"]["at"][0])
    (linear,) = numbers_data(read(recipe, samples))["comparisons"]
    assert found["exceeds"] == linear["exceeds"]
    with_zero = set_of([0.0, *first.tolist()], second.tolist())
    (plain,) = numbers_data(read(on_logs, with_zero))["comparisons"]
    assert "difference" in plain["mean"]  # a value without a log has no ratio
