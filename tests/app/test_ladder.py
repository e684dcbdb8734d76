"""The ladder in the panel of bins: widths with their peaks and pictures, adopted by click and keys."""

import itertools

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from rhabdos.figure.recipe.recipe_bins import Bins

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def two_peaks(empty, tmp_path):
    """Values about 20 and about 60, which bins of 50 and more take for one heap."""
    rng = np.random.default_rng(4)
    values = np.concatenate([rng.normal(20, 4, 300), rng.normal(60, 4, 300)]).round(1)
    (tmp_path / "two.csv").write_text("Mass\n" + "\n".join(str(v) for v in values))
    empty.open(tmp_path / "two.csv")
    empty.window.session.ask("Bins", empty.recipe.binned(Bins(width=5.0, start=0.0)))
    return empty


def ladder_of(hands):
    return hands.panel("bins").ladder


def words(ladder):
    return [ladder.item(row).text().split("\n") for row in range(ladder.count())]


def row_of(ladder, width):
    return ladder.widths.index(width)


def click(ladder, width):
    item = ladder.item(row_of(ladder, width))
    QTest.mouseClick(ladder.viewport(), LEFT, pos=ladder.visualItemRect(item).center())


def test_widths_stand_from_narrow_to_wide_with_the_present_one_marked(two_peaks):
    ladder = ladder_of(two_peaks)
    assert list(ladder.widths) == sorted(ladder.widths)
    assert len(ladder.widths) == 9
    assert ladder.widths[ladder.currentRow()] == 5.0
    told = dict(zip(ladder.widths, words(ladder), strict=True))
    assert told[5.0] == ["5", "2 peaks"]
    counts = [int(peaks.split()[0]) for _, peaks in words(ladder)]
    lost = ["one is lost" in peaks for _, peaks in words(ladder)]
    assert lost == [False, *(now < then for then, now in itertools.pairwise(counts))]
    # It may stand about the width that the figure had first, as long as that leads to this one.
    assert all(n == 2 for w, n in zip(ladder.widths, counts, strict=True) if w <= 10)
    assert counts[-1] == 1  # bins of 50 hold either heap, or both
    two_peaks.qtbot.waitUntil(lambda: not ladder.item(0).icon().isNull(), timeout=3_000)
    pictures = [ladder.item(r).icon().pixmap(92, 34).toImage() for r in range(ladder.count())]
    assert len({bytes(p.constBits().asarray(p.sizeInBytes())) for p in pictures}) == len(pictures)


def test_a_click_adopts_a_width_and_the_ladder_stays(two_peaks):
    ladder = ladder_of(two_peaks)
    before = ladder.widths
    wide = before[ladder.currentRow() + 2]
    click(ladder, wide)
    assert two_peaks.recipe.bins.width == wide
    assert two_peaks.readings.edges.width == wide
    assert two_peaks.window.menus.undo.iconText() == f"Undo Bin width {wide:g}"
    assert ladder.widths == before
    assert ladder.widths[ladder.currentRow()] == wide
    two_peaks.press("Ctrl+Z")
    assert ladder.widths[ladder.currentRow()] == 5.0


def test_arrows_adopt_the_width_beside(two_peaks):
    ladder = ladder_of(two_peaks)
    ladder.setFocus()
    at = ladder.currentRow()
    QTest.keyClick(ladder, Qt.Key.Key_Down)
    QTest.keyClick(ladder, Qt.Key.Key_Down)
    QTest.keyClick(ladder, Qt.Key.Key_Up)
    assert two_peaks.recipe.bins.width == ladder.widths[at + 1]
    for _ in range(20):
        QTest.keyClick(ladder, Qt.Key.Key_Up)
    assert two_peaks.recipe.bins.width == ladder.widths[0]


def test_a_width_that_is_typed_makes_a_ladder_about_it(two_peaks):
    ladder = ladder_of(two_peaks)
    two_peaks.type_into(two_peaks.panel("bins").widgets["Width"], "3.3")
    assert ladder.widths[ladder.currentRow()] == 3.3
    assert list(ladder.widths) == sorted(ladder.widths)


def test_unequal_bins_have_no_ladder_and_groups_have_one_for_all(hands):
    ladder = ladder_of(hands)
    assert ladder.isVisible()
    assert any(" to " in peaks for _, peaks in words(ladder))
    hands.window.session.ask("Edges", hands.recipe.binned(Bins(edges=(0.0, 40.0, 50.0, 120.0))))
    assert not ladder.isVisible()


def picture_at(ladder, row):
    picture = ladder.item(row).icon().pixmap(92, 34).toImage()
    return bytes(picture.constBits().asarray(picture.sizeInBytes()))


def test_the_ladder_follows_a_hand_that_drags_a_tab_in_the_frame(two_peaks):
    ladder = ladder_of(two_peaks)
    two_peaks.qtbot.waitUntil(lambda: not ladder.item(0).icon().isNull(), timeout=3_000)
    rod, edges = two_peaks.window.figure.stage.rod, two_peaks.readings.edges
    tab = float(edges.values[4])
    QTest.mousePress(rod, LEFT, pos=QPoint(round(rod.x_of(tab)), 8))
    seen = set()
    for further in (1.5, 3.0, 6.0):
        QTest.mouseMove(rod, QPoint(round(rod.x_of(tab + further)), 8))
        width = two_peaks.readings.edges.width
        assert width != edges.width
        row = ladder.currentRow()
        assert ladder.widths[row] == width  # before anything has rested
        text, peaks = words(ladder)[row]
        assert text == f"{width:.12g}"
        assert int(peaks.split()[0]) >= 1
        two_peaks.qtbot.waitUntil(lambda r=row: picture_at(ladder, r) not in seen, timeout=1_000)
        seen.add(picture_at(ladder, row))
    QTest.keyClick(rod, Qt.Key.Key_Escape)


def test_widths_of_dates_are_days_and_parts_of_them(empty, tmp_path):
    days = np.datetime64("2026-03-01") + np.arange(90).astype("timedelta64[D]")
    (tmp_path / "days.csv").write_text("Landed\n" + "\n".join(map(str, days)))
    empty.open(tmp_path / "days.csv")
    empty.window.session.ask("Bins", empty.recipe.binned(Bins(width=5.0)))
    ladder = ladder_of(empty)
    told = dict(zip(ladder.widths, words(ladder), strict=True))
    assert told[5.0][0] == "5 days"
    click(ladder, 10.0)
    assert empty.window.menus.undo.iconText() == "Undo Bin width 10 days"
