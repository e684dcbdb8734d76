"""Parquet to its first figure; steps at ten million rows; rows on the screen."""

import tempfile
from pathlib import Path

import numpy as np

from benchmarks.opening import ROWS, _write
from benchmarks.timing import Report, painting, side_by_side

_MANY_LEVELS = 50_000


def run(report: Report) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "landings.csv"
        _write(path)
        columnar(report, path)
    steps(report)
    many_levels(report)
    rows_on_screen(report)


def columnar(report: Report, path: Path) -> None:
    """From a Parquet file to the first figure, painted."""
    import polars as pl

    from rhabdos.data.files.reading import read_table
    from rhabdos.data.gathering import gather
    from rhabdos.figure.forms.read import read
    from rhabdos.figure.recipe.recipe import Recipe, Show
    from rhabdos.paint.export import image
    from rhabdos.paint.fonts import measure
    from rhabdos.scene.build import build

    painting()
    parquet = path.with_suffix(".parquet")
    pl.read_csv(path).write_parquet(parquet)

    def ours() -> None:
        table = read_table(parquet)
        readings = read(
            Recipe(show=Show(variables=("Shell length",))), gather(table, "Shell length")
        )
        _ = readings.summaries
        image(build(readings, measure), 96)

    def bare() -> None:
        np.sort(pl.read_parquet(parquet)["Shell length"].to_numpy())

    taken, least = side_by_side(ours, bare, rounds=7)
    report.ratio(
        f"a Parquet file of {ROWS:,} rows to its first figure",
        taken,
        least,
        1.5,
        "polars.read_parquet and numpy.sort",
    )


def steps(report: Report) -> None:
    """One step changed at the end of a list, against the bare operation of the library."""
    import polars as pl

    from rhabdos.data.columns import CategoryColumn, NumberColumn
    from rhabdos.data.preparing import stages
    from rhabdos.data.steps.derive import Make
    from rhabdos.data.steps.keep import Condition, KeepRows
    from rhabdos.data.steps.kind import ChangeKind
    from rhabdos.data.steps.missing import DeclareMissing
    from rhabdos.data.steps.naming import Describe
    from rhabdos.data.table import Table

    rng = np.random.default_rng(1)
    values, codes = rng.normal(70, 10, ROWS).round(2), rng.integers(0, 6, ROWS).astype(np.int8)
    whole = rng.integers(0, 50, ROWS).astype(np.float64)
    levels = tuple("ABCDEF")
    table = Table(
        "t",
        (
            NumberColumn("v", values=values),
            CategoryColumn("g", codes=codes, levels=levels),
            NumberColumn("w", values=whole),
        ),
    )
    frame = pl.DataFrame({"v": values, "g": codes, "w": whole})
    first = Describe(variable="v", unit="mm")
    before = stages(table, [first])
    texts = frame["w"].cast(pl.Int64).cast(pl.String)

    cases = (
        (
            "keep rows of a range",
            KeepRows(where=(Condition(variable="v", low=60.0, high=80.0),)),
            lambda: frame.filter((pl.col("v") >= 60) & (pl.col("v") <= 80)),
        ),
        (
            "keep rows of two levels",
            KeepRows(where=(Condition(variable="g", levels=("A", "C")),)),
            lambda: frame.filter(pl.col("g").is_in([0, 2])),
        ),
        (
            "a logarithm",
            Make(name="l", by="log", of=("v",)),
            lambda: frame.with_columns(l=pl.col("v").log10()),
        ),
        (
            "a ratio",
            Make(name="r", by="ratio", of=("v", "w")),
            lambda: frame.with_columns(
                r=pl.when(pl.col("w") != 0).then(pl.col("v") / pl.col("w")).otherwise(float("nan"))
            ),
        ),
        (
            "a code as missing",
            DeclareMissing(variable="w", codes=(7.0,)),
            lambda: frame.with_columns(
                w=pl.when(pl.col("w") == 7).then(float("nan")).otherwise(pl.col("w"))
            ),
        ),
        (
            "numbers as a category",
            ChangeKind(variable="w", kind="category"),
            lambda: texts.cast(pl.Categorical),
        ),
    )
    for what, step, bare in cases:
        taken, least = side_by_side(
            lambda step=step: stages(table, [first, step], known=before), bare, rounds=5
        )
        report.ratio(f"step: {what}", taken, least, 1.5, "the bare operation of polars")


def many_levels(report: Report) -> None:
    """A level of very many is renamed, put elsewhere or in another's place."""
    from rhabdos.data.columns import CategoryColumn, natural
    from rhabdos.data.preparing import prepared
    from rhabdos.data.steps.keep import Condition, KeepRows
    from rhabdos.data.steps.naming import OrderLevels, RenameLevels
    from rhabdos.data.steps.recoding import Recode
    from rhabdos.data.table import Table

    levels = tuple(f"site {number}" for number in range(_MANY_LEVELS))
    column = CategoryColumn("g", codes=np.arange(_MANY_LEVELS, dtype=np.int32), levels=levels)
    table = Table("t", (column,))
    for what, step in (
        ("renamed", RenameLevels(variable="g", become={"site 7": "pier 7"})),
        ("put in another's place", Recode(variable="g", become={"site 7": "site 8"})),
        ("put in order", OrderLevels(variable="g", levels=levels[::-7])),
        ("kept", KeepRows(where=(Condition(variable="g", levels=levels[::-7]),))),
    ):
        taken, least = side_by_side(
            lambda step=step: prepared(table, (step,)),
            lambda: sorted(levels, key=natural),
            rounds=9,
        )
        report.ratio(
            f"levels of {_MANY_LEVELS:,} are {what}", taken, least, 1.0, "sorting them naturally"
        )


def rows_on_screen(report: Report) -> None:
    """The first rows of a table, and one screen after another, against painting the texts bare."""
    from PyQt6.QtCore import Qt
    from PyQt6.QtGui import QImage, QPainter

    from rhabdos.app.controls import theme
    from rhabdos.app.rows.listed_rows import HEADER, ROW
    from rhabdos.app.rows.rows_view import RowsView
    from rhabdos.data.columns import CategoryColumn, NumberColumn
    from rhabdos.data.table import Table

    theme.prepare(painting())
    rng = np.random.default_rng(1)
    columns = [NumberColumn(f"v{i}", values=rng.normal(70, 10, ROWS).round(1)) for i in range(6)]
    codes = rng.integers(0, 3, ROWS).astype(np.int8)
    bay = CategoryColumn("Bay", codes=codes, levels=("Heron Sound", "Saltmere", "Wick Narrows"))
    table = Table("t", (bay, *columns))
    view = RowsView()
    view.resize(800, 640)
    picture = QImage(800, 640, QImage.Format.Format_ARGB32_Premultiplied)

    def first() -> None:
        view.show_table(Table("t", table.columns))
        view.render(picture)

    places = iter(rng.integers(0, ROWS, 10_000).tolist())

    def scrolled() -> None:
        view.verticalScrollBar().setValue(next(places) * ROW)
        view.render(picture)

    rows = (640 - HEADER) // ROW
    shown = [
        (i * 100, HEADER + r * ROW, view_text)
        for r in range(rows)
        for i, view_text in enumerate(["Heron Sound", *["70.5"] * 6])
    ]

    def bare() -> None:
        painter = QPainter(picture)
        painter.fillRect(picture.rect(), Qt.GlobalColor.white)
        for x, y, text in shown:
            painter.drawText(x, y, 90, ROW, Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()

    first()  # which loads the typeface, as the window has done by then
    begun, _ = side_by_side(first, lambda: None)
    report.say(f"the first rows of {ROWS:,} on the screen: {1000 * begun:.1f} ms (at most 20)")
    taken, least = side_by_side(scrolled, bare, rounds=15)
    report.say(f"one screen of rows: {1000 * taken:.1f} ms (at most 16)")
    report.ratio("one screen of rows scrolled", taken, least, 4, "painting the same texts bare")
