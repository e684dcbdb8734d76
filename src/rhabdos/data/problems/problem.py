"""A problem of a variable: a sentence, and what would cure it."""

from msgspec import Struct

from rhabdos.data.steps.step import Step

_MOST_NAMED = 4  # values; of more the commonest


class Problem(Struct, frozen=True):
    """Something about a variable that its user should know.

    Attributes
    ----------
    code : str
        For scripts.
    text : str
        A sentence.
    n : int
        How many values it is about.
    cure : Step or None
        What would put it right, and that in a few words.
    """

    code: str
    text: str
    n: int
    cure: Step | None = None
    cure_text: str = ""


def misfits(total: int, words: dict[str, int], thing: str = "number") -> str:
    """ "14 values are not numbers: “broken” 9, “lost” 5"; ``thing`` is what one of the others
    is."""
    from rhabdos.data.fields.texts import words_by_count

    values = f"1 value is no {thing}" if total == 1 else f"{total:,} values are not {thing}s"
    return f"{values}: {words_by_count(words, _MOST_NAMED)}"
