"""What a figure of rows that stay where they lie reads by cells instead of values."""

from rhabdos.data.celled import Celled
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.words.notice import DIFFERS, Notice
from rhabdos.wording import in_running_text

_BY_CELLS = {
    "curve": "density curves",
    "violin": "violins",
    "ecdf": "ECDFs",
    "points": "points",
    "pairs": "quantile pairs",
    "shift": "arrows",
}


def in_cells(readings: Readings) -> Notice | None:
    """What is drawn of counts in cells, and by how much a value may be off at most."""
    widths = [
        (readings.gathered.variables[cell.variable], sample.cells.width)
        for cell, sample in zip(readings.gathered.cells, readings.gathered.samples, strict=True)
        if isinstance(sample, Celled)
    ]
    drawn = [words for form, words in _BY_CELLS.items() if form in readings.recipe.show.forms]
    if readings.recipe.sway.of:
        drawn.append("shades")
    if not widths or not drawn:
        return None
    variable, width = widths[0]
    what = f"{', '.join(drawn[:-1])} and {drawn[-1]}" if len(drawn) > 1 else drawn[0]
    of = in_running_text(variable.label)
    return Notice(
        "read-in-cells",
        f"{what[:1].upper()}{what[1:]} are read from counts in cells of {of}, "
        f"{variable.format_difference(width)} wide where most values are: each value is off by at "
        "most that. Counts, bars and quartiles are exact.",
        weight=DIFFERS,
    )
