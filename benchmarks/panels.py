"""Many panels beside one of as many marks, the rod over twelve of them, and splitting by two
factors."""

from collections.abc import Callable

import numpy as np
from PyQt6.QtGui import QImage

from benchmarks.timing import Report, painting, side_by_side
from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.edits.drag_edits import start_dragged
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Page, Panels, Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.paint.fonts import measure
from rhabdos.paint.painter import paint, painter_on
from rhabdos.scene.axes.limits import Limits, limits_of
from rhabdos.scene.build import build

ROWS, BINS = 10_000_000, 200
_LOW, _HIGH = 20.0, 120.0


def run(report: Report) -> None:
    painting()
    rng = np.random.default_rng(4)
    many(report, rng)
    dragging(report, rng)
    splitting(report, rng)


def _factor(name: str, codes: IntArray, levels: int) -> CategoryColumn:
    names = tuple(f"{name} {number}" for number in range(levels))
    return CategoryColumn(name, label=name, codes=codes.astype(np.int8), levels=names)


def _table(values: FloatArray, *factors: CategoryColumn) -> Table:
    return Table("", (NumberColumn("Length", label="Length", unit="mm", values=values), *factors))


def _painted(readings: Readings, surface: QImage, limits: tuple[Limits, ...] | None = None) -> None:
    scene = build(readings, measure, limits)
    with painter_on(surface) as painter:
        painter.scale(surface.width() / scene.width, surface.height() / scene.height)
        paint(scene, painter, live=True)


def many(report: Report, rng: np.random.Generator) -> None:
    """Sixty panels of bars, and two hundred boxes in fifty panels, each beside one panel of all."""
    surface = QImage(1280, 1600, QImage.Format.Format_ARGB32_Premultiplied)
    rows = 600_000
    values = rng.normal(70, 11, rows)
    farm, gear = (rng.integers(0, levels, rows) for levels in (60, 4))
    table = _table(values, _factor("Farm", farm, 60), _factor("Gear", gear, 4))
    page, bins = Page(size="20x25cm"), Bins(width=(_HIGH - _LOW) / BINS, start=_LOW)

    def asked(forms: str, split: tuple[str, ...], by: tuple[str, ...]) -> Readings:
        arrange = "overlaid" if forms == "bars" else None
        show = Show(variables=("Length",), split=split, forms=(forms,), arrange=arrange)
        recipe = Recipe(show=show, panels=Panels(by=by), bins=bins, page=page)
        readings = read(recipe, samples_for(recipe, table))
        _painted(readings, surface)  # what is kept with the samples is no part of drawing
        return readings

    for what, forms, apart, together in (
        (f"60 panels of {BINS} bins", "bars", ((), ("Farm",)), (("Farm",), ())),
        ("240 boxes in 60 panels", "box", (("Gear",), ("Farm",)), (("Farm", "Gear"), ())),
    ):
        panels, one = asked(forms, *apart), asked(forms, *together)
        ours, theirs = side_by_side(
            lambda r=panels: _painted(r, surface), lambda r=one: _painted(r, surface), rounds=15
        )
        report.ratio(what, ours, theirs, 5, "one panel of as many")


def dragging(report: Report, rng: np.random.Generator) -> None:
    """The rod dragged over twelve panels."""
    values = rng.normal(70, 11, ROWS)
    table = _table(values, _factor("Farm", rng.integers(0, 12, ROWS), 12))
    width = (_HIGH - _LOW) / BINS
    recipe = Recipe(
        show=Show(variables=("Length",)),
        panels=Panels(by=("Farm",)),
        bins=Bins(width=width, start=_LOW),
    )
    samples = samples_for(recipe, table)
    held = read(recipe, samples)
    limits, edges = limits_of(held), held.edges.values
    surface, moved = QImage(1280, 800, QImage.Format.Format_ARGB32_Premultiplied), 0.0

    def drag() -> None:
        nonlocal moved
        moved = (moved + 0.05) % width
        bins = start_dragged(held.edges, held.samples.pooled, moved, 0.05)
        _painted(read(recipe.changed(bins=bins), samples), surface, limits)

    ours, theirs = side_by_side(drag, lambda: np.histogram(values, edges), in_a_row=5)
    report.ratio("a drag step over 12 panels", ours, theirs, 1 / 2, "numpy.histogram")


def splitting(report: Report, rng: np.random.Generator) -> None:
    """Sixteen groups of two factors, beside masking and sorting them one by one."""
    values = rng.normal(70, 11, ROWS)
    first, second = (rng.integers(0, 4, ROWS).astype(np.int8) for _ in range(2))
    table = _table(values, _factor("Bay", first, 4), _factor("Gear", second, 4))

    def ours_split() -> None:
        gather(table, "Length", ["Bay", "Gear"])

    def masked() -> None:
        for one in range(4):
            for other in range(4):
                np.sort(values[(first == one) & (second == other)])

    split: Callable[[], None] = ours_split
    ours, theirs = side_by_side(split, masked, rounds=3)
    report.ratio("splitting by two factors of four", ours, theirs, 1.5, "masking and sorting")
