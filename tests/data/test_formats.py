"""Reading every format: a corpus of awkward files, what each becomes, and what is refused."""

import csv
import gzip
import io
import sqlite3

import numpy as np
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from rhabdos.data.columns import CategoryColumn, DateColumn, LabelColumn
from rhabdos.data.fields.texts import texts_of
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.files.reading import read_table
from rhabdos.data.limits import ReadingError
from rhabdos.data.readers import database as readers_database
from rhabdos.data.readers.formulas import column_letters, formulas_of
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.step import no_others
from tests.data import corpus
from tests.data.corpus import LANDINGS, SMALL, database
from tests.data.corpus_formats import FORMATS, NOT_READ, zipped

CASES = corpus.CASES | FORMATS
REFUSED = corpus.REFUSED | NOT_READ


def shown(column):
    """The values of a column as a reader sees them."""
    if isinstance(column, LabelColumn):
        return list(column.texts)
    if isinstance(column, CategoryColumn):
        return [column.levels[code] if code >= 0 else None for code in column.codes]
    written = column.written if isinstance(column, DateColumn) else float
    return [None if np.isnan(v) else written(v) for v in column.values.tolist()]


@pytest.mark.parametrize("case", CASES)
def test_an_awkward_file_becomes_what_it_should(tmp_path, case):
    content, how, columns, words = CASES[case]
    path = tmp_path / "awkward.file"
    path.write_bytes(content)
    table = read_table(path, how=how)
    assert [(c.name, c.kind, shown(c)) for c in table.columns] == columns
    remarks = " ".join(table.remarks)
    assert all(word in remarks for word in words), remarks
    if words == ():
        assert remarks == ""
    assert {len(texts_of(column)) for column in table.columns} == {table.rows}


@pytest.mark.parametrize("case", REFUSED)
def test_what_cannot_be_read_is_refused_in_a_sentence(tmp_path, case):
    content, how, words = REFUSED[case]
    path = tmp_path / "awkward.file"
    path.write_bytes(content)
    with pytest.raises(ReadingError) as refused:
        read_table(path, how=how)
    assert words in str(refused.value)
    assert str(refused.value).endswith(".")


def test_a_missing_result_of_a_formula_is_counted_by_what_stands_there(tmp_path):
    path = tmp_path / "faulty.xlsx"
    path.write_bytes(CASES["formulas without a result"][0])
    ratio = read_table(path).columns[1]
    assert ratio.missing_as == {"#DIV/0!": 1, "#N/A": 1}
    assert ratio.stood.word_at(1) == "#DIV/0!"


@pytest.mark.parametrize(("kind", "without"), [("", [(1, 27)]), (' t="str"', [])])
def test_an_empty_text_is_the_result_of_a_formula(kind, without):
    cell = f'<c r="AB2"{kind}><f>IF(A1="","",A1)</f><v></v></c><c r="AC2"><f>A1*2</f><v>4</v></c>'
    workbook = zipped(**{
        "xl/workbook.xml": '<sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets>',
        "xl/_rels/workbook.xml.rels": '<Relationship Id="rId1" Target="worksheets/sheet1.xml"/>',
        "xl/worksheets/sheet1.xml": f'<sheetData><row r="2">{cell}</row></sheetData>',
    })  # fmt: skip
    assert formulas_of(workbook, 0).without == without
    assert column_letters(27) == "AB"


def test_a_database_in_use_is_waited_for_and_then_refused(tmp_path, monkeypatch):
    monkeypatch.setattr(readers_database, "_PATIENCE", 0.3)
    path = tmp_path / "landings.db"
    path.write_bytes(database(*LANDINGS))
    writer = sqlite3.connect(path)
    writer.execute("BEGIN EXCLUSIVE")
    with pytest.raises(ReadingError, match="in use by another program"):
        read_table(path)
    writer.rollback()
    writer.close()
    assert read_table(path).rows == 4


def test_numbers_keep_the_text_that_they_were_written_as(tmp_path):
    path = tmp_path / "codes.csv"
    path.write_text("code,n\n007,1\n010,2\n007,3\n")
    table = read_table(path)
    assert table.columns[0].kind == "number"
    done = ChangeKind(variable="code", kind="category").apply(table, no_others).table
    assert done.columns[0].levels == ("007", "010")
    assert texts_of(table.columns[0]).to_list() == ["007", "010", "007"]
    path.write_text("code,n\n008,1\n010,2\n007,3\n")
    with pytest.raises(ReadingError, match="has changed since it was opened"):
        ChangeKind(variable="code", kind="category").apply(table, no_others)


@pytest.mark.parametrize(
    "content",
    [
        "x;code\na;007\nb;010\nc;1,5\n",
        "Title\nx,code\na,007\nb,010\nc,1.5\n",
        "x  code\na  007\nb  010\nc  1.5\n",
        "x,code\na,007\nb,010,7\nc,1.5\n",
        "é,code\na,007\nb,010\nc,1.5\n".encode("cp1252"),
    ],
)
def test_the_text_is_read_again_in_the_same_dialect(tmp_path, content):
    path = tmp_path / "codes.csv"
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    column = read_table(path).columns[1]
    assert column.kind == "number"
    assert [text.replace(",", ".") for text in texts_of(column)] == ["007", "010", "1.5"]


def test_a_list_of_values_is_a_variable(tmp_path):
    path = tmp_path / "lengths.json"
    path.write_text("[64.5, null, 71]")
    assert [(c.name, shown(c)) for c in read_table(path).columns] == [("Value", [64.5, None, 71])]


def test_a_compressed_file_is_unpacked_beside_the_memory_and_named_without_its_endings(tmp_path):
    path = tmp_path / "landings.csv.gz"
    path.write_bytes(CASES["gzip"][0])
    table = read_table(path)
    assert table.name == "landings"
    assert texts_of(table.columns[0]).to_list() == ["1.5", "2.5", "3"]
    with OpenFile.open(path) as opened:
        assert opened.on_disk
        assert opened.size == len(CASES["gzip"][0])


def test_a_file_that_is_replaced_while_it_is_read_is_read_as_it_was(tmp_path):
    path, other = tmp_path / "a.csv", tmp_path / "b.csv"
    path.write_text("v\n" + "1.5\n" * 1000)
    other.write_text("w\n2\n")

    def replace(_stage, _share):
        if other.exists():
            other.replace(path)

    table = read_table(path, replace)
    names = {column.name for column in table.columns}
    assert (names, table.rows) in (({"v"}, 1000), ({"w"}, 1))


def test_a_line_of_many_megabytes_is_one_field(tmp_path):
    path = tmp_path / "long.csv"
    path.write_text("a,b\n1,2\n" + "3," + "x" * 30_000_000 + "\n" + SMALL.split("\n")[1] + "\n")
    table = read_table(path)
    assert table.rows == 3
    assert len(table.columns[1].texts[1]) == 30_000_000


@pytest.mark.parametrize(
    ("stored", "kind", "read"),
    [
        ([b"Ebba", None, "Möwe".encode()], "category", ["Ebba", None, "Möwe"]),
        ([b"ab", None, b"1\xff"], "label", ["6162", None, "31ff"]),
        ([b"\x12\x34", None, b"\x12\x35"], "label", ["1234", None, "1235"]),
        ([b"\x12", 5, None], "category", ["0x12", "5", None]),
    ],
)
def test_bytes_of_a_database_are_texts_or_codes_and_no_numbers(tmp_path, stored, kind, read):
    path = tmp_path / "bytes.sqlite"
    base = sqlite3.connect(path)
    base.execute("CREATE TABLE t (v BLOB, x REAL)")
    base.executemany("INSERT INTO t VALUES (?, 1.5)", [(value,) for value in stored])
    base.commit()
    base.close()
    column = read_table(path).columns[0]
    assert (column.kind, shown(column)) == (kind, read)


def test_a_hundred_thousand_levels_are_labels_until_they_are_asked_for(tmp_path):
    path = tmp_path / "many.csv"
    path.write_text("tag,n\n" + "".join(f"t{i},1\nt{i},2\n" for i in range(100_000)))
    table = read_table(path)
    assert (table.columns[0].kind, table.columns[0].distinct) == ("label", 100_000)
    asked = ChangeKind(variable="tag", kind="category").apply(table, no_others).table.columns[0]
    assert len(asked.levels) == 100_000
    assert asked.level_counts.tolist() == [2] * 100_000


@pytest.mark.parametrize("end", ["\n", "\r\n"])
def test_blank_lines_are_no_rows_and_those_between_rows_are_told(tmp_path, end):
    path = tmp_path / "blank.csv"
    lines = ["Length,Bay", "1.5,A", "", '"2,5",B', ",", "", "", "3.50,C", "", ""]
    path.write_bytes(end.join(lines).encode())
    table = read_table(path)
    assert table.rows == 4
    assert "3 blank lines between rows were passed over (the first is line 3)." in table.remarks
    path.write_bytes(end.join(["Length,Bay", "1.50,A", "2,B", "", ""]).encode())
    table = read_table(path)
    assert (table.rows, table.remarks) == (2, ())
    again = ChangeKind(variable="Length", kind="label").apply(table, no_others).table
    assert texts_of(again.column("Length")).to_list() == ["1.50", "2"]


def test_the_text_of_uneven_rows_between_blank_lines_can_be_read_again(tmp_path):
    path = tmp_path / "uneven.csv"
    path.write_text("Length,Bay\n1.50,A\n2.5,,3\n\n,A\n3.0,B\n")
    table = read_table(path)
    again = ChangeKind(variable="Length", kind="label").apply(table, no_others).table
    assert texts_of(again.column("Length")).to_list() == ["1.50", "2.5", None, "3.0"]


def test_one_column_keeps_its_blank_lines_as_missing_values(tmp_path):
    path = tmp_path / "one.csv"
    path.write_text("Length\n1.5\n\n2.5\n")
    column = read_table(path).number("Length")
    assert (column.rows, column.missing) == (3, 1)


@pytest.mark.parametrize(
    ("text", "names", "rows"),
    [
        ("Spring, by hand\n\nBay,Length,Mass\nA,61,2\nB,64,3\n", ["Bay", "Length", "Mass"], 2),
        ("Spring; by hand\nBay;Length;Mass\nA;61,5;2\nB;64,5;3\n", ["Bay", "Length", "Mass"], 2),
        ("Bay,Length\nA,61,2\nB,64,3\n", ["Row", "Bay", "Length"], 2),
        ("Bay,Tide\nA,weak,x\nB,strong,y\n", ["Row", "Bay", "Tide"], 2),
        ("Bay,Length\nA,\nB,64\n,3\n", ["Bay", "Length"], 3),
    ],
)
def test_remarks_with_a_separator_in_them_stand_above_the_names(tmp_path, text, names, rows):
    path = tmp_path / "spring.csv"
    path.write_text(text)
    table = read_table(path)
    assert [column.name for column in table.columns] == names
    assert table.rows == rows


_CELLS = st.text(alphabet='abcæØ",;|\t\n x', min_size=1, max_size=6).filter(
    lambda cell: cell.strip() and cell.strip().lower() not in ("na", "n/a")
)


@settings(
    max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    rows=st.lists(st.tuples(_CELLS, _CELLS), min_size=1, max_size=6),
    separator=st.sampled_from(",;\t|"),
    end=st.sampled_from(["\n", "\r\n"]),
    packed=st.booleans(),
)
@example([(", ", ",")], ",", "\n", False)  # quotes after a blank, which is within others
def test_whatever_a_text_holds_comes_back_cell_by_cell(tmp_path, rows, separator, end, packed):
    held = io.StringIO(newline="")
    writer = csv.writer(held, delimiter=separator, lineterminator=end)
    writer.writerows([("Place", "Remark"), *rows])
    content = held.getvalue().encode()
    path = tmp_path / "remarks.txt"
    path.write_bytes(gzip.compress(content) if packed else content)
    table = read_table(path, how=Read(separator=separator, header=1))
    assert table.rows == len(rows)
    for at, name in enumerate(("Place", "Remark")):
        label = ChangeKind(variable=name, kind="label").apply(table, no_others).table.column(name)
        assert texts_of(label).to_list() == [row[at] for row in rows]


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    case=st.sampled_from([content for content, *_ in CASES.values() if content][:40]),
    place=st.floats(0, 1),
    cut=st.integers(0, 30),
    put=st.binary(max_size=8),
)
def test_a_damaged_file_is_read_or_refused_by_a_sentence(tmp_path, case, place, cut, put):
    at = int(place * len(case))
    path = tmp_path / "damaged"
    path.write_bytes(case[:at] + put + case[at + cut :])
    told = refusal_of(path)
    assert not told or told.rstrip()[-1] in ".”"


def refusal_of(path):
    """The sentence by which a file is refused; nothing where it is read."""
    try:
        table = read_table(path)
    except ReadingError as refusal:
        return str(refusal)
    return "" if table.rows else "no rows"


def test_quotes_in_the_midst_of_fields_are_read_or_refused(tmp_path):
    """Two readers part such lines differently; the one that counts fields is asked then."""
    path = tmp_path / "notes.txt"
    rows = "".join(f'"a, b":{day}/02/24:1.234:"a, b"\n' for day in range(10, 20))
    path.write_text(f"first:second:third:fourth\n\n{rows}")
    table = read_table(path)
    assert table.columns
    assert {column.rows for column in table.columns} == {table.rows}
