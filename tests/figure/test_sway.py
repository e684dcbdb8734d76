"""Shades of another sample: as wide as resampling in earnest has them, in every form and arrangement."""

import numpy as np
import pytest
from scipy import stats

from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.lines import curves_of
from rhabdos.figure.forms.read import read
from rhabdos.figure.forms.sway import bar_bands, box_ends, curve_band
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.ladder import slides
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.scene.build import build
from rhabdos.scene.forms.lines import standing
from rhabdos.scene.marks import Area, Text
from rhabdos.stats.binomial import binomial_ends
from rhabdos.stats.kernels import KERNELS, roughness
from tests.conftest import measure, set_of

RNG = np.random.default_rng(31)
ONE = RNG.gamma(4, 3, 400)
OTHER = RNG.normal(15, 4, 150)


def figure(forms, text="", groups=(ONE, OTHER), show="", sway='of = "sample"'):
    split = 'split = ["Bay"]' if len(groups) > 1 else ""
    recipe = read_recipe(
        f'rhabdos = 1\n[show]\nvariables = ["Length"]\n{split}\nforms = {forms}\n{show}\n'
        f"[sway]\n{sway}\n{text}"
    )
    return read(recipe, set_of(*(list(map(float, group)) for group in groups)))


@pytest.mark.parametrize("n", [1, 7, 300, 10_000_000])
@pytest.mark.parametrize("confidence", [0.5, 0.95, 0.99])
def test_counts_vary_as_the_binomial_does(n, confidence):
    counts = np.unique(RNG.integers(0, n + 1, 60))
    low, high = binomial_ends(counts, n, confidence)
    tail = (1 - confidence) / 2
    off = 1 if n > 1_000_000 else 0  # of counts that vary by hundreds
    assert np.abs(low - stats.binom.ppf(tail, n, counts / n)).max() <= off
    assert np.abs(high - stats.binom.ppf(1 - tail, n, counts / n)).max() <= off
    assert [each.tolist() for each in binomial_ends(np.array([0, n]), n, 0.9)] == [[0, n], [0, n]]


def test_counts_of_samples_of_different_sizes_vary_each_as_its_own():
    sizes = np.repeat([1, 9, 40, 300, 90_000], 25)
    counts = RNG.integers(0, np.minimum(sizes, 500) + 1)
    low, high = binomial_ends(counts, sizes, 0.9)
    assert low.tolist() == stats.binom.ppf(0.05, sizes, counts / sizes).tolist()
    assert high.tolist() == stats.binom.ppf(0.95, sizes, counts / sizes).tolist()


@pytest.mark.parametrize("name", KERNELS)
def test_the_roughness_of_kernels(name):
    known = {  # the integral of the square, for kernels of standard deviation 1
        "gaussian": 1 / (2 * np.sqrt(np.pi)),
        "epanechnikov": 3 / 5 / np.sqrt(5),
        "biweight": 5 / 7 / np.sqrt(7),
        "triangular": 2 / 3 / np.sqrt(6),
        "rectangular": 1 / 2 / np.sqrt(3),
        "cosine": np.pi**2 / 16 * np.sqrt(1 - 8 / np.pi**2),
    }
    assert roughness(name) == pytest.approx(known[name], rel=1e-6)


@pytest.mark.parametrize("heights", ["count", "percent", "density"])
def test_bars_sway_as_those_of_resamples_in_earnest(heights):
    readings = figure('["bars"]', "[bins]\nwidth = 3\nstart = 0", show=f'heights = "{heights}"')
    band, of_group = bar_bands(readings)[0], bars(readings)[0]
    rng = np.random.default_rng(4)
    edges = of_group.edges.values
    drawn = np.array([np.histogram(rng.choice(ONE, len(ONE)), edges)[0] for _ in range(4_000)])
    unit = {"count": 1.0, "percent": 100 / len(ONE), "density": 1 / len(ONE) / 3}[heights]
    low, high = np.quantile(drawn, [0.025, 0.975], axis=0) * unit
    assert band.low == pytest.approx(low, abs=1.6 * unit)
    assert band.high == pytest.approx(high, abs=1.6 * unit)


def test_heights_that_add_up_and_ecdfs_sway_as_shares_do():
    readings = figure('["bars", "ecdf"]', "[bins]\nwidth = 3\nstart = 0", show="cumulative = true")
    band = bar_bands(readings)[1]
    rng = np.random.default_rng(4)
    ends = bars(readings)[1].edges.values[1:]
    drawn = np.array(
        [(np.sort(rng.choice(OTHER, len(OTHER)))[:, None] < ends).sum(axis=0) for _ in range(3_000)]
    )
    low, high = np.quantile(drawn, [0.025, 0.975], axis=0)
    assert band.low == pytest.approx(low, abs=1.6)
    assert band.high == pytest.approx(high, abs=1.6)
    curve = curves_of(readings, "ecdf")[0]
    of_curve = curve_band(readings, curve)
    share = curve.y / curve.y.max()
    away = 1.96 * np.sqrt(share * (1 - share) / len(ONE)) * curve.y.max()
    top = curve.y.max()
    assert of_curve.high == pytest.approx(np.minimum(curve.y + away, top), abs=top * 1e-3)
    assert of_curve.low == pytest.approx(np.maximum(curve.y - away, 0), abs=top * 1e-3)


@pytest.mark.parametrize("heights", ["density", "count"])
def test_curves_sway_as_those_of_resamples_in_earnest(heights):
    readings = figure('["curve"]', "[curve]\nbandwidth = 1.5", show=f'heights = "{heights}"')
    curve = curves_of(readings, "curve")[0]
    band = curve_band(readings, curve)
    rng = np.random.default_rng(5)
    at = np.linspace(4, 24, 9)

    def density(values):
        return stats.norm.pdf((at[:, None] - values) / 1.5).mean(axis=1) / 1.5

    drawn = np.array([density(rng.choice(ONE, len(ONE))) for _ in range(1_500)])
    low, high = np.quantile(drawn, [0.025, 0.975], axis=0)
    factor = np.interp(at, curve.x, curve.y) / density(ONE)
    ours = [np.interp(at, curve.x, y) / factor for y in (band.low, band.high)]
    assert ours[0] == pytest.approx(low, abs=0.12 * (high - low).max())
    assert ours[1] == pytest.approx(high, abs=0.12 * (high - low).max())


def test_boxes_have_the_intervals_of_their_quartiles_where_there_are_values_enough():
    readings = figure('["box"]', groups=(ONE, OTHER[:12]))
    rng = np.random.default_rng(6)
    drawn = np.quantile(rng.choice(ONE, (4_000, len(ONE))), [0.25, 0.5, 0.75], axis=1)
    for ends, column in zip(box_ends(readings, 0), drawn, strict=True):
        low, high = np.quantile(column, [0.025, 0.975])
        assert ends == pytest.approx((low, high), abs=0.2 * (high - low))
    few = box_ends(readings, 1)
    assert few[0] is None
    assert few[1] is not None


def test_bins_that_begin_elsewhere_are_those_of_the_slides():
    readings = figure('["bars"]', "[bins]\nwidth = 3", sway='of = "start"')
    slid, band = slides(readings)[1], bar_bands(readings)[1]
    assert band.x.tolist() == slid.x.tolist()
    assert band.high.tolist() == slid.high.tolist()
    assert "shades show how heights sway with the start of the bins" in plain(readings).lower()


@pytest.mark.parametrize("upright", ["false", "true"])
@pytest.mark.parametrize(
    "arrange", ["overlaid", "side-by-side", "lanes", "back-to-back", "stacked"]
)
@pytest.mark.parametrize(
    "forms", ['["bars"]', '["outline"]', '["polygon"]', '["curve"]', '["normal"]', '["ecdf"]']
)
def test_every_form_has_a_shade_a_group_that_reaches_its_heights(forms, arrange, upright):
    readings = figure(forms, show=f'arrange = "{arrange}"\nupright = {upright}')
    scene = build(readings, measure)
    shades = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "sway"]
    assert [shade.meaning.group for shade in shades] == [0, 1]
    across = 0 if upright == "true" else 1
    for shade in shades:
        (heights,) = [
            of
            for lane in scene.frame.lanes
            for of in lane.heights
            if shade.meaning.group in of.groups
        ]
        held = [heights.band.height(float(place)) for place in shade.points[:, across]]
        assert max(held) <= heights.band.tallest + 1e-6
        assert min(held) >= -1e-6
    if forms == '["bars"]':
        top = max(float(band.high.max()) for band in bar_bands(readings))
        assert scene.frame.band.tallest >= top
    notes = [m.text for m in scene.marks if isinstance(m, Text) and m.text.startswith("Shades")]
    assert notes == ["Shades: where 95 % of other samples of this size would lie"]
    assert "shades show where 95 % of other samples would lie" in plain(readings).lower()


def test_points_and_other_starts_of_stacks_have_no_shades():
    start = 'of = "start"'
    for readings in (
        figure('["points"]'),
        figure('["bars"]', show='arrange = "stacked"', sway=start),
        figure('["violin"]', sway=start),
    ):
        scene = build(readings, measure)
        assert not [m for m in scene.marks if m.meaning and m.meaning.part == "sway"]
        assert not [m for m in scene.marks if isinstance(m, Text) and m.text.startswith("Shades")]
        assert "shades" not in plain(readings).lower()


@pytest.mark.parametrize("scale", ["linear", "log"])
@pytest.mark.parametrize("adds_up", [False, True])
def test_normal_curves_sway_as_those_of_resamples_in_earnest(scale, adds_up):
    readings = figure(
        '["normal"]',
        f'[axes.value]\nscale = "{scale}"',
        show=f'heights = "density"\ncumulative = {str(adds_up).lower()}',
    )
    curve = curves_of(readings, "normal")[0]
    band = curve_band(readings, curve)
    rng = np.random.default_rng(7)
    places = np.log10(ONE) if scale == "log" else ONE
    at = np.quantile(ONE, [0.02, 0.2, 0.4, 0.6, 0.8, 0.98])
    here = np.log10(at) if scale == "log" else at

    def normal(values):
        shape = stats.norm.cdf if adds_up else stats.norm.pdf
        return shape(here, values.mean(), values.std(ddof=1))

    drawn = np.array([normal(rng.choice(places, len(ONE))) for _ in range(3_000)])
    low, high = np.quantile(drawn, [0.025, 0.975], axis=0)
    ours = [np.interp(at, band.x, y) for y in (band.low, band.high)]
    assert ours[0] == pytest.approx(low, abs=0.12 * (high - low).max())
    assert ours[1] == pytest.approx(high, abs=0.12 * (high - low).max())


@pytest.mark.parametrize("heights", ["count", "percent"])
def test_the_tops_of_stacks_sway_as_sums_of_resamples_in_earnest(heights):
    readings = figure(
        '["bars"]',
        "[bins]\nwidth = 3\nstart = 0",
        show=f'heights = "{heights}"\narrange = "stacked"',
    )
    edges, rng = bars(readings)[0].edges.values, np.random.default_rng(8)
    units = [1.0, 1.0] if heights == "count" else [100 / len(ONE), 100 / len(OTHER)]
    drawn = np.array(
        [
            sum(
                np.histogram(rng.choice(values, len(values)), edges)[0] * unit
                for values, unit in zip((ONE, OTHER), units, strict=True)
            )
            for _ in range(3_000)
        ]
    )
    low, high = np.quantile(drawn, [0.025, 0.975], axis=0)
    band = bar_bands(readings)[1]
    assert band.low == pytest.approx(low, abs=2.2 * max(units))
    assert band.high == pytest.approx(high, abs=2.2 * max(units))
    # The lowest part sways by itself.
    (alone,) = bar_bands(
        figure('["bars"]', "[bins]\nwidth = 3\nstart = 0", (ONE,), f'heights = "{heights}"')
    )
    shared = len(alone.low)
    if np.array_equal(alone.x, edges[: shared + 1]):
        assert bar_bands(readings)[0].high[:shared] == pytest.approx(alone.high)


def test_stacked_curves_sway_by_as_much_as_their_parts_do_together():
    show = 'heights = "count"'
    apart = figure('["curve"]', show=show + '\narrange = "overlaid"')
    stacked = figure('["curve"]', show=show + '\narrange = "stacked"')
    first, second = standing(stacked, "curve", (0, 1))
    own = [(c, curve_band(apart, c)) for c in curves_of(apart, "curve")]
    at = np.linspace(5, 22, 12)
    up = np.hypot(*(np.interp(at, b.x, b.high) - np.interp(at, c.x, c.y) for c, b in own))
    top = sum(np.interp(at, c.x, c.y) for c, _ in own)
    low, high = second.sway
    assert np.interp(at, high.x, high.y) == pytest.approx(top + up, rel=1e-2)
    assert np.all(np.interp(at, low.x, low.y) < top)
    assert np.interp(at, first.sway[1].x, first.sway[1].y) == pytest.approx(
        np.interp(at, own[0][1].x, own[0][1].high), rel=1e-2
    )


def test_both_sides_of_a_violin_have_a_shade_as_wide_as_the_curves():
    readings = figure('["violin"]', show="upright = false")
    scene = build(readings, measure)
    curve = curves_of(readings, "violin")[1]
    band = curve_band(readings, curve)
    shades = [
        m
        for m in scene.marks
        if isinstance(m, Area) and m.meaning.part == "sway" and m.meaning.group == 1
    ]
    assert len(shades) == 2
    (strip,) = [s for lane in scene.frame.lanes for s in lane.strips if s.group == 1]
    reach = [abs(shade.points[:, 1] - strip.band.middle).max() for shade in shades]
    assert reach[0] == pytest.approx(reach[1])
    highest = max(curve_band(readings, c).high.max() for c in curves_of(readings, "violin"))
    expected = band.high.max() / highest * strip.band.thickness / 2
    assert reach[0] == pytest.approx(expected, rel=2e-2)


def shoelace(points):
    x, y = points.T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


@pytest.mark.parametrize(
    ("show", "bars_"),
    [
        ('arrange = "side-by-side"', ""),
        ('arrange = "side-by-side"', "gap = 0.4"),
        ('arrange = "overlaid"', "gap = 0.4"),
        ('arrange = "lanes"', "gap = 0.25"),
        ('arrange = "stacked"', "gap = 0.25"),
    ],
)
def test_between_bars_that_do_not_touch_nothing_is_shaded(show, bars_):
    readings = figure('["bars"]', f"[bins]\nwidth = 3\n[bars]\n{bars_}", show=show)
    scene = build(readings, measure)
    for group in (0, 1):
        (fill,) = of_part(scene, "bars", group)
        (shade,) = of_part(scene, "sway", group)
        lefts, rights = (shade.bars[:, (0, 2)].min(axis=1), shade.bars[:, (0, 2)].max(axis=1))
        own = np.sort(fill.bars[:, (0, 2)], axis=1)
        nearest = np.abs(own[:, :1] - lefts).argmin(axis=1)
        np.testing.assert_allclose(own, np.column_stack([lefts, rights])[nearest], atol=1e-6)
        tall = np.abs(shade.bars[:, 3] - shade.bars[:, 1])
        assert shoelace(shade.points) == pytest.approx(float(tall @ (rights - lefts)))


def of_part(scene, part, group):
    marks = [m for m in scene.marks if isinstance(m, Area)]
    return [m for m in marks if (m.meaning.part, m.meaning.group) == (part, group)]


def test_the_numbers_print_the_shades():
    rows = numbers_data(figure('["bars", "curve"]', "[bins]\nwidth = 3"))["sway"]
    assert [(row["sample"], row["form"]) for row in rows] == [
        ("A", "bars"), ("B", "bars"), ("A", "curve"), ("B", "curve"),
    ]  # fmt: skip
    assert len(rows[0]["x"]) == len(rows[0]["low"]) + 1
    assert "sway" not in numbers_data(figure('["bars"]', sway=""))


@pytest.mark.parametrize(
    ("typed", "share"), [("95", 0.95), ("0.5 %", 0.005), ("", 0.95), ("99.9", 0.999)]
)
def test_the_share_of_other_samples_is_typed_in_percent(typed, share):
    readings = figure('["bars"]')
    setting = next(s for s in PHRASES["sway"].settings if s.label.startswith("Share"))
    assert setting.read(typed, readings) == share


@pytest.mark.parametrize("typed", ["0", "100", "-5", "most"])
def test_what_is_no_share_is_refused(typed):
    readings = figure('["bars"]')
    setting = next(s for s in PHRASES["sway"].settings if s.label.startswith("Share"))
    with pytest.raises(Refusal):
        setting.read(typed, readings)
