"""The side: the finer settings of the chosen phrase."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication, QScrollArea, QStackedWidget, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.typed_fields import quiet, scrolled
from rhabdos.app.panels.arrange_panel import ArrangePanel
from rhabdos.app.panels.forms_panel import FormsPanel
from rhabdos.app.panels.group_panels import SplitPanel, VariablePanel
from rhabdos.app.panels.look_panel import LookPanel
from rhabdos.app.panels.panel import Panel
from rhabdos.app.panels.settings_panel import SettingsPanel
from rhabdos.app.panels.words_panel import WordsPanel
from rhabdos.app.session.session import Session
from rhabdos.data.gathering import can_split, can_weigh
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.readings.readings import Readings

_OWN: dict[Key, Callable[[], Panel]] = {
    "variable": VariablePanel,
    "split": SplitPanel,
    "arrange": ArrangePanel,
    "forms": FormsPanel,
    "look": LookPanel,
    "words": WordsPanel,
}
"""Phrases whose settings have widgets of their own."""


class _Idle(QWidget):
    """A sentence where a panel would change nothing."""

    def __init__(self) -> None:
        super().__init__()
        self._words = quiet()
        in_a_column(self._words, None, around=(14, 14, 14, 10), of=self)

    def say(self, sentence: str) -> None:
        """Show a sentence."""
        self._words.setText(sentence)


class Side(QStackedWidget):
    """One panel a phrase, made when the phrase is first chosen."""

    writing_asked = pyqtSignal()
    """A text is to be placed in the figure."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._panels: dict[Key, Panel] = {}
        self._areas: dict[Key, QScrollArea] = {}
        self.chosen: Key | None = None
        self._idle = _Idle()
        self.addWidget(self._idle)
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

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
        self.addWidget(area)
        self._panels[phrase], self._areas[phrase] = panel, area
        self._offer(phrase)

    def choose(self, phrase: Key) -> None:
        """Bring the panel of a phrase to the front."""
        self.panel(phrase)
        self.chosen = phrase
        if self._session.readings:
            self.show_readings(self._session.readings)
        else:
            self.setCurrentWidget(self._areas[phrase])

    def show_readings(self, readings: Readings) -> None:
        """Show the settings of a figure in the panel of the chosen phrase.

        Where nothing in the figure follows that phrase, its panel says so instead.
        """
        if self.chosen is None:
            return
        phrase = PHRASES[self.chosen]
        if phrase.matters(readings) or (phrase.aside and phrase.wished(readings)):
            self._panels[self.chosen].show_readings(readings)
            self.setCurrentWidget(self._areas[self.chosen])
        else:
            self._idle.say(f"{phrase.title}: nothing in this figure follows from it now.")
            self.setCurrentWidget(self._idle)

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
