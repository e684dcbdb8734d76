"""In what two figures differ, in the words of their sentences."""

from collections.abc import Iterator

from msgspec import Struct

from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.readings.readings import Readings


class Difference(Struct, frozen=True):
    """A part of two figures that differs; a part that one of them has not, says nothing there."""

    part: str
    here: str
    there: str

    @property
    def words(self) -> str:
        """ "drawn as (bars, curve)"; a part that reads alike is told by its name."""
        if self.here == self.there:
            return self.part
        return f"{self.part} ({self.here or 'none'}, {self.there or 'none'})"


def differences(here: Readings, there: Readings) -> tuple[Difference, ...]:
    """Each part that the sentences of two figures say otherwise; else what their recipes set
    otherwise."""
    said = tuple(_said_otherwise(here, there))
    return said or tuple(_set_otherwise(here, there))


def _said_otherwise(here: Readings, there: Readings) -> Iterator[Difference]:
    for phrase in PHRASES.values():
        ours, theirs = (
            phrase.said(readings).text if phrase.matters(readings) else ""
            for readings in (here, there)
        )
        if ours != theirs:
            yield Difference(phrase.title.lower(), ours, theirs)


def _set_otherwise(here: Readings, there: Readings) -> Iterator[Difference]:
    for name in here.recipe.__struct_fields__:
        if getattr(here.recipe, name) != getattr(there.recipe, name):
            yield Difference(_PARTS.get(name, name.replace("_", " ")), "", "")


_PARTS = {"page": "size", "show": "what is shown"}
