"""From process start to the demo figure, and from a large file to its first figure."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

from benchmarks.timing import Report, painting, side_by_side

ROWS = 10_000_000

# Both end at once when they are painted: what tearing down takes is no part of a start.
_EMPTY_WINDOW = """
import os
from PyQt6.QtWidgets import QApplication, QMainWindow
application = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
application.processEvents()
os._exit(0)
"""
_DEMO_WINDOW = """
import os
from rhabdos.app.shell import run
from rhabdos.cli import main
started = run.started
def until_painted(files, demo):
    application, window = started(files, demo)
    while not window.figure.stage.canvas.painted:
        application.processEvents()
    os._exit(0)
run.started = until_painted
main(["--demo"])
"""
_PARTS = {
    "importing numpy": "import os, numpy\nos._exit(0)",
    "importing numpy, Qt and its enums": "import os, numpy\nfrom PyQt6.QtWidgets import "
    "QApplication\n"
    "from PyQt6.QtCore import Qt\nQt.AlignmentFlag\nos._exit(0)",
    "importing everything": "import os, rhabdos.app.shell.window\nos._exit(0)",
}
_OPEN_OURS = """
import sys
from rhabdos.data.files.reading import read_table
from rhabdos.data.gathering import gather
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.recipe import Recipe, Show
table = read_table(sys.argv[1])
readings = read(Recipe(show=Show(variables=("Shell length",))), gather(table, "Shell length"))
readings.summaries
"""
_OPEN_BARE = """
import sys
import polars
frame = polars.read_csv(sys.argv[1])
"""
_MEMORY = """
peak = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(int(peak.split()[1]) * 1024)
"""
_IMPORTS = """
import numpy, polars, rhabdos.figure.readings.readings, rhabdos.data.files.reading
"""


def run(report: Report) -> None:
    start_up(report)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "landings.csv"
        _write(path)
        large_file(report, path)
        memory(report, path)


def start_up(report: Report) -> None:
    ours, theirs = side_by_side(
        lambda: _python(_DEMO_WINDOW), lambda: _python(_EMPTY_WINDOW), rounds=7
    )
    report.ratio("start to the demo figure", ours, theirs, 3.8, "an empty Qt main window")
    bare, _ = side_by_side(lambda: _python("import os\nos._exit(0)"), lambda: None)
    for what, code in _PARTS.items():
        taken, _ = side_by_side(lambda code=code: _python(code), lambda: None)
        report.say(f"of which {what}: {1000 * (taken - bare):.0f} ms")


def large_file(report: Report, path: Path) -> None:
    """To the first figure: read, sort, summarise, bin, lay out and paint."""
    import polars as pl

    from rhabdos.data.files.reading import read_table
    from rhabdos.data.gathering import gather
    from rhabdos.figure.forms.read import read
    from rhabdos.figure.recipe.recipe import Recipe, Show
    from rhabdos.paint.export import image
    from rhabdos.paint.fonts import measure
    from rhabdos.scene.build import build

    painting()

    def ours() -> None:
        table = read_table(path)
        readings = read(
            Recipe(show=Show(variables=("Shell length",))), gather(table, "Shell length")
        )
        _ = readings.summaries
        image(build(readings, measure), 96)

    def bare() -> None:
        np.sort(pl.read_csv(path)["Shell length"].to_numpy())

    taken, least = side_by_side(ours, bare, rounds=5)
    report.ratio(
        f"a CSV of {ROWS:,} rows to its first figure",
        taken,
        least,
        1.5,
        "polars.read_csv and numpy.sort",
    )


def memory(report: Report, path: Path) -> None:
    columns = ROWS * (8 + 1)  # a double and a small code each
    floor = int(_python(_IMPORTS + _MEMORY))
    reader = int(_python(_OPEN_BARE + _MEMORY, str(path))) - int(
        _python("import polars\n" + _MEMORY)
    )
    peak = int(_python(_OPEN_OURS + _MEMORY, str(path))) - floor
    allowed = 3 * columns + reader
    report.ratio(
        "peak memory of opening it",
        peak,
        allowed,
        1,
        "3 x its columns + the reader's peak",
        unit="MB",
    )
    report.say(f"columns {columns / 1e6:.0f} MB, the reader's peak {reader / 1e6:.0f} MB")


def _write(path: Path) -> None:
    import polars as pl

    rng = np.random.default_rng(1)
    bays = np.array(
        ["Heron Sound", "Saltmere", "Wick Narrows", "Gull Spit", "Lee Bank", "Outer Reach"]
    )
    values = rng.normal(70, 10, ROWS).round(2)
    names = pl.Series(rng.integers(0, len(bays), ROWS)).replace_strict(
        dict(enumerate(bays.tolist()))
    )
    pl.DataFrame({"Shell length": values, "Bay": names}).write_csv(path)


def _python(code: str, *arguments: str) -> str:
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)  # an installed program has its byte code
    command = [sys.executable, "-c", code, *arguments]
    return subprocess.run(
        command, check=True, capture_output=True, text=True, env=environment
    ).stdout
