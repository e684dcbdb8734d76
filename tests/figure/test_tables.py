"""Tables against the numbers they are of, and written forms read by others."""

import csv
import io
import re
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.tables import (
    NumberTable,
    as_csv,
    as_html,
    as_markdown,
    as_tabs,
    is_formula,
    tables_of,
    written_for,
)
from rhabdos.figure.recipe.toml_text import read_recipe
from tests.conftest import set_of

FIRST, SECOND = [1.0, 2, 3, 4, 5, 40], [2.0, 4, 6, 8]


def figure(forms='"bars", "box"', more=""):
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n'
        f"forms = [{forms}]\n[bins]\nwidth = 5\nstart = 0\n{more}"
    )
    return read(recipe, set_of(FIRST, SECOND))


def table(name, readings=None):
    readings = readings or figure()
    return tables_of(readings)[name]()


def column(of, name):
    return [row[of.columns.index(name)] for row in of.rows]


def test_the_summary_is_that_of_numpy():
    of = table("Summary")
    assert column(of, "Bay") == ["A", "B"]
    assert column(of, "n") == [6, 4]
    assert column(of, "mean") == pytest.approx([np.mean(FIRST), np.mean(SECOND)])
    assert column(of, "sd") == pytest.approx([np.std(v, ddof=1) for v in (FIRST, SECOND)])
    assert column(of, "q3") == pytest.approx([np.quantile(v, 0.75) for v in (FIRST, SECOND)])


def test_bins_hold_what_numpy_counts():
    of = table("Bins")
    for group, values in (("A", FIRST), ("B", SECOND)):
        rows = [row for row in of.rows if row[0] == group]
        edges = [row[1] for row in rows] + [rows[-1][2]]
        assert [row[3] for row in rows] == np.histogram(values, edges)[0].tolist()
    assert of.columns == ("Bay", "from", "to", "count")
    recipe = figure('"bars"').recipe.showing(heights="percent")
    shares = table("Bins", read(recipe, set_of(FIRST, SECOND)))
    assert shares.columns[3:] == ("count", "percent")


def test_boxes_tell_how_many_lie_beyond():
    of = table("Boxes")
    assert column(of, "beyond") == [0, 0]
    assert column(of, "far beyond") == [1, 0]
    assert column(of, "whisker to") == [5.0, 8.0]


def test_groups_are_compared_with_the_first_unless_asked_otherwise():
    of = table("Comparisons")
    assert [row[:2] for row in of.rows] == [("B", "A")]
    assert column(of, "mean difference") == pytest.approx([np.mean(SECOND) - np.mean(FIRST)])
    of = table("Comparisons", figure(more='[compare]\nreference = "B"\nconfidence = 0.9'))
    assert [row[:2] for row in of.rows] == [("A", "B")]
    assert "90 %" in of.title


def test_a_figure_has_the_tables_of_what_it_draws():
    assert list(tables_of(figure('"curve"'))) == ["Summary", "Comparisons"] or "Bins" in tables_of(
        figure('"curve"')
    )
    assert "Boxes" not in tables_of(figure('"bars"'))


HOSTILE = NumberTable(
    "t", ("a|b", 'c"d', "e<f>"), (("x\ty", 1.5, 2), ("line\nbreak", float("nan"), 3), ("é, ♥", 1e-12, 4))
)  # fmt: skip


def test_csv_and_tabs_are_read_back():
    for text, mark in ((as_csv(HOSTILE), ","), (as_tabs(HOSTILE), "\t")):
        rows = list(csv.reader(io.StringIO(text), delimiter=mark))
        assert rows[0] == ["a|b", 'c"d', "e<f>"]
        assert [row[1] for row in rows[1:]] == ["1.5", "", "1e-12"]
        assert rows[3][0] == "é, ♥"
        assert len(rows) == 4


def test_markdown_has_a_line_a_row_and_escapes_its_bars():
    lines = as_markdown(HOSTILE).splitlines()
    assert len(lines) == 5
    assert all(len(re.findall(r"(?<!\\)\|", line)) == 4 for line in lines)
    assert lines[1] == "| --- | ---: | ---: |"


def test_html_is_well_formed():
    text = as_html(HOSTILE).partition(">")[2]
    root = ET.fromstring(text)
    assert [cell.text for cell in root.iter("th")] == ["a|b", 'c"d', "e<f>"]
    assert len(list(root.iter("tr"))) == 4


def test_the_ending_tells_the_format():
    assert written_for("a.csv", HOSTILE).startswith(b"a|b")
    assert b"<table>" in written_for("a.HTML", HOSTILE)
    with pytest.raises(Refusal, match="must end in .csv, .md or .html"):
        written_for("a.xlsx", HOSTILE)


@pytest.mark.parametrize("text", ["=1", "@SUM(A1)", "\tx", "+2+3", "-2+3", "-none", "+ rack"])
def test_a_spreadsheet_runs(text):
    assert is_formula(text)


@pytest.mark.parametrize("text", ["-9", "+4.5", "-1e-3", "-", "+", "", "−x", "a=b", "2-3", " =1"])
def test_a_spreadsheet_takes_as_it_stands(text):
    assert not is_formula(text)
