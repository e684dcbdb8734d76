"""The small pictures of figures that are not in sight, kept as long as what they show stays."""

from functools import partial

import msgspec
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.pictures import picture_of
from rhabdos.app.session.reaching import is_quick
from rhabdos.app.session.session import Session
from rhabdos.data.steps.step import Step
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.project.document import Source
from rhabdos.scene.miniature import small

_MOST_KEPT = 1_000  # pictures


class ShelfPictures:
    """Pictures by their recipes, as long as data and steps stay.

    A figure of many rows that was not seen yet has none until it is, since its samples would have
    to be sorted.
    """

    def __init__(self, session: Session) -> None:
        self._session = session
        self._kept: dict[bytes, QIcon | None] = {}
        self._of: tuple[Source | None, tuple[Step, ...]] | None = None

    def of(self, at: int) -> QIcon | None:
        """The picture of a figure, if there is one."""
        document = self._session.document
        if self._of != (document.source, document.steps):
            self._kept.clear()
            self._of = document.source, document.steps
        return self._kept.get(self._key(at))

    def _key(self, at: int) -> bytes:
        return msgspec.json.encode(self._session.document.figures[at].recipe)

    def paint_one(self, size: QSize, on: QWidget) -> int | None:
        """Paint the first picture that is lacking and can be painted at once; its place."""
        for at in range(len(self._session.figures)):
            key = self._key(at)
            if key in self._kept:
                continue
            while len(self._kept) >= _MOST_KEPT:
                self._kept.pop(next(iter(self._kept)))
            try:
                readings = self._readings(at)
                if readings is None:
                    continue
                self._kept[key] = picture_of(partial(small, readings.recipe, readings), size, on)
            except Refusal:  # which is told when the figure is shown
                self._kept[key] = None
            return at
        return None

    def _readings(self, at: int) -> Readings | None:
        """The readings of a figure, where they are at hand or take no time."""
        session, document = self._session, self._session.document
        recipe = document.figures[at].recipe
        if at == document.shown and session.readings and session.readings.recipe == recipe:
            return session.readings
        samples, table = session.store.samples(document.showing(at)), session.table
        if samples is None and table is not None and is_quick(table):
            samples = samples_for(recipe, table)
        return read(recipe, samples) if samples is not None else None
