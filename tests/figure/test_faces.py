"""What the foot of the window lists, against NumPy and SciPy."""

import numpy as np
import pytest
from scipy import stats

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.faces import bins_face, compare_face, quantiles_face, summary_face
from rhabdos.figure.output.rows_face import rows_face
from rhabdos.figure.readings.axis_limits import beyond_limits
from rhabdos.figure.recipe.recipe import Boxes, Compare, Recipe, Show
from rhabdos.figure.recipe.recipe_axes import Axes, ValueAxis
from rhabdos.figure.recipe.recipe_bins import Bins

RNG = np.random.default_rng(11)
N = 400
CODES = np.arange(N) % 3
VALUES = np.round(RNG.gamma(3.0, 4.0, N) + 5 * (CODES == 1), 2)
VALUES[[7, 20]] = np.nan
CREW = CategoryColumn("Crew", codes=CODES, levels=("Ada", "Bo", "Cy"))
TABLE = Table("t", (NumberColumn("Mass", unit="g", values=VALUES, missing_as={"blank": 2}), CREW))
DATES = Table(
    "t", (DateColumn("Day", values=np.floor(VALUES) + 20_000, missing_as={"blank": 2}), CREW)
)


def figure(table=TABLE, split=("Crew",), **more):
    variable = table.columns[0].name
    recipe = Recipe(show=Show(variables=(variable,), split=split), **more)
    return read(recipe, gather(table, variable, *split))


def group(code):
    values = VALUES[code == CODES]
    return values[~np.isnan(values)]


def cells(face, row):
    return dict(zip(face.titles, face.rows[row].cells, strict=True))


def test_the_summary_lists_each_group():
    face = summary_face(figure())
    assert [row.group for row in face.rows] == [0, 1, 2]
    for code in range(3):
        told, values = cells(face, code), group(code)
        assert told["n"].value == len(values)
        assert told["mean"].value == pytest.approx(values.mean())
        assert told["sd"].value == pytest.approx(values.std(ddof=1))
        assert told["Q3"].value == pytest.approx(np.percentile(values, 75))
        assert told["mean"].text == f"{values.mean():.2f}"
    assert sum(cells(face, code)["missing"].value for code in range(3)) == 2


def test_quantiles_are_those_of_numpy_by_every_definition():
    for rule in (7, 6, 1):
        face = quantiles_face(figure(box=Boxes(quartiles=rule)))
        method = {7: "linear", 6: "weibull", 1: "inverted_cdf"}[rule]
        for code in range(3):
            told = cells(face, code)
            for share in (1, 5, 10, 25, 50, 75, 90, 95, 99):
                wanted = np.percentile(group(code), share, method=method)
                assert told[f"{share} %"].value == pytest.approx(wanted)


def test_bins_hold_what_numpy_counts():
    face = bins_face(figure(bins=Bins(width=4.0, start=0.0)))
    assert face.titles == ("Crew", "from", "to", "count", "percent", "density per g")
    for code in range(3):
        rows = [dict(zip(face.titles, r.cells, strict=True)) for r in face.rows if r.group == code]
        edges = [row["from"].value for row in rows] + [rows[-1]["to"].value]
        counted, _ = np.histogram(group(code), edges)
        assert [row["count"].value for row in rows] == counted.tolist()
        density = [row["density per g"].value for row in rows]
        assert np.dot(density, np.diff(edges)) == pytest.approx(1)
        assert sum(row["percent"].value for row in rows) == pytest.approx(100)


def test_values_outside_bins_are_a_row_of_their_own():
    face = bins_face(figure(split=(), bins=Bins(edges=(0.0, 10.0, 20.0))))
    all_ = VALUES[~np.isnan(VALUES)]
    outside = np.count_nonzero((all_ < 0) | (all_ > 20))
    assert [c.text for c in face.rows[-1].cells[1:4]] == ["outside", "", str(outside)]


def test_comparisons_are_those_of_scipy():
    face = compare_face(figure(compare=Compare(reference="Bo", confidence=0.9)))
    assert cells(face, 1)["differs most"].text == "reference"
    for code in (0, 2):
        told, values, other = cells(face, code), group(code), group(1)
        mean = values.mean() - other.mean()
        low, high = stats.ttest_ind(values, other, equal_var=False).confidence_interval(0.9)
        assert told["mean"].value == pytest.approx(mean)
        written = f"{mean:.2f}  ({low:.2f} to {high:.2f})".replace("-", "−")
        assert told["mean"].text == written
        assert told["median"].value == pytest.approx(np.median(values) - np.median(other))
        pairs = values[:, None] - other
        greater = np.mean(pairs > 0) + np.mean(pairs == 0) / 2
        assert told["is the greater"].text.startswith(f"{100 * greater:.0f} in 100  (")
        tenths = np.arange(0.1, 0.95, 0.1)
        apart = np.quantile(values, tenths) - np.quantile(other, tenths)
        assert told["differs most"].value == pytest.approx(apart[np.argmax(np.abs(apart))])


def test_without_a_reference_the_first_group_that_has_values_is_it():
    hidden = Table(
        "t",
        (
            TABLE.columns[0],
            CategoryColumn("Crew", codes=CODES + 1, levels=("None", "Ada", "Bo", "Cy")),
        ),
    )
    face = compare_face(figure(hidden))
    assert cells(face, 1)["differs most"].text == "reference"
    assert all(not cell.text for cell in face.rows[0].cells[1:])
    with pytest.raises(Refusal, match="no group"):
        compare_face(figure(compare=Compare(reference="Zoe")))


def test_differences_of_dates_are_durations():
    face = compare_face(figure(DATES))
    assert cells(face, 1)["mean"].text.count(" d") == 3
    assert cells(face, 0)["mean"].text.startswith("20")


def test_a_comparison_is_kept_while_only_the_look_changes():
    first = figure(compare=Compare(reference="Ada"))
    recoloured = read(first.recipe.looking(palette="dusk"), first.gathered)
    assert compare_face(recoloured) is compare_face(first)
    surer = read(
        first.recipe.changed(compare=Compare(reference="Ada", confidence=0.5)), first.gathered
    )
    assert compare_face(surer) != compare_face(first)


def test_the_tip_of_a_group_holds_what_its_line_has_no_room_for():
    told = summary_face(figure()).rows[0].cells[0].tip.splitlines()
    values = group(0)
    assert told[0] == "Ada"
    assert told[1] == f"standard error of the mean: {stats.sem(values):.3f}"
    assert told[2] == f"variance: {values.var(ddof=1):.3f}"
    assert told[3] == f"sd as a share of the mean: {100 * stats.variation(values, ddof=1):.1f} %"
    lean, tails = stats.skew(values, bias=False), stats.kurtosis(values, bias=False)
    minus = [f"{number:.2f}".replace("-", "−") for number in (lean, tails)]
    assert told[4] == f"skewness: {minus[0]}, excess kurtosis: {minus[1]}"
    assert told[5] == f"median distance from the median: {stats.median_abs_deviation(values):.3f}"
    assert told[6].endswith(f": {stats.trim_mean(values, 0.1):.2f}")


@pytest.mark.parametrize(
    ("bins", "log", "cumulative", "begins"),
    [
        (Bins(edges=(1.0, 2.0, 40.0)), False, False, "The bins are unequal, so only density is"),
        (Bins(edges=(1.0, 2.0, 4.0)), False, True, "Densities add up"),
        (Bins(width=2.0), True, False, "The bins are not equal on a log axis"),
        (Bins(width=2.0), False, False, "Count"),
        (Bins(), True, False, "Count"),
    ],
)
def test_heights_say_why_only_density_is_fair(bins, log, cumulative, begins):
    from rhabdos.figure.phrases import PHRASES

    axes = Axes(value=ValueAxis(scale="log")) if log else Axes()
    show = Show(variables=("Mass",), cumulative=cumulative)
    recipe = Recipe(show=show, bins=bins, axes=axes)
    told = PHRASES["heights"].facts(read(recipe, gather(TABLE, "Mass")))
    assert told.startswith(begins), told


@pytest.mark.parametrize(
    ("scale", "place"),
    [
        ("log", lambda x: np.log10(np.maximum(x, 0.5))),
        ("root", lambda x: np.sqrt(np.maximum(x, 0))),
    ],
)
def test_densities_of_bins_that_begin_before_the_axis_are_those_that_are_painted(scale, place):
    values = np.array([0.5, 0.7, 2.0, 4.0, 6.0, 7.0, 9.0, 14.0])
    table = Table("t", (NumberColumn("Mass", values=values),))
    recipe = Recipe(
        show=Show(variables=("Mass",), heights="density"),
        bins=Bins(edges=(-5.0, 5.0, 10.0, 20.0)),
        axes=Axes(value=ValueAxis(scale=scale)),
    )
    readings = read(recipe, gather(table, "Mass"))
    told = [row.cells[-1].value for row in bins_face(readings).rows]
    widths = np.diff(place(np.array([-5.0, 5.0, 10.0, 20.0])))
    assert told == pytest.approx(np.array([4, 3, 1]) / 8 / widths)
    assert bars(readings)[0].heights == pytest.approx(told)


def test_rows_have_the_variables_of_the_figure_first_and_each_once():
    columns = (
        NumberColumn("Depth", values=np.arange(6.0)),
        CategoryColumn("Bay", codes=np.arange(6) % 2, levels=("N", "S")),
        NumberColumn("Mass", values=np.arange(6.0) * 2),
        CategoryColumn("Crew", codes=np.arange(6) % 3, levels=("a", "b", "c")),
    )
    table = Table("t", columns)
    listed = rows_face(read(Recipe(show=Show(variables=("Mass",), split=("Crew",))),
                            gather(table, "Mass", "Crew")), None)  # fmt: skip
    assert listed.face.titles == ("row", "Mass", "Crew", "Depth", "Bay")
    assert [cell.text for cell in listed.face.rows[4].cells] == ["5", "8", "b", "4", "N"]
    assert [row.group for row in listed.face.rows] == [0, 1, 2, 0, 1, 2]


def test_what_an_axis_does_not_show_is_counted_below_above_and_without_a_place():
    values = np.array([-3.0, 0.0, 0.5, 2.0, 5.0, 70.0, 700.0, 800.0, 900.0])
    table = Table("t", (NumberColumn("Mass", values=values),))
    axes = Axes(value=ValueAxis(scale="log", low=1.0, high=100.0))
    readings = read(Recipe(show=Show(variables=("Mass",)), axes=axes), gather(table, "Mass"))
    hidden = beyond_limits(readings)
    assert (hidden.below, hidden.above, hidden.without_place) == (1, 3, 2)
    assert hidden.hidden == 6


def test_of_very_many_variables_some_are_listed_and_that_is_told():
    columns = tuple(NumberColumn(f"v{at}", values=np.arange(700.0)) for at in range(200))
    readings = read(Recipe(show=Show(variables=("v150",))), gather(Table("t", columns), "v150"))
    listed = rows_face(readings, None)
    assert listed.face.titles[:4] == ("row", "V150", "V0", "V1")
    assert len(listed.face.titles) == 61
    assert listed.face.sentence == (
        "700 rows, of which the first 500 are listed, with 60 of 200 variables."
    )
