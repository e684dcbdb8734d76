"""Windows as they were when somebody last looked at them: what they say, offer, and answer to hands.

A walk goes through a window with random figures: it opens each panel, menu and table, sets each
setting to something else and takes it back, and moves each grip. What is in sight is written down
where it differs from what was in sight before; what is painted is compared with some slack, since
places hang on fonts. How the window looks is compared where letters look as they did when it was
kept; pictures of both are to be had by ``RHABDOS_LOOKS``, see looks.
Written anew by ``make kept``, as kept_figures are.
"""

import os
import re
import tempfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, QLocale, QPoint, Qt, QTimer
from PyQt6.QtGui import QAction
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFileDialog,
    QLineEdit,
    QListWidget,
    QMenu,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QTableWidgetItem,
    QTreeView,
    QWidget,
)
from PyQt6.sip import isdeleted

import rhabdos
import tests.conftest  # noqa: F401 - first of all, so that no file of a user's is touched
from rhabdos.app.controls.font_field import FontField
from rhabdos.app.controls.heard import HeardList, HeardTable
from rhabdos.app.leaving.many_dialog import ManyDialog
from rhabdos.app.panels.foot import FACES, Foot
from rhabdos.app.panels.panel import Panel
from rhabdos.app.shell.window import Window
from rhabdos.figure.phrases import PHRASES
from rhabdos.project.document import Document, Source
from tests.figures import random_figure
from tests.kept_hands import by_hand
from tests.looks import letters, look_of_widget
from tests.seen_widgets import entries, in_sight, painted, painted_in

FOLDER = Path(__file__).parent / "kept_windows"
_PASSES = 4  # of what a deed leads to, and that in its turn
_PAUSE = 400  # milliseconds: none that a window waits for a hand is longer
_OPPOSITE = {True: Qt.CheckState.Unchecked, False: Qt.CheckState.Checked}
_FILES = {
    "fixed.txt": "length  bay\n12.5    north\n13.25   south\n14      north\n" * 3,
    "commas.csv": "From the north\n\nLänge;Bucht\n12,5;Nord\n13,25;Süd\nn/a;Nord\n",
}
"""Files that are looked into."""
_FIGURES = (8, 109, 309)
"""Seeds of figures whose words every machine can draw."""
_TYPED = ("7", "x =")
_MANY_PLACES = re.compile(r"-?\d+\.\d{12,}")
_KEYS = (
    *("Right", "Left", "Up", "Down", "PageUp", "PageDown", "Home", "End"),
    *("Plus", "Minus", "Insert", "Delete", "Return", "Space", "Escape"),
)


class Walk:
    """What a window shows, written down where it is new."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.gripped: list[QWidget] = []
        self.before: list[str] = []
        self.looks = [letters(QApplication.font())]

    def open(self, seed: int) -> None:
        """Bring a random figure and its rows into the window."""
        made, self.gripped = random_figure(seed), []
        document = Document.of(Source(), made.recipe)
        self.window.session.store.keep_table(document, made.table)
        self.window.session.go("Open", document)
        self.settle()

    def settle(self) -> None:
        """Wait for what is under way."""
        for _ in range(_PASSES):
            QApplication.processEvents()
            begun = list(self._pauses())
            for timer in begun:
                timer.setInterval(0)
            while self._works():
                QTest.qWait(1)
            QApplication.processEvents()
            if not begun:
                return

    def _works(self) -> bool:
        return self.window.session.runner.running() or self.window.seen.busy

    def _pauses(self) -> Iterator[QTimer]:
        """What waits for a pause in typing: a walk makes them at once, however fast it is."""
        for above in {self.window, QApplication.activeModalWidget() or self.window}:
            for timer in above.findChildren(QTimer):
                if timer.isActive() and timer.isSingleShot() and timer.interval() <= _PAUSE:
                    yield timer

    def told(
        self, what: str, of: QWidget | None = None, painted: QWidget | None = None
    ) -> Iterator[str]:
        """What is in sight now and was not before, after a deed; and what is ``painted`` there."""
        self.settle()
        yield from self.told_at_once(what, of, painted)

    def told_at_once(
        self, what: str, of: QWidget | None = None, painted: QWidget | None = None
    ) -> Iterator[str]:
        """The same where nothing is under way."""
        now = [_with_keys(of or self.window), *in_sight(of or self.window)]
        now += painted_in(painted) if painted else ()
        yield from [f"# {what}"] * bool(what)
        before = set(self.before)
        yield from (line for line in now if line not in before)
        self.before = now
        if of or painted or not what.startswith(" "):
            self._keep_look(what.strip(), of or self.window)

    def look(self, what: str) -> None:
        """Keep how the window looks now."""
        self.settle()
        self._keep_look(what, self.window)

    def _keep_look(self, what: str, shown: QWidget) -> None:
        if isinstance(shown, ManyDialog):  # whose pictures come one by one, later
            return
        called = f"{what} {type(shown).__name__}"
        look = look_of_widget(shown, f"{len(self.looks)} {called}")
        self.looks.append(f"{called} {look}")


def _with_keys(of: QWidget) -> str:
    """Which part of a window has the keys."""
    has = of.focusWidget()
    if isinstance(has, HeardList | HeardTable):  # made where somebody listens
        has = has.parentWidget()
    return f"keys go to {type(has).__name__} “{has.accessibleName()}”" if has else "keys go nowhere"


def _figure(part: int, seed: int, walk: Walk) -> Iterator[str]:
    """All that a window offers of a random figure, and each third of its settings set."""
    window = walk.window
    yield from walk.told("empty")
    walk.open(seed)
    yield from walk.told(f"figure {seed}", painted=window)
    for key in PHRASES:
        window.choose_phrase(key)
        yield from walk.told(f"{key}")
        yield from _popped(walk, "alternatives", partial(window.open_phrase, key))
        if window.figure.side.has_settings:
            yield from _set(walk, window.figure.side.panel(key), part)
            yield from _gripped(walk)
    for face in FACES:
        window.figure.foot.show_face(face)
        yield from walk.told(f"table {face}", painted=window.figure.foot)
        yield from _chosen(walk, window.figure.foot.table)
    yield from _read(walk)
    yield from _told_of(walk)
    yield from entries(window.menu_bar.actions())
    for place in ("rows", "overview", "figure"):
        window.go_to(place)
        yield from walk.told(place, painted=window)
    window.go_to("overview")
    window.overview.numbers.click()
    yield from walk.told("overview in numbers", painted=window)
    for view in window.overview.findChildren(QAbstractItemView):
        yield from _chosen(walk, view)


def _rows(walk: Walk) -> Iterator[str]:
    """The forms that make steps, what is told of variables and steps, and orders of rows."""
    window, rows = walk.window, walk.window.rows_place
    window.session.opening.open_demo()
    window.go_to("rows")
    yield from walk.told("rows", painted=window)
    for name in ("Tag", "Bay", "Culture", "Wet mass", "Grit", "Water temperature", "Cracked"):
        rows.choose(name)
        yield from walk.told(f"about {name}", painted=window)
    for kind, name in (
        *(("keep", "Bay"), ("keep", "Wet mass"), ("make", "Wet mass"), ("recode", "Bay")),
        *(("numbers", "Bay"), ("fill", "Wet mass"), ("join", ""), ("stack", ""), ("gather", "")),
    ):
        rows.begin(kind, name)
        yield from walk.told(f"{kind} {name}")
        yield from _set_all(walk, rows.form, rows.form.foresee)
        rows.form.do_button.click()
        yield from walk.told("  done")
        rows.leave_form()
    cell = window.rect().center()
    for name in ("Bay", "Wet mass", "Tag"):
        yield from _popped(walk, f"cell of {name}", partial(rows.cells.offer, 3, name, cell))
    for index in range(len(window.session.document.steps)):
        rows.steps.choose(index)
        yield from walk.told(f"step {index} chosen")
        rows.open_step(index)
        yield from walk.told(f"step {index}")
    rows.leave_form()
    for name in ("Bay", "Wet mass"):
        rows.sort_by(name)
        yield from walk.told(f"ordered by {name}")
    window.session.undo()
    yield from walk.told("undone")
    yield from entries(window.menu_bar.actions())


def _chosen(walk: Walk, view: QAbstractItemView) -> Iterator[str]:
    """Click the second row of a list or a table, and its head, and press Return there."""
    if not view.isVisible() or view.model() is None or view.model().rowCount() < 2:
        return
    second = view.model().index(1, 0)
    view.scrollTo(second)
    place = view.visualRect(second).center()
    QTest.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=place)
    yield from walk.told("  clicked")
    QTest.keyClick(view, Qt.Key.Key_Return)
    yield from walk.told("  Return")
    if isinstance(foot := view.parent(), Foot):
        cells = [view.model().index(1, column) for column in range(view.model().columnCount())]
        yield f"  explained {[foot.subject_at(cell) for cell in cells]}"
    if isinstance(view, QTreeView) and not view.isHeaderHidden():
        QTest.mouseClick(view.header().viewport(), Qt.MouseButton.LeftButton, pos=QPoint(90, 9))
        yield from walk.told("  sorted")


def _set_all(walk: Walk, form: QWidget, foresee: Callable[[], object]) -> Iterator[str]:
    """Set each field of a form or a dialog to something else."""
    for widget in form.findChildren(QWidget):
        there = not isdeleted(widget) and widget.isVisible() and widget.isEnabled()
        if not there or isinstance(widget.parent(), QComboBox | QAbstractSpinBox):
            continue
        match widget:
            case QComboBox() if widget.count() > 1:
                _choose(widget, (widget.currentIndex() + 1) % widget.count())
            case QCheckBox():
                widget.click()
            case QListWidget() if widget.count():
                first = widget.item(0)
                if first.flags() & Qt.ItemFlag.ItemIsUserCheckable:
                    ticked = first.checkState() == Qt.CheckState.Checked
                    first.setCheckState(_OPPOSITE[ticked])
                widget.setCurrentRow(widget.count() - 1)
            case QSpinBox() | QDoubleSpinBox():
                widget.stepUp()
            case QLineEdit():
                widget.setText("7" if widget.text() != "7" else "8")
                widget.textEdited.emit(widget.text())
            case _:
                continue
        foresee()
        yield from walk.told(f"  other {widget.accessibleName()}", form)


def _dialogs(walk: Walk) -> Iterator[str]:
    """The dialogs that menus open, and what they say to each other choice."""
    window = walk.window
    window.session.opening.open_demo()
    walk.settle()
    for name, action in list(_named(window.menu_bar.actions())):
        opens = (name.endswith("…") and name.startswith(("File", "Edit"))) or name.startswith(
            "Help"
        )
        if not opens or any(word in name for word in ("Print", "anual", "tour")):
            continue
        if action.isEnabled():
            told: list[str] = []
            QTimer.singleShot(0, action.trigger)
            QTimer.singleShot(0, partial(_hear_dialog, walk, told))
            QTest.qWait(1)
            walk.settle()
            yield from (f"# {name}", *told)


def _hear_dialog(walk: Walk, told: list[str]) -> None:
    """Write down what stands before the window, and close it."""
    for dialog in QApplication.topLevelWidgets():
        if isinstance(dialog, QFileDialog) and dialog.isVisible():
            names = [Path(name).name for name in dialog.selectedFiles()]
            told += [dialog.windowTitle(), *dialog.nameFilters(), str(names)]
            dialog.reject()
        elif isinstance(dialog, QDialog) and dialog.isVisible():
            told += [dialog.windowTitle(), *walk.told("", dialog)]
            for choice in dialog.findChildren(QRadioButton) or [None]:
                if choice is not None:
                    choice.click()
                    told += walk.told(f"  {choice.text()}", dialog)
                told += _set_all(walk, dialog, QApplication.processEvents)
            told += walk.told("  after a while", dialog, dialog)
            dialog.reject()


def _beginnings(walk: Walk) -> Iterator[str]:
    """Rows that are typed, drawn by chance, pasted and read from a file, and changed again."""
    window, arriving = walk.window, walk.window.filing.arriving
    for begin, act in ((arriving.simulate, "Draw &anew"), (arriving.type_values, "")):
        begin()
        dialog = QApplication.activeModalWidget()
        if not act:
            for row, (number, name) in enumerate((("1.5", "a"), ("2", "b"), ("x", ""), ("4", "a"))):
                dialog.sheet.setItem(row, 0, QTableWidgetItem(number))
                dialog.sheet.setItem(row, 1, QTableWidgetItem(name))
        yield from walk.told(begin.__name__, dialog, dialog)
        if not act:
            dialog.sheet.setItem(2, 0, QTableWidgetItem("3"))
            yield from walk.told("  a number", dialog, dialog)
        dialog.accept()
        yield from walk.told("  taken")
        window.rows_place.open_step(0)
        dialog = QApplication.activeModalWidget()
        yield from walk.told("  again", dialog)
        for button in dialog.findChildren(QPushButton):
            if button.text() == act:
                button.click()
        if not act:
            dialog.sheet.setItem(2, 0, QTableWidgetItem("5"))
        yield from walk.told("  changed", dialog)
        dialog.accept()
        window.go_to("rows")
        yield from walk.told("  taken again")
        yield from entries(window.menu_bar.actions()[1:2])
    clipboard = QApplication.clipboard()
    for cells in ("length\tbay\n12,5\tnorth\n13\tsouth\n14,25\tnorth", "7\n8\n9", "no"):
        clipboard.setText(cells)
        arriving.paste()
        yield from walk.told(f"pasted {cells!r}")
    with tempfile.TemporaryDirectory() as folder:
        for name, text in _FILES.items():
            (Path(folder) / name).write_text(text)
            arriving.look_into(Path(folder) / name)
            dialog = QApplication.activeModalWidget()
            yield from walk.told(f"looked into {name}", dialog)
            yield from _set_all(walk, dialog, QApplication.processEvents)
            dialog.accept()
            yield from walk.told("  read")


def _charts(walk: Walk) -> Iterator[str]:
    """Levels as bars and two numbers, several figures, and what is beside them."""
    window = walk.window
    window.session.opening.open_demo()
    yield from walk.told("demo")
    window.variable_actions.draw("Culture")
    yield from walk.told("levels", painted=window.figure.chart_view)
    yield from _set_all(walk, window.figure.chart_view, QApplication.processEvents)
    window.variable_actions.look_at_two()
    yield from walk.told("two numbers", painted=window.figure.chart_view)
    yield from _set_all(walk, window.figure.chart_view, QApplication.processEvents)
    window.variable_actions.draw("Shell length")
    window.figure.stage.canvas.setFocus()  # who has the keys of what went hangs on who is there yet
    yield from walk.told("one number")
    figures = window.session.figures
    for deed in (figures.keep_variant, figures.part, figures.take, figures.add):
        deed()
        yield from walk.told(deed.__name__)
        yield from entries(window.menu_bar.actions()[3:])
        for at in range(len(figures)):
            yield f"  figure {at}"
            yield from entries(window.figure.shelf.cards.deeds(at).actions())
    for index, entry in enumerate(window.figure.shelf.cards.deeds(1).actions()):
        if index != 1 and entry.isEnabled():  # to be renamed, it waits for a hand
            window.figure.shelf.cards.deeds(1).actions()[index].trigger()
            yield from walk.told(f"  {entry.text()} the second")


def _named(actions: list[QAction], above: str = "") -> Iterator[tuple[str, QAction]]:
    for action in actions:
        if menu := action.menu():
            yield from _named(menu.actions(), f"{above}{action.text()} › ".replace("&", ""))
        elif action.text():
            yield f"{above}{action.text()}".replace("&", ""), action


def _set(walk: Walk, panel: Panel, part: int) -> Iterator[str]:
    """Set each third setting of a panel to something else, and take that back."""
    for widget in panel.findChildren(QWidget)[part :: len(_FIGURES)]:
        if isdeleted(widget) or not widget.isVisible() or not widget.isEnabled():
            continue
        match widget:
            case QAbstractButton() if widget.isCheckable() or not widget.text().endswith("…"):
                deeds = [(widget.text() or "pressed", widget.click)]
            case QComboBox() if not isinstance(widget, FontField):
                others = [at for at in range(widget.count()) if at != widget.currentIndex()]
                deeds = [(widget.itemText(at), partial(_choose, widget, at)) for at in others[-1:]]
            case QLineEdit() if not isinstance(widget.parent(), QComboBox):
                deeds = [(repr(text), partial(_type, widget, text)) for text in _TYPED]
            case _:
                continue
        for words, deed in deeds:
            yield from _done(walk, f"  {widget.accessibleName()}: {words}", deed)


def _done(
    walk: Walk, what: str, deed: Callable[[], object], painted: QWidget | None = None
) -> Iterator[str]:
    """Do something to the figure, write down what it led to, and take it back."""
    session = walk.window.session
    before, stood = session.document, walk.before
    deed()
    walk.settle()
    done = session.history.undo_name if session.document != before else None
    yield from walk.told_at_once(f"{what}: {done}", painted=painted)
    while session.document != before and session.history.undo_name:
        session.undo()
    walk.settle()
    walk.before = stood  # were it not so, what is told next would show it


def _choose(widget: QComboBox, at: int) -> None:
    widget.setCurrentIndex(at)
    widget.activated.emit(at)


def _type(widget: QLineEdit, text: str) -> None:
    widget.setFocus()
    widget.selectAll()
    QTest.keyClicks(widget, text)
    QTest.keyClick(widget, Qt.Key.Key_Return)


def _popped(walk: Walk, what: str, opens: Callable[[], object]) -> Iterator[str]:
    """Open a menu, write down its entries, and choose each third of them."""
    opens()
    menu = QApplication.activePopupWidget()
    if not isinstance(menu, QMenu):
        return
    count = len(menu.actions())
    yield from (f"  {what}: {line}" for line in entries(menu.actions()))
    menu.close()
    for index in range(1, count, 3):
        opens()
        menu = QApplication.activePopupWidget()
        action = menu.actions()[index]
        menu.close()
        if action.text() and action.isEnabled() and not action.text().endswith("…"):
            yield from _done(walk, f"  {what}: {action.text()}", action.trigger)


def _gripped(walk: Walk) -> Iterator[str]:
    """Move what the rod holds by each key."""
    rod = walk.window.figure.stage.held_rod
    if rod is None or rod in walk.gripped:
        return
    walk.gripped.append(rod)
    for name in _KEYS:
        key = getattr(Qt.Key, f"Key_{name}")
        yield from _done(walk, f"  {name}", partial(QTest.keyClick, rod, key), rod)
    for times in (1.2, -1.0):  # as those who cannot see it set it
        if (stands := rod.standing()) is not None:
            value = times * stands.value
            yield from _done(walk, f"  set to {value:.6g}", partial(rod.set_to, value), rod)


def _read(walk: Walk) -> Iterator[str]:
    """Go through what the figure paints by keys."""
    canvas = walk.window.figure.stage.canvas
    canvas.setFocus()
    for name in ("Right", "Right", "Down", "Right", "Down", "Left", "Up", "End", "Home", "Escape"):
        QTest.keyClick(canvas, getattr(Qt.Key, f"Key_{name}"))
        card = canvas.card()
        yield f"  {name}: {card.spoken() if card else ''}"
        yield from painted("Canvas", canvas)
        if name == "Right":
            yield from _popped(walk, "rows", walk.window.row_actions.offer_read)


def _told_of(walk: Walk) -> Iterator[str]:
    """Mark a range by keys, move it and keep it; and ask what is read."""
    window, canvas = walk.window, walk.window.figure.stage.canvas
    shift = Qt.KeyboardModifier.ShiftModifier
    canvas.setFocus()
    for name in ("Right", "Right", "Left", "Right"):
        QTest.keyClick(canvas, getattr(Qt.Key, f"Key_{name}"), shift)
    card = window.figure_actions.ranges.card
    if card.isVisible():
        yield from walk.told("range", of=card, painted=card)
        for field in (card.low, card.high):
            for text in _TYPED:
                _type(field, text)
                yield from walk.told(f"  typed {text!r}", of=card)
        card.keep.click()
        yield from walk.told("  kept", of=card)
        window.session.undo()
        card.close_button.click()
    QTest.keyClick(canvas, Qt.Key.Key_Right)
    if window.explaining.ask():
        card = window.explaining.card
        yield from walk.told("explained", of=card)
        corner = window.mapToGlobal(window.rect().bottomRight()) - card.geometry().bottomRight()
        yield f"  {card.width()} x {card.height()}, {corner.x()} and {corner.y()} from the corner"
        card.close()


WALKS: dict[str, Callable[[Walk], Iterator[str]]] = {
    **{f"figure-{seed}": partial(_figure, part, seed) for part, seed in enumerate(_FIGURES)},
    "rows": _rows,
    "dialogs": _dialogs,
    "charts": _charts,
    "beginnings": _beginnings,
    "hands": by_hand,
}


def seen_on(name: str, window: Window) -> tuple[list[str], list[str]]:
    """All that is seen on a walk, in words, and how it looks after each deed; spin boxes write as
    the desktop does, here always in one way, and no cursor blinks."""
    QLocale.setDefault(QLocale.c())
    blinks = QApplication.cursorFlashTime()
    QApplication.setCursorFlashTime(0)
    walk = Walk(window)
    try:
        return [_steady(line) for line in WALKS[name](walk)], walk.looks
    finally:
        QLocale.setDefault(QLocale.system())
        QApplication.setCursorFlashTime(blinks)


def _steady(line: str) -> str:
    """A line without what hangs on the day or the machine."""
    line = line.replace(f"Rhabdos {rhabdos.__version__}", "Rhabdos")
    line = line.replace(str(Path.home()), "~").replace(str(Path.cwd()), "~")
    # The last digits of a sum hang on the processor.
    line = _MANY_PLACES.sub(lambda number: f"{float(number[0]):.12g}", line)
    return re.sub(r"\d+(\.\d+)? (ms|seconds?)\b", "some time", line)


def main() -> None:
    """Write all that is kept anew."""
    from rhabdos.app.controls import theme

    application = QApplication(["rhabdos", *theme.PLAIN])
    theme.apply(application)
    FOLDER.mkdir(exist_ok=True)
    for former in FOLDER.iterdir():
        former.unlink()
    for name in WALKS:
        for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
            os.environ[kept] = tempfile.mkdtemp(dir=os.environ["XDG_DATA_HOME"])
        window = Window()
        window.resize(1280, 800)
        window.show()
        QApplication.processEvents()
        for kept, kind in zip(seen_on(name, window), ("txt", "looks"), strict=True):
            (FOLDER / f"{name}.{kind}").write_text("\n".join(kept) + "\n")
        window.filing.may_close = lambda: True
        window.close()
        window.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


if __name__ == "__main__":
    main()
