"""In the window: the summary follows the look, bins of whole numbers the hand, rows the bar that is read."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest

from rhabdos.data.problems.problems import problems_in
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.scene.style.look import colours_of


def swatches(hands) -> list[str]:
    """The colours that stand before the rows of the summary, as painted."""
    model = hands.window.figure.foot.table.model()
    role = Qt.ItemDataRole.DecorationRole
    icons = [model.index(row, 0).data(role) for row in range(model.rowCount())]
    found = []
    for icon in icons:
        pixmap = icon.pixmap(16, 16) if hasattr(icon, "pixmap") else icon
        image = pixmap.toImage()
        found.append(QColor(image.pixel(image.width() // 2, image.height() // 2)).name().upper())
    return found


@pytest.mark.parametrize("looking", [{"palette": "dusk"}, {"base": "night"}, {"base": "ink"}])
def test_the_summary_has_the_colours_of_the_figure_after_another_look(hands, looking):
    before = swatches(hands)
    assert before == list(colours_of(hands.readings))
    changed = []
    hands.window.figure.foot.table.model().dataChanged.connect(lambda *_: changed.append(1))
    hands.window.session.ask("Look", hands.recipe.looking(**looking))
    assert swatches(hands) == list(colours_of(hands.readings)) != before
    assert changed
    hands.press("Ctrl+Z")
    assert swatches(hands) == before


@pytest.fixture
def grades(empty, tmp_path):
    path = tmp_path / "grades.csv"
    values = np.random.default_rng(2).integers(1, 13, 300)
    path.write_text("Crew,Grade\n" + "".join(f"{n % 3 + 1},{v}\n" for n, v in enumerate(values)))
    empty.open(path)
    return empty


def test_a_file_opens_with_what_measures_and_tells_the_codes(grades):
    assert grades.readings.variable.name == "Grade"
    table = grades.window.session.table
    (told,) = problems_in(table, table.column("Crew"))
    assert told.code == "group-codes"


def test_bins_about_whole_numbers_stay_so_under_the_hand_and_a_typed_start_wins(grades):
    grades.window.session.ask("One each", grades.recipe.binned(Bins(width=1.0)))
    assert grades.edges()[:2] == [0.5, 1.5]
    assert "each about a whole number" in grades.sentence()
    grades.window.choose_phrase("bins")
    grades.drag_rod(
        grades.edges()[1], grades.edges()[1] + 1
    )  # twice as wide, from where they began
    assert grades.readings.edges.width == 2
    assert grades.edges()[0] == 0.5
    grades.press("Ctrl+Z")
    between = grades.edges()[3] + 0.5
    grades.drag_rod(between, between + 0.9)
    assert grades.edges()[0] % 1 == 0.5
    field = grades.panel("bins").widgets["Start at"]
    grades.type_into(field, "0")
    assert grades.edges()[0] == 0.0
    assert "1 wide from 0" in grades.sentence()


def test_the_bar_that_is_read_tells_its_number_and_gives_its_rows(grades):
    grades.window.session.ask("One each", grades.recipe.binned(Bins(width=1.0)))
    canvas = grades.window.figure.stage.canvas
    frame = canvas.scene.frame
    QTest.mouseMove(
        canvas,
        QPoint(round(frame.along(5.0) * canvas.scale), round((frame.bottom - 3) * canvas.scale)),
    )
    values = grades.window.session.table.number("Grade").values
    asked = []
    canvas.rows_asked.connect(lambda step, _place: asked.append(step))
    assert canvas.offer_rows(QPoint(0, 0))
    assert asked[0].holds(grades.window.session.table).sum() == (values == 5).sum()
