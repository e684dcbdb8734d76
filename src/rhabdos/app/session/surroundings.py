"""What any part of the window may ask of the window around it."""

from typing import Literal, Protocol

from rhabdos.figure.phrases.phrase import Key

Place = Literal["overview", "rows", "figure"]


class Surroundings(Protocol):
    """The window, as its parts know it: they never import it."""

    def tell(self, text: str) -> None:
        """Say something in passing."""

    def refuse(self, text: str) -> None:
        """Say why something cannot be done."""

    def go_to(self, place: Place) -> None:
        """Bring a place in sight."""

    def choose_phrase(self, phrase: Key) -> None:
        """Bring the finer settings of a phrase in sight."""
