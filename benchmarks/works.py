"""Works of many figures: what they take, how fast one gives way to another, and is saved."""

import tempfile
import tracemalloc
from pathlib import Path

import numpy as np
from msgspec import structs
from PyQt6.QtWidgets import QApplication

from benchmarks.timing import Report, painting, seconds, side_by_side
from rhabdos.app.session.saving import save_work
from rhabdos.app.session.session import Session
from rhabdos.app.shell.window import Window
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.paint.many import Batch, write_many
from rhabdos.project.batch import each_level
from rhabdos.project.document import Document, Figure, Source
from rhabdos.project.making import make
from rhabdos.project.store import Store

ROWS, FEWER, LEVELS = 10_000_000, 1_000_000, 200
_AT_ONCE = 0.05  # seconds


def _table(rows: int, levels: int) -> Table:
    rng = np.random.default_rng(5)
    bay = CategoryColumn(
        "Bay",
        codes=rng.integers(0, levels, rows).astype(np.int16),
        levels=tuple(f"Bay {i}" for i in range(levels)),
    )
    return Table("Shells", (NumberColumn("Shell length", values=rng.normal(70, 11, rows)), bay))


def _figures() -> tuple[Figure, ...]:
    """Ten figures of one variable, each otherwise."""
    show = Show(variables=("Shell length",), split=("Bay",), arrange="overlaid")
    forms = (("bars",), ("curve",), ("box",), ("outline",), ("ecdf",))
    return tuple(
        Figure(Recipe(show=show.changed(forms=form), bins=Bins(width=width)))
        for form in forms
        for width in (1.0, 2.0)
    )


def run(report: Report) -> None:
    painting()
    table = _table(ROWS, 6)
    _memory(report, table)
    window = Window(Session())
    window.show()
    session = window.session
    document = structs.replace(Document.of(Source()), figures=_figures())
    session.store.keep_table(document, table)
    session.go("Open", document)
    while session.runner.running():
        QApplication.processEvents()
    for at in range(10):
        _see(window, at)
    slowest = max(seconds(lambda at=at: _see(window, at)) for at in (*range(10), *range(10)))
    report.ratio("another figure that was seen, at most", slowest, _AT_ONCE, 1, "50 ms")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "w.rhabdos"
        save_work(session, path)
        saved = max(seconds(lambda: save_work(session, path)) for _ in range(5))
    report.ratio("saving the work, without data, at most", saved, _AT_ONCE, 1, "50 ms")
    session.finish()
    window.deleteLater()
    _batch(report)


def _see(window: Window, at: int) -> None:
    window.session.figures.show(at)
    QApplication.processEvents()


def _memory(report: Report, table: Table) -> None:
    """The memory of one figure, and of ten that were all seen."""
    peaks = []
    for count in (1, 10):
        store, source = Store(), Source(revision=count)
        document = structs.replace(Document.of(source), figures=_figures()[:count])
        tracemalloc.start()
        store.keep_table(document, table)
        for at in range(count):
            made = make(document.showing(at), store, _none, lambda *_: None)
            assert made.samples is not None
            store.keep_samples(document.showing(at), made.samples)
        peaks.append(float(tracemalloc.get_traced_memory()[0]))
        tracemalloc.stop()
    size = sum(column.values.nbytes for column in table.numbers) + ROWS * 2
    ours, theirs = peaks[1] + size, peaks[0] + size
    report.ratio("ten figures of ten million rows", ours, theirs, 1.1, "the memory of one", "MB")


def _none(*_: object) -> Table:
    raise AssertionError("no other tables are asked for")


def _batch(report: Report) -> None:
    """Two hundred levels of a million rows, of each drawing by itself."""
    table = _table(FEWER, LEVELS)
    recipe = Recipe(show=Show(variables=("Shell length",)), bins=Bins(width=2.0))
    items = each_level(recipe, table, "Bay")
    batch = Batch(items, (), table, with_recipe=False)
    with tempfile.TemporaryDirectory() as folder:

        def together() -> None:
            """All levels, as a batch."""
            write_many(batch, f"{folder}/{{number}}.svg")

        def each() -> None:
            """Each level by a batch of its own."""
            for at, item in enumerate(items):
                write_many(structs.replace(batch, items=[item]), f"{folder}/one{at}-{{name}}.svg")

        ours, theirs = side_by_side(together, each, rounds=1)
    report.ratio("200 figures of levels at once", ours, theirs, 1.2, "the sum of drawing each")
