"""Hostile files and hands in the window: whatever comes, nothing is worse than a sentence."""

import itertools
import random

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMessageBox

from tests.fuzzing import cases

TYPED = (
    "1.7e308", "5e-324", "0.1", "4", "1e300", "-1e308", "1e-300", "7", "0 to 60 by 5", "", "-9",
    "x" * 400,
)  # fmt: skip
KEYS = (Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_Plus, Qt.Key.Key_Delete)
MODIFIERS = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
)


@pytest.mark.parametrize(
    "seed", [*range(2), *(pytest.param(seed, marks=pytest.mark.long) for seed in range(2, 6))]
)
def test_whatever_is_opened_typed_and_dragged_ends_in_a_figure_or_a_sentence(
    empty, tmp_path, seed, monkeypatch
):
    monkeypatch.setattr("rhabdos.log.record", lambda error: pytest.fail(repr(error)))
    rng, window = random.Random(seed), empty.window
    said = []

    def settle():
        empty.qtbot.waitUntil(lambda: not window.session.runner.running(), timeout=20_000)
        for box in window.findChildren(QMessageBox):
            said.append(box.text())
            box.close()
        window.grab()

    for case in itertools.islice(cases(100 + seed), 8):
        (tmp_path / "d.csv").write_bytes(case.data)
        (tmp_path / "r.toml").write_bytes(case.recipe)
        for name in ("d.csv", "r.toml"):
            window.filing.open(tmp_path / name)
            settle()
        for column in window.session.table.columns[:2] if window.session.table else ():
            window.figure.variables.chosen.emit(column.name)
            settle()
        if not window.session.readings:
            continue
        if window.session.readings.needs_bins:
            bins = empty.panel("bins")
            for field in map(bins.widgets.get, ("Width", "Start at", "Number", "Own edges")):
                field.entered.emit(rng.choice(TYPED))
                settle()
        rod, button = window.figure.stage.held_rod, Qt.MouseButton.LeftButton
        if rod is None:
            continue
        begin, end = rng.randint(0, rod.width()), rng.randint(-20, rod.width() + 50)
        QTest.mousePress(rod, button, rng.choice(MODIFIERS), QPoint(begin, 8))
        QTest.mouseMove(rod, QPoint((begin + end) // 2, 8))
        QTest.mouseMove(rod, QPoint(end, 8))
        QTest.mouseRelease(rod, button, pos=QPoint(end, 8))
        for key in KEYS:
            QTest.keyClick(rod, key, rng.choice(MODIFIERS))
            settle()
            rod = window.figure.stage.held_rod or rod
        QTest.keyClick(window.figure.stage.canvas, Qt.Key.Key_Right)
        model = window.figure.foot.table.model()
        assert model.index(0, 0).data(Qt.ItemDataRole.ToolTipRole)
        QApplication.processEvents()
    assert not [text for text in said if "unforeseen" in text or len(text) > 300]
