"""The side: the finer settings of the chosen phrase."""

from functools import cached_property
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QStackedWidget

from rhabdos.app.bins_panel import BinsPanel
from rhabdos.app.curve_panel import CurvePanel
from rhabdos.app.forms_panel import FormsPanel
from rhabdos.app.phrase_panels import (
    HeightsPanel,
    LinesPanel,
    Panel,
    SplitPanel,
    VariablePanel,
    WordsPanel,
)
from rhabdos.app.session import Session
from rhabdos.data.gathering import can_split, can_weigh
from rhabdos.figure.readings import Readings
from rhabdos.figure.sentence import Phrase

AnyPanel = TypeVar("AnyPanel", bound=Panel)


class Side(QStackedWidget):
    """One panel a phrase, made when the phrase is first chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    @cached_property
    def variable(self) -> VariablePanel:
        panel = self._settled(VariablePanel())
        if self._session.table:
            panel.offer(can_weigh(self._session.table.numbers))
        return panel

    @cached_property
    def split(self) -> SplitPanel:
        panel = self._settled(SplitPanel())
        if self._session.table:
            panel.offer(can_split(self._session.table))
        return panel

    @cached_property
    def heights(self) -> HeightsPanel:
        return self._settled(HeightsPanel())

    @cached_property
    def bins(self) -> BinsPanel:
        return self._settled(BinsPanel())

    @cached_property
    def forms(self) -> FormsPanel:
        return self._settled(FormsPanel())

    @cached_property
    def curve(self) -> CurvePanel:
        return self._settled(CurvePanel())

    @cached_property
    def lines(self) -> LinesPanel:
        return self._settled(LinesPanel())

    @cached_property
    def words(self) -> WordsPanel:
        panel = self._settled(WordsPanel())
        panel.previewed.connect(self._session.preview)
        panel.taken_back.connect(self._session.end_preview)
        return panel

    def _settled(self, panel: AnyPanel) -> AnyPanel:
        self.addWidget(panel)
        panel.asked.connect(self._session.ask)
        return panel

    def choose(self, phrase: Phrase) -> None:
        """Bring the panel of a phrase to the front."""
        panel = getattr(self, phrase)
        assert isinstance(panel, Panel)
        self.setCurrentWidget(panel)
        if self._session.readings:
            panel.show_readings(self._session.readings)

    def show_readings(self, readings: Readings) -> None:
        """Show the settings of a figure in the panel that is in front."""
        panel = self.currentWidget()
        if isinstance(panel, Panel):
            panel.show_readings(readings)

    def show_table(self) -> None:
        """Offer the variables of the session's table."""
        table = self._session.table
        if table and "split" in self.__dict__:
            self.split.offer(can_split(table))
        if table and "variable" in self.__dict__:
            self.variable.offer(can_weigh(table.numbers))

    def typing_bins(self) -> bool:
        """Whether the user is in the midst of typing bins."""
        return "bins" in self.__dict__ and self.bins.isAncestorOf(
            QApplication.focusWidget() or self
        )
