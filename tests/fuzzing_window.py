"""A hand that clicks, drags, picks and types at random in the real window, on data that are no demo.

After every few acts, what the window shows is compared with what its recipe says, read from its text and
worked out from the rows anew. Run as ``python -m tests.fuzzing_window [STEPS] [SEED]`` for a long search.
"""

import faulthandler
import os
import random
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from unittest.mock import patch

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QAction, QDesktopServices
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QMenuBar,
    QMessageBox,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)

import rhabdos.log
from rhabdos.app.session.saving import recipe_text
from rhabdos.app.shell.window import Window
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.phrases.chart_phrases import chart_fragments
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.plain_charts import PlainChart
from rhabdos.figure.recipe.toml_text import read_work
from rhabdos.paint.fonts import measure, measure_for
from rhabdos.project.document import Document
from rhabdos.project.work_file import KeptSource, WorkFile, read_work_file, write_work_file
from rhabdos.scene.axes.limits import limits_of
from rhabdos.scene.build import build
from rhabdos.scene.common_axes import NOTHING_SHARED, CommonAxes, common_axes
from rhabdos.scene.marks import Area, Mark, Text
from rhabdos.scene.plain_charts import chart_scene

_LONGEST_ACT = 30  # seconds, after which the window hangs
_COMPARED_EACH = 12  # acts
_RANGE_RESTS = 200  # milliseconds after which the foot lists the rows of a range that was moved
_NAMES = ("Wet & dry", "Größe", "x" * 70, "Lohn <b>", "Date", "Class", "Empty", "Const", "Costs")
_TYPED = (
    *("1", "0.5", "-3", "1e300", "abc", "", "0 to 10 by 2", "&", "{mean}", "<b>", "red", "#12"),
    *("70 low; 90 high", "30 %", "none", "1,2,3", "a\tb"),
)
_KEYS = (
    *(Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Up, Qt.Key.Key_Down),
    *(Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_Delete, Qt.Key.Key_Home),
    *(Qt.Key.Key_F6, Qt.Key.Key_F1, Qt.Key.Key_Question, Qt.Key.Key_F12),
)
_PLAIN, _SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier
_ALT, _CONTROL = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier


def random_file(folder: Path, rng: random.Random) -> Path:
    """A table of awkward names and levels, of one row to a few hundred."""
    path = folder / "a & b.csv"
    rows = [",".join(f'"{name}"' for name in _NAMES)]
    for _ in range(rng.choice([1, 2, 7, 60, 400])):
        cells = (
            f"{rng.gauss(0, 1):.3f}",
            rng.choice(["klein", "groß & rund", "mittel", ""]),
            str(rng.randint(-3, 9)),
            f"{rng.expovariate(0.01):.2f}",
            f"20{rng.randint(10, 24)}-0{rng.randint(1, 9)}-1{rng.randint(0, 9)}",
            rng.choice("AB C"),
            "",
            "5",
            f"{rng.lognormvariate(3, 3):.3f}",
        )
        rows.append(",".join(cells))
    path.write_text("\n".join(rows), encoding="utf-8")
    return path


class RandomHand:
    """Acts in a window, each drawn at random among what can be done there."""

    def __init__(self, window: Window, rng: random.Random) -> None:
        self.window, self.rng = window, rng
        self.done: list[str] = []

    def act(self) -> None:
        """Do one thing, and wait for what it leads to."""
        front = self._front()
        if isinstance(front, QMenu):
            self._choose_from(front)
        else:
            acts = (self._click, self._pick, self._type, self._press_key, self._press_shortcut)
            self.rng.choices(acts, (40, 14, 14, 12, 20))[0](front)
        self.settle()
        for dialog in _dialogs():
            if self.rng.random() < 0.25:
                dialog.close()
        if not self.window.isVisible():
            self.window.show()

    def settle(self) -> None:
        """Wait for what is under way."""
        end = time.monotonic() + _LONGEST_ACT
        while self.window.session.runner.running() and time.monotonic() < end:
            QTest.qWait(5)
        QApplication.processEvents()

    def _front(self) -> QWidget:
        """What takes the mouse: a menu, a dialog, or the window."""
        if popup := QApplication.activePopupWidget():
            return popup
        return (_dialogs() or [self.window])[-1]

    def _choose_from(self, menu: QMenu) -> None:
        entries = [a for a in menu.actions() if a.isEnabled() and not a.isSeparator()]
        menu.close()
        if entries and self.rng.random() < 0.8:
            entry = self.rng.choice(entries)
            if "Quit" not in entry.iconText():
                self.done.append(f"menu {entry.text()}")
                entry.trigger()

    def _click(self, front: QWidget) -> None:
        """Click, click twice or drag, somewhere on something that is in sight."""
        there = [
            widget
            for widget in front.findChildren(QWidget)
            if widget.isVisible() and widget.isEnabled() and not isinstance(widget, QMenuBar)
            if widget.width() > 3 and widget.visibleRegion().boundingRect().isValid()
            if not widget.findChildren(QWidget)
        ]
        if not there:
            front.close()
            return
        widget, left = self.rng.choice(there), Qt.MouseButton.LeftButton
        part = widget.visibleRegion().boundingRect()
        place = QPoint(
            self.rng.randint(part.left(), part.right()), self.rng.randint(part.top(), part.bottom())
        )
        modifier = self.rng.choice([_PLAIN] * 4 + [_CONTROL, _SHIFT])
        kind = self.rng.choices(["click", "double", "drag"], (75, 10, 15))[0]
        self.done.append(f"{kind} {_called(widget)} {place.x()},{place.y()}")
        if kind == "click":
            QTest.mouseClick(widget, left, modifier, place)
        elif kind == "double":
            QTest.mouseDClick(widget, left, modifier, place)
        else:
            QTest.mousePress(widget, left, modifier, place)
            for _ in range(3):
                QTest.mouseMove(widget, place + self._aside())
            QTest.mouseRelease(widget, left, modifier, place + self._aside())

    def _aside(self) -> QPoint:
        return QPoint(self.rng.randint(-80, 80), self.rng.randint(-40, 40))

    def _pick(self, front: QWidget) -> None:
        boxes = [b for b in front.findChildren(QComboBox) if b.isVisible() and b.isEnabled()]
        if boxes := [box for box in boxes if box.count()]:
            box = self.rng.choice(boxes)
            index = self.rng.randrange(box.count())
            self.done.append(f"pick {box.accessibleName()}: {box.itemText(index)}")
            box.setCurrentIndex(index)
            box.activated.emit(index)

    def _type(self, front: QWidget) -> None:
        fields = [f for f in front.findChildren(QLineEdit) if f.isVisible() and f.isEnabled()]
        if fields:
            field, text = self.rng.choice(fields), self.rng.choice(_TYPED)
            self.done.append(f"type {field.accessibleName()}: {text!r}")
            field.setFocus()
            field.selectAll()
            QTest.keyClicks(field, text)
            QTest.keyClick(field, Qt.Key.Key_Return)

    def _press_key(self, _front: QWidget) -> None:
        widget = QApplication.focusWidget() or self.window
        key, modifier = self.rng.choice(_KEYS), self.rng.choice([_PLAIN] * 3 + [_SHIFT, _ALT])
        self.done.append(f"{key.name} {modifier.name} on {_called(widget)}")
        QTest.keyClick(widget, key, modifier)

    def _press_shortcut(self, front: QWidget) -> None:
        """One of the window's own deeds, but those that end it."""
        if front is not self.window:
            return
        actions = [
            action
            for action in self.window.findChildren(QAction)
            if action.isEnabled() and action.text() and action.menu() is None
            if not any(word in action.iconText() for word in ("Quit", "Print"))
        ]
        action = self.rng.choice([*actions, self.window.menus.undo])
        self.done.append(f"{action.iconText()} {action.shortcut().toString()}")
        action.trigger()


def _called(widget: QWidget) -> str:
    says = getattr(widget, "text", None)
    words = says() if says and not isinstance(widget, (QTextEdit, QPlainTextEdit)) else ""
    return f"{type(widget).__name__} {widget.accessibleName() or words}".strip()


def _dialogs() -> list[QDialog]:
    shown = [w for w in QApplication.topLevelWidgets() if w.isVisible()]
    return [widget for widget in shown if isinstance(widget, QDialog)]


def what_differs(window: Window) -> list[str]:
    """Where the window shows another figure than its recipe says, worked out from the rows anew."""
    session = window.session
    document, table = session.document, session.table
    if document.recipe is None and document.chart is None:
        return []  # of which nothing can be written
    work = read_work(recipe_text(session))
    found = []
    if work.recipe != document.recipe or work.chart != document.chart:
        found.append("the recipe, read from its text, is another one")
    if work.steps != document.steps:
        found.append("the steps, read from their text, are other ones")
    whole = WorkFile.of(document, KeptSource(), document.steps)
    if read_work_file(write_work_file(whole), "the work") != whole:
        found.append("the work, read from its text, is another one")
    if document.chart is not None and table is not None:
        return found + _unlike_chart(window, document.chart, table)
    recipe, shown = document.recipe, session.readings
    if recipe is None or table is None or shown is None or shown.recipe != recipe:
        return found  # nothing is drawn, or a form shows beforehand what it would do
    readings = read(recipe, samples_for(recipe, table))
    shared = _shared(readings, document, table)
    limits, measured = shared.limits(readings), measure_for(recipe)
    scene = build(readings, measured, limits, top=shared.top)
    painted = window.figure.stage.canvas.scene
    if painted is not None and window.figure.stage.canvas.isVisible():
        found += _unlike(painted.marks, scene.marks)
        if painted.describe() != scene.describe():
            found.append("the figure is described otherwise")
    if window.sentence.isVisible() and window.sentence.accessibleDescription() != plain(readings):
        found.append(f"the sentence is {window.sentence.accessibleDescription()!r}")
    found += _unlike_foot(window, readings)
    return found


def _shared(readings: Readings, document: Document, table: Table) -> CommonAxes:
    """The axes that the figure in sight shares with those beside it, worked out from the rows."""
    others = []
    for place in document.beside:
        recipe = document.figures[place].recipe
        try:
            if place != document.shown:
                other = read(recipe, samples_for(recipe, table))
                limits_of(other)
                others.append(other)
        except Refusal:
            continue
    if not document.beside or len(document.beside) < 2:
        return NOTHING_SHARED
    try:
        return common_axes([readings, *others], measure_for(readings.recipe))
    except Refusal:
        return NOTHING_SHARED


def _unlike_chart(window: Window, chart: PlainChart, table: Table) -> list[str]:
    """Where a plain chart is another one than it should be."""
    painted = window.figure.chart_view.paper.scene
    try:
        scene = chart_scene(chart, table, measure)
    except Refusal:
        return ["a chart is painted that cannot be"] * (painted is not None)
    said = "".join(fragment.text for fragment in chart_fragments(chart, table))
    told = window.sentence.accessibleDescription()
    found = [f"the sentence is {told!r}"] * (window.sentence.isVisible() and told != said)
    return found + (_unlike(painted.marks, scene.marks) if painted else ["no chart is painted"])


def _unlike(painted: tuple[Mark, ...], derived: tuple[Mark, ...]) -> list[str]:
    """What is painted otherwise than it should be."""
    words = [Counter(m.text for m in marks if isinstance(m, Text)) for marks in (painted, derived)]
    found = [f"words differ: {(words[0] - words[1]) + (words[1] - words[0])}"] * (
        words[0] != words[1]
    )
    areas = [[m for m in marks if isinstance(m, Area)] for marks in (painted, derived)]
    if len(areas[0]) != len(areas[1]):
        found.append(f"{len(areas[0])} areas are painted, {len(areas[1])} should be")
    for ours, theirs in zip(*areas, strict=False):
        same = ours.points.shape == theirs.points.shape and np.allclose(
            ours.points, theirs.points, rtol=0, atol=1e-6, equal_nan=True
        )
        if not same or (ours.fill, ours.opacity, ours.hatch) != (
            theirs.fill,
            theirs.opacity,
            theirs.hatch,
        ):
            found.append(f"an area of {ours.meaning} is another one")
            break
    return found


def _unlike_foot(window: Window, readings: Readings) -> list[str]:
    """What the foot tells otherwise than it should."""
    foot = window.figure.foot
    if not foot.table.isVisible():
        return []
    if foot.face == "rows":
        QTest.qWait(_RANGE_RESTS)
    face = foot.face_of(readings)
    said = sorted(tuple(str(cell and cell.text) for cell in row.cells) for row in face.rows)
    rows = [foot.table.model().index(row, 0) for row in range(foot.table.model().rowCount())]
    listed = sorted(
        tuple(str(i.siblingAtColumn(column).data()) for column in range(len(face.titles)))
        for i in rows
    )
    found = [] if listed == said else [f"the foot says {listed[:2]} and not {said[:2]}"]
    wanted = [notice.text for notice in notices(readings)]
    told = [notice.text for notice in foot.notices.notices]
    return found if set(wanted) <= set(told) else [*found, f"told {told} and not {wanted}"]


@contextmanager
def _answered(folder: Path, rng: random.Random, faults: list[str]) -> Iterator[None]:
    """Dialogs of the desktop answer by themselves, and what goes wrong is kept."""
    other = folder / "other.csv"
    other.write_text("Class,More\nA,1\nB,2\nC,3\n")

    def opened(*_: object, **__: object) -> tuple[str, str]:
        """A file to open, that is there or not."""
        names = ("a & b.csv", "other.csv", "out.toml", "out.png", "nothing.csv", "out.rhabdos")
        return str(folder / rng.choice(names)), ""

    def saved(*_: object, **__: object) -> tuple[str, str]:
        """A file to write."""
        return str(
            folder
            / rng.choice(("out.toml", "out.png", "t.csv", "t.html", "out.rhabdos", "t.pdf", "t.md"))
        ), ""

    def refuse(box: QMessageBox) -> int:
        """Leave a question unanswered."""
        box.close()
        return 0

    def raised(kind: type[BaseException], error: BaseException, trace: object) -> None:
        """Keep what came out of a slot."""
        faults.append("".join(traceback.format_exception(error)))

    def logged(error: BaseException) -> Path:
        """Keep what was unforeseen."""
        faults.append("".join(traceback.format_exception(error)))
        return folder / "log"

    with (
        patch.object(QFileDialog, "getOpenFileName", staticmethod(opened)),
        patch.object(
            QFileDialog, "getOpenFileNames", staticmethod(lambda *_, **__: ([opened()[0]], ""))
        ),
        patch.object(QFileDialog, "getSaveFileName", staticmethod(saved)),
        patch.object(QFileDialog, "getExistingDirectory", staticmethod(lambda *_: str(folder))),
        patch.object(QMessageBox, "exec", refuse),
        patch.object(QDesktopServices, "openUrl", staticmethod(lambda *_: True)),
        patch.object(rhabdos.log, "record", logged),
        patch.object(sys, "excepthook", raised),
    ):
        yield


def faults_of(window: Window, folder: Path, steps: int, seed: int) -> list[str]:
    """Act so many times in a window, and tell what went wrong; the first fault ends it."""
    rng, faults = random.Random(seed), list[str]()
    hand = RandomHand(window, rng)
    with _answered(folder, rng, faults):
        window.filing.open(random_file(folder, rng))
        hand.settle()
        for step in range(steps):
            faulthandler.dump_traceback_later(_LONGEST_ACT * 3, exit=True)
            try:
                hand.act()
                if step % _COMPARED_EACH == 0:
                    faults += what_differs(window)
            except Exception as error:  # noqa: BLE001 - whatever comes out is a fault
                faults.append("".join(traceback.format_exception(error)))
            if faults:
                last = "\n    ".join(hand.done[-8:])
                faults.append(f"seed {seed}, act {step}, after\n    {last}")
                break
        faulthandler.cancel_dump_traceback_later()
        for dialog in _dialogs():
            dialog.close()
    return faults


def search(steps: int, seed: int) -> int:
    """Act so many times, print every fault, and tell how many there were."""
    from rhabdos.app.controls import theme

    os.environ.setdefault("QT_LOGGING_RULES", "*=false")
    with tempfile.TemporaryDirectory() as folder:
        for name in ("STATE", "CONFIG", "DATA", "CACHE"):
            os.environ[f"XDG_{name}_HOME"] = folder
        os.chdir(folder)  # where names that are typed without a folder lead
        app = QApplication(["rhabdos", *theme.PLAIN])
        theme.apply(app)
        window = Window()
        window.resize(1100, 760)
        window.show()
        found = faults_of(window, Path(folder), steps, seed)
        print(*found, sep="\n")
        print(f"{steps:,} acts of seed {seed}: {'a fault' if found else 'no fault'}.", flush=True)
        os._exit(bool(found))  # whatever dialogs and threads are still there


if __name__ == "__main__":
    asked = [int(word) for word in sys.argv[1:]]
    search(asked[0] if asked else 1_000, asked[1] if len(asked) > 1 else 1)
