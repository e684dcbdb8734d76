"""Long work leaves the window free, tells how far it is, and can be stopped."""

import threading
import time

import pytest
from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QWidget

from rhabdos.app.controls.progress import Progress
from rhabdos.app.session.tasks import Task
from rhabdos.data import gathering
from rhabdos.data.columns import bytes_of
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.errors import Refusal
from rhabdos.project.store import Store
from rhabdos.stats import rules


@pytest.fixture
def large(tmp_path):
    path = tmp_path / "large.csv"
    path.write_text(
        "mass_g,site\n" + "".join(f"{i % 997}.25,{'ABC'[i % 3]}\n" for i in range(700_000))
    )
    return path


def test_reading_leaves_the_window_free_and_tells_how_far_it_is(empty, large):
    beats, stages = [], []
    timer = QTimer()
    timer.timeout.connect(lambda: beats.append(empty.window.progress.isVisible()))
    timer.start(5)
    empty.window.session.busy.connect(lambda stage, share: stages.append((stage, share)))
    empty.open(large)
    assert empty.readings.samples.pooled.n == 700_000
    assert sum(beats) >= 3
    assert any("rows so far" in stage for stage, _ in stages)
    assert not empty.window.progress.isVisible()


@pytest.mark.parametrize("size", [(800, 600), (300, 90)])
def test_what_is_going_on_lies_in_the_middle_of_what_it_lies_over(qtbot, size):
    place = QWidget()
    qtbot.addWidget(place)
    progress = Progress(place, list)
    place.show()
    progress.tell("Reading", 0.5)
    place.resize(*size)
    over = progress.geometry()
    assert abs(over.x() - (place.width() - over.width()) / 2) <= 0.5
    there = min(420, place.width() - 32), max(16, place.height() // 2 - 60)
    assert (over.width(), over.y()) == there


def test_cancel_stops_the_reading_and_the_figure_stays(hands, large):
    before = hands.recipe
    stopped = []

    def stop(stage, _share):
        if "so far" in stage and not stopped:
            stopped.append(stage)
            QTest.mouseClick(hands.window.progress.cancel_button, Qt.MouseButton.LeftButton)

    hands.window.session.busy.connect(stop)
    hands.open(large)
    assert stopped
    assert hands.recipe == before
    assert not hands.window.progress.isVisible()
    Task.wait_for_all(20)
    hands.qtbot.wait(20)
    assert hands.recipe == before


@pytest.mark.parametrize("place", ["F2", "F3", "F4"])
def test_escape_cancels_too_and_progress_is_seen_in_every_place(hands, large, place):
    before = hands.recipe
    hands.press(place)
    seen = []
    hands.window.session.busy.connect(lambda *_: seen.append(hands.window.progress.isVisible()))
    hands.window.filing.open(large)
    hands.qtbot.waitUntil(lambda: bool(seen), timeout=20_000)
    hands.qtbot.keyClick(hands.window.focusWidget() or hands.window, Qt.Key.Key_Escape)
    assert seen[0]
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running())
    hands.qtbot.wait(50)
    assert hands.recipe == before


def test_splitting_a_large_table_happens_off_the_interface_thread(empty, large, monkeypatch):
    empty.open(large)
    seen, here, ruled = [], [], rules._freedman_diaconis

    def width(sample):
        here.append(threading.current_thread() is threading.main_thread())
        return ruled(sample)

    monkeypatch.setattr(rules, "_freedman_diaconis", width)
    empty.window.session.busy.connect(lambda stage, _share: seen.append(stage))
    empty.click_variable("Site")
    empty.qtbot.waitUntil(lambda: "split by Site" in empty.sentence(), timeout=20_000)
    assert any(stage.startswith("Sorting") for stage in seen)
    assert here
    assert not any(here)  # the window waits for no rule either
    assert [g.n for g in empty.readings.groups] == [233_334, 233_333, 233_333]


def test_what_a_step_would_do_to_a_large_table_is_worked_out_beside_the_window(
    empty, large, monkeypatch
):
    from rhabdos.data import preparing

    empty.open(large)
    threads, whole = [], preparing.applied
    monkeypatch.setattr(
        preparing,
        "applied",
        lambda *a, **k: threads.append(threading.current_thread()) or whole(*a, **k),
    )
    told = []
    step = KeepRows(where=(Condition(variable="Wet mass", low=10.0),))
    empty.window.session.rows.foresee(step, told.append)
    empty.qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert len(threads) == 1
    assert threads[0] is not threading.main_thread()


def test_the_last_of_many_wishes_is_the_one_that_is_met(empty, large):
    empty.open(large)
    empty.click_variable("Site")
    empty.click_variable("Site")
    empty.click_variable("Site")
    empty.qtbot.waitUntil(lambda: not empty.window.session.runner.running(), timeout=20_000)
    assert "split by Site" in empty.sentence()


def test_wishes_during_a_reading_are_met_and_the_file_still_comes(hands, large):
    hands.window.filing.open(large)
    hands.click_variable("Wet mass")
    assert hands.sentence().startswith("Wet mass")
    assert hands.window.session.runner.running("opening")
    hands.press("Ctrl+Z")
    assert hands.sentence().startswith("Shell length")
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    assert hands.readings.samples.pooled.n == 700_000
    assert hands.window.menus.undo.iconText() == "Undo Open large.csv"
    hands.press("Ctrl+Z")
    assert hands.sentence().startswith("Shell length")


def test_another_file_takes_the_place_of_the_one_that_is_read_and_it_is_said(
    hands, large, tmp_path
):
    (tmp_path / "small.csv").write_text("v\n1\n2\n")
    told = []
    hands.window.session.told.connect(told.append)
    hands.window.filing.open(large)
    hands.open(tmp_path / "small.csv")
    assert hands.readings.samples.pooled.n == 2
    assert told[0] == "Opening large.csv was stopped."
    Task.wait_for_all(20)
    hands.qtbot.wait(20)
    assert hands.readings.samples.pooled.n == 2


def test_closing_the_window_in_the_middle_of_reading_waits_for_its_thread(empty, large):
    empty.window.filing.open(large)
    empty.window.close()
    assert not [task for task in Task._alive if task.isRunning()]


def test_closing_never_waits_for_what_does_not_end(qtbot):
    go = threading.Event()
    task = Task(lambda report: go.wait(30))
    task.begin()
    began = time.monotonic()
    assert not Task.wait_for_all(0.2)
    assert time.monotonic() - began < 5
    go.set()
    assert Task.wait_for_all(5)


def test_the_longest_unused_samples_go_first(large, empty, monkeypatch):
    from rhabdos.project import store

    monkeypatch.setattr(store, "_KEPT_VALUES", 1_500_000)
    empty.open(large)
    empty.click_variable("Site")
    empty.qtbot.waitUntil(lambda: not empty.window.session.runner.running(), timeout=20_000)
    kept = empty.window.session.store._samples
    assert [key[2].factors for key in kept] == [(), ("site",)]
    empty.press("Ctrl+Z")  # uses the first again
    empty.window.session.ask("Weigh", empty.recipe.showing(weight="mass_g"))
    if empty.window.session.runner.running():
        empty.qtbot.waitUntil(lambda: not empty.window.session.runner.running(), timeout=20_000)
    assert "cannot be a weight" in empty.refusal()
    monkeypatch.setattr(store, "_KEPT_VALUES", 700_000)
    empty.click_variable("Site")
    empty.window.session.ask("Together", empty.recipe.showing(split=()))
    document = empty.window.session.document
    empty.window.session.store.keep_samples(document, empty.window.session.readings.samples)
    assert [key[2].factors for key in kept] == [()]


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (Refusal("This cannot be."), "This cannot be."),
        (MemoryError(), "not enough memory"),
        (ValueError("odd"), "unforeseen"),
    ],
)
def test_what_goes_wrong_in_a_thread_comes_back_as_a_sentence(
    qtbot, monkeypatch, tmp_path, error, words
):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))

    def fail(_report):
        raise error

    task = Task(fail)
    with qtbot.waitSignal(task.refused) as told:
        task.begin()
    task.wait()
    assert words in told.args[0]


def test_what_was_under_way_when_a_task_was_cancelled_is_not_delivered(qtbot):
    task = Task(lambda report: "done")
    results = []
    task.succeeded.connect(results.append)
    task.begin()
    task.wait()  # its result now waits to be delivered
    task.cancel()
    qtbot.wait(20)
    assert results == []


def test_a_cancelled_task_tells_at_once_and_its_result_is_thrown_away(qtbot):
    go = threading.Event()
    task = Task(lambda report: go.wait(5))
    results = []
    task.succeeded.connect(results.append)
    task.begin()
    with qtbot.waitSignal(task.cancelled, timeout=500):
        task.cancel()
    go.set()
    task.wait()
    qtbot.wait(20)
    assert results == []


def test_what_menus_ask_for_is_worked_out_before_they_open(empty, large, monkeypatch):
    empty.open(large)
    Task.wait_for_all(20)
    monkeypatch.setattr(gathering, "few_values", None)
    monkeypatch.setattr(rules, "_searched", None)
    for phrase in ("split", "bins"):
        empty.window.open_phrase(phrase)
        texts = [action.text() for action in QApplication.activePopupWidget().actions()]
        QApplication.activePopupWidget().close()
        assert any(word in text for text in texts for word in ("Site", "Site", "Knuth"))


def test_tables_that_undo_may_want_are_bounded_and_read_again(empty, tmp_path):
    """Twelve files of 40 kB each, where there is room for some 100 kB of those out of sight."""
    session = empty.window.session
    session.store = Store(most_bytes=100_000)
    for number in range(12):
        path = tmp_path / f"{number}.csv"
        path.write_text("length,mass\n" + "".join(f"{i}.5,{number}\n" for i in range(2_500)))
        empty.open(path)
    held = [bytes_of(c) for table in session.store._tables.values() for c in table.columns]
    assert sum(held) <= 100_000 + 40_000
    for number in reversed(range(11)):
        empty.press("Ctrl+Z")
        empty.qtbot.waitUntil(lambda: not session.runner.running(), timeout=10_000)
        assert session.table.name == str(number)
        assert session.table.column("mass").values[0] == number
    (tmp_path / "5.csv").unlink()
    for _ in range(5):
        empty.press("Ctrl+Shift+Z")
        empty.qtbot.waitUntil(lambda: not session.runner.running(), timeout=10_000)
        QTest.qWait(30)
        if session.table.name == "4":
            break
    empty.press("Ctrl+Shift+Z")
    QTest.qWait(200)
    assert "There is no file" in empty.refusal()
    assert session.table.name == "4"


def test_windows_that_close_leave_no_widgets_behind(hands):
    def opened_and_closed():
        window = hands.window
        for ask in (window.print, window.filing.export, window.filing.show_tables):
            ask()
            QTest.qWait(20)
            for widget in QApplication.topLevelWidgets():
                if isinstance(widget, QDialog) and widget.isVisible():
                    widget.close()
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    opened_and_closed()
    hands.qtbot.waitUntil(lambda: hands.window.figure.stage.canvas.heard.parts is not None)
    before = len(QApplication.allWidgets())
    for _ in range(3):
        opened_and_closed()
    assert len(QApplication.allWidgets()) <= before
