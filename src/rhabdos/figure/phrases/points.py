"""The phrase of points."""

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Choice, Phrase, Said, Setting, number, or_usual
from rhabdos.figure.readings.readings import Readings

_SPREADS = {"jittered": "jittered, spread by chance", "stacked": "stacked, one over another"}


def _read_seed(text: str, readings: Readings) -> object:
    value = number("The seed", 0)(text, readings)
    assert isinstance(value, float)
    if value != int(value) or value >= 2**63:
        raise Refusal("The seed must be a whole number, 0 or more.")
    return int(value)


POINTS = Phrase(
    "points",
    "Points",
    "Ctrl+8",
    lambda readings: Said("points are ", readings.recipe.points.spread),
    clause=True,
    matters=lambda readings: "points" in readings.recipe.show.forms,
    alternatives=lambda readings: [
        Choice(
            text,
            f"Points {spread}",
            readings.recipe.changed(points=readings.recipe.points.changed(spread=spread)),
            spread == readings.recipe.points.spread,
        )
        for spread, text in _SPREADS.items()
    ],
    settings=(
        Setting(
            "points.spread",
            "Points",
            "choice",
            "Points {}",
            choices=lambda _readings: [(text, spread) for spread, text in _SPREADS.items()],
        ),
        Setting(
            "points.seed",
            "Seed",
            "typed",
            "Seed {}",
            shown=lambda readings: str(readings.recipe.points.seed),
            read=or_usual(1, _read_seed),
            matters=lambda readings: readings.recipe.points.spread == "jittered",
            tip="The same seed spreads points in the same way",
        ),
        Setting("points.colour", "Colour", "colour", "Points {}"),
    ),
    hint="Across the axis, the place of a jittered point means nothing: it only keeps points "
    "apart. Where a page cannot show all points, the figure says how many it shows.",
    parts=("points",),
)
