"""Pictures of random figures as they were when somebody last looked at them: a number each.

Kept figures hold what is to be painted; here is what painting makes of it, for a file, on the
screen, and as an SVG. Written anew by ``make kept``.
"""

import random
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PyQt6.QtGui import QColor, QPixmap
from PyQt6.QtWidgets import QApplication

from rhabdos.paint.export import image
from rhabdos.paint.fonts import measure
from rhabdos.paint.painter import paint, painter_on
from rhabdos.paint.svg import svg
from rhabdos.project.export_choice import Lettering
from rhabdos.scene.build import build
from rhabdos.scene.marks import Scene
from rhabdos.scene.plain_charts import chart_scene
from rhabdos.scene.style.look import style_of
from tests.charts import chart_of, table_of
from tests.figures import random_figure
from tests.looks import letters, look_of, look_of_text

FILE = Path(__file__).parent / "kept_paintings.txt"
SEEDS, CHARTS = range(240), range(40)
_DPI = 110
_ZOOM = 1.7
_OUTLINED = 10  # seeds of which the letters of an SVG are outlines, which take long to write


def looks() -> Iterator[str]:
    """The number of letters, and then of each figure that is written in letters that we bring."""
    yield letters()
    for seed in SEEDS:
        made = random_figure(seed)
        names = (name for column in made.table.columns for name in getattr(column, "levels", ()))
        if not (made.text + "".join(names)).isascii():
            continue
        readings = made.readings()
        if readings is not None and not style_of(readings.recipe).font:
            yield _look(f"{seed}", build(readings, measure), seed < _OUTLINED)
    for seed in CHARTS:
        table = table_of(random.Random(seed), np.random.default_rng(seed))
        chart = chart_of(random.Random(seed + 1), table)
        yield _look(f"chart {seed}", chart_scene(chart, table, measure), seed < _OUTLINED)


def _look(name: str, scene: Scene, outlined: bool) -> str:
    lettering: Lettering = "outlines" if outlined else "text"
    written = look_of_text(svg(scene, letters=lettering))
    return f"{name} {look_of(image(scene, _DPI), name)} {_live(scene, name)} {written}"


def _live(scene: Scene, name: str) -> str:
    """As it is painted on the screen."""
    screen = QPixmap(round(scene.width * _ZOOM), round(scene.height * _ZOOM))
    screen.fill(QColor(scene.paper))
    with painter_on(screen) as painter:
        painter.scale(_ZOOM, _ZOOM)
        paint(scene, painter, live=True)
    return look_of(screen.toImage(), f"{name} live")


def main() -> None:
    """Write all numbers anew."""
    from rhabdos.app.controls import theme

    application = QApplication(["rhabdos", *theme.PLAIN])
    theme.apply(application)
    FILE.write_text("\n".join(looks()) + "\n")


if __name__ == "__main__":
    main()
