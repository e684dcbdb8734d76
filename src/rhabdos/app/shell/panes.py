"""From pane to pane by a key."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QWidget

if TYPE_CHECKING:
    from rhabdos.app.shell.window import Window


def to_next_pane(window: "Window", by: int) -> None:
    """Take the keys to the pane after (1) or before (-1) the one that has them."""
    panes = [(pane, taker) for pane, taker in _panes(window) if taker.isVisible()]
    if not panes:
        return
    focus = QApplication.focusWidget()
    here = next((at for at, (pane, _) in enumerate(panes) if _within(pane, focus)), -by)
    _, taker = panes[(here + by) % len(panes)]
    taker.setFocus(Qt.FocusReason.ShortcutFocusReason)


def _panes(window: "Window") -> Sequence[tuple[QWidget, QWidget]]:
    """The panes of the place in sight in their order, each with what takes the keys there."""
    if window.place == "rows":
        rows = window.rows_place
        steps, side = _first_of(rows.steps), _first_of(rows.side)
        return (rows.steps, steps), (rows.view, rows.view), (rows.side, side)
    if window.place == "overview":
        overview = window.overview
        return (overview.search, overview.search), (overview.cards, overview.cards)
    figure = window.figure
    stage, side = figure.stage, figure.side
    said = window.sentence.first_button
    rod = stage.held_rod
    return (
        (window.sentence, said or window.sentence),
        (figure.variables, figure.variables.list),
        (stage.canvas, stage.canvas),
        *([(rod, rod)] if rod else []),
        (side, side.parts.current or side),
        (figure.foot, figure.foot.table),
    )


def _first_of(pane: QWidget) -> QWidget:
    """The first thing in a pane that takes keys."""
    takes = (
        child
        for child in pane.findChildren(QWidget)
        if child.isVisible() and child.focusPolicy() & Qt.FocusPolicy.TabFocus
    )
    return next(takes, pane)


def _within(pane: QWidget, focus: QWidget | None) -> bool:
    return focus is not None and (pane is focus or pane.isAncestorOf(focus))
