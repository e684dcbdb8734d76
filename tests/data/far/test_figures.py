"""Whole figures of data that stay where they lie: every number is that of the rows in memory."""

import math
from typing import Any

import numpy as np
import polars as pl
import pytest

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.far.gathering import gather_far
from rhabdos.data.far.table import far_table
from rhabdos.data.files.reading import read_table
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.toml_text import read_recipe
from tests.conftest import one_in
from tests.data.far.sameness import frame_of
from tests.figures import random_figure

_LISTED = ("beyond", "far", "beyond_rows", "far_rows")
"""Of rows that lie elsewhere the farthest values are listed, without rows."""

_CELLS = {"curves", "violins", "pairs", "quantile_pairs", "shift", "sway", "comparisons"}
"""What reads cells as they are, and is near to what rows in memory give."""


def _frame(table: Table) -> pl.DataFrame:
    series = []
    for column in table.columns:
        if isinstance(column, CategoryColumn):
            texts = [column.levels[code] if code >= 0 else None for code in column.codes.tolist()]
            series.append(pl.Series(column.name, texts, dtype=pl.String))
        elif isinstance(column, DateColumn):
            micros = pl.Series(column.values).fill_nan(None) * 86_400e6
            moments = micros.round().cast(pl.Int64).cast(pl.Datetime("us"))
            series.append(moments.alias(column.name))
        else:
            assert isinstance(column, NumberColumn)
            series.append(pl.Series(column.name, column.values).fill_nan(None))
    return pl.DataFrame(series)


def _numbers(recipe: Recipe, table: Table) -> dict[str, Any] | str:
    try:
        told = numbers_data(read(recipe, samples_for(recipe, table)))
    except Refusal as refusal:
        return str(refusal)
    told.pop("notices")  # which tell of the rows that were looked at
    return told


def _assert_alike(here: Any, far: Any, where: str, room: float) -> None:
    if isinstance(here, dict):
        assert here.keys() == far.keys(), where
        if "ecdf" in here.values():  # whose steps stand at values, of which cells know fewer
            return
        for key in here:
            if key in _LISTED:
                continue
            wider = 1e-2 if key in _CELLS else room
            _assert_alike(here[key], far[key], f"{where}.{key}", max(room, wider))
    elif isinstance(here, list):
        assert len(here) == len(far), where
        if here and all(isinstance(x, int | float) for x in here):
            size = max(map(abs, here))
            np.testing.assert_allclose(far, here, rtol=room, atol=room * size, err_msg=where)
        else:
            for at, (mine, other) in enumerate(zip(here, far, strict=True)):
                _assert_alike(mine, other, f"{where}[{at}]", room)
    elif (
        where.endswith(".mode") and here is not None
    ):  # of a flat top, where many places are as high
        assert far == pytest.approx(here, rel=0.05, abs=0.05), where
    elif isinstance(here, float) and isinstance(far, int | float):
        near = math.isclose(here, far, rel_tol=room, abs_tol=1e-3 if room > 1e-4 else 1e-300)
        assert near, (where, here, far)
    else:
        assert here == far, where


@pytest.mark.parametrize("seed", one_in(2, range(700, 760)))
def test_every_number_of_a_random_figure_is_the_same(tmp_path, seed):
    figure = random_figure(seed)
    try:
        recipe = figure.recipe
    except Refusal:
        return
    path = tmp_path / "rows.parquet"
    _frame(figure.table).write_parquet(path)
    try:
        here = read_table(path)
        far = far_table("rows", DuckFiles((path,), 1 << 30), "the file")
    except Refusal:
        return
    told, asked = _numbers(recipe, here), _numbers(recipe, far)
    if isinstance(told, str) or isinstance(asked, str):
        assert isinstance(told, str) == isinstance(asked, str), (told, asked)
        return
    _assert_alike(told, asked, "figure", 1e-9)


_LARGE = """rhabdos = 1

[show]
variables = ["x"]
split = ["bay"]
forms = {forms}
heights = "density"
{more}
"""


_FORMS = [
    ('["bars", "curve", "box"]', ""),
    ('["ecdf", "violin", "points"]', ""),
    ('["curve", "normal"]', '[sway]\nof = "sample"'),
    ('["box", "shift"]', '[compare]\nreference = "Ebba"'),
    ('["bars", "curve"]', '[axes.value]\nscale = "root"'),
    ('["bars", "outline"]', '[axes.value]\nscale = "arsinh"'),
    ('["bars"]', "[check]\nladder = true"),
]


@pytest.mark.parametrize(
    ("kind", "forms", "more"),
    one_in(2, ((kind, *each) for kind in ("normal", "skewed", "far from 0") for each in _FORMS)),
)
def test_figures_of_many_values_are_near(tmp_path, kind, forms, more):
    path = tmp_path / "rows.parquet"
    frame_of(kind, 40_000, 5).write_parquet(path)
    recipe = read_recipe(_LARGE.format(forms=forms, more=more))
    here = _numbers(recipe, read_table(path))
    far = _numbers(recipe, far_table("rows", DuckFiles((path,), 1 << 30), "the file"))
    assert isinstance(here, dict), here
    assert isinstance(far, dict), far
    _assert_alike(here, far, kind, 1e-8)


def test_values_beyond_the_whiskers_are_told_apart_from_those_far_beyond(tmp_path):
    path = tmp_path / "rows.parquet"
    even = np.linspace(40, 60, 400).round(3)  # quartiles at 45 and 55: beyond from 70, far from 85
    pl.DataFrame({"x": [*even, 74.5, 80.25, 25.5, 86.5, 99.0, 12.25, 3.0]}).write_parquet(path)
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["x"]\nforms = ["box"]')
    for table in (far_table("rows", DuckFiles((path,), 1 << 30), "the file"), read_table(path)):
        told = _numbers(recipe, table)
        assert isinstance(told, dict)
        (box,) = told["boxes"]
        assert sorted(box["beyond"]) == [25.5, 74.5, 80.25]
        assert sorted(box["far"]) == [3.0, 12.25, 86.5, 99.0]


def test_what_is_read_in_cells_is_told_with_its_bound(tmp_path):
    path = tmp_path / "rows.parquet"
    frame_of("normal", 60_000, 5).write_parquet(path)
    table = far_table("rows", DuckFiles((path,), 1 << 30), "the file")
    for forms, told in (('["bars", "box"]', 0), ('["curve", "bars"]', 1)):
        recipe = read_recipe(_LARGE.format(forms=forms, more=""))
        texts = [
            n.text for n in notices(read(recipe, samples_for(recipe, table)))
            if n.code == "read-in-cells"
        ]  # fmt: skip
        assert len(texts) == told
        assert all("cells of x, 0.0" in text for text in texts)


def _off(path, more: str, split: str = 'split = ["bay"]') -> float:
    """How far curves of cells are from those of the values, in their peaks."""
    text = _LARGE.replace('split = ["bay"]', split)
    recipe = read_recipe(text.format(forms='["curve"]', more=more))
    here, far = (
        _numbers(recipe, table)
        for table in (read_table(path), far_table("rows", DuckFiles((path,), 1 << 30), "the file"))
    )
    return max(
        max(abs(np.array(mine["y"]) - np.array(other["y"]))) / max(mine["y"])
        for mine, other in zip(here["curves"], far["curves"], strict=True)
    )


@pytest.mark.parametrize("kind", ["normal", "skewed", "far from 0"])
def test_a_curve_is_within_what_is_said_of_its_cells(tmp_path, kind):
    path = tmp_path / "rows.parquet"
    frame_of(kind, 200_000, 5).write_parquet(path)
    table = far_table("rows", DuckFiles((path,), 1 << 30), "the file")
    step = gather_far(table, ("x",), ("bay",)).samples[0].cells.width
    assert _off(path, f"[curve]\nbandwidth = {100 * step}") <= 1e-4
    assert _off(path, f"[curve]\nbandwidth = {20 * step}") <= 2e-3


def test_a_curve_of_millions_needs_fewer_cells(tmp_path):
    path = tmp_path / "rows.parquet"
    x = np.random.default_rng(5).normal(60, 8, 2_600_000)
    pl.DataFrame({"x": x}).write_parquet(path)
    table = far_table("rows", DuckFiles((path,), 1 << 30), "the file")
    width = gather_far(table, ("x",)).samples[0].cells.width
    bandwidth = 1.06 * 8 * len(x) ** -0.2  # of a normal shape (Silverman 1986)
    assert 25 <= bandwidth / width <= 75
    assert _off(path, "", split="") <= 1e-4


def test_a_curve_is_within_its_bound(tmp_path):
    path = tmp_path / "rows.parquet"
    frame_of("normal", 200_000, 5).write_parquet(path)
    recipe = read_recipe(_LARGE.format(forms='["curve"]', more="[curve]\nbandwidth = 0.05"))
    here, far = (
        _numbers(recipe, table)
        for table in (read_table(path), far_table("rows", DuckFiles((path,), 1 << 30), "the file"))
    )
    for mine, other in zip(here["curves"], far["curves"], strict=True):
        peak = max(mine["y"])
        assert max(abs(np.array(mine["y"]) - np.array(other["y"]))) <= 1e-4 * peak
