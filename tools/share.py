"""Makes what the desktop and shells are told of the program, from the parser and the icon:
``python tools/share.py [FOLDER]``; the folder is src/rhabdos/share unless another is named."""

import sys
from pathlib import Path

import shtab
from argparse_manpage.manpage import Manpage
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

from rhabdos import APPLICATION, RELEASED, __version__
from rhabdos.parsers import whole_parser

ROOT = Path(__file__).parents[1]
SHARE = ROOT / "src" / "rhabdos" / "share"
SIZES = (16, 22, 24, 32, 48, 64, 128, 256)
_SMALL = 24  # pixels up to which the plainer icon is drawn
_SHELLS = {
    "bash": "bash-completion/completions/rhabdos",
    "zsh": "zsh/site-functions/_rhabdos",
    "fish": "fish/vendor_completions.d/rhabdos.fish",
}
_FILES = ("FILE", "RECIPE", "OUT", "CSV")


def made() -> dict[str, bytes]:
    """Every file that is made, by its path under share."""
    files = {"man/man1/rhabdos.1": _manual().encode()}
    for shell, path in _SHELLS.items():
        files[path] = _completion(shell).encode()
    for size in SIZES:
        path = f"icons/hicolor/{size}x{size}/apps/{APPLICATION}.png"
        files[path] = _icon(size)
    return files


def _parser():
    parser = whole_parser()
    parser.prog = "rhabdos"
    return parser


def _completion(shell: str) -> str:
    parser = _parser()
    for each in [parser, *parser._subparsers._group_actions[0].choices.values()]:
        for action in each._actions:
            if action.metavar in _FILES:
                action.complete = shtab.FILE
    script = shtab.complete(parser, shell=shell)
    first, *lines = script.splitlines()
    while not lines[0] or lines[0].startswith("#"):  # how to put it where it stands already
        lines.pop(0)
    lines = [first, *lines] if first.startswith("#compdef") else lines
    # Instead of a command a file may stand, which the parser of commands does not know.
    whole = "\n".join(lines).strip()
    return whole.replace("complete -o bashdefault", "complete -o bashdefault -o default") + "\n"


def _manual() -> str:
    data = {
        "project_name": "Rhabdos",
        "prog": "rhabdos",
        "description": "draw histograms, density curves and box plots, and compare groups",
        "version": __version__,
        "manual_title": "User commands",
        "date": RELEASED,
        "include": str(ROOT / "tools" / "manual-page.txt"),
    }
    return str(Manpage(_parser(), _data=data))


def _icon(size: int) -> bytes:
    source = ROOT / "tools" / "icons" / "small.svg"
    if size > _SMALL:
        source = SHARE / "icons" / "hicolor" / "scalable" / "apps" / f"{APPLICATION}.svg"
    image = QImage(size, size, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    QSvgRenderer(str(source)).render(painter, QRectF(0, 0, size, size))
    painter.end()
    buffer = QBuffer(kept := QByteArray())
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return kept.data()


if __name__ == "__main__":
    to = Path(sys.argv[1]) if len(sys.argv) > 1 else SHARE
    for path, content in made().items():
        file = to / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(content)
    print(f"{len(made())} files in {to}")
