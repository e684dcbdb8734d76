"""Demo data: oyster landings at three invented bays, from a seeded generator.

The variables have the shapes that people meet: near normal, two-humped within one bay only, skewed
to either side, bounded, counts with many zeros, heaped on fives, and with a heavy tail; values are
missing by more than one code, and one level is spelled in two ways.
"""

import io
import random
from collections.abc import Mapping
from functools import cache

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import BLANK, CategoryColumn, Column, LabelColumn, NumberColumn, Stood
from rhabdos.data.table import Table

BAYS = ("Heron Sound", "Saltmere", "Wick Narrows")
SEASONS = ("Spring", "Summer", "Autumn", "Winter")
_LANDED = (820, 820, 776)  # oysters of each bay
_SEED = 20260500  # the demo is the same for everybody
WEEKS = 6

# Decimals with which each number is written.
_UNITS = {
    "Shell length": ("mm", 1),
    "Wet mass": ("g", 1),
    "Meat yield": ("%", 1),
    "Days to harvest": ("d", 0),
    "Barnacles": ("", 0),
    "Salinity": ("psu", 2),
    "Grit": ("mg", 2),
    "Water temperature": ("°C", 1),
    "Cracked": ("", 0),
    **{f"Growth week {week}": ("mm", 2) for week in range(1, WEEKS + 1)},
}


class _Draws:
    """Random numbers by Python's own generator, which is at hand sooner than numpy's."""

    def __init__(self, seed: int) -> None:
        self._source = random.Random(seed)

    def uniform(self, n: int) -> FloatArray:
        """From 0 up to, but not including, 1."""
        return np.frombuffer(self._source.randbytes(4 * n), dtype="<u4") * 2.0**-32

    def exponential(self, n: int) -> FloatArray:
        """With mean 1."""
        return -np.log1p(-self.uniform(n))

    def normal(self, n: int) -> FloatArray:
        """With mean 0 and sd 1 (Box and Muller 1958)."""
        return np.sqrt(2 * self.exponential(n)) * np.cos(2 * np.pi * self.uniform(n))

    def gamma(self, shape: int, n: int) -> FloatArray:
        """With this whole shape and scale 1."""
        return np.asarray(
            self.exponential(shape * n).reshape(shape, n).sum(axis=0), dtype=np.float64
        )

    def shuffled(self, rows: IntArray) -> IntArray:
        """The same things in an order by chance."""
        return rows[np.argsort(self.uniform(len(rows)))]


@cache  # nobody changes it, and what is worked out of its columns is then known at once
def demo_table() -> Table:
    """The oyster landings: 2,416 rows, 20 variables; the same at every call."""
    draw = _Draws(_SEED)
    bay = draw.shuffled(np.repeat(np.arange(3), _LANDED))
    n = len(bay)
    season = (4 * draw.uniform(n)).astype(np.int64)
    culture = np.searchsorted([0.45, 0.80], draw.uniform(n))
    triploid = (draw.uniform(n) < 0.4).astype(np.int64)
    numbers = _numbers(draw, bay, season, triploid)
    missing = _missing(draw, bay)
    spelled = np.where((culture == 2) & (draw.uniform(n) < 0.08), 3, culture)

    columns: list[Column] = [
        LabelColumn("Tag", "Tag", texts=[f"T-{2001 + row}" for row in range(n)], distinct=n),
        CategoryColumn("Bay", "Bay", codes=bay.astype(np.int8), levels=BAYS),
        CategoryColumn("Season", "Season", codes=season.astype(np.int8), levels=SEASONS),
        CategoryColumn(
            "Culture",
            "Culture",
            codes=np.array([0, 1, 2, 3], dtype=np.int8)[spelled],
            levels=("basket", "line", "rack", "Rack "),
        ),
        CategoryColumn(
            "Stock", "Stock", codes=triploid.astype(np.int8), levels=("diploid", "triploid")
        ),
    ]
    for name, (unit, places) in _UNITS.items():
        values = np.round(numbers[name], places) + 0.0
        gone = missing.get(name, {})
        for rows in gone.values():
            values[rows] = np.nan
        counted = {code: len(rows) for code, rows in gone.items()}
        said = [(code, np.sort(rows)) for code, rows in gone.items() if code != BLANK]
        stood = [Stood(rows, np.zeros(len(rows), np.int8), (code,)) for code, rows in said]
        first = stood[0] if stood else None
        columns.append(NumberColumn(name, name, unit, counted, first, values=values))
    return Table("Oyster landings", tuple(columns))


def _numbers(
    draw: _Draws, bay: IntArray, season: IntArray, triploid: IntArray
) -> dict[str, FloatArray]:
    n = len(bay)
    second_harvest = (bay == 1) & (draw.uniform(n) < 0.47)
    centre = np.choose(bay, [77.2, 66.0, 70.8]) + np.where(second_harvest, 22.5, 0.0)
    spread = np.choose(bay, [6.4, 5.6, 8.8])
    length = np.clip(centre + spread * draw.normal(n), 38.0, 112.0)
    days = 300 + 9.5 * (length - 60) + 45 * draw.normal(n) - 40 * triploid
    heaped = draw.uniform(n) < 0.7
    temperature = np.choose(season, [9.5, 17.0, 13.0, 6.0]) + 1.6 * draw.normal(n)
    settled = np.floor(draw.exponential(n) / -np.log(1 - 0.23))  # geometric, 3.3 on average
    fresh = np.choose(bay, [0.8, 1.5, 2.3])
    numbers = {
        "Shell length": length,
        "Wet mass": 0.00021 * length**2.85 * np.exp(0.28 * draw.normal(n)),
        "Meat yield": 13.5 + 2.1 * draw.normal(n) + 1.2 * triploid,
        "Days to harvest": np.where(heaped, 5 * np.round(days / 5), np.round(days)),
        "Barnacles": np.where(draw.uniform(n) < 0.42, 0.0, settled),
        "Salinity": np.maximum(35.0 - 1.75 * fresh * draw.exponential(n) ** (1 / 1.3), 14.0),
        "Grit": np.exp(0.6 + 0.5 * draw.normal(n))
        * np.where(draw.uniform(n) < 0.012, 6 + 16 * draw.uniform(n), 1.0),
        "Water temperature": np.where(draw.uniform(n) < 0.011, -9.0, temperature),
        "Cracked": (draw.uniform(n) < 0.07).astype(np.float64),
    }
    grown = np.zeros(n)
    for week in range(1, WEEKS + 1):
        grown = grown + draw.gamma(2, n) * (0.32 + 0.06 * triploid)
        numbers[f"Growth week {week}"] = grown
    return numbers


def _missing(draw: _Draws, bay: IntArray) -> Mapping[str, Mapping[str, IntArray]]:
    """Rows without a value: what stands there instead, and where."""
    rows = np.arange(len(bay))
    mass = draw.shuffled(rows)[:47]
    return {
        "Shell length": {BLANK: draw.shuffled(np.flatnonzero(bay == 1))[:3]},
        "Wet mass": {BLANK: mass[:29], "n/a": mass[29:]},
        "Meat yield": {"n/a": draw.shuffled(rows)[:12]},
        "Water temperature": {BLANK: draw.shuffled(rows)[:21]},
        "Growth week 6": {BLANK: draw.shuffled(rows)[:88]},
    }


def demo_csv() -> str:
    """The demo data as the CSV file that a farm would send, codes for missing and all."""
    import csv

    table = demo_table()
    shuffle = random.Random(_SEED).shuffle
    written: list[list[str]] = []
    header: list[str] = []
    for column in table.columns:
        header.append(f"{column.name} ({column.unit})" if column.unit else column.name)
        if isinstance(column, NumberColumn):
            places = _UNITS[column.name][1]
            codes = [code for code, times in column.missing_as.items() for _ in range(times)]
            shuffle(codes)
            texts = [f"{v:.{places}f}" if v == v else codes.pop() for v in column.values.tolist()]
            written.append(["" if text == BLANK else text for text in texts])
        elif isinstance(column, CategoryColumn):
            written.append([column.levels[code] for code in column.codes.tolist()])
        elif isinstance(column, LabelColumn):
            written.append([text or "" for text in column.texts])
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(zip(*written, strict=True))
    return text.getvalue()
