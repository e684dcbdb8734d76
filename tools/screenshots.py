"""Take pictures of the main views, from the demo data: ``screenshots.py [FOLDER [VIEW …]]``."""

import os
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl
from PyQt6.QtCore import QPoint, QPointF, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPixmap
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QScrollArea
from sqlglot import exp

from rhabdos.app.arriving.server_dialog import ServerDialog
from rhabdos.app.controls import theme
from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.app.leaving.many_dialog import ManyDialog
from rhabdos.app.leaving.plate_dialog import PlateDialog
from rhabdos.app.panels.bins_panel import BinsPanel
from rhabdos.app.panels.look_panel import LookPanel
from rhabdos.app.shell.window import Window
from rhabdos.data.demo import demo_table
from rhabdos.data.far.connection import Question
from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.files.writing import written
from rhabdos.data.gathering import gather
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import RenameLevels
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_ranges import Range
from rhabdos.figure.recipe.recipe_words import Arrow, FigureText
from rhabdos.paint.export import write_figure
from rhabdos.paint.report import make_report, write_report
from rhabdos.project.batch import Item
from rhabdos.scene.marks import Meaning
from rhabdos.scene.miniature import miniature

_SMALL = 150.0, 78.0
FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"


def settle() -> None:
    """Wait until every window has said what the data show."""
    QTest.qWait(150)
    windows = [w for w in QApplication.topLevelWidgets() if isinstance(w, Window)]
    for _ in range(100):
        if not any(w.seen.busy for w in windows if w.isVisible()):
            return
        QTest.qWait(50)


def in_hand(window: Window, start: float, end: float) -> QPixmap:
    """The window while a hand drags on its rod, from one pixel along it to another."""
    held = window.figure.stage.held_rod
    here, there = (held.place_of(along, 8).toPoint() for along in (start, end))
    QTest.mousePress(held, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(held, there)
    settle()
    picture = window.grab()
    QTest.mouseRelease(held, Qt.MouseButton.LeftButton, pos=there)
    return picture


def demo(window: Window) -> QPixmap:
    """The demo figure, a bar under the pointer."""
    canvas = window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    QTest.mouseMove(
        canvas, QPoint(round(frame.along(90) * scale), round(frame.bottom * scale - 30))
    )
    settle()
    return window.grab()


def export(window: Window) -> QPixmap:
    """The export dialog."""
    window.filing.folders = window.filing.folders.after("figure", Path("figures/figure.png"))
    window.filing.export()
    settle()
    dialog = window.findChild(ExportDialog)
    picture = dialog.grab()
    dialog.reject()
    return picture


def curves(window: Window) -> QPixmap:
    """Density curves over bars, with the curve's settings."""
    recipe = window.session.recipe
    window.session.ask("Draw curves", recipe.showing(forms=("bars", "curve")))
    window.choose_phrase("curve")
    settle()
    return window.grab()


def boxes(window: Window) -> QPixmap:
    """Standing boxes with names, and the reach of their whiskers in the hand."""
    recipe = window.session.recipe
    named = recipe.box.changed(names="Tag", mean=True, notches=True, numbers=("mean",))
    shown = recipe.showing(forms=("box",)).changed(box=named)
    window.session.ask("Draw boxes", shown.worded(title="Saltmere’s oysters differ most"))
    window.choose_phrase("box")
    grip = window.figure.stage.reach.grip(True)
    return in_hand(window, grip, grip - 9)


def words(window: Window) -> QPixmap:
    """A title being typed on the paper, with a number of the data in it."""
    arrow = Arrow(value=90.0, share=0.55)
    second = FigureText(text="the second harvest", value=96.0, arrow=arrow)
    window.session.ask(
        "Words",
        window.session.recipe.worded(
            subtitle="{n} shells of {slant Ostrea edulis}, {mean of Saltmere} mm on average there",
            value_axis="Shell length (mm), to 10{up −1}",
        ).changed(text=(second,)),
    )
    settle()
    window.choose_phrase("words")
    window.figure_actions.words.type_over(Meaning("title"))
    field = window.figure_actions.words.field
    QTest.keyClicks(field, "Two harvests hide in Saltmere: sd {sd of Saltmere} mm")
    settle()
    return window.grab()


def looks(window: Window) -> QPixmap:
    """Whole looks and palettes as pictures of the figure."""
    recipe = window.session.recipe
    window.session.ask("Curves", recipe.showing(forms=("bars", "curve")))
    window.choose_phrase("look")
    panel = window.figure.side.panel("look")
    assert isinstance(panel, LookPanel)
    panel.looks["ink"].click()
    QTest.qWait(500)
    return window.grab()


def rows(window: Window) -> QPixmap:
    """The rows, and the sentences that tell how they came about."""
    steps = (
        DeclareMissing(variable="Water temperature", codes=(-9.0,)),
        RenameLevels(variable="Culture", become={"Rack ": "rack"}),
        KeepRows(
            where=(
                Condition(variable="Bay", levels=("Saltmere", "Wick Narrows")),
                Condition(variable="Shell length", low=40.0, high=110.0),
            )
        ),
        Make(name="Log of wet mass", by="log", of=("Wet mass",), base=10.0),
    )
    window.session.rows.ask_steps("Prepare", steps)
    window.go_to("rows")
    settle()
    window.rows_place.choose("Wet mass (g)")
    QTest.qWait(300)
    return window.grab()


def overview(window: Window) -> QPixmap:
    """Every variable's first look."""
    window.go_to("overview")
    QTest.qWait(600)
    return window.grab()


def dark(window: Window) -> QPixmap:
    """The window on a dark desktop."""
    application = QApplication.instance()
    theme.dress(application, theme.DARK)
    window.choose_phrase("split")
    window.figure.variables.list.setFocus()
    settle()
    picture = window.grab()
    theme.dress(application, theme.LIGHT)
    return picture


def compare(window: Window) -> QPixmap:
    """Decile arrows under outlines, and the groups compared at the foot."""
    recipe = window.session.recipe
    shown = recipe.showing(forms=("outline", "shift"), arrange="overlaid")
    window.session.ask("Compare", shown.sized(Size(16, 11, "cm")))
    window.choose_phrase("compare")
    window.figure.foot.show_face("compare")
    settle()
    return window.grab()


def ranges(window: Window) -> QPixmap:
    """A range that is read, and one that is kept."""
    kept = Range(low=84.0, high=96.0, words="for market")
    window.session.ask("Shade a range", window.session.recipe.changed(range=(kept,)))
    canvas = window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    middle = (frame.top + frame.bottom) / 2
    start, end = (QPoint(round(frame.along(v) * scale), round(middle * scale)) for v in (56, 66))
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(canvas, (start + end) / 2)
    QTest.mouseMove(canvas, end)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=end)
    window.choose_phrase("lines")
    settle()
    return window.grab()


def ladder(window: Window) -> QPixmap:
    """The same values at other widths, beneath the settings of the bins."""
    window.session.ask("Finer", window.session.recipe.binned(Bins(width=2.0)))
    panel = window.figure.side.panel("bins")
    assert isinstance(panel, BinsPanel)
    window.choose_phrase("bins")
    QTest.qWait(600)
    area = panel.ladder.parentWidget()
    while not isinstance(area, QScrollArea):
        area = area.parentWidget()
    area.ensureWidgetVisible(panel.ladder, 0, 400)
    settle()
    return window.grab()


def sway(window: Window) -> QPixmap:
    """Where another sample would lie, of bars, curves and boxes."""
    recipe = window.session.recipe
    shown = recipe.showing(forms=("bars", "curve", "box"), arrange="overlaid")
    window.session.ask("Sway", shown.changed(sway=recipe.sway.changed(of="sample")))
    window.choose_phrase("sway")
    settle()
    return window.grab()


def pairs(window: Window) -> QPixmap:
    """Quantile pairs beside a normal shape, and what is told of one of them."""
    recipe = window.session.recipe
    window.session.ask("Quantile pairs", recipe.showing(forms=("pairs",)))
    window.choose_phrase("pairs")
    settle()
    canvas = window.figure.stage.canvas
    frame = canvas.scene.frame
    place = frame.points(frame.alongs(np.array([88.0])), np.array([(frame.left + frame.right) / 2]))
    QTest.mouseMove(canvas, (QPointF(*place[0]) * canvas.scale).toPoint())
    settle()
    return window.grab()


def welcome(window: Window) -> QPixmap:
    """The window before anything is open."""
    empty = Window()
    empty.resize(1280, 800)
    empty.show()
    settle()
    return empty.grab()


def several(window: Window) -> None:
    """Four figures of the demo data, a variant of the first beside it."""
    session = window.session
    session.figures.add()
    session.ask(
        "Boxes", session.recipe.showing(variables=("Wet mass",), split=("Bay",), forms=("box",))
    )
    session.figures.add()
    split = ("Season", "Stock")
    session.ask(
        "Outlines", session.recipe.showing(split=split, forms=("curve",), heights="density")
    )
    session.figures.show(0)
    session.figures.keep_variant()
    session.ask("Curve", session.recipe.showing(forms=("curve",), heights="density"))
    settle()


def shelf(window: Window) -> QPixmap:
    """Four figures on the shelf, a variant beside the original, both read by the pointer."""
    several(window)
    QTest.qWait(600)
    canvas = window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    QTest.mouseMove(
        canvas, QPoint(round(frame.along(66) * scale), round(frame.bottom * scale - 12))
    )
    settle()
    return window.grab()


def page(window: Window) -> QPixmap:
    """Figures set together on one page."""
    several(window)
    window.session.figures.part()
    window.filing.set_on_a_page()
    settle()
    dialog = window.findChild(PlateDialog)
    dialog.title.setText("Landings at three bays")
    dialog.set_anew()
    settle()
    picture = dialog.grab()
    dialog.reject()
    return picture


def many(window: Window) -> QPixmap:
    """The same figure of every variable, before it is made."""
    window.filing.folders = window.filing.folders.after("figure", Path("figures/figure.png"))
    window.filing.ask_for_many()
    dialog = window.findChild(ManyDialog)
    cards = [dialog.list.item(row) for row in range(dialog.list.count())]
    while any(card.icon().isNull() for card in cards):
        QTest.qWait(50)
    picture = dialog.grab()
    dialog.reject()
    return picture


def report(window: Window) -> QPixmap:
    """The first pages of a report."""
    several(window)
    session = window.session
    items = [
        Item(session.figures.name(at), figure.recipe)
        for at, figure in enumerate(session.document.figures)
    ]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "report.pdf"
        write_report(make_report(items, session.table, (), "Landings at three bays"), path)
        document = QPdfDocument(None)
        document.load(str(path))
        pages = [QPixmap.fromImage(document.render(at, QSize(620, 877))) for at in (0, 1)]
        document.close()
    picture = QPixmap(1280, 893)
    picture.fill(QColor(theme.theme().ground))
    with QPainter(picture) as painter:
        for at, drawn in enumerate(pages):
            painter.fillRect(QRect(8 + at * 636, 8, 620, 877), QColor("white"))
            painter.drawPixmap(8 + at * 636, 8, drawn)
    return picture


def far(window: Window) -> QPixmap:
    """A file that memory is said not to hold: provisional, then exact; and data at a server."""
    os.environ["RHABDOS_MEMORY"] = "0"
    gate, whole = threading.Event(), DuckFiles.ask

    def held(self: DuckFiles, query: exp.Query, question: Question | None = None) -> pl.DataFrame:
        """Every count waits until the provisional figure has its picture."""
        if "GROUP BY" in query.sql():
            gate.wait(20)
        return whole(self, query, question)

    pictures = []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "landings-of-ten-years.parquet"
        many = pl.concat([_as_frame(demo_table())] * 40)
        length = pl.col("Shell length") + (pl.int_range(pl.len()) * 7 % 61 - 30) / 10
        many.with_columns(length.round(1)).write_parquet(path, row_group_size=5_000)
        DuckFiles.ask = held
        window.session.opening.open_file(path)
        while window.session.table.far is None or window.session.readings is None:
            settle()
        settle()
        pictures.append(window.grab())
        gate.set()
        while window.session.runner.running():
            settle()
        DuckFiles.ask = whole
        settle()
        pictures.append(window.grab())
        dialog = ServerDialog(None, window)
        dialog.where.setText("oysters")
        dialog.show_tables(
            [
                ("harvest", "landings", 96_640),
                ("harvest", "nursery", 12_300),
                ("water", "soundings", 0),
            ]
        )
        dialog.tables.blockSignals(True)
        dialog.tables.setCurrentRow(0)
        dialog._show_ready()
        dialog.show_rows(window.session.table)
        pictures.append(
            dialog.grab().scaledToWidth(1280, Qt.TransformationMode.SmoothTransformation)
        )
    del os.environ["RHABDOS_MEMORY"]
    picture = QPixmap(1280, sum(each.height() + 8 for each in pictures))
    picture.fill(QColor(theme.theme().ground))
    with QPainter(picture) as painter:
        top = 0
        for each in pictures:
            painter.drawPixmap(0, top, each)
            top += each.height() + 8
    return picture


def _as_frame(table: Table) -> pl.DataFrame:
    return pl.read_csv(written(table, ".csv"), infer_schema_length=None)


VIEWS: dict[str, Callable[[Window], QPixmap]] = {
    view.__name__: view
    for view in (
        *(demo, overview, rows),
        *(boxes, far),
        *(shelf, page, many, report),
        *(ladder, ranges, compare, sway, pairs),
        *(words, looks),
        *(export, dark, welcome),
    )
}


def draw_forms(folder: Path) -> None:
    """A small picture of every form, of the demo's shell lengths at three bays."""
    samples = gather(demo_table(), "Shell length", "Bay")
    folder.mkdir(exist_ok=True)
    for form in FORMS:
        readings = read(demo_recipe(), samples)
        scene = miniature(readings, form, *_SMALL)
        write_figure(scene, folder / f"{form}.svg")


def main(folder: Path = FOLDER, *names: str) -> None:
    os.environ["HOME"] = "/home/mira"  # which fields of files show; nothing is written there
    application = QApplication(["rhabdos", *theme.PLAIN])
    theme.apply(application)
    for name in names or VIEWS:
        window = Window()
        window.resize(1280, 800)
        window.session.opening.open_demo()
        window.show()
        settle()
        VIEWS[name](window).save(str(Path(folder) / f"{name}.png"))
        window.filing.may_close = lambda: True
        window.close()
    if not names:
        draw_forms(Path(folder).parent / "forms")


if __name__ == "__main__":
    main(*([Path(sys.argv[1]), *sys.argv[2:]] if len(sys.argv) > 1 else []))
