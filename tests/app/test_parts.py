"""Parts of the window on their own: silhouettes, colours, tips, the flowing sentence, the log."""

import itertools

import numpy as np
import pytest
from coloraide import Color
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication

from rhabdos.app.controls import theme
from rhabdos.app.sentence.sentence_bar import SentenceBar
from rhabdos.app.shell.help_boxes import actions_with_keys
from rhabdos.app.shell.keys import keys_text
from rhabdos.app.variables.silhouettes import Silhouettes, silhouette
from rhabdos.app.variables.variables_panel import facts, tip
from rhabdos.data.columns import CategoryColumn, LabelColumn, NumberColumn
from rhabdos.figure.phrases.sentence import Fragment
from rhabdos.figure.phrases.shown import showing
from rhabdos.figure.recipe.recipe import Check, Recipe, Show, Words
from rhabdos.figure.recipe.recipe_axes import Axes, ValueAxis
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_ranges import Range
from rhabdos.log import log_file, record


def number(values, **more):
    return NumberColumn("Mass", values=np.asarray(values, dtype=float), **more)


def test_a_silhouette_is_the_real_distribution():
    shape = silhouette(number([1, 1, 1, 1, 2, 2, 3]))
    assert shape.bars
    assert shape.shares.tolist() == [1, 0.5, 0.25]


def test_a_silhouette_of_groups_is_their_shares():
    column = CategoryColumn("Bay", codes=np.array([0, 0, 0, 1], np.int8), levels=("A", "B"))
    assert silhouette(column).shares.tolist() == [0.75, 0.25]


@pytest.mark.parametrize("values", [[], [np.nan, np.nan], [5.0], [-1e308, 1e308], [7.0] * 9])
def test_odd_columns_have_a_silhouette_or_none_but_no_fault(values):
    assert len(silhouette(number(values)).shares) <= 1


def test_silhouettes_of_long_columns_come_later_and_are_kept(qtbot):
    kept = Silhouettes()
    column = number(np.random.default_rng(0).normal(size=80_000))
    assert kept.of(column) is None
    with qtbot.waitSignal(kept.ready, timeout=5000):
        pass
    assert kept.of(column) is kept.of(column) is not None
    kept.forget()


@pytest.mark.parametrize("colours", [theme.LIGHT, theme.DARK], ids=["light", "dark"])
def test_text_can_be_read_on_its_ground(colours):
    of = colours
    pairs = [
        (of.ink, of.panel), (of.ink, of.ground), (of.ink, of.field), (of.ink, of.chosen_ground),
        (of.ink, of.shown_ground), (of.quiet, of.panel), (of.quiet, of.shown_ground),
        (of.chosen, of.chosen_ground), (of.notice_ink, of.notice_ground), (of.fault, of.panel),
        (of.on_rod, of.rod), (of.panel, of.chosen),
    ]  # fmt: skip
    low = {(text, ground): Color(text).contrast(ground) for text, ground in pairs}
    assert {pair: round(ratio, 2) for pair, ratio in low.items() if ratio < 4.5} == {}


def test_the_window_can_be_dressed_light_and_dark(hands):
    application = QApplication.instance()
    theme.dress(application, theme.DARK)
    dark = hands.window.grab().toImage().pixelColor(20, 20).lightness()
    theme.dress(application, theme.LIGHT)
    assert dark < 60 < hands.window.grab().toImage().pixelColor(20, 20).lightness()


def test_facts_and_tips_tell_unit_levels_and_what_is_missing():
    mass = NumberColumn("Mass (g)", values=np.array([1.0, np.nan]), missing_as={"n/a": 1})
    assert facts(mass) == "g · 1 missing"
    assert "1 n/a" in tip(mass)
    assert (
        facts(NumberColumn("x", values=np.array([np.nan]), missing_as={"blank": 1})) == "no values"
    )
    assert facts(LabelColumn("Tag", texts=["a"], distinct=1)) == "1 label"
    bay = CategoryColumn("Bay", codes=np.array([0, 1, 1], np.int8), levels=("A", "a"))
    assert facts(bay) == "2 levels"
    assert "A 1, a 2" in tip(bay)
    assert "differ only by case or blanks" in tip(bay)


def test_another_variable_keeps_split_and_heights_but_not_the_old_words_and_widths():
    recipe = Recipe(
        show=Show(variables=("a",), split=("g",), heights="density"),
        bins=Bins(width=3.0, closed="right"),
        words=Words(title="About a", value_axis="a", height_axis="How many"),
        range=(Range(low=60.0, high=72.0, words="market"),),
        check=Check(range=(60.0, 72.0)),
        axes=Axes(value=ValueAxis(scale="arsinh", near=5.0)),
    )
    other = showing(recipe, "b")
    assert (other.range, other.check.range, other.axes.value.near) == ((), None, None)
    assert showing(recipe, "a", "b").range == recipe.range
    assert (other.show.variables, other.show.split) == (("b",), ("g",))
    assert other.show.heights == "density"
    assert (other.bins.width, other.bins.closed) == (None, "right")
    assert (other.words.title, other.words.value_axis, other.words.height_axis) == (
        None,
        None,
        "How many",
    )
    assert showing(recipe, "a") is recipe


@pytest.fixture
def bar(qtbot, dressed):
    made = SentenceBar()
    qtbot.addWidget(made)
    made.resize(420, 200)
    made.show()
    return made


def plain(fragments):
    return "".join(fragment.text for fragment in fragments)


LONG = (
    Fragment("Shell length", "variable"), Fragment(" of every row, split by "),
    Fragment("Bay", "split"), Fragment(", heights in "),
    Fragment("percent of each bay", "heights"), Fragment(". Bins are "),
    Fragment("4 mm wide from 40", "bins"), Fragment("."),
)  # fmt: skip


def test_the_sentence_breaks_into_lines_within_its_width_without_overlap(bar):
    bar.show_fragments(LONG)
    QApplication.processEvents()
    buttons = [bar.button(fragment.phrase) for fragment in LONG if fragment.phrase]
    placed = bar.words + [(button.geometry(), button.text()) for button in buttons]
    placed.sort(key=lambda one: (one[0].y(), one[0].x()))
    assert " ".join(text for _, text in placed).replace(" ,", ",").replace(" .", ".") == plain(LONG)
    boxes = [box for box, _ in placed]
    assert len({box.center().y() for box in boxes}) >= 2
    assert all(bar.rect().contains(box) for box in boxes)
    assert not any(a.intersects(b) for a, b in itertools.combinations(boxes, 2))
    assert bar.heightForWidth(420) > bar.heightForWidth(1400)


def test_a_change_of_words_keeps_the_buttons_and_their_focus(bar):
    bar.show_fragments(LONG)
    button = bar.button("bins")
    bar.show_fragments((*LONG[:6], Fragment("5 mm wide from 40", "bins"), LONG[7]))
    assert bar.button("bins") is button
    assert button.text() == "5 mm wide from 40"
    assert "5 mm wide" in bar.accessibleDescription()


def test_an_ampersand_in_a_name_is_shown_as_it_is(bar, qtbot):
    bar.show_fragments((Fragment("Sand & silt", "variable"), Fragment(" of every row.")))
    assert bar.button("variable").text() == "Sand && silt"
    with qtbot.waitSignal(bar.opened) as opened:
        bar.open("variable")
    assert opened.args[0] == "variable"
    assert isinstance(opened.args[1], QPoint)


def test_the_page_of_keys_names_every_key_of_the_menus(hands):
    text = keys_text(
        {a.iconText(): a.shortcut().toString() for a in actions_with_keys(hands.window)}
    )
    for words in ("Ctrl+Shift+E", "Export figure", "Ctrl+Z", ">Undo<", "move one edge alone"):
        assert words in text
    assert "Oyster" not in text


def test_the_log_is_a_file_of_the_user(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    log_file.cache_clear()
    assert log_file().is_relative_to(tmp_path)
    assert record(ValueError("odd oyster")) == log_file()
    assert "odd oyster" in log_file().read_text()
    log_file.cache_clear()
