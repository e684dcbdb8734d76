"""Work that a window left behind which did not end by itself: offered, brought back or put away."""

from collections.abc import Callable, Sequence
from datetime import datetime

from rhabdos.app.session.session import Session
from rhabdos.app.session.unsaved import Unsaved, listed_plainly
from rhabdos.project.recovery import Orphan, orphans
from rhabdos.quoting import brief

_Deeds = Sequence[tuple[str, Callable[[], object]]]


class BringingBack:
    """Offers one after the other; what is neither brought back nor put away is offered again at the
    next start."""

    def __init__(
        self, session: Session, unsaved: Unsaved, show: Callable[[str, _Deeds], None]
    ) -> None:
        self._session, self._unsaved, self._show = session, unsaved, show
        self._waiting = orphans()

    def offer_next(self) -> None:
        """Offer the last one that is still waiting, or take the offer away."""
        if not self._waiting:
            self._show("", ())
            return
        orphan = self._waiting[0]
        kept = orphan.kept
        when = datetime.fromtimestamp(kept.written)
        work = listed_plainly(kept.said) if kept.said else "work"
        of = f" on {brief(kept.name)}" if kept.name else ""
        self._show(
            f"Rhabdos ended on {when:%Y-%m-%d} at {when:%H:%M} before this was saved: {work}{of}.",
            (
                ("bring it back", lambda: self._bring(orphan)),
                ("put it away", lambda: self._put_away(orphan)),
            ),
        )

    def _bring(self, orphan: Orphan) -> None:
        def shown() -> None:
            """It is kept by this window now, and no longer by its former one."""
            self._unsaved.forget()
            self._unsaved.write_now()
            self._waiting.remove(orphan)
            orphan.discard()
            self.offer_next()

        self._session.opening.open_kept(orphan.kept, shown)

    def _put_away(self, orphan: Orphan) -> None:
        self._waiting.remove(orphan)
        orphan.discard()
        self.offer_next()

    def let_go(self) -> None:
        """Leave what is still waiting for the next start."""
        for orphan in self._waiting:
            orphan.let_go()
        self._waiting = []
