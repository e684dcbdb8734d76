"""Makes every picture of the manual, from the demo data: ``python tools/manual.py [FOLDER]``.

A recipe in a page, between ```toml NAME and ```, becomes pictures/NAME.png; pictures of the window
and of each setting are taken of the real window.
"""

import os
import re
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
MANUAL = ROOT / "src" / "rhabdos" / "manual"
_RECIPE = re.compile(r"^```toml ([\w-]+)\n(.*?)^```$", re.MULTILINE | re.DOTALL)
_DPI = "96"
_DEMO = str(ROOT / "demo" / "oyster-landings.csv")


def recipes() -> Iterator[tuple[Path, str, str]]:
    """The recipes of all pages: the page, the picture's name, and the recipe."""
    for page in sorted(MANUAL.rglob("*.md")):
        if not page.is_symlink():
            for found in _RECIPE.finditer(page.read_text(encoding="utf-8")):
                yield page, found[1], found[2]


def draw_recipe(text: str, picture: Path) -> int:
    """Draw a recipe of the demo data, or of rows of its own; the status that it ends with."""
    from rhabdos.cli import main

    with tempfile.TemporaryDirectory() as folder:
        recipe = Path(folder) / "figure.toml"
        recipe.write_text(text, encoding="utf-8")
        makes_rows = 'step = "values"' in text or 'step = "simulate"' in text
        data = [] if makes_rows else ["--data", _DEMO]
        return main(
            ["draw", str(recipe), *data, "--output", str(picture), "--dpi", _DPI,
             "--without-recipe"]
        )  # fmt: skip


def window_pictures(folder: Path) -> None:
    """Pictures of the window and of each setting."""
    from PyQt6.QtCore import QRect
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication
    from tools.screenshots import in_hand

    from rhabdos.app.controls import theme
    from rhabdos.app.leaving.export_dialog import ExportDialog
    from rhabdos.app.shell.window import Window
    from rhabdos.data.demo import demo_table
    from rhabdos.figure.phrases import PHRASES

    application = QApplication.instance()
    assert isinstance(application, QApplication)
    theme.apply(application)
    window = Window()
    window.resize(1180, 740)
    window.session.opening.open_demo()
    window.show()

    def settle() -> None:
        QTest.qWait(250)
        while window.session.runner.running():
            QTest.qWait(50)

    settle()
    window.grab().save(str(folder / "window.png"))
    canvas, rod = window.figure.stage.canvas, window.figure.stage.held_rod
    held = in_hand(window, 240, 262)
    corner = canvas.mapTo(window, canvas.rect().topLeft())
    around = QRect(corner.x(), corner.y() + canvas.height() - 150, canvas.width(), 225)
    held.copy(around).save(str(folder / "rod.png"))
    assert rod is not None
    window.figure.foot.show_face("compare")
    settle()
    foot = window.figure.foot
    foot.grab().save(str(folder / "compare.png"))
    window.figure.foot.show_face("summary")
    window.session.undo()
    recipe = window.session.recipe
    assert recipe is not None
    window.resize(1180, 1150)
    canvas.setFocus()
    for key, forms in _FORMS_FOR.items():
        window.session.ask("drawn", recipe.showing(forms=forms))
        settle()
        for phrase in key:
            window.choose_phrase(phrase)
            canvas.setFocus()
            settle()
            side = window.figure.side
            side.grab().save(str(folder / f"setting-{phrase.replace('_', '-')}.png"))
    assert {phrase for key in _FORMS_FOR for phrase in key} == set(PHRASES)
    window.session.ask("drawn", recipe)
    window.resize(1180, 740)
    window.filing.export()
    settle()
    dialog = next(w for w in application.topLevelWidgets() if isinstance(w, ExportDialog))
    dialog.grab().save(str(folder / "export.png"))
    dialog.close()
    assert demo_table().rows == window.session.table.rows
    window.session.finish()


_FORMS_FOR = {
    ("variable", "rows", "split", "arrange", "panels", "forms", "way", "heights", "bins", "bars",
     "compare", "lines", "value_axis", "height_axis", "legend", "page", "look", "words",
     "sway"): ("bars",),
    ("curve",): ("bars", "curve"),
    ("box",): ("box",),
    ("points",): ("points",),
    ("pairs",): ("pairs",),
}  # fmt: skip
"""Which settings are seen beside which forms."""


def main() -> None:
    """Make all pictures."""
    from PyQt6.QtWidgets import QApplication

    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else MANUAL / "pictures"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = state
        os.environ["HOME"] = "/home/mira"  # which fields of files show; nothing is written there
        application = QApplication([])
        for page, name, text in recipes():
            if draw_recipe(text, folder / f"{name}.png"):
                raise SystemExit(f"{page.name}: {name} cannot be drawn")
        window_pictures(folder)
        print(f"{len(list(folder.glob('*.png')))} pictures in {folder}")
        del application


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT))
    main()
