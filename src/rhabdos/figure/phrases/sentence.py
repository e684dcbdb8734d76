"""The figure as one sentence that can be read aloud; its phrases are the choices."""

from msgspec import Struct

from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.readings.readings import Readings
from rhabdos.memo import memoised
from rhabdos.quoting import set_apart


class Fragment(Struct, frozen=True):
    """A piece of the sentence; ``phrase`` names the choice that it is, if it is one."""

    text: str
    phrase: Key | None = None


@memoised  # shown, heard, and asked for by each menu that opens
def sentence(readings: Readings) -> tuple[Fragment, ...]:
    """The sentence of a figure, in pieces; joined, they read as one text."""
    pieces: list[Fragment] = []
    joined = ". "
    for phrase in PHRASES.values():
        if not phrase.matters(readings):
            continue
        said = phrase.said(readings)
        before = said.before
        if phrase.clause:
            begins = joined == ". "
            before = joined + (before[:1].upper() + before[1:] if begins else before)
            joined = "; "
        texts = (Fragment(before), Fragment(said.text, phrase.key), Fragment(said.after))
        pieces += [piece for piece in texts if piece.text]
    return (*pieces, Fragment("."))


def plain(readings: Readings) -> str:
    """The sentence as text, for captions and screen readers."""
    return "".join(set_apart(fragment.text) for fragment in sentence(readings))
