"""The real window, shown offscreen and driven by real events."""

import pytest
from msgspec import structs
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QMessageBox

from rhabdos.app.controls import theme
from rhabdos.app.shell.help_boxes import actions_with_keys
from rhabdos.app.shell.window import Window
from rhabdos.data.demo import demo_table
from rhabdos.project.memory import remember


class Hands:
    """What a user can do: point, drag, type, and read what is shown."""

    def __init__(self, window: Window, qtbot) -> None:
        self.window = window
        self.qtbot = qtbot

    @property
    def readings(self):
        return self.window.session.readings

    @property
    def recipe(self):
        return self.window.session.recipe

    def sentence(self) -> str:
        return self.window.sentence.accessibleDescription()

    def edges(self) -> list[float]:
        return self.readings.edges.values.tolist()

    def click_phrase(self, phrase: str) -> QMenu | None:
        """Click a phrase, in the sentence or else at the side; returns the menu that opened."""
        side = self.window.figure.side
        button = self.window.sentence.button(phrase) or side.parts.buttons[phrase]
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        menus = [menu for menu in self.window.findChildren(QMenu) if menu.isVisible()]
        return menus[-1] if menus else None

    def pick(self, menu: QMenu, beginning: str) -> None:
        """Choose an entry of an open menu by mouse."""
        action = next(a for a in menu.actions() if a.text().startswith(beginning))
        QTest.qWaitForWindowExposed(menu)
        for moved in range(8):  # a menu takes no notice of a mouse that has hardly moved on it
            QTest.mouseMove(menu, menu.actionGeometry(action).center() + QPoint(moved % 2, 0))
        QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())

    def click_variable(self, name: str) -> None:
        view = self.window.figure.variables.list
        model = self.window.figure.variables.model
        row = next(i for i in range(model.rowCount()) if model.index(i).data() == name)
        view.scrollTo(model.index(row))
        QTest.mouseClick(
            view.viewport(),
            Qt.MouseButton.LeftButton,
            pos=view.visualRect(model.index(row)).center(),
        )

    def panel(self, phrase: str):
        """The settings of a phrase, brought to the front."""
        self.window.choose_phrase(phrase)
        return self.window.figure.side.panel(phrase)

    def choose(self, phrase: str, label: str, text: str) -> None:
        """Choose from a list of a phrase's settings."""
        box = self.panel(phrase).widgets[label]
        row = next(i for i in range(box.count()) if box.itemText(i).startswith(text))
        box.setCurrentIndex(row)
        box.activated.emit(row)

    def tick(self, phrase: str, label: str) -> None:
        """Click a tick of a phrase's settings."""
        box = self.panel(phrase).widgets[label]
        QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))

    def type_into(self, field, text: str) -> None:
        field.setFocus()
        field.selectAll()
        if text:
            QTest.keyClicks(field, text)
        else:
            QTest.keyClick(field, Qt.Key.Key_Delete)
        QTest.keyClick(field, Qt.Key.Key_Return)
        QApplication.processEvents()

    def drag_rod(
        self,
        start: float,
        end: float,
        modifier=Qt.KeyboardModifier.NoModifier,
        release: bool = True,
    ) -> None:
        """Drag on the rod from one value to another."""
        rod = self.window.figure.stage.rod
        left, right = (QPoint(round(rod.x_of(value)), 8) for value in (start, end))
        button = Qt.MouseButton.LeftButton
        QTest.mousePress(rod, button, modifier, left)
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(rod, left + (right - left) * share)
        if release:
            QTest.mouseRelease(rod, button, modifier, right)

    def keys(self, widget, *keys) -> None:
        widget.setFocus()
        for key in keys:
            key, modifier = key if isinstance(key, tuple) else (key, Qt.KeyboardModifier.NoModifier)
            QTest.keyClick(widget, key, modifier)

    def press(self, keys: str) -> None:
        """Press a shortcut of the window."""
        action = next(
            a
            for a in actions_with_keys(self.window)
            if keys in [k.toString() for k in a.shortcuts()]
        )
        assert action.isEnabled(), keys
        action.trigger()

    def open(self, path) -> None:
        self.window.filing.open(path)
        self.qtbot.waitUntil(lambda: not self.window.session.runner.running(), timeout=20_000)

    def refusal(self) -> str:
        """What the box in front of the window says; closes it."""
        boxes = [box for box in self.window.findChildren(QMessageBox) if box.isVisible()]
        assert boxes, "nothing was refused"
        text = boxes[-1].text()
        boxes[-1].close()
        return text


@pytest.fixture(scope="session")
def qapp_args():
    return ["rhabdos", *theme.PLAIN]


@pytest.fixture(scope="session")
def dressed(qapp):
    theme.apply(qapp)
    return qapp


@pytest.fixture(autouse=True)
def nothing_remembered():
    """What was exported last and the columns that are listed are another test's."""
    remember(lambda memory: structs.replace(memory, export=None, columns=(), shares=()))


@pytest.fixture
def empty(qtbot, dressed) -> Hands:
    window = Window()
    window.resize(1280, 800)
    window.show()
    # A mouse that another test has left where this one moves it first would not have moved.
    QTest.mouseMove(window, QPoint(window.width() // 2, window.height() - 3))
    QApplication.processEvents()
    yield Hands(window, qtbot)
    while popup := QApplication.activePopupWidget():
        popup.close()
    window.filing.may_close = lambda: True  # a test that ends does not ask about its recipe
    window.close()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture(scope="session")
def same_demo():
    """The demo data as one table for all tests, so that what is worked out of it is worked out
    once."""
    table = demo_table()
    return lambda: table


@pytest.fixture(scope="session")
def same_samples():
    """The samples of its first figure, with all that was worked out of them."""
    return {}


@pytest.fixture
def hands(empty, monkeypatch, same_demo, same_samples) -> Hands:
    monkeypatch.setattr("rhabdos.app.session.opening.demo_table", same_demo)
    kept = empty.window.session.store._samples
    kept.update(same_samples)
    empty.window.session.opening.open_demo()
    empty.qtbot.waitUntil(lambda: empty.window.figure.stage.canvas.painted)
    same_samples.update(kept)
    QApplication.processEvents()  # what the window puts off until its first figure is painted
    return empty
