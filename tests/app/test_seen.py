"""Under the sentence: what is seen in the data, struck out and taken back, and told wherever the figure
is told."""

from xml.etree import ElementTree

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from rhabdos.app.session.tasks import Task
from rhabdos.paint.export import write_figure

LEFT = Qt.MouseButton.LeftButton
PEAKS = "Two peaks stand out in Saltmere, near 67.5 and 87.5 mm."


def line_of(hands):
    line = hands.window.seen
    hands.qtbot.waitUntil(lambda: not line.busy, timeout=20_000)
    return line


def turn(hands, beginning):
    line = line_of(hands)
    QTest.mouseClick(line.button, LEFT)
    (menu,) = [menu for menu in line.findChildren(QMenu) if menu.isVisible()]
    hands.pick(menu, beginning)
    return line_of(hands)


def test_what_is_seen_stands_under_the_sentence_and_follows_the_figure(hands):
    line = line_of(hands)
    assert line.isVisible()
    assert line.text.startswith(PEAKS)
    assert "Wick Narrows differs most from Heron Sound: its median is 6.4 mm lower." in line.text
    hands.window.session.ask("Whole", hands.recipe.showing(split=()))
    assert line_of(hands).text.startswith("The middle half of 2,413 values lies from 67.6")
    hands.press("F3")
    assert not line.isVisible()
    hands.press("F4")
    assert line_of(hands).isVisible()
    hands.window.resize(1024, 600)
    QApplication.processEvents()
    assert not line.isVisible()


def test_a_sentence_is_struck_out_and_taken_back_as_a_step(hands, tmp_path):
    line = turn(hands, "Two peaks")
    assert hands.recipe.words.unsaid == ("peaks",)
    assert PEAKS not in line.text
    scene = hands.window.figure.stage.canvas.scene
    assert PEAKS not in scene.describe()
    line = turn(hands, "Two peaks")
    assert hands.recipe.words.unsaid == ()
    assert PEAKS in line.text
    path = tmp_path / "figure.svg"
    write_figure(hands.window.figure.stage.canvas.scene, path)
    told = ElementTree.parse(path).find("{http://www.w3.org/2000/svg}desc").text
    assert PEAKS in told
    for beginning in ("Two peaks", "Wick Narrows", "The longer", "The middle"):
        line = turn(hands, beginning)
    assert line.text == ""
    assert line.button.accessibleName() == "What the data show …"
    hands.press("Ctrl+Z")
    assert line_of(hands).text.startswith("The middle half")


def test_what_is_said_is_copied(hands):
    turn(hands, "Copy")
    assert QApplication.clipboard().text() == line_of(hands).text


def test_what_a_closed_window_waited_for_never_comes(empty):
    window = empty.window
    window.session.opening.open_demo()
    empty.qtbot.waitUntil(lambda: window.figure.stage.canvas.painted)
    window.seen.show_readings(window.session.readings)
    task = window.seen._task
    came = []
    task.succeeded.connect(came.append)
    window.seen.deleteLater()
    QApplication.sendPostedEvents(None, 52)  # what is deferred is deleted
    Task.wait_for_all(20)
    QApplication.processEvents()
    assert not came
