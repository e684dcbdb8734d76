"""The phrase of the legend: its place, its title, and what it tells."""

from typing import get_args

from rhabdos.figure.phrases.letters import size_of
from rhabdos.figure.phrases.phrase import Phrase, Said, Setting
from rhabdos.figure.readings.legend_place import legend_place
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import LegendPlace

_PLACES: dict[LegendPlace | None, str] = {
    None: "as usual",
    "above": "above",
    "right": "at the right",
    "below": "below",
    "top-left": "in the upper left",
    "top-right": "in the upper right",
    "bottom-left": "in the lower left",
    "bottom-right": "in the lower right",
    "lines": "at the lines themselves",
    "none": "nowhere",
}
assert set(get_args(LegendPlace)) < set(_PLACES)


def _drawn(readings: Readings) -> bool:
    """Whether there is a legend, which there is not where groups are named otherwise."""
    return legend_place(readings) != "none"


LEGEND = Phrase(
    "legend",
    "Legend",
    "Ctrl+Alt+G",
    lambda _readings: Said("", "Legend"),
    clause=True,
    matters=lambda _readings: False,
    settings=(
        Setting(
            "legend.place",
            "Place",
            "choice",
            "Legend {}",
            choices=lambda _readings: [(words, place) for place, words in _PLACES.items()],
        ),
        Setting(
            "legend.title",
            "Title",
            "words",
            "Change legend title",
            shown=lambda readings: readings.recipe.legend.title or "",
            placeholder=lambda readings: (
                readings.plan.coloured.label if readings.plan.coloured else ""
            ),
            matters=_drawn,
        ),
        size_of("levels", "Size of names"),
        Setting(
            "legend.forms",
            "Forms",
            "choice",
            "Forms in the legend {}",
            choices=lambda _readings: (("as usual", None), ("named", True), ("not named", False)),
            matters=lambda readings: (
                len(readings.plan.heights) > 1 and readings.recipe.legend.place != "none"
            ),
            tip="Bars, curves and lines by name; as usual, where a density and a normal curve are "
            "drawn together",
        ),
        Setting(
            "legend.n",
            "n of each group",
            "toggle",
            "Legend with n|Legend without n",
            matters=_drawn,
        ),
        Setting(
            "legend.reverse",
            "From last to first",
            "toggle",
            "Legend reversed|Legend in order",
            matters=_drawn,
        ),
    ),
    hint="A click on a name in the legend brings that group forward; Escape ends it. A double "
    "click lets it be typed. The order is that of the groups.",
    hinted=_drawn,
    parts=("legend", "legend-title", "legend-form"),
    besides=lambda readings: readings.plan.coloured is not None or len(readings.plan.heights) > 1,
)
