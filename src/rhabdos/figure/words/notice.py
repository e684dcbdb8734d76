"""A notice: something that the reader of a figure should know, and its cure."""

from typing import Literal

from msgspec import Struct

from rhabdos.data.steps.step import Step
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.quoting import brief

Weight = Literal[0, 1, 2, 3]
HIDES: Weight = 0
MISLEADS: Weight = 1
LACKS: Weight = 2
DIFFERS: Weight = 3


class Cure(Struct, frozen=True):
    """A way out of a trouble: what it does, in a few words, and the figure afterwards."""

    words: str
    recipe: Recipe


class Notice(Struct, frozen=True):
    """Something the reader of a figure should know.

    Attributes
    ----------
    code : str
        For scripts.
    text : str
        A sentence.
    cure : Recipe or None
        The figure with the trouble gone, and what the cure does, in a few words.
    weight : 0 … 3
        Whether the figure hides values, misleads, lacks something, or is not quite as was asked.
    step : Step or None
        How the data may be prepared instead, and that in a few words.
    others : tuple of Cure
        Further cures, each as good in its way; the first one suits best.
    """

    code: str
    text: str
    cure: Recipe | None = None
    cure_text: str = ""
    weight: Weight = MISLEADS
    step: Step | None = None
    step_text: str = ""
    others: tuple[Cure, ...] = ()

    @property
    def offers(self) -> list[tuple[str, Recipe | Step]]:
        """What the window offers against the trouble, in words and as values; the best first."""
        others: list[tuple[str, Recipe | Step]] = [(o.words, o.recipe) for o in self.others]
        if self.step is not None:
            return [(self.step_text, self.step), *others]
        return [(self.cure_text, self.cure), *others] if self.cure is not None else others


def listed_briefly(words: list[str], most: int = 5) -> str:
    """Names one after the other, the last ones as "and 3 more"."""
    return ", ".join(brief(word) for word in words[:most]) + (
        f" and {len(words) - most} more" if len(words) > most else ""
    )
