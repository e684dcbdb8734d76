"""Data arrive: pasted, typed, simulated, read otherwise, reloaded, remembered; by real events."""

import gzip

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QPushButton

from rhabdos.app.arriving.reading_dialog import ReadingDialog
from rhabdos.app.arriving.simulating_dialog import SimulatingDialog
from rhabdos.app.arriving.typing_dialog import TypingDialog, first_look
from rhabdos.app.controls.small_figure import SmallFigure
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.steps.naming import Describe
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.sources import Simulate, Values
from rhabdos.data.table import Table
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.project.memory import Memory, recall, remember
from tests.app.texts import words_of

LEFT = Qt.MouseButton.LeftButton


def dialog_of(hands, kind):
    found = [dialog for dialog in hands.window.findChildren(kind) if dialog.isVisible()]
    assert found, "no dialog is open"
    return found[-1]


def settle(hands):
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=10_000)
    QApplication.processEvents()


def named(table):
    return [(column.name, column.kind) for column in table.columns]


PASTED = [
    ("length\tbay\n64,5\tA\n70\tB\n71\tA\n", [("length", "number"), ("bay", "category")], 3),
    ("64.5\n70\n71\n", [("Column 1", "number")], 3),
    ("a;b\n1,5;x\n2,5;x\n", [("a", "number"), ("b", "category")], 2),
    ("a\tb\r\n1\t2\r\n3\t4\r\n", [("a", "number"), ("b", "number")], 2),
]


@pytest.mark.parametrize(("text", "columns", "rows"), PASTED)
def test_cells_are_pasted_and_drawn(empty, text, columns, rows):
    QApplication.clipboard().setText(text)
    empty.press("Ctrl+V")
    settle(empty)
    table = empty.window.session.table
    assert (named(table), table.rows) == (columns, rows)
    assert empty.readings.variable.name == columns[0][0]
    assert isinstance(empty.window.session.document.steps[0], Values)


@pytest.mark.parametrize(
    ("text", "again"),
    [
        ("length\tbay\n64,5\tA\n70\tB\n71\tA\n", True),
        ("a\tb\n1\t2\n3\t4\n", True),
        ("64.5\n70\n71\n", True),
        ("length\tbay\tmass\n64.5\tA\t3\n70\tB\t4\n", False),
        ("bay\tlength\nA\t64.5\nB\t70\n", False),
        ("a;b\n1,5;x\n2,5;x\n", False),
    ],
)
def test_pasted_values_are_typed_again_where_the_sheet_holds_them_all(empty, text, again):
    QApplication.clipboard().setText(text)
    empty.press("Ctrl+V")
    settle(empty)
    session = empty.window.session
    before = [(c.name, c.kind, c.rows) for c in session.table.columns]
    kept = {c.name: c.values.tolist() for c in session.table.columns if c.kind == "number"}
    empty.press("F3")
    refusals = []
    session.refused.connect(refusals.append)
    empty.window.filing.arriving.refused.connect(refusals.append)
    empty.window.rows_place.open_step(0)
    dialogs = [d for d in empty.window.findChildren(TypingDialog) if d.isVisible()]
    assert bool(dialogs) is again
    if not again:
        assert "more than a number and a name" in refusals[0]
        return
    QTest.mouseClick(dialogs[0].done_button, LEFT)
    settle(empty)
    assert [(c.name, c.kind, c.rows) for c in session.table.columns] == before
    assert {c.name: c.values.tolist() for c in session.table.columns if c.kind == "number"} == kept
    assert session.document.steps[0].name == "Pasted values"


def test_a_clipboard_without_cells_is_told(empty):
    QApplication.clipboard().setText("  ")
    empty.press("Ctrl+V")
    assert "no cells on the clipboard" in empty.refusal()


def test_numbers_are_typed_and_drawn_while_they_are_typed(empty):
    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    sheet = dialog.sheet
    for number in ("21", "24,5", "19"):
        QTest.keyClick(sheet, number[0])
        editor = sheet.viewport().findChild(QLineEdit)
        QTest.keyClicks(editor, number[1:])
        QTest.keyClick(editor, Qt.Key.Key_Return)
        QTest.qWait(20)  # the field of a cell is let go of afterwards
    empty.qtbot.waitUntil(lambda: dialog.figure.scene is not None, timeout=3_000)
    empty.qtbot.waitUntil(lambda: dialog.told.text().startswith("3 numbers"), timeout=3_000)
    QTest.mouseClick(dialog.done_button, LEFT)
    settle(empty)
    assert empty.readings.samples.pooled.n == 3
    assert empty.readings.samples.pooled.minimum == 19
    empty.press("F3")
    assert empty.window.rows_place.steps.cards[0].accessibleName().startswith("Typed values")


def test_names_beside_the_numbers_make_groups_and_a_wrong_one_is_told(empty):
    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    dialog.sheet.fill([["1", "a"], ["2", "b"], ["3", "a"], ["4", "b"]])
    empty.qtbot.waitUntil(lambda: "in 2 groups" in dialog.told.text(), timeout=3_000)
    dialog.sheet.fill([["many", "a"]], row=4)
    empty.qtbot.waitUntil(lambda: dialog.fault.isVisible(), timeout=3_000)
    assert "“many” is no number" in dialog.fault.text()
    dialog.sheet.fill([["5", "a"]], row=4)
    empty.qtbot.waitUntil(lambda: not dialog.fault.isVisible(), timeout=3_000)
    QTest.mouseClick(dialog.done_button, LEFT)
    settle(empty)
    assert [group.n for group in empty.readings.groups] == [3, 2]


@pytest.mark.parametrize(("levels", "split"), [(1, ()), (2, ("of",)), (12, ("of",)), (13, ())])
def test_a_first_look_is_split_by_a_group_of_few_levels(levels, split):
    names = tuple(f"level {i}" for i in range(levels))
    group = CategoryColumn("of", codes=np.arange(60) % levels, levels=names)
    table = Table("typed", (group, NumberColumn("n", values=np.arange(60.0))))
    assert first_look(table).show.split == split


def test_practice_samples_are_drawn_live_and_taken_over(empty):
    empty.press("Ctrl+Shift+T")
    dialog = dialog_of(empty, SimulatingDialog)
    QTest.mouseClick(dialog.more, LEFT)
    first, second = dialog.parts
    assert (first.name.text(), second.name.text()) == ("Sample A", "Sample B")
    second.distribution.setCurrentIndex(second.distribution.findText("gamma"))
    second.distribution.activated.emit(second.distribution.currentIndex())
    empty.type_into(second.fields["shape"], "0")
    empty.qtbot.waitUntil(lambda: dialog.fault.isVisible(), timeout=3_000)
    assert "Shape must be above 0" in dialog.fault.text().replace("shape", "Shape")
    empty.type_into(second.fields["shape"], "3")
    empty.type_into(second.count, "250")
    empty.qtbot.waitUntil(lambda: dialog.told.text().startswith("350 values"), timeout=3_000)
    assert dialog.figure.scene is not None
    QTest.mouseClick(dialog.done_button, LEFT)
    settle(empty)
    assert [(group.label, group.n) for group in empty.readings.groups] == [
        ("Sample A", 100),
        ("Sample B", 250),
    ]
    before = empty.readings.samples.pooled.minimum
    empty.press("F3")
    empty.window.rows_place.open_step(0)
    again = dialog_of(empty, SimulatingDialog)
    assert [part.count.text() for part in again.parts] == ["100", "250"]
    button = next(b for b in again.findChildren(QPushButton) if words_of(b) == "Draw anew")
    QTest.mouseClick(button, LEFT)
    QTest.mouseClick(again.done_button, LEFT)
    settle(empty)
    step = empty.window.session.document.steps[0]
    assert isinstance(step, Simulate)
    assert step.seed == 2
    assert empty.readings.samples.pooled.minimum != before
    empty.press("Ctrl+Z")
    assert empty.readings.samples.pooled.minimum == before


def test_how_a_file_is_read_is_shown_changed_and_remembered(empty, tmp_path):
    path = tmp_path / "odd.txt"
    path.write_text("1,5 a\n2,5 b\n3,5 a\n")
    empty.open(path)
    first = named(empty.window.session.table)
    empty.press("F3")
    empty.window.rows_place.open_step(-1)
    dialog = dialog_of(empty, ReadingDialog)
    dialog.separator.setCurrentIndex(dialog.separator.findData(" "))
    dialog.separator.activated.emit(dialog.separator.currentIndex())
    dialog.decimal.setCurrentIndex(dialog.decimal.findData(","))
    dialog.decimal.activated.emit(dialog.decimal.currentIndex())
    assert [c.kind for c in dialog.view.table.columns] == ["number", "category"]
    assert dialog.header.text() == "0"  # the first row holds a number over numbers
    dialog.header.setFocus()
    dialog.header.selectAll()
    QTest.keyClicks(dialog.header, "1")
    empty.qtbot.waitUntil(lambda: dialog.how.header == 1, timeout=3_000)
    assert [c.name for c in dialog.view.table.columns] == ["1,5", "a"]
    dialog.header.selectAll()
    QTest.keyClicks(dialog.header, "0")
    empty.qtbot.waitUntil(lambda: dialog.how.header == 0, timeout=3_000)
    QTest.mouseClick(dialog.read_button, LEFT)
    settle(empty)
    table = empty.window.session.table
    assert named(table) == [("Column 1", "number"), ("Column 2", "category")]
    assert table.columns[0].values.tolist() == [1.5, 2.5, 3.5]
    assert empty.window.rows_place.steps.cards[0].accessibleName() == (
        "Read from odd.txt, parted by blanks, with decimal commas, without names."
    )
    empty.press("Ctrl+Z")
    assert named(empty.window.session.table) == first
    empty.window.session.opening.open_demo()
    empty.open(path)
    assert named(empty.window.session.table) == [("Column 1", "number"), ("Column 2", "category")]
    assert recall().how(path) == Read(separator=" ", decimal=",", header=0)


def test_a_sheet_is_chosen(empty, tmp_path):
    from tests.data.corpus import workbook

    path = tmp_path / "book.xlsx"
    path.write_bytes(
        workbook(First=[["a"], [1], [2]], Second=[["b", "c"], [3, "x"], [4, "x"], [5, "y"]])
    )
    empty.open(path)
    assert named(empty.window.session.table) == [("a", "number")]
    empty.press("F3")
    empty.window.rows_place.open_step(-1)
    dialog = dialog_of(empty, ReadingDialog)
    assert [dialog.sheet.itemText(i) for i in range(dialog.sheet.count())] == ["First", "Second"]
    dialog.sheet.setCurrentIndex(1)
    dialog.sheet.activated.emit(1)
    empty.type_into(dialog.cells, "nonsense")
    assert dialog.fault.isVisible()
    assert "names no cells" in dialog.fault.text()
    empty.type_into(dialog.cells, "B1:B4")
    settle(empty)
    assert named(empty.window.session.table) == [("c", "category")]


def test_a_file_that_changed_is_offered_and_read_again_with_its_steps(empty, tmp_path):
    path = tmp_path / "growing.csv"
    path.write_text("v\n1.5\n2.5\n")
    empty.open(path)
    empty.window.session.rows.prepare("unit", Describe(variable="v", unit="mm"))
    assert not empty.window.banner.isVisible()
    path.write_text("v\n1.5\n2.5\n9.5\n")
    empty.qtbot.waitUntil(lambda: empty.window.banner.isVisible(), timeout=8_000)
    assert "growing.csv has changed on disk" in empty.window.banner.notice.text.text()
    assert empty.readings.samples.pooled.n == 2
    QTest.mouseClick(empty.window.banner.notice.buttons[0], LEFT)
    settle(empty)
    assert empty.readings.samples.pooled.n == 3
    assert empty.readings.variable.unit == "mm"
    assert not empty.window.banner.isVisible()
    empty.press("Ctrl+Z")
    assert empty.readings.samples.pooled.n == 2


def test_a_file_that_is_gone_is_told_and_nothing_is_lost(empty, tmp_path):
    path = tmp_path / "short.csv"
    path.write_text("v\n1.5\n2.5\n")
    empty.open(path)
    path.unlink()
    empty.qtbot.waitUntil(lambda: empty.window.banner.isVisible(), timeout=8_000)
    assert "no longer there" in empty.window.banner.notice.text.text()
    assert empty.readings.samples.pooled.n == 2


def test_recent_files_are_listed_the_last_first(empty, tmp_path):
    for name in ("one.csv", "two.csv.gz"):
        content = b"v\n1\n2\n"
        (tmp_path / name).write_bytes(gzip.compress(content) if name.endswith("gz") else content)
        empty.open(tmp_path / name)
    menu = empty.window.menus.recent
    menu.aboutToShow.emit()
    assert [action.text().split()[0] for action in menu.actions()][:2] == ["two.csv.gz", "one.csv"]
    menu.actions()[1].trigger()
    settle(empty)
    assert empty.window.session.table.name == "one"


def test_a_memory_that_is_broken_is_forgotten_and_not_in_the_way(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    remember(lambda _memory: Memory(recent=("a.csv",)))
    assert recall() == Memory(recent=("a.csv",))
    (tmp_path / "rhabdos" / "memory.json").write_text("{broken")
    assert recall() == Memory()


def test_a_recipe_with_steps_is_saved_and_prepares_the_file_again(empty, tmp_path, monkeypatch):
    path, recipe = tmp_path / "d.csv", tmp_path / "r.toml"
    path.write_text("v,g\n" + "".join(f"{i},{'ab'[i % 2]}\n" for i in range(40)))
    empty.open(path)
    empty.window.session.rows.prepare("unit", Describe(variable="v", unit="mm"))
    monkeypatch.setattr("PyQt6.QtWidgets.QFileDialog.getSaveFileName", lambda *_: (str(recipe), ""))
    empty.press("Ctrl+S")
    assert 'step = "name"' in recipe.read_text()
    assert empty.window.filing.recipe_path == recipe
    empty.window.session.opening.open_demo()
    empty.open(path)
    assert empty.readings.variable.unit == ""
    empty.window.filing.open(recipe)
    settle(empty)
    assert empty.readings.variable.unit == "mm"


FIXED = (
    "Name        Len  Bay\n"
    "Mary Ann    12.5 North\n"
    "Jo           3.0 South Bay\n"
    "Tom Lee          North\n"
    "Kim          4.5\n"
)


def test_columns_at_fixed_places_are_proposed_and_dragged(empty, tmp_path):
    path = tmp_path / "fixed.txt"
    path.write_text(FIXED)
    empty.open(path)
    assert [name for name, _ in named(empty.window.session.table)] == ["Name", "Len", "Bay"]
    empty.press("F3")
    empty.window.rows_place.open_step(-1)
    dialog = dialog_of(empty, ReadingDialog)
    assert dialog.separator.currentText() == "fixed places"
    ruler = dialog.ruler
    assert ruler.isVisible()
    assert ruler.places == (0, 12, 17)

    def at(place):
        return QPoint(round(ruler.x_of(place)), 40)

    QTest.mousePress(ruler, LEFT, pos=at(12))
    QTest.mouseMove(ruler, at(9))
    QTest.mouseRelease(ruler, LEFT, pos=at(9))
    assert dialog.how.places == (0, 9, 17)
    QTest.mouseClick(ruler, LEFT, pos=at(5))
    assert [c.name for c in dialog.view.table.columns] == ["Name", "Column 2", "Len", "Bay"]
    QTest.keyClick(ruler, Qt.Key.Key_Delete)
    QTest.keyClick(ruler, Qt.Key.Key_Right)
    assert dialog.how.places == (0, 10, 17)
    QTest.keyClick(ruler, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(ruler, Qt.Key.Key_Left)
    assert dialog.how.places == (0, 10, 16)
    QTest.mouseClick(dialog.read_button, LEFT)
    settle(empty)
    assert empty.window.session.table.column("Len").values[1] == 3
    assert "columns at places 1, 11, 17" in empty.window.rows_place.steps.cards[0].accessibleName()
    empty.window.rows_place.open_step(0)
    dialog = dialog_of(empty, ReadingDialog)
    place = dialog.separator.findText("blanks")
    dialog.separator.setCurrentIndex(place)
    dialog.separator.activated.emit(place)
    assert not dialog.ruler_area.isVisible()
    assert dialog.how.places == ()


def test_typed_decimal_commas_and_pasted_lists_stay_in_their_column(empty):
    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    QApplication.clipboard().setText("12,5 13 9,25")
    QTest.keyClick(dialog.sheet, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert [number for number, _ in dialog.sheet.rows()] == ["12,5", "13", "9,25"]
    empty.qtbot.waitUntil(lambda: dialog.told.text().startswith("3 numbers"), timeout=3_000)
    QTest.mouseClick(dialog.done_button, LEFT)
    settle(empty)
    (value,) = empty.window.session.table.columns
    assert value.values.tolist() == [12.5, 13, 9.25]


def test_keys_in_the_sheet_go_where_a_typist_expects(empty):
    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    sheet = dialog.sheet

    def typed(text, key):
        QTest.keyClicks(sheet, text[:1])
        editor = sheet.viewport().findChild(QLineEdit)
        QTest.keyClicks(editor, text[1:])
        QTest.keyClick(editor, key)
        QTest.qWait(20)  # the field of a cell is let go of afterwards
        return sheet.currentRow(), sheet.currentColumn()

    assert typed("12.5", Qt.Key.Key_Return) == (1, 0)
    assert typed("7", Qt.Key.Key_Tab) == (1, 1)
    assert typed("Ledge", Qt.Key.Key_Return) == (2, 0)
    assert typed("8", Qt.Key.Key_Tab) == (2, 1)
    assert typed("Saltmere", Qt.Key.Key_Tab) == (3, 0)
    assert typed("9", Qt.Key.Key_Backtab) == (2, 1)
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert sheet.rows() == [("12.5", ""), ("7", "Ledge"), ("8", "Saltmere"), ("9", "")]


def test_tab_leaves_the_sheet_after_its_last_row_and_before_its_first(empty):
    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    sheet = dialog.sheet
    sheet.fill([["1", ""], ["2", ""]])
    sheet.setCurrentCell(0, 0)
    for _ in range(12):
        if not sheet.hasFocus():
            break
        QTest.keyClick(sheet, Qt.Key.Key_Tab)
    assert not sheet.hasFocus()
    sheet.setFocus()
    sheet.setCurrentCell(0, 0)
    QTest.keyClick(sheet, Qt.Key.Key_Backtab)
    assert not sheet.hasFocus()


@pytest.mark.parametrize("size", [(300, 620), (900, 200)])
def test_a_figure_so_far_stands_in_the_middle_of_its_room(qtbot, dressed, demo, size):
    figure = SmallFigure()
    qtbot.addWidget(figure)
    figure.resize(*size)
    figure.show_figure(demo, Recipe(show=Show(variables=("Shell length",))))
    pixels = figure.grab().toImage()
    ground, middle = pixels.pixel(0, 0), (size[0] // 2, size[1] // 2)
    upright = size[1] > size[0]
    along = range(size[1] if upright else size[0])
    line = [pixels.pixel(middle[0], at) if upright else pixels.pixel(at, 3) for at in along]
    paper = [at for at in along if line[at] != ground]
    assert abs(paper[0] - (along[-1] - paper[-1])) <= 2
    assert len(paper) == pytest.approx(300 * 9 / 13 if upright else 200 * 13 / 9, abs=2)
