"""Plain charts on a page: bars of levels with gaps between them, and two numbers as a scatter."""

from collections import Counter
from collections.abc import Sequence
from functools import partial

from msgspec import structs

from rhabdos.data.table import Table
from rhabdos.figure.readings.plain_chart_readings import (
    LevelsReading,
    chart_sentence,
    levels_note,
    levels_reading,
    scatter_reading,
)
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart
from rhabdos.scene.charts.level_bars import levels_scene
from rhabdos.scene.charts.scatter import scatter_scene
from rhabdos.scene.charts.sheet import has_room, papers
from rhabdos.scene.marks import Mark, Scene, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.words.label_overlap import cleared

_SCATTER_SIZE = Size(16.0, 12.0, "cm")
_ROW = 23.0  # points from bar to bar, as usual


def chart_scene(
    chart: PlainChart, table: Table, measure: Measure, size: Size | None = None
) -> Scene:
    """A chart of a table on its page: of its own size, unless another is given.

    Raises
    ------
    Refusal
        The table does not have what it draws.
    """
    size = size or chart_size(chart, table)
    if isinstance(chart, LevelBars):
        draw = partial(levels_scene, chart, levels_reading(chart, table), measure)
    else:
        draw = partial(scatter_scene, chart, scatter_reading(chart, table), measure)
    words = chart_sentence(chart, table)
    tried = []
    for paper in papers(size):
        tried.append(draw(paper))
        if has_room(tried[-1]):
            break
    scene = tried[-1]
    kept, gone = cleared(scene.marks, scene.width, scene.height, scene.frames, measure)
    lost = (*scene.left_out, *_lost(tried[0].marks, kept), *gone)
    return structs.replace(
        scene, marks=tuple(kept), left_out=tuple(dict.fromkeys(lost)), describe=lambda: words
    )


def _lost(wanted: Sequence[Mark], kept: Sequence[Mark]) -> list[str]:
    """The parts of which words, or of levels some words, are not there any more."""
    before, after = (
        Counter(mark.meaning.part for mark in marks if isinstance(mark, Text) and mark.meaning)
        for marks in (wanted, kept)
    )
    return [
        part
        for part in before
        if not after[part] or (part == "levels" and after[part] < before[part])
    ]


def chart_size(chart: PlainChart, table: Table) -> Size:
    """How large a chart is that no other size is given for."""
    if chart.page is not None:
        return chart.page
    if isinstance(chart, LevelBars):
        return _usual_size(chart, levels_reading(chart, table))
    return _SCATTER_SIZE


def _usual_size(chart: LevelBars, reading: LevelsReading) -> Size:
    """As high as lying bars need with the words about them."""
    if chart.upright:
        return Size(16.0, 10.0, "cm")
    words = sum(0.5 for text in (chart.note, levels_note(reading)) if text)
    height = min(24.0, max(5.0, 2.9 + len(reading.bars) * _ROW / 28.35) + words)
    return Size(16.0, round(height, 1), "cm")
