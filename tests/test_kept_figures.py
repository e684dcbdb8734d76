"""Nothing that figures paint or say changes unseen."""

import pytest

from tests import kept_paintings
from tests.kept_figures import FOLDER, KEPT, differing


@pytest.mark.parametrize("name", KEPT)
def test_a_figure_is_painted_and_told_as_it_was_when_it_was_looked_at(name):
    kept = (FOLDER / f"{name}.txt").read_text().splitlines()
    wrong = differing(kept, KEPT[name]())
    assert not wrong, "\n".join(wrong[:20])


@pytest.mark.usefixtures("qapp")
def test_pictures_are_what_they_were_where_letters_are():
    kept, now = kept_paintings.FILE.read_text().splitlines(), list(kept_paintings.looks())
    if kept[0] != now[0]:
        pytest.skip("letters are drawn in another way here")
    assert len(now) > 20
    assert kept == now


def test_what_rounding_moves_is_no_difference_and_all_else_is():
    line = "Path points(2) colour #1F838A bars/0/None ~ 10.00 20.00 30.00 40.00"
    assert not differing([line], [line.replace("20.00", "20.01")])
    for other in (
        line.replace("20.00", "20.10"),
        line.replace("#1F838A", "#1F838B"),
        line.replace(" 40.00", ""),
        line.replace("20.00", "nan"),
        "n = 12",
    ):
        assert differing([line], [other])
    assert differing(["3.14 mm"], ["3.15 mm"])
    assert differing([line], [line, line])
    assert differing([line, ""], [line])


def test_each_file_is_that_of_a_figure():
    assert {file.stem for file in FOLDER.iterdir()} == set(KEPT)
