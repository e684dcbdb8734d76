"""Delimited text that is larger than memory: laid out in pieces, and read as smaller ones are."""

import numpy as np
import polars as pl
import pytest
from sqlglot import exp

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.far import laying_out
from rhabdos.data.far.connection import FarError
from rhabdos.data.far.files import far_file
from rhabdos.data.files.reading import read_table
from rhabdos.data.limits import ReadingError
from rhabdos.data.reporting import silent
from rhabdos.data.steps.reading import Read
from rhabdos.errors import Cancelled
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.project.document import Document, Source
from rhabdos.project.store import Store

_FEW = "bay,länge\n" + "".join(f"{'Möwe' if i % 3 else 'Süd'},{i % 97 / 10}\n" for i in range(400))
_ROWS = "A,1.5,2\nB,2.5,3\n" * 200


_TEXTS = (
    _FEW, b"\xef\xbb\xbf" + _FEW.encode(), _FEW.encode("utf-16"), _FEW.encode("cp1252"),
    _FEW.replace("\n", "\r"), _FEW.replace("\n", "\r\n"), _FEW.replace(",", " "),
    b"\xef\xbb\xbf" + _FEW.replace(",", " ").encode(),
    "".join('"{}", "{}"\n'.format(*line.split(",")) for line in _FEW.splitlines()),
    "Made by logger 7\nat the pier\n\n" + _FEW,
    "Growth,,Site\nweek 1,week 2,name\nmm,mm,\n" + "1.5,2.5,A\n2.5,3,B\n" * 50,
    "Bay,Length,Mass\n,mm,g\n" + _ROWS, _ROWS, "b,x,y\n" + _ROWS.replace("3\n", "3,9\n"),
    b"\xef\xbb\xbfb,x,y\n" + _ROWS.replace("3\n", "3,9\n").encode(),
    "b,x,\n" + "A,1.5,\nB,2.5,\n" * 200, "b,x,y\n" + _ROWS + "\n\n\n",
    "b,x\n" + "".join(f"rack {i},A,1.5\n" for i in range(300)),
    'b,x\n"A, 1",1.5\n' + "A,1.5\n" * 300 + '"open,2\nA,1\n', 'b,x\n"A\nB",1.5\n' + "A,2\n" * 90,
    "d;x\n" + "".join(f"{1 + i % 28}.3.2025;{i % 7},{i % 3}\n" for i in range(300)),
    "t,x\n" + "08:30,1\n09:45,2\n" * 90, "p;x\n" + "60,50 €;1\n1.061,00 €;2\n" * 90,
    "x,ok\n" + "1.5,TRUE\n2.5,False\n" * 90, "x\n" + "1.5\n\n2.5\n" * 90, "x,x\n1,2\n" + "3,4\n" * 90,
    "x^2,b\n" + "1.5,A\n2.5,B\n" * 90, "# logger 7\n# pier\nb,x\n" + "A,1\n" * 90,
    "b,x\n" + "A,−1.5\nB,2 × 10³\n" * 90, "b,c,x\n" + "A,,1\n" * 5_100 + "A,word,1\n",
    "b,x,y\n" + "A,1,2\n" * 5_100 + "B,1,2,77\n",
    "d,x\n" + "".join(f"{1 + i // 4000}/{1 + i % 12}/2025,1\n" for i in range(5_100)) + "1/15/2025,3\n",
    "b,x\n" + "A,1\n" * 90 + "# paused\n# end, 90 rows\n",
    "b,x\n" + "A,1\n" * 90 + "\n* by hand\nSource: the harbour\n\n", 'b,x\nA,1\nB,2\n"C\n\nlate",\n',
    _FEW.replace("\n", "\r") + "\n", _FEW.replace("\n", "\r").strip() + "\n\n",
    b"\xef\xbb\xbf" + (_FEW.replace("\n", "\r") + "\n").encode(), "n;bay\n7;A;%\n8;B\n9\n",
    "b;x\n" + "A;1\n;\nB;2\n" * 60, _FEW.encode() + b"S\xff,2\n", b"bay,x\nS\xff,2\n" + _FEW.encode(),
    "d;x\n" + "a;7\n" * 5_100 + "b;2,5\n", "d;x\n" + "a;997\n" * 5_100 + "b;1,050\n",
)  # fmt: skip
"""Of many kinds that small files have."""


def _opened(tmp_path, content, how=None):
    """A file as it is read into memory, and as it is read from disk."""
    path = tmp_path / "rows.csv"
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return read_table(path, how=how), far_file(path, silent, how)


def _told(table):
    return [
        (column.name, column.kind, getattr(column, "unit", ""), column.n, _values(column))
        for column in table.columns
    ]


def _values(column):
    if isinstance(column, DateColumn):
        return [column.written(day) if day == day else "" for day in column.values.tolist()]
    if isinstance(column, NumberColumn):
        return [f"{value:.9g}" for value in column.values.tolist()]
    if isinstance(column, CategoryColumn):
        return [column.levels[code] if code >= 0 else "" for code in column.codes.tolist()]
    return list(column.texts)


@pytest.mark.parametrize("content", _TEXTS)
def test_a_text_on_disk_is_read_as_one_in_memory(tmp_path, content):
    near, far = _opened(tmp_path, content)
    assert _told(far) == _told(near)
    assert far.remarks[1:] == near.remarks


def test_what_is_asked_of_how_it_is_read_holds_on_disk_too(tmp_path):
    how = Read(separator=";", decimal=",", thousands=".", header=2, encoding="cp1252")
    content = "Möwe;nothing\nbay;mass\n" + "Süd;1.050,5\n" * 90
    near, far = _opened(tmp_path, content.encode("cp1252"), how)
    assert _told(far) == _told(near)
    assert far.columns[1].values[0] == 1050.5


def test_later_rows_that_are_no_numbers_are_counted_and_told(tmp_path):
    rows = ["1.5", "2.5"] * 2_600
    rows[5_150:5_154] = ["n/a", "broken", "12.5*", "broken"]
    _, far = _opened(tmp_path, "v,d\n" + "".join(f"{row},2026-03-01\n" for row in rows))
    assert far.columns[0].kind == "number"
    assert far.remarks[1:] == (
        "In “v” 3 values are not numbers: “broken” 2, “12.5*” 1 (the first in row 5,152); they "
        "count as missing.",
    )
    _, far = _opened(tmp_path, "d\n" + "2026-03-01\n" * 5_100 + "soon\n")
    assert far.remarks[1] == (
        "In “d” 1 value is no date: “soon” 1 (the first in row 5,101); it counts as missing."
    )


def test_dates_in_two_orders_are_read_in_one_and_the_others_are_told(tmp_path):
    days = [f"{1 + i % 12}/{1 + i % 11}/2025" for i in range(5_100)]
    _, far = _opened(
        tmp_path, "\n".join(["d", *days, "15/1/2025", "1/15/2025", "1/16/2025"]) + "\n"
    )
    assert far.columns[0].kind == "date/time"
    assert "In “d” 1 value is no date: “15/1/2025” 1 (the first" in far.remarks[1]


def test_what_is_mostly_no_number_stays_text(tmp_path):
    _, far = _opened(tmp_path, "v,w\n" + ",1\n" * 5_100 + "7,1\nsoft,1\nhard,1\n")
    assert [text for text in _values(far.columns[0]) if text] == ["7", "soft", "hard"]
    assert len(far.remarks) == 1


def test_blank_lines_between_rows_are_told_and_those_at_the_end_are_not(tmp_path, monkeypatch):
    monkeypatch.setattr(laying_out, "_ROWS", 64)
    _, far = _opened(tmp_path, "b,x\n" + "A,1\n" * 90 + "\n\n" + "B,2\n" * 60 + "\n" * 500)
    assert (far.columns[0].n, far.far.rows) == (150, 150)
    assert far.remarks[1:] == ("2 rows without any value were passed over.",)
    _, far = _opened(tmp_path, "b,x\n" + "A,1\n" * 90 + "\n" * 500 + "B,2\n")
    assert far.remarks[1:] == ("500 rows without any value were passed over.",)


@pytest.mark.parametrize(("of", "most"), [("_ROWS", 100), ("_CELLS", 200)])
def test_rows_keep_their_order_over_several_files(tmp_path, monkeypatch, of, most):
    monkeypatch.setattr(laying_out, of, most)
    path = tmp_path / "rows.csv"
    path.write_text("x,b\n" + "".join(f"{i},A\n" for i in range(2_000)), "utf-16")
    with laying_out.OpenFile.open(path) as opened:
        laid = laying_out.text_laid_out(opened, tmp_path, silent)
    assert len(laid.parts) > 1
    assert {file.suffix for file in tmp_path.iterdir()} == {".csv", ".parquet"}
    numbers = pl.concat([pl.read_parquet(part) for part in laid.parts])["x"]
    assert numbers.to_list() == list(range(2_000))


def test_what_is_laid_out_counts_among_what_is_kept_for_going_back(tmp_path):
    path, store, documents = tmp_path / "rows.csv", Store(most_bytes=1_000_000), []
    pl.DataFrame({"x": np.random.default_rng(1).random(200_000)}).write_csv(path)
    for revision in range(3):
        document = Document.of(Source(path, revision), demo_recipe())
        store.keep_table(document, far_file(path, silent))
        documents.insert(0, document)
        store.keep_only(documents)
    assert [store.read(document) is not None for document in documents] == [True, False, False]
    assert store.read(documents[0]).far.aside > 1_000_000


def test_it_is_stopped_between_two_pieces(tmp_path):
    said = []

    def report(sentence, _share):
        said.append(sentence)
        if sentence.startswith("Laying out on disk,"):
            raise Cancelled

    path = tmp_path / "rows.csv"
    path.write_text("b,x\n" + "A,1\n" * 90)
    with pytest.raises(Cancelled):
        far_file(path, report)
    assert said[-1] == "Laying out on disk, 90 rows so far"


def test_a_later_byte_that_is_no_utf_8_is_read_as_in_memory(tmp_path):
    content = b"bay,x\n" + b"A,1\n" * 70_000 + "Möwe,2\n".encode("cp1252")
    near, far = _opened(tmp_path, content)
    assert far.far.rows == near.rows == 70_001
    assert far.remarks[1:] == near.remarks
    assert "windows-1252" in near.remarks[0]
    frame = far.far.connection.ask(exp.select("bay").from_("data").distinct())
    assert set(frame.to_series(0)) == {"A", "Möwe"}


@pytest.mark.parametrize(
    ("content", "how", "said"),
    [
        (b"x,b\n", None, "holds a row of names but no rows of values"),
        (b"\n \n", None, "is empty"),
        (b"b,x\n\x00\x01\x02", None, "is not a text file"),
        ("bay,x\nMöwe,1\n".encode("cp1252"), Read(encoding="utf-16"), "cannot be read as utf-16"),
        (b"x,b\n1,A\n", Read(encoding="no such"), "no encoding that is known"),
    ],
)
def test_what_is_no_text_is_refused_by_a_sentence(tmp_path, content, how, said):
    path = tmp_path / "rows.csv"
    path.write_bytes(content)
    with pytest.raises((ReadingError, FarError), match=said):
        far_file(path, silent, how)
