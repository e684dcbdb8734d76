"""Pages of several figures: how many rows and columns they stand in, and how large they are then."""

import pytest

from rhabdos.figure.recipe.plate import new_plate


@pytest.mark.parametrize(
    ("figures", "columns", "rows"),
    [(1, 1, 1), (2, 2, 1), (3, 2, 2), (4, 2, 2), (5, 3, 2), (7, 3, 3), (9, 3, 3), (10, 4, 3)],
)
def test_figures_of_a_new_page_stand_in_a_square_and_have_the_room_of_one(figures, columns, rows):
    alone = new_plate((0,))
    wide, high = (float(side) for side in alone.size.removesuffix("cm").split("x"))
    plate = new_plate(tuple(range(figures)))
    assert (plate.columns, plate.rows) == (columns, rows)
    assert plate.size == f"{columns * wide:g}x{rows * high:g}cm"


def test_a_page_of_so_many_columns_has_as_many_rows_as_that_takes():
    for columns, rows in ((1, 5), (2, 3), (5, 1), (4, 2)):
        assert new_plate(tuple(range(5)), columns).rows == rows
        wide, high = new_plate(tuple(range(5)), columns).size.removesuffix("cm").split("x")
        assert float(high) / float(wide) == pytest.approx(rows / columns * 8.5 / 12)
