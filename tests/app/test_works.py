"""Whole works saved and opened: on another machine's paths, with the data inside, and hostile ones."""

import errno
import os
import shutil
import tomllib

import msgspec
import pytest
from lxml import html
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from rhabdos.app.leaving.versions_dialog import VersionsDialog
from rhabdos.data.steps.sources import Values
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.project.document import Figure
from rhabdos.project.recovery import Kept
from rhabdos.project.versions import keep_version, versions
from rhabdos.project.work_file import WorkFile, open_work_file
from tests.data.far.sameness import frame_of

CSV = "Length (mm),Bay\n" + "".join(
    f"{40 + i % 37 + 0.5 * (i % 3)},{'AB'[i % 2]}\n" for i in range(200)
)


@pytest.fixture(autouse=True)
def of_its_own(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


class Desk:
    """Saves and opens works by the window's own keys, with the answers that its user would give."""

    def __init__(self, hands, monkeypatch):
        self.hands, self.window, self.session = hands, hands.window, hands.window.session
        self._patch = monkeypatch

    def answers(self, path, kind=""):
        self._patch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), kind))
        self._patch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path or ""), ""))

    def refuses(self, button, texts):
        """Press a button of the question that will come."""

        def press():
            box = next(b for b in QApplication.topLevelWidgets() if isinstance(b, QMessageBox))
            texts.append(f"{box.text()}\n{box.informativeText()}")
            box.button(button).click()

        QTimer.singleShot(50, press)

    def save_as(self, path, kind=""):
        self.answers(path, kind)
        self.hands.press("Ctrl+Shift+S")

    def title(self, words):
        recipe = self.session.recipe
        self.session.ask("Title", recipe.changed(words=recipe.words.changed(title=words)))

    def titles(self):
        return [figure.recipe.words.title for figure in self.session.document.figures]

    def said(self):
        return self.window.statusBar().currentMessage()


@pytest.fixture
def desk(empty, tmp_path, monkeypatch):
    folder = tmp_path / "here"
    folder.mkdir()
    (folder / "landings.csv").write_text(CSV)
    empty.open(folder / "landings.csv")
    desk = Desk(empty, monkeypatch)
    desk.title("First")
    desk.hands.press("Ctrl+N")
    desk.title("Second")
    return desk


def test_a_work_is_saved_and_opened_where_it_was_moved_with_its_data(desk, tmp_path):
    file = tmp_path / "here" / "w.rhabdos"
    desk.save_as(file)
    assert "not saved" not in desk.window.windowTitle()
    raw = tomllib.loads(file.read_text())
    assert raw["source"]["path"] == "landings.csv"
    assert len(raw["figure"]) == 2
    (tmp_path / "here").rename(tmp_path / "elsewhere")
    before = desk.session.document.figures
    desk.hands.open(tmp_path / "elsewhere" / "w.rhabdos")
    assert desk.session.document.figures == before
    assert desk.session.document.source.path == (tmp_path / "elsewhere" / "landings.csv").resolve()
    assert desk.session.document.shown == 1
    assert desk.window.figure.shelf.isVisible()
    assert "not saved" not in desk.window.windowTitle()
    desk.title("Third")
    assert "not saved: the figures" in desk.window.windowTitle()
    desk.hands.press("Ctrl+S")  # over the work that was opened
    kept = open_work_file(tmp_path / "elsewhere" / "w.rhabdos")
    assert [figure.recipe.words.title for figure in kept.figures] == ["First", "Third"]
    assert "not saved" not in desk.window.windowTitle()


def test_a_work_with_its_data_inside_needs_nothing_else(desk, tmp_path):
    file = tmp_path / "here" / "w.rhabdos"
    desk.save_as(file, "Work with the data inside (*.rhabdos)")
    assert file.read_bytes()[:4] == b"PK\x03\x04"
    rows, mean = desk.session.table.rows, desk.session.readings.summaries[0].mean
    alone = tmp_path / "alone"
    alone.mkdir()
    shutil.copy(file, alone / "w.rhabdos")
    shutil.rmtree(tmp_path / "here")
    desk.hands.open(alone / "w.rhabdos")
    assert desk.session.table.rows == rows
    assert desk.session.readings.summaries[0].mean == mean
    assert desk.titles() == ["First", "Second"]
    desk.title("Later")
    desk.hands.press("Ctrl+S")  # the data stay inside
    QTest.qWait(700)  # in which a change from outside would be told
    assert not desk.window.banner.isVisible()
    assert (alone / "w.rhabdos").read_bytes()[:4] == b"PK\x03\x04"
    desk.hands.open(alone / "w.rhabdos")
    assert desk.titles() == ["First", "Later"]
    assert desk.session.table.rows == rows


def test_data_that_moved_are_asked_for_once(desk, tmp_path):
    file = tmp_path / "here" / "w.rhabdos"
    desk.save_as(file)
    moved = tmp_path / "moved.csv"
    (tmp_path / "here" / "landings.csv").rename(moved)
    desk.answers(None)
    desk.hands.open(file)
    assert (
        desk.said() == "w.rhabdos is not opened: landings.csv, its data, are not where they were."
    )
    desk.answers(moved)
    desk.hands.open(file)
    assert desk.session.document.source.path == moved.resolve()
    desk.answers(None)
    desk.hands.open(file)  # which is remembered
    assert desk.session.document.source.path == moved.resolve()


def test_data_that_changed_are_told_with_what_differs(desk, tmp_path):
    file = tmp_path / "here" / "w.rhabdos"
    desk.save_as(file)
    (tmp_path / "here" / "landings.csv").write_text(CSV.replace("Bay", "Cove") + "50,A\n")
    desk.hands.open(file)
    assert desk.said() == (
        "landings.csv has changed since the work was saved: 201 rows instead of 200; without "
        "“Bay”; with “Cove”."
    )


def test_files_outside_the_folder_are_read_only_when_its_user_says_so(desk, tmp_path):
    folder = tmp_path / "from somebody"
    folder.mkdir()
    file = folder / "w.rhabdos"
    file.write_text(
        "rhabdos-work = 1\n[source]\npath = '../here/landings.csv'\n"
        "[[figure]]\nshow.variables = ['Length']\n"
    )
    before, texts = desk.session.document, []
    desk.refuses(QMessageBox.StandardButton.Cancel, texts)
    desk.hands.open(file)
    assert desk.session.document == before
    assert texts[0].startswith("w.rhabdos reads files outside its folder. May it?")
    named = texts[0].partition("\n")[2].replace("\n    ", "")
    assert named == str(tmp_path / "here" / "landings.csv")
    assert desk.said() == "w.rhabdos is not opened."
    desk.refuses(QMessageBox.StandardButton.Yes, texts)
    desk.hands.open(file)
    assert len(desk.session.document.figures) == 1
    desk.hands.open(file)  # it was allowed to
    assert len(texts) == 2


def test_of_a_file_that_may_be_read_all_of_its_path_is_told(desk, tmp_path):
    file = tmp_path / "mine" / "w.rhabdos"
    file.parent.mkdir()
    deep = "../" + "/".join(["a folder of a long name"] * 4) + "/landings.csv"
    (tmp_path / deep[3:]).parent.mkdir(parents=True)
    (tmp_path / deep[3:]).write_text("Length\n1\n2\n")
    file.write_text(
        f"rhabdos-work = 1\n[source]\npath = '{deep}'\n[[figure]]\nshow.variables = ['Length']\n"
    )
    texts = []
    desk.refuses(QMessageBox.StandardButton.Cancel, texts)
    desk.hands.open(file)
    _, *lines = texts[0].splitlines()
    assert max(map(len, lines)) <= 42
    assert "".join(line.removeprefix("    ") for line in lines).endswith(deep.removeprefix(".."))


def test_a_recipe_of_one_figure_leaves_the_others_unsaved(desk, tmp_path):
    desk.save_as(tmp_path / "one.toml")
    assert "not saved: the figures" in desk.window.windowTitle()
    raw = tomllib.loads((tmp_path / "one.toml").read_text())
    assert raw["words"]["title"] == "Second"


def test_a_work_of_the_demo_and_one_of_typed_values_come_back(hands, tmp_path, monkeypatch):
    desk = Desk(hands, monkeypatch)
    desk.hands.press("Ctrl+N")
    desk.save_as(tmp_path / "demo.rhabdos")
    before = desk.session.document.figures
    work = open_work_file(tmp_path / "demo.rhabdos")
    assert work.source.demo
    desk.hands.open(tmp_path / "demo.rhabdos")
    assert desk.session.document.figures == before
    assert desk.session.table.rows == 2416


def test_what_is_no_work_is_refused_and_all_stays(desk, tmp_path):
    before = desk.session.document
    (tmp_path / "w.rhabdos").write_text("rhabdos-work = 7\n")
    desk.window.filing.open(tmp_path / "w.rhabdos")
    assert "newer Rhabdos" in desk.hands.refusal()
    assert desk.session.document == before


def test_the_data_themselves_are_never_written_over(desk, tmp_path):
    data = tmp_path / "here" / "landings.csv"
    trap = tmp_path / "here" / "trap.rhabdos"
    trap.symlink_to(data)
    desk.save_as(trap)
    assert "holds the data of this work" in desk.hands.refusal()
    assert data.read_text() == CSV


def test_a_work_is_among_the_recent_files_and_opens_from_there(desk, tmp_path):
    file = tmp_path / "here" / "w.rhabdos"
    desk.save_as(file)
    desk.hands.open(file)
    menu = desk.window.menus.recent
    menu.aboutToShow.emit()
    entry = next(a for a in menu.actions() if a.text().startswith("w.rhabdos"))
    entry.trigger()
    desk.hands.qtbot.waitUntil(lambda: not desk.session.runner.running(), timeout=10_000)
    assert desk.titles() == ["First", "Second"]


def test_the_last_versions_are_kept_and_brought_back_as_a_step(desk, tmp_path):
    file = tmp_path / "here" / "w.rhabdos"
    for words in ("One", "Two", "Two", "Three"):
        desk.title(words)
        desk.save_as(file)
    desk.session.figures.remove(0)
    desk.hands.press("Ctrl+S")
    assert len(desk.session.document.figures) == 1
    desk.window.filing.show_versions()
    (dialog,) = desk.window.findChildren(VersionsDialog)
    shown = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert [text.partition("   ")[2] for text in shown] == [
        "1 figure: Three",
        "2 figures: First, Three",
        "2 figures: First, Two",
        "2 figures: First, One",
    ]
    dialog.list.setCurrentRow(2)
    QTest.mouseClick(dialog.back, Qt.MouseButton.LeftButton)
    assert desk.titles() == ["First", "Two"]
    assert "not saved" in desk.window.windowTitle()
    desk.hands.press("Ctrl+Z")
    assert desk.titles() == ["Three"]


def test_twenty_versions_are_kept_and_no_more(tmp_path):
    work = WorkFile()
    for number in range(25):
        figure = Figure(Recipe(show=Show(variables=(f"v{number}",))))
        keep_version(tmp_path / "w.rhabdos", WorkFile(figures=(figure,)), 10**18 + number)
    keep_version(tmp_path / "other.rhabdos", work, 10**18)
    kept = versions(tmp_path / "w.rhabdos")
    assert len(kept) == 20
    assert kept[0].read().figures[0].recipe.show.variables == ("v24",)
    assert kept[-1].read().figures[0].recipe.show.variables == ("v5",)


def test_a_report_is_written_from_the_window(hands, tmp_path, monkeypatch):
    hands.press("Ctrl+N")
    target = tmp_path / "report.html"
    monkeypatch.setattr(
        QFileDialog,
        "getSaveFileName",
        lambda *_: (str(tmp_path / "report"), "A page for browsers (*.html)"),
    )
    hands.press("Ctrl+Shift+P")
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    page = html.parse(str(target)).getroot()
    names = [hands.window.session.figures.name(at) for at in range(2)]
    assert [h2.text for h2 in page.iterfind(".//h2")][:2] == names
    assert hands.window.statusBar().currentMessage() == "Report written to report.html."


@pytest.mark.parametrize("call", ["fsync", "replace", "fdopen"])
def test_a_save_that_fails_leaves_the_old_work_and_says_so(desk, tmp_path, monkeypatch, call):
    file = tmp_path / "here" / "w.rhabdos"
    desk.save_as(file)
    old = file.read_bytes()
    desk.title("Lost?")

    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, call, full)
    desk.hands.press("Ctrl+S")
    assert "There is no room for w.rhabdos" in desk.hands.refusal()
    assert file.read_bytes() == old
    assert sorted(path.name for path in file.parent.iterdir()) == ["landings.csv", "w.rhabdos"]
    assert "not saved" in desk.window.windowTitle()
    monkeypatch.undo()


def test_a_work_is_found_again_after_the_program_was_killed(desk, tmp_path):
    desk.session.figures.keep_variant()
    desk.title("Third")
    desk.window.unsaved.write_now()
    slot = desk.window.unsaved._slot
    kept = msgspec.json.decode(slot.path.read_bytes(), type=Kept)
    assert [figure.recipe.words.title for figure in kept.figures] == ["First", "Second", "Third"]
    before = desk.session.document
    desk.session.opening.open_demo()
    desk.session.opening.open_kept(kept, lambda: None)
    desk.hands.qtbot.waitUntil(lambda: not desk.session.runner.running(), timeout=10_000)
    assert desk.session.document.figures == before.figures
    assert desk.session.document.shown == before.shown


def test_a_work_of_typed_values_needs_no_file(empty, tmp_path, monkeypatch):
    desk = Desk(empty, monkeypatch)
    desk.session.opening.open_steps("Typed", Values(text="x,g\n1,a\n2,b\n4,a\n"))
    empty.qtbot.waitUntil(lambda: desk.session.table is not None)
    desk.hands.press("Ctrl+N")
    desk.save_as(tmp_path / "typed.rhabdos")
    before = desk.session.document
    assert "path" not in (tmp_path / "typed.rhabdos").read_text().partition("[[figure]]")[0]
    desk.session.opening.open_demo()
    desk.hands.open(tmp_path / "typed.rhabdos")
    assert desk.session.document.figures == before.figures
    assert desk.session.document.steps == before.steps
    assert desk.session.table.rows == 3


def _wait(desk):
    runner = desk.session.runner
    desk.hands.qtbot.waitUntil(lambda: not runner.running(), timeout=20_000)


def test_a_work_of_data_larger_than_memory_opens_and_tells_only_of_changes(
    desk, tmp_path, monkeypatch
):
    monkeypatch.setenv("RHABDOS_MEMORY", "0")
    folder = tmp_path / "here" / "days"
    folder.mkdir()
    for name in ("a", "b"):
        frame_of("skewed", 15_000, 4).write_parquet(folder / f"{name}.parquet")
    for data in (folder, folder / "a.parquet"):
        desk.hands.open(data)
        _wait(desk)
        assert desk.session.table.far is not None
        file = tmp_path / "here" / "large.rhabdos"
        desk.save_as(file)
        desk.hands.open(tmp_path / "here" / "landings.csv")
        desk.hands.open(file)
        _wait(desk)
        assert desk.session.table.far is not None
        assert "has changed" not in desk.said()
        assert desk.session.readings.gathered.provisional == 0
    frame_of("normal", 9_000, 4).write_parquet(folder / "a.parquet")
    texts = []
    desk.session.told.connect(texts.append)
    desk.hands.open(file)
    _wait(desk)
    assert any("9,000 rows instead of 15,000" in text for text in texts)


def test_data_larger_than_memory_are_not_put_inside_a_work(desk, tmp_path, monkeypatch):
    monkeypatch.setenv("RHABDOS_MEMORY", "0")
    frame_of("skewed", 30_000, 4).write_parquet(tmp_path / "large.parquet")
    desk.hands.open(tmp_path / "large.parquet")
    _wait(desk)
    file = tmp_path / "w.rhabdos"
    desk.save_as(file, "Work with the data inside (*.rhabdos)")
    assert "only some were looked at" in desk.hands.refusal()
    assert not file.exists()
