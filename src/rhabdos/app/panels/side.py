"""The side: the parts of the figure, and the finer settings of the chosen one."""

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QApplication, QScrollArea, QStackedWidget, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.mnemonics import OF_MENUS, give_letters
from rhabdos.app.controls.plain_texts import as_written
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.typed_fields import quiet, scrolled
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.panels.arrange_panel import ArrangePanel
from rhabdos.app.panels.bins_panel import BinsPanel
from rhabdos.app.panels.forms_panel import FormsPanel
from rhabdos.app.panels.group_panels import SplitPanel, VariablePanel
from rhabdos.app.panels.look_panel import LookPanel
from rhabdos.app.panels.panel import Panel
from rhabdos.app.panels.parts_line import PartsLine
from rhabdos.app.panels.settings_panel import SettingsPanel
from rhabdos.app.panels.words_panel import WordsPanel
from rhabdos.app.session.session import Session
from rhabdos.data.gathering import can_split, can_weigh
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.phrases.shown import drawn_as
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.recipe import Form

_OWN: dict[Key, Callable[[], Panel]] = {
    "variable": VariablePanel,
    "split": SplitPanel,
    "arrange": ArrangePanel,
    "bins": BinsPanel,
    "forms": FormsPanel,
    "look": LookPanel,
    "words": WordsPanel,
}
"""Phrases whose settings have widgets of their own."""


_DRAWS: dict[Key, Form] = {"bins": "bars", "curve": "curve", "box": "box", "points": "points"}
"""What a phrase is about, which a figure without it can be given."""
_OF_GROUPS: tuple[Key, ...] = ("arrange", "legend")


class _Idle(QWidget):
    """A sentence where a panel would change nothing, and what would give it something to do."""

    cured = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._words = quiet()
        self.cure = word_button("", self.cured.emit, "add")
        in_a_column(self._words, self.cure, None, around=(14, 10, 14, 10), gap=8, of=self)

    def say(self, sentence: str, cure: str) -> None:
        """Show a sentence, and what can be done about it, if anything."""
        self._words.setText(sentence)
        self.cure.setText(as_written(cure))
        self.cure.setVisible(bool(cure))


class Side(QWidget):
    """The parts of the figure, and under them the panel of the chosen one.

    Panels are made when they are first wanted.
    """

    writing_asked = pyqtSignal()
    """A text is to be placed in the figure."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._panels: dict[Key, Panel] = {}
        self._areas: dict[Key, QScrollArea] = {}
        self.chosen: Key | None = None
        self.parts = PartsLine()
        self.idle = _Idle()
        self.idle.cured.connect(self._give_it_something)
        self._stack = QStackedWidget()
        self._stack.addWidget(self.idle)
        dressed_as(self, "side")
        in_a_column(self.parts, (self._stack, 1), gap=0, of=self)

    def panel(self, phrase: Key) -> Panel:
        """The panel of a phrase."""
        if phrase not in self._panels:
            self._make(phrase)
        return self._panels[phrase]

    def _make(self, phrase: Key) -> None:
        panel = _OWN[phrase]() if phrase in _OWN else SettingsPanel(PHRASES[phrase])
        panel.recipe_asked.connect(self._session.ask)
        panel.previewed.connect(self._session.preview)
        panel.taken_back.connect(self._session.end_preview)
        if isinstance(panel, WordsPanel):
            panel.write.clicked.connect(self.writing_asked)
        area = scrolled(panel)
        panel.fault_shown.connect(lambda fault: area.ensureWidgetVisible(fault, 0, 12))
        self._stack.addWidget(area)
        self._panels[phrase], self._areas[phrase] = panel, area
        self._offer(phrase)

    def choose(self, phrase: Key) -> None:
        """Bring the panel of a phrase to the front."""
        self.panel(phrase)
        self.chosen = phrase
        self.parts.choose(phrase)
        if self._session.readings:
            self.show_readings(self._session.readings)
        else:
            self._stack.setCurrentWidget(self._areas[phrase])

    @property
    def has_settings(self) -> bool:
        """Whether what is chosen has settings that change something."""
        return self._stack.currentWidget() is not self.idle

    def show_readings(self, readings: Readings) -> None:
        """Show the settings of a figure in the panel of the chosen phrase.

        Where nothing in the figure follows that phrase, its panel says so instead, and what would
        change that.
        """
        self.parts.show_parts(readings)
        if self.chosen is None:
            return
        phrase = PHRASES[self.chosen]
        if phrase.applies(readings):
            panel = self._panels[self.chosen]
            panel.show_readings(readings)
            give_letters(panel, OF_MENUS)
            self._stack.setCurrentWidget(self._areas[self.chosen])
            return
        cure = ""
        if self.chosen in _DRAWS:
            cure = "Draw it in this figure"
        elif self.chosen in _OF_GROUPS and readings.plan.coloured is None:
            cure = "Split by a factor"
        self.idle.say(f"{phrase.title}: nothing in this figure follows from it now.", cure)
        self._stack.setCurrentWidget(self.idle)

    def follow(self, readings: Readings) -> None:
        """Show in the frame what follows a hand there: the ladder of bins."""
        if self.chosen == "bins" and isinstance(panel := self._panels[self.chosen], BinsPanel):
            panel.follow(readings)

    def _give_it_something(self) -> None:
        readings = self._session.readings
        if readings is None or self.chosen is None:
            return
        if self.chosen not in _DRAWS:
            self.parts.chosen.emit("split")
            return
        form, show = _DRAWS[self.chosen], readings.recipe.show
        forms = tuple(other for other in FORMS if other in (*show.forms, form))
        self._session.ask(f"Draw {FORMS[form].title}", drawn_as(readings, forms))

    def show_table(self) -> None:
        """Offer the variables of the session's table."""
        for phrase in self._panels:
            self._offer(phrase)

    def _offer(self, phrase: Key) -> None:
        table, panel = self._session.table, self._panels[phrase]
        if table and isinstance(panel, SplitPanel):
            panel.offer(can_split(table))
        if table and isinstance(panel, VariablePanel):
            panel.offer(list(table.drawable), can_weigh(table.numbers))

    def typing(self) -> Panel | None:
        """The panel in which the user is in the midst of typing."""
        focus = QApplication.focusWidget()
        if focus is None:
            return None
        return next((p for p in self._panels.values() if p.isAncestorOf(focus)), None)
