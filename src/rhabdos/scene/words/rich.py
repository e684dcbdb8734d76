"""Texts with markup as lines that fit, and as marks."""

from collections.abc import Sequence
from functools import lru_cache

from msgspec import structs

from rhabdos.figure.words.markup import Run, Stands, joined, runs_of
from rhabdos.scene.marks import Anchor, Mark, Meaning, Text
from rhabdos.scene.style.lettering import Face, Measure, face_of, shortened, wrapped

Line = tuple[Run, ...]
SHIFTED = 0.7  # size of what stands higher or lower, of the line's
"""Of the size of letters, what those above and below the line have."""
_UP, _DOWN = 0.36, -0.16  # of the size, by which these stand above the line and below it


def lines_of(
    text: str, width: float, of: Face, measure: Measure, stands: Stands, most: int = 3
) -> list[Line]:
    """A text broken into at most so many lines that fit; the last one ends in "…" if more is
    left."""
    if not text:
        return []
    if "{" not in text and "}" not in text:
        return list(_plain(text, width, of, measure, most))
    runs = runs_of(text, stands)
    if all(not (run.bold or run.slant or run.level) for run in runs):
        return list(_plain("".join(run.text for run in runs), width, of, measure, most))
    return _broken(runs, width, of, measure, most)


@lru_cache(maxsize=64)  # words mostly stand still
def _plain(text: str, width: float, of: Face, measure: Measure, most: int) -> tuple[Line, ...]:
    broken = wrapped(text, width, of.size, of.number, measure, most)
    return tuple((Run(line),) for line in broken)


def _broken(runs: Sequence[Run], width: float, of: Face, measure: Measure, most: int) -> list[Line]:
    lines: list[list[Run]] = [[]]
    for run in runs:
        for number, paragraph in enumerate(run.text.split("\n")):
            if number:
                lines.append([])
            for index, word in enumerate(paragraph.split(" ")):
                piece = structs.replace(run, text=f" {word}" if index else word)
                longer = width_of((*lines[-1], piece), of, measure)
                if index and lines[-1] and longer > width:
                    lines.append([structs.replace(run, text=word)])
                else:
                    lines[-1].append(piece)
    cut = [fitting(joined(line), width, of, measure) for line in lines[:most]]
    if len(lines) > most:
        dots = Run(" …")
        cut[-1] = fitting((*cut[-1], dots), width, of, measure)
    return cut


def with_end(line: Line, end: str) -> Line:
    """A line with some letters behind it."""
    return tuple(joined((*line, Run(end)))) if end else line


def fitting(line: Sequence[Run], width: float, of: Face, measure: Measure) -> Line:
    """As many of the runs of a line as fit; the last one is cut."""
    if width_of(line, of, measure) <= width:
        return tuple(line)
    kept: list[Run] = []
    for run in line:
        free = width - width_of(kept, of, measure)
        if _wide(run, of, measure) <= free:
            kept.append(run)
            continue
        size = of.size * (SHIFTED if run.level else 1.0)
        which = face_of(of.bold or run.bold, of.slant or run.slant)
        kept.append(structs.replace(run, text=shortened(run.text, free, size, which, measure)))
        break
    return tuple(run for run in kept if run.text)


def _wide(run: Run, of: Face, measure: Measure) -> float:
    size = of.size * (SHIFTED if run.level else 1.0)
    return measure(run.text, size, face_of(of.bold or run.bold, of.slant or run.slant))


def width_of(line: Sequence[Run], of: Face, measure: Measure) -> float:
    """How wide a line is, in points."""
    return sum(_wide(run, of, measure) for run in line)


def marks_of(
    line: Sequence[Run],
    x: float,
    y: float,
    anchor: Anchor,
    of: Face,
    meaning: Meaning,
    measure: Measure,
    angle: float = 0.0,
) -> list[Mark]:
    """A line as texts, one a run; (x, y) is its anchor on the base line."""
    if len(line) == 1 and not line[0].level:
        run = line[0]
        bold, slant = of.bold or run.bold, of.slant or run.slant
        return [Text(x, y, run.text, of.size, anchor, of.colour, meaning, bold, angle, slant)]
    before = {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor] * width_of(line, of, measure)
    marks: list[Mark] = []
    along = -before
    for run in line:
        up = {1: _UP, 0: 0.0, -1: _DOWN}[run.level] * of.size
        place = (x - up, y - along) if angle else (x + along, y - up)
        size = of.size * (SHIFTED if run.level else 1.0)
        bold, slant = of.bold or run.bold, of.slant or run.slant
        text = Text(*place, run.text, size, "start", of.colour, meaning, bold, angle, slant)
        marks.append(text)
        along += _wide(run, of, measure)
    return marks
