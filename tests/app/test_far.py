"""Data that do not fit into memory, in the window."""

import threading

import numpy as np
import polars as pl
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rhabdos.app.controls.choices import Choices
from rhabdos.app.leaving.many_dialog import ManyDialog
from rhabdos.app.leaving.plate_dialog import PlateDialog
from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.steps.keep import Condition, KeepRows
from tests.data.far.sameness import frame_of


@pytest.fixture
def large(tmp_path, monkeypatch):
    """A file of 60,000 rows, of which memory is said to hold none."""
    path = tmp_path / "landings.parquet"
    frame_of("skewed", 60_000, 4).write_parquet(path)
    monkeypatch.setenv("RHABDOS_MEMORY", "0")
    return path


@pytest.fixture
def held(monkeypatch):
    """Holds every question but the first few back, until it is let go."""
    gate = threading.Event()
    whole = DuckFiles.ask

    def ask(self, query, question=None):
        if "GROUP BY" in query.sql():
            gate.wait(20)
        return whole(self, query, question)

    monkeypatch.setattr(DuckFiles, "ask", ask)
    yield gate
    gate.set()


def _wait_for_figure(hands):
    hands.qtbot.waitUntil(
        lambda: (
            hands.window.session.readings is not None
            and hands.window.session.readings.gathered.variables[0].name == "x"
        ),
        timeout=20_000,
    )


def test_a_sample_is_drawn_at_once_and_gives_way_to_all_rows(hands, large, held):
    hands.window.filing.open(large)
    _wait_for_figure(hands)
    assert "of a sample of 20,000 rows (provisional)" in hands.sentence()
    assert hands.readings.samples.pooled.n < 20_001
    assert hands.window.quiet_progress.isVisible()
    held.set()
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    assert "provisional" not in hands.sentence()
    told = sum(s.n + s.missing for s in hands.readings.samples.samples)
    assert told == 60_000
    assert not hands.window.quiet_progress.isVisible()


def test_the_paper_says_that_a_figure_is_provisional(hands, large, held):
    hands.window.filing.open(large)
    _wait_for_figure(hands)
    words = [m.text for m in hands.window.figure.stage.canvas.scene.marks if hasattr(m, "text")]
    assert any(word.startswith("Provisional: a sample of 20,000 of 60,000") for word in words)


def test_what_is_asked_next_takes_the_place_of_the_count(hands, large, held):
    hands.window.filing.open(large)
    _wait_for_figure(hands)
    hands.click_variable("Grade")
    assert "Grade of a sample" in hands.sentence()
    held.set()
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    assert "Grade of every row" in hands.sentence()
    hands.window.session.undo()
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    assert "provisional" not in hands.sentence()


def test_counting_is_stopped_by_hand_and_the_sample_stays(hands, large, held):
    hands.window.filing.open(large)
    _wait_for_figure(hands)
    hands.window.quiet_progress.cancel_button.click()
    held.set()
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    assert "(provisional)" in hands.sentence()


def test_a_bin_width_is_dragged_without_asking_anything(hands, large, monkeypatch):
    hands.open(large)
    edges = np.array(hands.edges())
    asked = []
    whole = DuckFiles.ask
    monkeypatch.setattr(DuckFiles, "ask", lambda self, q, _=None: asked.append(q) or whole(self, q))
    hands.drag_rod(edges[2], edges[2] + 3 * (edges[1] - edges[0]))
    assert hands.edges() != edges.tolist()
    assert not asked


def test_every_place_shows_what_was_looked_at(hands, large):
    hands.open(large)
    for place in ("overview", "rows", "figure"):
        hands.window.go_to(place)
    assert "60,000 rows" in hands.window.figure.variables.size_line.text()


@pytest.mark.parametrize(
    "asked",
    [
        {"forms": ("bars", "box"), "split": ("bay",)},
        {"forms": ("curve", "box"), "split": ("bay", "grade"), "heights": "density"},
        {"forms": ("box", "shift"), "split": ("bay",)},
    ],
)
def test_a_figure_takes_at_most_three_questions_and_none_while_one_waits(
    hands, large, monkeypatch, asked
):
    hands.open(large)
    asked_in = []
    whole = DuckFiles.ask

    def ask(self, query, question=None):
        asked_in.append(threading.current_thread() is threading.main_thread())
        return whole(self, query, question)

    monkeypatch.setattr(DuckFiles, "ask", ask)
    hands.window.session.ask("Another", hands.recipe.showing(**asked))
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    hands.qtbot.wait(300)  # in which what is seen and the foot follow
    assert "provisional" not in hands.sentence()
    assert len(asked_in) <= 3
    assert not any(asked_in)


def test_the_rows_of_a_bar_are_fetched_from_where_they_lie(hands, large):
    hands.open(large)
    step = KeepRows(where=(Condition(variable="x", low=10.0, high=10.2),))
    frame = pl.read_parquet(large)
    expected = frame.filter(pl.col("x").is_between(10.0, 10.2)).height
    hands.window.row_actions.list_rows(step)
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    place = hands.window.rows_place
    assert f"{expected:,} rows whose x is from 10 to 10.2" in place.only.text()
    values = place.view.table.column("x").values
    assert len(values) == min(expected, 2_000)
    assert np.all((values >= 10) & (values <= 10.2))
    assert np.all(np.diff(values) >= 0)
    QTest.mouseClick(place.all_rows, Qt.MouseButton.LeftButton)
    assert place.view.table is hands.window.session.table
    QTest.mouseClick(place.keep_only, Qt.MouseButton.LeftButton)  # no longer offered
    assert hands.window.session.document.steps == ()


@pytest.mark.parametrize("face", ["rows", "quantiles"])
def test_the_foot_asks_beside_the_window(hands, large, face, monkeypatch):
    asked = []
    whole = DuckFiles.ask

    def ask(self, query, question=None):
        asked.append(threading.current_thread() is threading.main_thread())
        return whole(self, query, question)

    hands.window.filing.open(large)
    _wait_for_figure(hands)
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    monkeypatch.setattr(DuckFiles, "ask", ask)
    foot = hands.window.figure.foot
    QTest.mouseClick(foot.buttons[face], Qt.MouseButton.LeftButton)
    if face == "quantiles":
        foot.typed_shares.selectAll()
        shares = ", ".join(f"{share}.7" for share in range(3, 60, 4))
        QTest.keyClicks(foot.typed_shares, shares)
        QTest.keyClick(foot.typed_shares, Qt.Key.Key_Return)
    hands.qtbot.waitUntil(lambda: foot.table.isVisible(), timeout=20_000)
    assert asked
    assert not any(asked)
    if face == "quantiles":
        values = np.sort(pl.read_parquet(large)["x"].drop_nulls().drop_nans().to_numpy())
        values = values[np.isfinite(values)]
        told = foot._model.face.rows[0].cells[2].value
        assert told == pytest.approx(np.quantile(values, 0.037), rel=1e-12)


def test_what_asks_all_rows_once_more_is_marked_and_not_asked_before(hands, large, monkeypatch):
    hands.window.filing.open(large)
    _wait_for_figure(hands)
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    asked = []
    whole = DuckFiles.ask
    monkeypatch.setattr(DuckFiles, "ask", lambda self, *a: asked.append(a) or whole(self, *a))
    place = hands.window.rows_place
    hands.window.go_to("rows")
    place.begin("make", "x", "standardised")
    form = place.form
    hands.qtbot.waitUntil(lambda: "All rows are asked once more" in form.told.text())
    assert not asked
    QTest.mouseClick(form.do_button, Qt.MouseButton.LeftButton)
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    assert asked
    assert "asks all rows once more" in place.steps.cards[-1].told.text()


def test_a_heading_fetches_the_lowest_and_the_highest_of_all_rows(hands, large):
    hands.open(large)
    hands.window.go_to("rows")
    place = hands.window.rows_place
    values = pl.read_parquet(large)["x"].to_numpy()
    known = np.sort(values[np.isfinite(values)])
    for expected in (known[:2_000], known[::-1][:2_000]):
        place.sort_by("x")
        hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
        assert place.view.table.column("x").values.tolist() == expected.tolist()
    assert place.only.text() == "The 2,000 highest by x of 60,000 rows"
    assert not place.keep_only.isVisible()
    told = []
    place.told.connect(told.append)
    QTest.keyClick(place.view, Qt.Key.Key_Return)
    assert "is not in the sample" in told[-1]  # and no other row is shown in its place
    assert hands.window.place == "rows"
    place.sort_by("x")
    assert place.view.table is hands.window.session.table


def test_a_cell_of_a_fetched_row_offers_its_own_value(hands, large, monkeypatch):
    hands.open(large)
    hands.window.go_to("rows")
    place = hands.window.rows_place
    place.sort_by("x")
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)
    offered = []
    monkeypatch.setattr(Choices, "open_at", lambda menu, _where: offered.append(menu))
    place.cells.offer(0, "x", QPoint())
    words = [action.text() for action in offered[0].actions()]
    values = pl.read_parquet(large)["x"].to_numpy()
    least = float(values[np.isfinite(values)].min())
    assert f"Leave out rows of {least:.12g}" in words
    assert "Show it in the figure" not in words


def test_a_page_counts_beside_the_window(hands, large, monkeypatch):
    """Two figures, of which one must be counted anew: the dialog stands at once, says what it waits
    for, and sets the page once the count is there; nothing is asked from the window's own thread."""
    hands.open(large)
    session = hands.window.session
    session.figures.add()
    hands.qtbot.waitUntil(lambda: not session.runner.running(), timeout=20_000)
    session.store._samples.clear()
    gate, threads, whole = threading.Event(), [], DuckFiles.ask

    def ask(self, query, question=None):
        threads.append(threading.current_thread())
        gate.wait(20)
        return whole(self, query, question)

    monkeypatch.setattr(DuckFiles, "ask", ask)
    hands.press("Ctrl+Alt+L")
    dialog = next(d for d in hands.window.findChildren(PlateDialog) if d.isVisible())
    assert dialog.page._words == "Sorting the values of figure 1 …"
    assert not dialog.keep.isEnabled()
    gate.set()
    hands.qtbot.waitUntil(lambda: dialog.drawn is not None, timeout=20_000)
    assert dialog.keep.isEnabled()
    assert threads
    assert threading.main_thread() not in threads
    dialog.reject()


def test_small_pictures_of_many_figures_ask_nothing(hands, large, monkeypatch):
    hands.open(large)
    asked, whole = [], DuckFiles.ask
    monkeypatch.setattr(DuckFiles, "ask", lambda self, q, *a: asked.append(q) or whole(self, q, *a))
    hands.window.filing.ask_for_many()
    dialog = next(d for d in hands.window.findChildren(ManyDialog) if d.isVisible())
    cards = [dialog.list.item(row) for row in range(dialog.list.count())]
    hands.qtbot.waitUntil(lambda: not any(c.icon().isNull() for c in cards), timeout=20_000)
    assert len(cards) > 1
    assert not asked
    dialog.reject()


def test_the_window_itself_asks_nothing_whatever_is_looked_at(hands, large, monkeypatch):
    hands.open(large)
    threads, whole = [], DuckFiles.ask

    def ask(self, query, question=None):
        threads.append(threading.current_thread())
        return whole(self, query, question)

    monkeypatch.setattr(DuckFiles, "ask", ask)
    window, canvas = hands.window, hands.window.figure.stage.canvas

    def settle():
        hands.qtbot.waitUntil(lambda: not window.session.runner.running(), timeout=20_000)
        hands.qtbot.wait(90)  # what follows once a hand rests

    for forms in (("ecdf",), ("bars", "box")):
        window.session.ask("x", window.session.recipe.showing(forms=forms, split=("bay",)))
        settle()
        for phrase in ("forms", "box", "compare"):
            window.choose_phrase(phrase)
            settle()
        for face in ("compare", "bins", "rows"):
            window.figure.foot.show_face(face)
            settle()
        for x in range(120, canvas.width(), 60):
            QTest.mouseMove(canvas, QPoint(x, canvas.height() // 2))
            QApplication.processEvents()
        hands.keys(canvas, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_End)
    pictures = window.figure.side.panel("forms").pictures
    assert not pictures["shift"].icon().isNull()
    assert threads
    assert threading.main_thread() not in threads
