"""New counts, and a whole step of dragging the rod, for ten million values in six groups."""

from collections.abc import Callable

import numpy as np
from msgspec import structs
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPen

from benchmarks.timing import Report, painting, side_by_side
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.table import Table
from rhabdos.figure.edits.drag_edits import start_dragged
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.recipe import Boxes, Curves, Recipe, Show, Sway
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.paint.fonts import measure
from rhabdos.paint.painter import paint, painter_on, polygon
from rhabdos.scene.axes.limits import limits_of
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Path, Scene
from rhabdos.stats.binning import counts, own_edges

ROWS, GROUPS, BINS = 10_000_000, 6, 200
_LOW, _HIGH = 20.0, 120.0
_SIZE = 1280, 800


def run(report: Report) -> None:
    painting()
    rng = np.random.default_rng(1)
    values = rng.normal(70, 11, ROWS)
    codes = rng.integers(0, GROUPS, ROWS).astype(np.int8)
    bay = CategoryColumn("Bay", codes=codes, levels=tuple(f"Bay {i}" for i in range(GROUPS)))
    samples = gather(
        Table("", (NumberColumn("Shell length", values=values), bay)), "Shell length", "Bay"
    )

    edges = own_edges(np.linspace(_LOW, _HIGH, BINS + 1))

    def count() -> None:
        for sample in samples.samples:
            counts(sample, edges)

    def numpy_edges() -> None:
        np.histogram(values, edges.values)

    ours, theirs = side_by_side(
        count, lambda: np.histogram(values, BINS, (_LOW, _HIGH)), in_a_row=9
    )
    report.ratio(
        f"counts for {BINS} bins", ours, theirs, 1 / 200, "numpy.histogram by number of bins"
    )
    ours, theirs = side_by_side(count, numpy_edges, in_a_row=9)
    report.ratio(
        f"counts for {BINS} bins", ours, theirs, 1 / 200, "numpy.histogram by list of edges"
    )

    width = (_HIGH - _LOW) / BINS
    recipe = Recipe(
        show=Show(variables=("Shell length",), split=("Bay",), arrange="overlaid"),
        bins=Bins(width=width, start=_LOW),
    )
    held = read(recipe, samples)
    surface = QImage(*_SIZE, QImage.Format.Format_ARGB32_Premultiplied)
    moved = 0.0

    def drag(recipe: Recipe = recipe) -> None:
        """What one movement of the mouse costs: new bins, counts, scene and painting."""
        nonlocal moved
        moved = (moved + 0.05) % width
        bins = start_dragged(held.edges, samples.pooled, moved, 0.05)
        readings = read(recipe.changed(bins=bins), samples)
        scene = build(
            readings, measure, limits_of(held)
        )  # the axis stands still under a moving hand
        painter = QPainter(surface)
        painter.scale(surface.width() / scene.width, surface.height() / scene.height)
        paint(scene, painter, live=True)
        painter.end()

    ours, theirs = side_by_side(drag, numpy_edges, in_a_row=9)
    report.ratio(
        f"a drag step, {GROUPS} groups x {BINS} bins",
        ours,
        theirs,
        1 / 4,
        "numpy.histogram by list of edges",
    )

    swaying = structs.replace(recipe, sway=Sway(of="sample"))
    ours, theirs = side_by_side(lambda: drag(swaying), drag, rounds=31)
    report.ratio("a drag step that shows sway", ours, theirs, 1.5, "one that does not")

    scene = build(held, measure)
    silhouettes = [
        (polygon(m.points), QColor(m.fill), m.opacity) for m in scene.marks if isinstance(m, Area)
    ]
    silhouettes = silhouettes[-GROUPS:]

    def bare(smoothed: bool) -> None:
        """The silhouettes alone, as six filled polygons made beforehand."""
        surface.fill(QColor("white"))
        painter = QPainter(surface)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, smoothed)
        painter.scale(surface.width() / scene.width, surface.height() / scene.height)
        painter.setPen(Qt.PenStyle.NoPen)
        for shape, colour, opacity in silhouettes:
            colour.setAlphaF(opacity)
            painter.setBrush(QBrush(colour))
            painter.drawPolygon(shape)
        painter.end()

    for smoothed, how in ((True, "smoothed"), (False, "unsmoothed")):
        ours, theirs = side_by_side(drag, lambda smoothed=smoothed: bare(smoothed), rounds=101)
        report.ratio("a drag step", ours, theirs, 3, f"painting the bare silhouettes, {how}")

    curves(report, samples, surface, numpy_edges)
    boxes(report, samples, surface, values)


def curves(
    report: Report, samples: SampleSet, surface: QImage, numpy_edges: Callable[[], None]
) -> None:
    """The bell dragged one step, and the rod dragged under bars and curves together."""
    width, turn = (_HIGH - _LOW) / BINS, 0
    show = Show(
        variables=("Shell length",),
        split=("Bay",),
        forms=("curve",),
        heights="density",
        arrange="overlaid",
    )
    recipe = Recipe(show=show, bins=Bins(width=width, start=_LOW))
    limits = limits_of(read(recipe, samples))

    def drawn(asked: Recipe) -> Scene:
        scene = build(read(asked, samples), measure, limits)
        with painter_on(surface) as painter:
            painter.scale(surface.width() / scene.width, surface.height() / scene.height)
            paint(scene, painter, live=True)
        return scene

    def ring() -> None:
        nonlocal turn
        turn += 1
        drawn(recipe.changed(curve=Curves(bandwidth=0.6 + 0.01 * (turn % 50))))

    lines = [
        polygon(mark.points)
        for mark in drawn(recipe).marks
        if isinstance(mark, Path) and mark.smooth
    ]

    def bare() -> None:
        """Six curves alone, made beforehand."""
        surface.fill(QColor("white"))
        with painter_on(surface) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.scale(surface.width() / 453.5, surface.height() / 283.5)
            painter.setPen(QPen(QColor("teal"), 1.4))
            for line in lines:
                painter.drawPolyline(line)

    ours, theirs = side_by_side(ring, bare, rounds=31)
    report.ratio(
        "a step of the bell, six curves", ours, theirs, 3, "painting the bare curves, smoothed"
    )
    ours, theirs = side_by_side(ring, numpy_edges, in_a_row=9)
    report.ratio(
        "a step of the bell, six curves", ours, theirs, 1 / 2, "numpy.histogram by list of edges"
    )

    together = recipe.showing(forms=("bars", "curve"), heights="percent")

    def drag() -> None:
        nonlocal turn
        turn += 1
        drawn(together.binned(Bins(width=width, start=_LOW + 0.01 * (turn % 40))))

    ours, theirs = side_by_side(drag, numpy_edges, in_a_row=9)
    report.ratio(
        "a drag step of bars and curves", ours, theirs, 1 / 2, "numpy.histogram by list of edges"
    )


def boxes(report: Report, samples: SampleSet, surface: QImage, values: np.ndarray) -> None:
    """The grip of the whiskers dragged one step, whatever lies beyond them."""
    show = Show(variables=("Shell length",), split=("Bay",), forms=("box",))
    recipe, turn = Recipe(show=show), 0
    limits = limits_of(read(recipe, samples))

    def drag(first: float) -> None:
        nonlocal turn
        turn += 1
        asked = recipe.changed(box=Boxes(whiskers=first + 0.01 * (turn % 40)))
        scene = build(read(asked, samples), measure, limits)
        with painter_on(surface) as painter:
            painter.scale(surface.width() / scene.width, surface.height() / scene.height)
            paint(scene, painter, live=True)

    for first, what in ((0.0, "nearly all values beyond"), (1.5, "few values beyond")):
        ours, theirs = side_by_side(
            lambda first=first: drag(first), lambda: np.percentile(values, 25), in_a_row=9
        )
        report.ratio(f"a step of the whiskers, {what}", ours, theirs, 1 / 5, "numpy.percentile")
