"""A figure that a hand drags into another program."""

import shutil
import tempfile
import weakref
from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import QByteArray, QMimeData, QObject, Qt, QUrl
from PyQt6.QtGui import QDrag, QPixmap

from rhabdos.paint.export import image, png
from rhabdos.paint.svg import svg
from rhabdos.project.files import write_whole
from rhabdos.scene.marks import Scene

COPY_DPI = 300
"""Of a picture that is copied or dragged, which lands in a document as a rule."""
_DRAGGED = 160  # pixels of what is seen under the hand


def drag_away(of: QObject, scene: Scene, name: str, recipe: str) -> None:
    """Let a hand drag a figure away: as a file, as pixels and as SVG."""
    file = _folder() / f"{name}.png"
    write_whole(file, png(scene, COPY_DPI, recipe=recipe))
    content = QMimeData()
    content.setUrls([QUrl.fromLocalFile(str(file))])
    pixels = image(scene, COPY_DPI)
    content.setImageData(pixels)
    content.setData("image/svg+xml", QByteArray(svg(scene, recipe=recipe)))
    drag = QDrag(of)
    drag.setMimeData(content)
    drag.setPixmap(QPixmap.fromImage(pixels).scaledToWidth(_DRAGGED))
    drag.exec(Qt.DropAction.CopyAction)


@lru_cache(maxsize=1)  # one folder a program, emptied when it ends
def _folder() -> Path:
    """Where files that are dragged stay until the program ends."""
    folder = Path(tempfile.mkdtemp(prefix="rhabdos-"))
    weakref.finalize(_folder, shutil.rmtree, folder, True)
    return folder
