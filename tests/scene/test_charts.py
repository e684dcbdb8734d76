"""Plain charts at random: bars as long as they should be, all within the page, no words over others."""

import random

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.plain_charts import LevelBars, Scatter
from rhabdos.figure.recipe.toml_text import Work, read_work, write_work
from rhabdos.scene.marks import Area, Dots, Text
from rhabdos.scene.plain_charts import chart_scene
from rhabdos.scene.words.label_places import rect_of
from tests.charts import chart_of, table_of
from tests.conftest import measure


def heights_of(chart, table):
    category, v, _ = table.columns
    return {
        level: float(np.nansum(v.values[category.codes == code]))
        if chart.heights
        else float(np.count_nonzero(category.codes == code))
        for code, level in enumerate(category.levels)
    }


@pytest.mark.parametrize("seed", range(0, 240, 8))
def test_random_charts_are_drawn_right_on_pages_of_any_size(seed):
    for number in range(seed, seed + 8):
        chance, rng = random.Random(number), np.random.default_rng(number)
        table = table_of(chance, rng)
        chart = chart_of(chance, table)
        assert read_work(write_work(Work(chart=chart)), "x").chart == chart
        v, w = (column.values for column in table.columns[1:])
        if isinstance(chart, Scatter) and not np.any(~np.isnan(v) & ~np.isnan(w)):
            with pytest.raises(Refusal, match="No row has both"):
                chart_scene(chart, table, measure)
            continue
        scene = chart_scene(chart, table, measure)
        frame = scene.frame
        assert frame.right - frame.left >= 0.35 * scene.width, number
        assert frame.bottom - frame.top >= 0.3 * scene.height, number
        texts = [mark for mark in scene.marks if isinstance(mark, Text)]
        rects = [rect_of(text, measure) for text in texts]
        for place, rect in enumerate(rects):
            ends = rect.left, rect.top, scene.width - rect.right, scene.height - rect.bottom
            assert min(ends) >= -1, (number, texts[place].text)
            for other in range(place):
                wide = min(rect.right, rects[other].right) - max(rect.left, rects[other].left)
                high = min(rect.bottom, rects[other].bottom) - max(rect.top, rects[other].top)
                assert wide < 1.5 or high < 1.5, (number, texts[place].text, texts[other].text)
        if isinstance(chart, LevelBars):
            bars_are_right(chart, table, scene)
        else:
            (dots,) = [mark for mark in scene.marks if isinstance(mark, Dots)]
            held = ~np.isnan(table.columns[1].values) & ~np.isnan(table.columns[2].values)
            assert 1 <= len(dots.places) <= np.count_nonzero(held)


def bars_are_right(chart, table, scene):
    frame, wanted = scene.frame, heights_of(chart, table)
    extent = frame.bottom - frame.top if chart.upright else frame.right - frame.left
    drawn = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "levels"]
    assert len(drawn) == min(len(wanted), 60)
    for mark in drawn:
        length = np.ptp(mark.points[:, 1 if chart.upright else 0])
        assert length == pytest.approx(wanted[mark.meaning.level] / frame.high * extent, abs=0.02)
        colour = chart.colours.get(mark.meaning.level, chart.colour)
        assert colour in (None, mark.fill)
    heights = [wanted[mark.meaning.level] for mark in drawn]
    if chart.order == "count":
        assert heights == sorted(heights, reverse=not chart.reverse)


def test_words_that_find_no_room_are_told_and_those_of_usual_pages_find_it():
    rng = np.random.default_rng(1)
    levels = ("rack", "line", "basket")
    table = Table(
        "t",
        (
            CategoryColumn("Cat", codes=rng.integers(0, 3, 90), levels=levels),
            NumberColumn("V", values=rng.normal(50, 9, 90), unit="mm"),
            NumberColumn("W", values=rng.normal(5, 2, 90), unit="g"),
        ),
    )
    words = {"title": "Ninety shells", "note": "Of one morning.", "value_axis": "Where"}
    for chart in (
        LevelBars(variable="Cat", **words),
        LevelBars(variable="Cat", upright=True, **words),
        Scatter(x="V", y="W", **words),
    ):
        scene = chart_scene(chart, table, measure)
        assert scene.left_out == ()
        written = {mark.text for mark in scene.marks if isinstance(mark, Text)}
        assert {"Ninety shells", "Of one morning.", "Where"} <= written
        small = chart_scene(type(chart)(**{**as_keys(chart), "size": "3 x 3 cm"}), table, measure)
        assert "own-note" in small.left_out
    for title, beside in (("Length", True), ("Length of shells (mm)", False)):
        chart = Scatter(x="V", y="W", value_axis=title, size="8 x 8 cm")
        texts = {
            m.text: m.y for m in chart_scene(chart, table, measure).marks if isinstance(m, Text)
        }
        assert (abs(texts["n = 90"] - texts[title]) < 6) == beside, texts


def as_keys(chart):
    return {name: getattr(chart, name) for name in type(chart).__struct_fields__}
