"""Nothing is lost: closing asks, what is unsaved is written soon, and found again after a kill."""

import os
import signal
import subprocess
import sys

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit, QMessageBox

from rhabdos.app.arriving.typing_dialog import TypingDialog
from rhabdos.app.session.unsaved import Unsaved
from rhabdos.app.session.unsaved import _nothing_lost as nothing_lost
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.sources import Values
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.project.document import Figure
from rhabdos.project.memory import recall, remember
from rhabdos.project.recovery import Orphan, orphans
from rhabdos.project.state_file import state_file
from tests.app.test_arriving import dialog_of, settle

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture(autouse=True)
def nothing_left_behind():
    for orphan in orphans():
        orphan.discard()
    yield
    for orphan in orphans():
        orphan.discard()


@pytest.fixture
def answers(monkeypatch):
    """What is asked on closing, each answered by the next of a list."""
    asked, given = [], []

    def exec_(box):
        asked.append(box.text())
        return getattr(QMessageBox.StandardButton, given.pop(0))

    monkeypatch.setattr(QMessageBox, "exec", exec_)
    return type("Answers", (), {"asked": asked, "given": given})


def test_looking_at_data_is_no_work_and_everything_else_is(hands, answers):
    title = hands.window.windowTitle
    assert title() == "Oyster landings – Rhabdos"
    hands.click_variable("Wet mass")
    assert hands.window.unsaved.words() == ()
    assert hands.window.filing.may_close()
    recipe = hands.recipe
    hands.window.session.ask("Wider", recipe.binned(Bins(width=4.0)))
    assert title() == "Oyster landings – not saved: the figure – Rhabdos"
    hands.press("Ctrl+Z")
    assert hands.window.unsaved.words() == ()
    hands.window.session.rows.prepare("Code", DeclareMissing(variable="Wet mass", codes=(0.0,)))
    assert "not saved: 1 step" in title()
    answers.given[:] = ["Cancel"]
    assert not hands.window.close()
    assert answers.asked[0].startswith("Not saved: 1 step")


def test_typed_values_are_asked_about_and_saved(empty, answers, tmp_path, monkeypatch):
    empty.window.session.opening.open_steps("Typed values", Values(text="Length\n12\n15\n"))
    settle(empty)
    assert empty.window.unsaved.words() == ("typed values", "the figure")
    path = tmp_path / "typed.toml"
    monkeypatch.setattr(
        "rhabdos.app.leaving.filing.QFileDialog.getSaveFileName", lambda *_args: (str(path), "")
    )
    answers.given[:] = ["Save"]
    assert empty.window.filing.may_close()
    assert empty.window.unsaved.words() == ()
    empty.window.session.opening.open_demo()
    empty.window.filing.open(path)
    settle(empty)
    assert empty.window.session.table.rows == 2
    assert empty.window.unsaved.words() == ()
    empty.window.session.ask("Wider", empty.recipe.binned(Bins(width=4.0)))
    assert empty.window.unsaved.words() == ("the figure",)  # the values are in the file


def test_work_on_data_that_were_open_before_is_told_on_closing(hands, answers, tmp_path):
    hands.window.session.ask("Wider", hands.recipe.binned(Bins(width=4.0)))
    path = tmp_path / "other.csv"
    path.write_text("length\n1\n2\n3\n")
    hands.open(path)
    assert hands.window.unsaved.words() == ()
    answers.given[:] = ["Cancel"]
    assert not hands.window.close()
    assert "Not saved either" in answers.asked[0]


def test_what_is_typed_and_left_is_there_again(empty):
    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    QTest.keyClick(dialog.sheet, "7")
    editor = dialog.sheet.viewport().findChild(QLineEdit)
    QTest.keyClick(editor, Qt.Key.Key_Return)
    unsaved = empty.window.unsaved

    def written() -> bool:
        """Whether what was typed has been noticed, a moment later, and written."""
        unsaved.write_now()
        return unsaved._slot._lock is not None

    empty.qtbot.waitUntil(written, timeout=5_000)
    (kept,) = left_behind_by_another(unsaved)
    assert kept.kept.steps[0].text == "Value\n7\n"
    dialog.reject()
    QTest.qWait(20)
    empty.press("Ctrl+T")
    assert dialog_of(empty, TypingDialog).sheet.rows() == [("7", "")]


def left_behind_by_another(unsaved) -> list[Orphan]:
    """As if the window had been killed: its lock is let go, its file stays."""
    slot = unsaved._slot
    os.close(slot._lock)
    slot._lock = unsaved._written = None
    return orphans()


def test_work_left_behind_is_offered_and_brought_back(hands, qtbot):
    hands.click_variable("Wet mass")
    hands.window.session.ask("Wider", hands.recipe.binned(Bins(width=4.0)))
    hands.window.session.rows.prepare("Code", DeclareMissing(variable="Wet mass", codes=(0.0,)))
    steps, recipe = hands.window.session.document.steps, hands.recipe
    hands.window.unsaved.write_now()
    for orphan in left_behind_by_another(hands.window.unsaved):
        orphan.let_go()
    hands.window.session.opening.open_demo()
    hands.window.banner.offer_left_behind()
    banner = hands.window.banner
    assert banner.isVisible()
    assert (
        "before this was saved: 1 step and the figure on Oyster landings"
        in banner.notice.text.text()
    )
    hands.window.banner.say_changed("landings.csv has changed on disk.")
    assert "changed on disk" in hands.window.banner.notice.text.text()
    hands.window.banner.say_changed("")
    hands.window.banner.say_changed("")  # as when files are watched anew
    banner = hands.window.banner
    assert banner.isVisible()
    assert "before this was saved" in banner.notice.text.text()
    QTest.mouseClick(banner.notice.buttons[0], LEFT)
    settle(hands)
    assert (hands.window.session.document.steps, hands.recipe) == (steps, recipe)
    assert hands.window.unsaved.words() == ("1 step", "the figure")
    assert not hands.window.banner.isVisible()
    assert orphans() == []  # what was brought back is kept by this window now


def test_two_windows_share_what_they_remember(tmp_path):
    from pathlib import Path

    first, second = recall(), recall()
    remember(lambda memory: memory.opened(Path("/one.csv")))
    remember(lambda memory: memory.opened(Path("/two.csv")))
    assert (first, recall().recent[:2]) == (second, ("/two.csv", "/one.csv"))


def test_a_state_file_that_is_a_pipe_does_not_hang_the_start(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    path = state_file("memory.json")
    path.parent.mkdir(parents=True)
    os.mkfifo(path)
    assert recall().recent == ()


KILLED = """
import os, sys, time
os.environ["XDG_STATE_HOME"] = sys.argv[1]
from PyQt6.QtCore import QCoreApplication, QTimer
from rhabdos.app.session.session import Session
from rhabdos.app.session.unsaved import Unsaved
from rhabdos.app.session.unsaved import _nothing_lost as nothing_lost
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.project.document import Figure
import rhabdos.project.recovery, rhabdos.data.preparing
times, soon, together = (int(word) for word in sys.argv[2:])

def work():
    application = QCoreApplication(["rhabdos"])
    session = Session()
    unsaved = Unsaved(session, soon)
    session.opening.open_demo()
    first = session.recipe
    told = open(f"{sys.argv[1]}/{os.getpid()}.txt", "w")
    count = 0
    def change():
        nonlocal count
        count += 1
        session.ask("Wider", first.binned(Bins(width=count / 100)))
        told.write(f"{count} {time.time()}\\n")
        told.flush()
    beat = QTimer()
    beat.timeout.connect(change)
    beat.start(5)
    application.exec()

def born():
    child = os.fork()
    if child == 0:
        work()
        os._exit(0)
    return child

for first in range(0, times, together):
    children = [born() for _ in range(together)]
    for number, child in enumerate(children):
        while not os.path.exists(f"{sys.argv[1]}/{child}.txt"):
            time.sleep(0.01)  # until it has begun
        if number < 2:  # some have had the time to lose something, however slow the machine is
            while open(f"{sys.argv[1]}/{child}.txt").read().count("\\n") < 3 * soon / 5:
                time.sleep(0.005)
        time.sleep(soon / 1000 * (0.7 if number else 3))
        os.kill(child, 9)
        os.waitpid(child, 0)
        open(f"{sys.argv[1]}/{child}.end", "w").write(str(time.time()))
"""


@pytest.mark.parametrize("times", [30, pytest.param(200, marks=pytest.mark.long)])
def test_at_most_the_last_moments_are_lost_however_often_it_is_killed(tmp_path, monkeypatch, times):
    """Killed while it changes every 5 ms: the change that is found again is no older than the pause
    before it writes, which is shortened here so that it does not take ten minutes.

    What is due is told by what the window itself did afterwards, not by a clock: a processor that
    others use too may stop it for any time.
    """
    soon = 60
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-c", KILLED, str(tmp_path), str(times), str(soon), "10"]
    subprocess.run(command, env=environment, check=True, timeout=200)
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    found = {int(orphan.path.stem.partition("-")[2]): orphan for orphan in orphans()}
    killed = list(tmp_path.glob("*.end"))
    assert len(killed) == times
    # The others were killed before they had anything to lose: many, where a processor is shared.
    assert len(found) > times * 0.1
    for end in killed:
        child = int(end.stem)
        told = (tmp_path / f"{child}.txt").read_text().splitlines()
        changes = [(int(count), float(when)) for count, when in map(str.split, told)]
        ends = [when - soon / 1000 for _, when in changes][:-_TURNS]  # after which it went on
        due = [count for count, when in changes if ends and when < ends[-1]]
        kept = round(found[child].kept.figures[0].recipe.bins.width * 100) if child in found else 0
        assert kept >= max(due, default=0)
    for orphan in found.values():
        orphan.discard()


_TURNS = 4  # of the window in which it writes what is due


def test_a_window_that_is_asked_to_end_writes_first(tmp_path):
    """SIGTERM, as the system sends it: the real window, started as users start it."""
    code = (
        "import sys\n"
        "from PyQt6.QtCore import QTimer\n"
        "from rhabdos.app.shell import run\n"
        "started = run.started\n"
        "def changed(files, demo):\n"
        "    application, window = started(files, demo)\n"
        "    from rhabdos.figure.recipe.recipe import Bins\n"
        "    def change():\n"
        "        window.session.ask('Wider', window.session.recipe.binned(Bins(width=4.0)))\n"
        "        print('changed', flush=True)\n"
        "    QTimer.singleShot(600, change)\n"
        "    return application, window\n"
        "run.started = changed\n"
        "sys.exit(run.run([], True))\n"
    )
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen", "XDG_STATE_HOME": str(tmp_path)}
    window = subprocess.Popen([sys.executable, "-c", code], env=environment, stdout=subprocess.PIPE)
    assert window.stdout.readline() == b"changed\n"
    window.send_signal(signal.SIGTERM)
    window.wait(timeout=20)
    window.stdout.close()
    (left,) = (tmp_path / "rhabdos" / "open").glob("*.json")
    assert b"4.0" in left.read_bytes()


def test_nothing_is_written_of_what_needs_no_saving(hands):
    unsaved: Unsaved = hands.window.unsaved
    hands.window.session.ask("Wider", hands.recipe.binned(Bins(width=4.0)))
    unsaved.write_now()
    path = unsaved._slot.path
    assert path.exists()
    hands.press("Ctrl+Z")
    assert not path.exists()


def test_of_several_figures_each_is_one_to_lose():
    one, two = (Figure(Recipe(show=Show(variables=(name,)))) for name in ("a", "b"))
    assert nothing_lost(((), (one,), ()), ((), (two,), ()))  # looking at another variable
    for figures, known in (((one, two), (one,)), ((one,), (one, two)), ((two, one), (one, two))):
        assert not nothing_lost(((), figures, ()), ((), known, ()))
    assert nothing_lost(((), (one, two), ()), ((), (one, two), ()))
