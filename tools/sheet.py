"""Random figures on one sheet, to be looked at: ``python -m tools.sheet SEED [FILE]``."""

import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("QT_LOGGING_RULES", "qt.text.font.db=false")  # of letters no font has

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QGuiApplication, QImage, QPainter
from tests.figures import random_figure

from rhabdos.paint.export import image
from rhabdos.paint.fonts import load, measure_for
from rhabdos.scene.build import build

COLUMNS, ROWS = 4, 5
_WIDE, _HIGH, _SAID = 480, 300, 16
_DPI = 96


def figures(first: int, many: int) -> list[tuple[int, object]]:
    """The next figures from a seed on that are not refused, as (seed, scene)."""
    scenes: list[tuple[int, object]] = []
    seed = first
    while len(scenes) < many:
        readings = random_figure(seed).readings()
        if readings is not None:
            scenes.append((seed, build(readings, measure_for(readings.recipe))))
        seed += 1
    return scenes


def sheet(seed: int, columns: int = COLUMNS, rows: int = ROWS) -> QImage:
    """Figures side by side, each with its seed under it."""
    load()
    paper = QImage(columns * _WIDE, rows * _HIGH, QImage.Format.Format_RGB32)
    paper.fill(QColor("#C9CFC7"))
    painter = QPainter(paper)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.setFont(QFont("Source Sans 3", 8))
    for number, (made, scene) in enumerate(figures(seed * 1_000, columns * rows)):
        left, top = number % columns * _WIDE, number // columns * _HIGH
        drawn = image(scene, _DPI)
        room = QRectF(left + 4, top + 4, _WIDE - 8, _HIGH - 8 - _SAID)
        share = min(room.width() / drawn.width(), room.height() / drawn.height())
        wide, high = drawn.width() * share, drawn.height() * share
        painter.drawImage(QRectF(room.left(), room.top(), wide, high), drawn)
        words = QRectF(left + 4, room.bottom() + 2, _WIDE - 8, _SAID)
        painter.drawText(words, Qt.AlignmentFlag.AlignLeft, f"{made}: {random_figure(made).shape}")
    painter.end()
    return paper


def main(arguments: list[str]) -> None:
    """Write a sheet and say where."""
    application = QGuiApplication(sys.argv[:1])
    seed = int(arguments[0]) if arguments else 1
    target = Path(arguments[1]) if len(arguments) > 1 else Path("sheets") / f"{seed}.png"
    target.parent.mkdir(exist_ok=True)
    sheet(seed).save(str(target))
    print(f"Twenty figures of seed {seed} are in {target}")
    del application


if __name__ == "__main__":
    main(sys.argv[1:])
