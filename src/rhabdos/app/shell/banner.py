"""A sentence above the places, with what can be done about it."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.session.session import Session
from rhabdos.app.session.unsaved import Unsaved

if TYPE_CHECKING:
    from rhabdos.app.leaving.bringing_back import BringingBack
    from rhabdos.app.rows.facts_panel import FactNotice

_Deeds = Sequence[tuple[str, Callable[[], object]]]


class Banner(QWidget):
    """Says that a file has changed, or offers what a window left behind; nothing takes it away but
    what is done about it."""

    def __init__(self, session: Session, unsaved: Unsaved, reload: Callable[[], None]) -> None:
        super().__init__()
        self._session, self._unsaved, self._reload = session, unsaved, reload
        self._bringing: BringingBack | None = None
        self._file_told = False
        self.notice: FactNotice | None = None
        in_a_column(of=self)
        self.hide()

    def _say(self, text: str, deeds: _Deeds) -> None:
        from rhabdos.app.rows.facts_panel import FactNotice

        self._file_told = False
        if self.notice is not None:
            self.notice.hide()
            self.notice.deleteLater()
        self.notice = FactNotice(text, deeds) if text else None
        if (layout := self.layout()) and self.notice is not None:
            layout.addWidget(self.notice)
        self.setVisible(bool(text))

    def say_changed(self, text: str) -> None:
        """Say that a file changed on disk, and offer to read it again; what stood there before
        comes back afterwards."""
        if text:
            self._say(text, (("reload it", self._reload), ("leave it", self.put_away)))
            self._file_told = True
        elif self._file_told:
            self.put_away()

    def put_away(self) -> None:
        """Put the notice about a changed file away."""
        self._say("", ())
        if self._bringing is not None:
            self._bringing.offer_next()

    def offer_left_behind(self) -> None:
        """Offer what windows left behind that did not end by themselves, one after the other."""
        from rhabdos.app.leaving.bringing_back import BringingBack

        if self._bringing is not None:  # what waits is in its hands
            return
        self._bringing = BringingBack(self._session, self._unsaved, self._say)
        self._bringing.offer_next()

    def finish(self) -> None:
        """Leave what is still offered for the next start."""
        if self._bringing is not None:
            self._bringing.let_go()
