"""Demo data: oyster landings at three invented bays, from a seeded generator.

The variables have the shapes that people meet: near normal, two-humped within one bay only, skewed to
either side, bounded, counts with many zeros, heaped on fives, and with a heavy tail; values are missing
by more than one code, and one level is spelled in two ways.
"""

import csv
import io
from collections.abc import Mapping

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import BLANK, CategoryColumn, Column, LabelColumn, NumberColumn
from rhabdos.data.table import Table

BAYS = ("Heron Sound", "Saltmere", "Wick Narrows")
SEASONS = ("Spring", "Summer", "Autumn", "Winter")
_LANDED = (820, 820, 776)
_SEED = 20260415
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


def demo_table() -> Table:
    """The oyster landings: 2,416 rows, 20 variables; the same at every call."""
    rng = np.random.Generator(np.random.PCG64(_SEED))
    bay = rng.permutation(np.repeat(np.arange(3), _LANDED))
    n = len(bay)
    season = rng.integers(0, 4, n)
    culture = rng.choice(3, n, p=[0.45, 0.35, 0.20])
    triploid = rng.random(n) < 0.4
    numbers = _numbers(rng, bay, season, triploid)
    missing = _missing(rng, n, bay)
    spelled = np.where((culture == 2) & (rng.random(n) < 0.08), 3, culture)

    columns: list[Column] = [
        LabelColumn("Tag", texts=[f"T-{2001 + row}" for row in range(n)], distinct=n),
        CategoryColumn("Bay", codes=bay.astype(np.int8), levels=BAYS),
        CategoryColumn("Season", codes=season.astype(np.int8), levels=SEASONS),
        CategoryColumn(
            "Culture",
            codes=np.array([0, 1, 2, 3], dtype=np.int8)[spelled],
            levels=("basket", "line", "rack", "Rack "),
            remark="“Culture” has levels that differ only by case or blanks, “rack” and “Rack ”: "
            "they are drawn as two groups.",
        ),
        CategoryColumn("Stock", codes=triploid.astype(np.int8), levels=("diploid", "triploid")),
    ]
    for name, (unit, places) in _UNITS.items():
        values = np.round(numbers[name], places) + 0.0
        gone = missing.get(name, {})
        for rows in gone.values():
            values[rows] = np.nan
        counted = {code: len(rows) for code, rows in gone.items()}
        columns.append(NumberColumn(name, label=name, unit=unit, missing_as=counted, values=values))
    return Table("Oyster landings", tuple(columns))


def _numbers(
    rng: np.random.Generator, bay: "np.ndarray", season: "np.ndarray", triploid: "np.ndarray"
) -> dict[str, FloatArray]:
    n = len(bay)
    second_harvest = (bay == 1) & (rng.random(n) < 0.47)
    centre = np.choose(bay, [77.2, 66.0, 70.8]) + np.where(second_harvest, 22.5, 0.0)
    spread = np.choose(bay, [6.4, 5.6, 8.8])
    length = np.clip(centre + spread * rng.standard_normal(n), 38.0, 112.0)
    days = 300 + 9.5 * (length - 60) + rng.normal(0, 45, n) - 40 * triploid
    heaped = rng.random(n) < 0.7
    temperature = np.choose(season, [9.5, 17.0, 13.0, 6.0]) + rng.normal(0, 1.6, n)
    numbers = {
        "Shell length": length,
        "Wet mass": 0.00021 * length**2.85 * np.exp(rng.normal(0, 0.28, n)),
        "Meat yield": rng.normal(13.5, 2.1, n) + 1.2 * triploid,
        "Days to harvest": np.where(heaped, 5 * np.round(days / 5), np.round(days)),
        "Barnacles": np.where(rng.random(n) < 0.42, 0, rng.negative_binomial(1.3, 0.28, n)).astype(np.float64),
        "Salinity": 35.0 - rng.gamma(1.6, np.choose(bay, [0.8, 1.5, 2.3])),
        "Grit": np.exp(rng.normal(0.6, 0.5, n)) * np.where(rng.random(n) < 0.012, rng.uniform(6, 22, n), 1.0),
        "Water temperature": np.where(rng.random(n) < 0.011, -9.0, temperature),
        "Cracked": (rng.random(n) < 0.07).astype(np.float64),
    }
    grown = np.zeros(n)
    for week in range(1, WEEKS + 1):
        grown = grown + rng.gamma(4.0, 0.16 + 0.03 * triploid)
        numbers[f"Growth week {week}"] = grown
    numbers["Salinity"] = np.maximum(numbers["Salinity"], 14.0)
    return numbers


def _missing(rng: np.random.Generator, n: int, bay: "np.ndarray") -> Mapping[str, Mapping[str, "np.ndarray"]]:
    """Rows without a value: what stands there instead, and where."""
    mass = rng.choice(n, 47, replace=False)
    return {
        "Shell length": {BLANK: rng.choice(np.flatnonzero(bay == 1), 3, replace=False)},
        "Wet mass": {BLANK: mass[:29], "n/a": mass[29:]},
        "Meat yield": {"n/a": rng.choice(n, 12, replace=False)},
        "Water temperature": {BLANK: rng.choice(n, 21, replace=False)},
        "Growth week 6": {BLANK: rng.choice(n, 88, replace=False)},
    }


def demo_csv() -> str:
    """The demo data as the CSV file that a farm would send, codes for missing and all."""
    table = demo_table()
    rng = np.random.Generator(np.random.PCG64(_SEED + 1))
    written: list[list[str]] = []
    header: list[str] = []
    for column in table.columns:
        header.append(f"{column.name} ({column.unit})" if column.unit else column.name)
        if isinstance(column, NumberColumn):
            places = _UNITS[column.name][1]
            codes = rng.permutation([code for code, times in column.missing_as.items() for _ in range(times)]).tolist()
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
