"""What can be asked about: numbers, parts and notices of a figure."""

from collections.abc import Mapping

from msgspec import Struct

from rhabdos.figure.recipe.recipe import Form


class Subject(Struct, frozen=True):
    """What is asked about: a topic, of which group, and at which value or share.

    Attributes
    ----------
    topic : str
        Such as "mean", "bars", or "notice" and the code of one.
    """

    topic: str
    group: int | None = None
    value: float | None = None


SUMMARY_TOPICS = ("n", "missing", "mean", "sd", "min", "q1", "median", "q3", "max", "iqr")
"""Of the columns of the summary, in order."""
COMPARED_TOPICS = (
    "compare median",
    "compare mean",
    "compare sd",
    "compare overlap",
    "compare exceeds",
    "compare differs",
)
"""Of the columns of Compare, in order."""
FORM_TOPICS: Mapping[Form, str] = {
    "bars": "bars",
    "outline": "bars",
    "polygon": "bars",
    "curve": "curve",
    "normal": "normal",
    "ecdf": "ecdf",
    "violin": "violin",
    "box": "box",
    "points": "points",
    "shift": "shift",
    "pairs": "pairs",
}
"""Of the parts of a figure that are read."""
