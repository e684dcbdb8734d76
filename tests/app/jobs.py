"""A pair of hands that counts: each click, pick, field typed into, key and drag is one step."""

import re
import xml.etree.ElementTree as ElementTree
from pathlib import Path

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QPushButton,
    QWidget,
)

from rhabdos.app.controls.colour_field import ColourField
from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.paint.fonts import measure
from rhabdos.scene.marks import Text
from rhabdos.scene.words.label_places import rect_of
from tests.app.texts import words_of

LEFT, NO = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


class Job:
    """What someone does in the window, step by step."""

    def __init__(self, hands, folder: Path, monkeypatch) -> None:
        self.hands, self.window, self.folder = hands, hands.window, folder
        self.steps = 0
        self._asked: list[Path] = []
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (self._next(), ""))
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (self._next(), ""))
        monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([self._next()], ""))

    def _next(self) -> str:
        self.steps += 1
        return str(self._asked.pop(0))

    def settle(self) -> None:
        session = self.window.session
        self.hands.qtbot.waitUntil(lambda: not session.runner.running(), timeout=20_000)
        QApplication.processEvents()

    @property
    def recipe(self):
        return self.window.session.recipe

    @property
    def readings(self):
        return self.window.session.readings

    @property
    def side(self):
        return self.window.figure.side

    # Steps

    def key(self, keys: str) -> None:
        self.steps += 1
        self.hands.press(keys)
        self.settle()

    def click(self, widget: QWidget, at: QPoint | None = None) -> None:
        assert widget.isVisible(), widget
        assert widget.isEnabled(), widget
        self.steps += 1
        if isinstance(widget, QCheckBox):
            at = QPoint(8, widget.height() // 2)
        QTest.mouseClick(widget, LEFT, pos=at or widget.rect().center())
        self.settle()

    def open(self, path: Path) -> None:
        self._asked.append(path)
        self.key("Ctrl+O")
        self.drawn()

    def drawn(self) -> None:
        """Wait for the panes, which come after the first figure."""
        figure = self.window.figure
        self.hands.qtbot.waitUntil(lambda: figure.stage.canvas.painted, timeout=10_000)
        self.hands.qtbot.waitUntil(lambda: figure._complete, timeout=10_000)
        QApplication.processEvents()

    def type(self, field: QLineEdit, text: str) -> None:
        """Type into a field of a dialog, whose Enter would be its end."""
        self.steps += 2
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QApplication.processEvents()

    def done(self, dialog) -> None:
        """Take over what a dialog holds, once it can be."""
        self.hands.qtbot.waitUntil(lambda: dialog.done_button.isEnabled(), timeout=5_000)
        self.click(dialog.done_button)
        self.hands.qtbot.waitUntil(lambda: self.window.session.table is not None, timeout=5_000)
        self.settle()

    def file(self, name: str, *lines: str) -> Path:
        path = self.folder / name
        path.write_text("\n".join(lines), encoding="utf-8")
        return path

    def variable(self, label: str, more: bool = False) -> None:
        """Click a variable at the left; with Ctrl, to show it with the others."""
        self.steps += 1
        view = self.window.figure.variables.list
        model = self.window.figure.variables.model
        row = next(i for i in range(model.rowCount()) if model.index(i).data() == label)
        view.scrollTo(model.index(row))
        ctrl = Qt.KeyboardModifier.ControlModifier if more else NO
        place = view.visualRect(model.index(row)).center()
        QTest.mouseClick(view.viewport(), LEFT, ctrl, place)
        self.settle()

    def phrase(self, key: str, beginning: str) -> None:
        """Click a phrase, and pick an entry of its menu."""
        self.steps += 2
        menu = self.hands.click_phrase(key)
        assert menu is not None, key
        offered = [action.text() for action in menu.actions()]
        assert any(text.startswith(beginning) for text in offered), offered
        self.hands.pick(menu, beginning)
        self.settle()

    def part(self, key: str):
        """Click a part at the head of the side; its panel."""
        self.click(self.side.parts.buttons[key])
        menus = [w for w in QApplication.topLevelWidgets() if w.inherits("QMenu") and w.isVisible()]
        for menu in menus:
            self.steps += 1
            QTest.keyClick(menu, Qt.Key.Key_Escape)
        return self.side.panel(key)

    def set(self, key: str, label: str, value: object = True) -> None:
        """Set a setting in the panel that is open, or in that of another part."""
        if self.side.chosen != key:
            self.part(key)
        self.put(self.side.panel(key).widgets[label], value)

    def put(self, widget: QWidget, value: object) -> None:
        """A tick, a pick, a colour or a text into a widget that is in sight."""
        assert widget.isVisibleTo(self.window), widget
        if isinstance(widget, QCheckBox):
            if widget.isChecked() != bool(value):
                self.click(widget)
            return
        if isinstance(widget, QComboBox):
            self.steps += 2
            offered = [widget.itemText(i) for i in range(widget.count())]
            row = next((i for i, w in enumerate(offered) if w.startswith(str(value))), -1)
            assert row >= 0, offered
            widget.setCurrentIndex(row)
            widget.activated.emit(row)
        else:
            self.steps += 2
            field = widget.field if isinstance(widget, ColourField) else widget
            assert isinstance(field, QLineEdit)
            self.hands.type_into(field, str(value))
        self.settle()

    def forms(self, *wanted: str) -> None:
        """Tick forms until just these are drawn."""
        panel = self.side.panel("forms")
        if self.side.chosen != "forms":
            self.forms_panel()
        drawn = self.recipe.show.forms
        for form in [f for f in wanted if f not in drawn] + [f for f in drawn if f not in wanted]:
            self.click(panel.ticks[form])
        assert set(self.recipe.show.forms) == set(wanted)

    def forms_panel(self) -> None:
        self.steps += 1
        QTest.mouseClick(self.side.parts.buttons["forms"], LEFT)
        self.settle()

    def words(self, **texts: str) -> None:
        """Type words where the panel has them: title, subtitle, value_axis, height_axis, note."""
        called = {"title": "Title", "subtitle": "Subtitle", "value_axis": "Value axis",
                  "height_axis": "Height axis", "note": "Note below"}  # fmt: skip
        for key, text in texts.items():
            self.set("words", called[key], text)

    def letters(self, of: str, **how: object) -> None:
        """How words are set: size, bold, place, colour, ground, border, padding."""
        if self.side.chosen != "words":
            self.part("words")
        panel = self.side.panel("words")
        if panel.which.currentText() != of:
            self.put(panel.which, of)
        fields = {"size": panel.size_, "place": panel.place, "bold": panel.bold,
                  "colour": panel.colour, "ground": panel.around["ground"],
                  "border": panel.around["border"], "padding": panel.padding}  # fmt: skip
        for key, value in how.items():
            self.put(fields[key], value)

    def group_colour(self, level: str, colour: str) -> None:
        """The colour of a level in the panel of the look."""
        if self.side.chosen != "look":
            self.part("look")
        self.put(self.side.panel("look").colours[level], colour)

    def click_mark(self, part: str, group: int | None = None) -> None:
        """Click a part of the figure where it is drawn."""
        canvas = self.window.figure.stage.canvas
        pointing = canvas._pointing
        for zone in canvas.scene.zones:
            meaning = zone.meaning
            if meaning.part == part and (group is None or meaning.group == group):
                middle = QPointF(zone.left + zone.right, zone.top + zone.bottom) / 2
                found = pointing.meaning(middle.x(), middle.y())
                if found is not None and found.part == part and found.group in (group, None):
                    self.click(canvas, (middle * canvas.scale).toPoint())
                    return
        self.click(canvas, self._of_mark(part, group))

    def _of_mark(self, part: str, group: int | None) -> QPoint:
        """A place inside a filled mark of a part."""
        canvas = self.window.figure.stage.canvas
        for mark in canvas.scene.marks:
            meaning = getattr(mark, "meaning", None)
            if meaning and meaning.part == part and meaning.group == group:
                points = getattr(mark, "points", None)
                if points is not None and len(points) > 3:
                    middle = points.mean(axis=0) * canvas.scale
                    return QPoint(round(float(middle[0])), round(float(middle[1])))
        raise AssertionError((part, group))

    def rename(self, level: str, *lines: str) -> None:
        """Double-click the name of a lane and type another, in one or more lines."""
        canvas = self.window.figure.stage.canvas
        zones = [
            z for z in canvas.scene.zones if z.meaning.part == "lane" and z.meaning.level == level
        ]
        rects = [
            rect_of(m, measure)
            for m in canvas.scene.marks
            if isinstance(m, Text) and m.text == level
        ]
        middles = [((r.left + r.right) / 2, (r.top + r.bottom) / 2) for r in rects]
        x, y = next(m for m in middles if any(z.holds(*m) for z in zones))
        self.steps += 3
        QTest.mouseDClick(canvas, LEFT, pos=(QPointF(x, y) * canvas.scale).toPoint())
        field = self.window.figure_actions.words.field
        assert field.toPlainText() == level
        for place, line in enumerate(lines):
            if place:
                QTest.keyClick(field, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
            QTest.keyClicks(field, line)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.settle()

    def button(self, within: QWidget, words: str) -> None:
        """Click a button by its words."""
        found = [b for b in within.findChildren(QPushButton) if words_of(b) == words]
        self.click(next(b for b in found if b.isVisible()))

    def export(self, name: str, **choices: object) -> Path:
        """Export the figure to a file."""
        path = self.folder / name
        self.key("Ctrl+Shift+E")
        dialog = self.window.findChildren(ExportDialog)[-1]
        format_ = path.suffix[1:]
        if not dialog.format_buttons[format_].isChecked():
            self.steps += 1
            QTest.mouseClick(dialog.format_buttons[format_], LEFT, pos=QPoint(8, 10))
        if "size" in choices:
            self.steps += 1
            self.hands.type_into(dialog.size_fields.findChild(QLineEdit), str(choices["size"]))
        if choices.get("transparent"):
            self.click(dialog.transparent)
        self.steps += 2
        dialog.path.setText(str(path))
        QTest.mouseClick(dialog.export_button, LEFT)
        self.hands.qtbot.waitUntil(lambda: path.exists(), timeout=20_000)
        self.settle()
        return path

    def save_recipe(self, name: str) -> Path:
        path = self.folder / name
        self._asked.append(path)
        self.key("Ctrl+Shift+S")
        return path


def svg_of(path: Path) -> str:
    """The text of an SVG, which must be well-formed."""
    ElementTree.parse(path)
    return path.read_text(encoding="utf-8")


def words_in(svg: str) -> list[str]:
    """What is written in an SVG."""
    plain = re.sub(r"<metadata>.*?</metadata>", "", svg, flags=re.DOTALL)
    return [
        re.sub(r"<[^>]+>", "", text)
        for text in re.findall(r"<text[^>]*>(.*?)</text>", plain, re.DOTALL)
    ]
