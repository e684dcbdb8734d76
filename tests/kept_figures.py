"""Random figures as they were when somebody last looked at them: all that is painted, and all words.

What is painted and told is recomputed elsewhere, by other means; here nothing changes unseen. After
a change that is wanted, ``make kept`` writes them anew, and what git then shows
is to be read, and the figures looked at.
"""

import itertools
import random
import re
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np
from msgspec import structs

from rhabdos.figure.edits.stops import card_of, rows_of_stops
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.chart_numbers import chart_json, chart_tables
from rhabdos.figure.output.explained import TOPICS, explain
from rhabdos.figure.output.faces import (
    FURTHER,
    Face,
    bins_face,
    compare_face,
    has_groups,
    quantiles_face,
    summary_face,
)
from rhabdos.figure.output.seen import all_seen
from rhabdos.figure.output.subjects import Subject
from rhabdos.figure.output.tables import as_csv
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.plate import Plate
from rhabdos.figure.recipe.toml_text import Work, write_work
from rhabdos.scene.build import build
from rhabdos.scene.drawing_notices import drawing_notices
from rhabdos.scene.marks import Meaning, Scene
from rhabdos.scene.plain_charts import chart_scene
from rhabdos.scene.plate import plate_scene
from tests.charts import chart_of, table_of
from tests.figures import random_figure

FOLDER = Path(__file__).parent / "kept_figures"
# Of several hundred seeds, those that together run most of what lays out and tells.
SEEDS = (
    *(1, 2, 4, 5, 8, 29, 39, 51, 55, 68, 69, 74, 78, 84, 143, 159, 162, 173, 174, 186, 190, 206),
    *(280, 285, 294, 307, 329, 330, 335, 342, 346, 355, 359, 399, 407),
)
CHARTS = (0, 3, 8, 12, 23, 31, 40, 77)
"""Seeds of random plain charts."""
PLATES = ((2, 8, 39), (4, 68), (5, 29, 51, 84))
"""Seeds of the figures on a page."""
_ALL_POINTS = 6  # points of a line or an outline that are all written; of more, what they span
_CARDS = 6  # places of a figure, of which cards are written
_NEAR = 0.02  # points on the page that rounding may move a mark by
_NUMBER = re.compile(r"-?\d+\.\d\d")


def measure(text: str, size: float, bold: bool) -> float:
    """How wide a text is by a rule of thumb, so that no font of a machine matters."""
    return (
        sum(0.3 if letter in "iljt.,:;' " else 0.55 for letter in text) * size * (1 + 0.06 * bold)
    )


def lines_of(seed: int) -> list[str]:
    """All that a figure paints and tells, line by line."""
    made = random_figure(seed)
    readings = made.readings()
    assert readings is not None, seed
    scene = build(readings, measure)
    return [
        *made.text.splitlines(),
        *("", *_told(readings, scene)),
        *("", *(_written(mark) for mark in scene.marks)),
        *("", *(_written(zone) for zone in scene.zones)),
        *("", *_cards(readings)),
        *("", *_faces(readings)),
        *("", *_explained(readings)),
        *("", *_settings(readings)),
    ]


def told_of(readings: Readings) -> list[str]:
    """All words of a figure, beside those that are painted."""
    told = _told(readings, build(readings, measure))
    return [*told, *_cards(readings), *_faces(readings), *_explained(readings)]


def _told(readings: Readings, scene: Scene) -> Iterator[str]:
    yield f"{scene.describe()} {scene.groups} {scene.left_out} {scene.title!r}"
    yield f"paper {scene.paper} {scene.font} ~ {_numbers([scene.width, scene.height])}"
    yield plain(readings)
    yield from (f"seen: {each.text}" for each in all_seen(readings))
    for notice in (*notices(readings), *drawing_notices(scene, readings)):
        yield f"notice {notice.code}: {notice.text} {[words for words, _ in notice.offers]}"


def _written(mark: object) -> str:
    """What a mark is, then its places on the page."""
    words, places = [type(mark).__name__], list[float]()
    for name, value in structs.asdict(mark).items():
        if isinstance(value, np.ndarray):
            words.append(f"{name}({len(value)})")
            places += _span(value)
        elif isinstance(value, Meaning):
            words.append("/".join(str(part) for part in (value.part, value.group, value.level)))
        elif name in ("x", "y", "left", "top", "right", "bottom"):
            places.append(value)
        elif value not in ("", 0, 0.0, (), None, False):
            words.append(f"{name} {value:.4g}" if isinstance(value, float) else f"{name} {value}")
    return f"{' '.join(words)} ~ {_numbers(places)}"


def _span(points: np.ndarray) -> list[float]:
    """All coordinates of few points; of more, the ends, the extent and the middle of them."""
    if not points.size:
        return []
    if len(points) <= _ALL_POINTS:
        return [float(number) for number in points.ravel()]
    parts = (points[0], points[-1], points.min(axis=0), points.max(axis=0), points.mean(axis=0))
    return [float(number) for part in parts for number in part]


def _numbers(places: list[float]) -> str:
    return " ".join(f"{place + 0.0:.2f}" for place in places)


def _cards(readings: Readings) -> Iterator[str]:
    stops = list(itertools.chain.from_iterable(rows_of_stops(readings)))
    for stop in stops[:: max(1, len(stops) // _CARDS)]:
        yield f"card: {card_of(readings, stop).spoken()}"


def _faces(readings: Readings) -> Iterator[str]:
    faces: list[tuple[str, Face]] = [
        ("summary", summary_face(readings, tuple(FURTHER))),
        ("quantiles", quantiles_face(readings)),
    ]
    if readings.needs_bins:
        faces.append(("bins", bins_face(readings)))
    if has_groups(readings):
        faces.append(("compare", compare_face(readings)))
    for name, face in faces:
        yield f"{name}: {' | '.join(face.titles)} {face.sentence}"
        for row in face.rows[:8]:
            yield " | ".join(cell.text for cell in row.cells)
            yield from (f"  {cell.tip!r}" for cell in row.cells if cell.tip)


def _explained(readings: Readings) -> Iterator[str]:
    filled = next((group for group in readings.groups if group.n), None)
    if filled is None:
        return
    middle = float(filled.sample.at(np.array([filled.n // 2]))[0])
    for topic in TOPICS:
        value = 0.5 if topic == "quantile" else middle
        found = explain(readings, Subject(topic, filled.index, value))
        if found is not None and found.here:
            yield f"{found.title}: {' '.join(found.here)}"


def _settings(readings: Readings) -> Iterator[str]:
    for key, phrase in PHRASES.items():
        if not phrase.applies(readings):
            continue
        if facts := phrase.facts(readings):
            yield f"{key}: {facts}"
        for setting in phrase.settings:
            if setting.matters(readings):
                told = (setting.shown(readings), setting.placeholder(readings))
                offered = [words for words, _ in setting.choices(readings)][:_CARDS]
                yield f"{key} › {setting.label}: {told} {offered}"
        if phrase.alternatives is not None:
            offered = [choice.text for choice in phrase.alternatives(readings)]
            yield from (f"{key} · {text}" for text in offered[:_CARDS])


def differing(
    kept: list[str], now: list[str], near: float = _NEAR, share: float = 0.0
) -> list[str]:
    """The lines in which two tellings differ, but for places that are moved by so little, or by so
    small a share of them."""
    wrong = [
        f"- {was}\n+ {is_}"
        for was, is_ in zip(kept, now, strict=False)
        if not _same(was, is_, near, share)
    ]
    return wrong if len(kept) == len(now) else [*wrong, f"{len(kept)} lines, now {len(now)}"]


def _same(was: str, is_: str, near: float, share: float) -> bool:
    if was == is_:
        return True
    before, _, places = was.rpartition(" ~ ")
    now, _, others = is_.rpartition(" ~ ")
    if before != now or not before:
        return False
    pairs = _NUMBER.findall(places), _NUMBER.findall(others)
    if len(pairs[0]) != len(pairs[1]):
        return False
    places_of = [(float(a), float(b)) for a, b in zip(*pairs, strict=True)]
    return all(abs(a - b) <= near + share * abs(a) for a, b in places_of)


def chart_lines(seed: int) -> list[str]:
    """The same of a plain chart."""
    table = table_of(random.Random(seed), np.random.default_rng(seed))
    chart = chart_of(random.Random(seed + 1), table)
    scene = chart_scene(chart, table, measure)
    return [
        *write_work(Work(chart=chart)).splitlines(),
        *("", f"{scene.describe()} {scene.left_out} {scene.title!r}"),
        *(_written(mark) for mark in scene.marks),
        *(_written(zone) for zone in scene.zones),
        *("", *chart_json(chart, table).splitlines()[:40]),
        *"".join(as_csv(made()) for made in chart_tables(chart, table).values()).splitlines(),
    ]


def plate_lines(number: int) -> list[str]:
    """The same of a page with several figures."""
    seeds = PLATES[number]
    readings = [random_figure(seed).readings() for seed in seeds]
    plate = Plate(
        tuple(range(len(seeds))), 2, "18 x 14 cm", title="All of them", note="by hand",
        legend="one" if number else "own",
    )  # fmt: skip
    made = plate_scene(plate, [each for each in readings if each is not None], measure)
    return [
        f"{made.scene.describe()} {made.scene.left_out}",
        *(_written(place) for place in made.places),
        *(_written(mark) for mark in made.scene.marks),
    ]


KEPT = {
    **{str(seed): partial(lines_of, seed) for seed in SEEDS},
    **{f"chart-{seed}": partial(chart_lines, seed) for seed in CHARTS},
    **{f"plate-{number}": partial(plate_lines, number) for number in range(len(PLATES))},
}
"""What is kept, by the name of its file."""


def main() -> None:
    """Write all that is kept anew."""
    FOLDER.mkdir(exist_ok=True)
    for former in FOLDER.glob("*.txt"):
        former.unlink()
    for name, told in KEPT.items():
        (FOLDER / f"{name}.txt").write_text("\n".join(told()) + "\n")


if __name__ == "__main__":
    main()
