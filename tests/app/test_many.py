"""Many at once: chosen, looked at and made from the window."""

import re

import pytest
from pypdf import PdfReader
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from rhabdos.app.leaving.many_dialog import ManyDialog
from rhabdos.paint.inside import recipe_text


class Many:
    def __init__(self, hands):
        self.hands, self.session = hands, hands.window.session
        hands.press("Ctrl+Alt+M")
        (self.dialog,) = hands.window.findChildren(ManyDialog)

    def choose(self, box, key):
        box.setCurrentIndex(box.findData(key))
        box.activated.emit(box.currentIndex())

    def names(self):
        return [self.dialog.list.item(row).text() for row in range(self.dialog.list.count())]

    def untick(self, *names):
        for row in range(self.dialog.list.count()):
            if self.dialog.list.item(row).text() in names:
                self.dialog.list.item(row).setCheckState(Qt.CheckState.Unchecked)

    def write_to(self, path):
        self.dialog.path.setFocus()
        self.dialog.path.selectAll()
        QTest.keyClicks(self.dialog.path, str(path))

    def make(self):
        QTest.mouseClick(self.dialog.make_button, Qt.MouseButton.LeftButton)
        self.hands.qtbot.waitUntil(lambda: not self.session.runner.running(), timeout=60_000)

    def said(self):
        return self.hands.window.statusBar().currentMessage()


@pytest.fixture
def many(hands):
    return Many(hands)


def test_variables_are_shown_as_small_pictures_and_written_without_those_left_out(many, tmp_path):
    numeric = [c.label for c in many.session.table.numbers if c.n]
    assert many.names() == numeric
    many.hands.qtbot.waitUntil(
        lambda: all(not many.dialog.list.item(row).icon().isNull() for row in range(len(numeric))),
        timeout=10_000,
    )
    many.untick(*numeric[3:])
    assert many.dialog.said.text() == f"3 of {len(numeric)} figures"
    many.choose(many.dialog.made_as, "files")
    many.write_to(tmp_path / "{number} {name}.svg")
    many.dialog.numbers.setChecked(True)
    many.make()
    assert sorted(file.name for file in tmp_path.iterdir()) == [
        "1 Shell-length.svg",
        "2 Wet-mass.svg",
        "3 Meat-yield.svg",
        "all all.csv",
    ]
    assert "Wet mass" in recipe_text(tmp_path / "2 Wet-mass.svg")
    assert many.said().startswith("3 figures written to 1 Shell-length.svg and 3 beside it")


def test_a_page_for_each_level_on_the_same_scales(many, tmp_path):
    many.choose(many.dialog.each, "level")
    assert many.dialog.factor.currentText() == "Bay"
    assert many.names() == ["Heron Sound", "Saltmere", "Wick Narrows"]
    many.choose(many.dialog.scales, "same")
    many.write_to(tmp_path / "bays")
    many.make()
    pages = [page.extract_text() for page in PdfReader(tmp_path / "bays.pdf").pages]
    assert len(pages) == 3
    assert "Two harvests hide in Saltmere: Heron Sound" in " ".join(pages[0].split())
    ticks = [re.findall(r"\b\d+\b", page) for page in pages]
    assert set(ticks[0]) & {"15", "20", "25"} == set(ticks[2]) & {"15", "20", "25"}


@pytest.mark.parametrize(
    ("kind", "written"), [("files", True), ("pdf", True), ("page", True), ("figures", False)]
)
def test_a_place_for_files_is_asked_where_files_are_made(many, kind, written):
    many.choose(many.dialog.made_as, kind)
    assert many.dialog.path.isVisible() == written
    assert many.dialog.numbers.isVisible() == written
    assert many.dialog.hint.isVisible() == (kind == "files")


def test_levels_become_figures_of_the_work_in_one_step(many):
    many.choose(many.dialog.each, "level")
    many.choose(many.dialog.made_as, "figures")
    many.untick("Saltmere")
    many.make()
    session = many.session
    assert [figure.name for figure in session.document.figures] == [
        "", "Heron Sound", "Wick Narrows",
    ]  # fmt: skip
    assert [group.label for group in session.readings.groups] == ["Wick Narrows"]
    session.figures.show(1)
    assert [group.label for group in session.readings.groups] == ["Heron Sound"]
    many.hands.press("Ctrl+Z")
    assert len(session.document.figures) == 1


def test_files_of_a_folder_one_of_which_does_not_fit(many, tmp_path, monkeypatch):
    files = []
    for name, head in (("a", "Shell length,Bay"), ("b", "Other,Bay"), ("c", "Shell length,Bay")):
        files.append(str(tmp_path / f"{name}.csv"))
        (tmp_path / f"{name}.csv").write_text(
            f"{head}\n" + "".join(f"{i % 9 + 50},K{i % 2}\n" for i in range(40))
        )
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: (files, ""))
    many.choose(many.dialog.each, "file")
    assert "Choose the files" in many.dialog.said.text()
    QTest.mouseClick(many.dialog.choose, Qt.MouseButton.LeftButton)
    many.hands.qtbot.waitUntil(lambda: "b\nnot drawn" in many.names(), timeout=10_000)
    assert many.dialog.said.text() == "2 of 3 figures"
    many.dialog.list.item(1).setCheckState(Qt.CheckState.Checked)  # it is asked for all the same
    many.write_to(tmp_path / "f.pdf")
    many.make()
    assert len(PdfReader(tmp_path / "f.pdf").pages) == 2
    assert "1 of 3 figures could not be drawn.\nb: " in many.hands.refusal()


def test_a_pattern_that_is_none_is_said_in_the_dialog(many, tmp_path):
    many.choose(many.dialog.made_as, "files")
    many.write_to(tmp_path / "same.png")
    QTest.mouseClick(many.dialog.make_button, Qt.MouseButton.LeftButton)
    assert many.dialog.isVisible()
    assert "would be the same file for every figure" in many.dialog.fault.text()
    many.dialog.reject()
