"""Random plain charts, and the tables that they draw."""

import numpy as np

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.recipe.plain_charts import LevelBars, Scatter

SIZES = (None, "3 x 3 cm", "5 x 4 cm", "16 x 5 cm", "8 x 20 cm", "40 x 30 cm", "120 x 90 mm")


def table_of(chance, rng):
    n, k = chance.choice([1, 2, 5, 60, 500]), chance.choice([1, 2, 3, 7, 30, 60, 90])
    name = chance.choice(["L{}", "A level of a very long name {}", "L & {} <b>"])
    levels = tuple(name.format(i) for i in range(k))
    v = np.round(rng.gamma(2, chance.choice([1e-6, 1, 1e6]), n), chance.choice([3, 9]))
    w = rng.normal(0, chance.choice([1e-9, 1, 1e9]), n)
    for values in (v, w):
        values[rng.random(n) < 0.1] = np.nan
    codes = rng.integers(-1, k, n)
    columns = (
        CategoryColumn("Cat", codes=codes, levels=levels),
        NumberColumn("V", values=v, unit=chance.choice(["", "mm"])),
        NumberColumn("W", values=w),
    )
    return Table("t", columns)


def chart_of(chance, table):
    words = {
        "title": chance.choice([None, "", "A title", "T " * 80]),
        "note": chance.choice([None, "A note", "N " * 120]),
        "value_axis": chance.choice([None, "", "Axis", "Ax " * 40]),
        "height_axis": chance.choice([None, "", "Heights"]),
        "base": chance.choice(["house", "paper", "slide", "ink", "night"]),
        "size": chance.choice(SIZES),
        "colour": chance.choice([None, "#123456"]),
    }
    if chance.random() < 0.35:
        return Scatter(x="V", y="W", dot=chance.choice([1.0, 3.2, 20.0]), **words)
    first = table.columns[0].levels[0]
    return LevelBars(
        variable="Cat",
        order=chance.choice(["level", "count", "name"]),
        reverse=chance.random() < 0.5,
        heights=chance.choice([None, None, "V"]),
        upright=chance.random() < 0.5,
        numbers=chance.choice(["both", "count", "percent", "none"]),
        colours={first: "#AA0000"} if chance.random() < 0.5 else {},
        **words,
    )
