"""Reading people's files: dialects, encodings, kinds, missing values, and bad input."""

import os
from contextlib import suppress

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, LabelColumn, NumberColumn
from rhabdos.data.files.reading import read_table
from rhabdos.data.limits import ReadingError
from rhabdos.data.preparing import prepared
from rhabdos.data.problems.problems import problems_of
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.errors import Cancelled


@pytest.fixture
def table_of(tmp_path):
    def read(content: str | bytes, name: str = "landings.csv"):
        path = tmp_path / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return read_table(path)

    return read


def values(column):
    return [None if np.isnan(v) else v for v in column.values.tolist()]


DIALECTS = {
    "commas": "length,bay\n1.5,A\n2.5,B\n3,A\n",
    "semicolons and decimal commas": "length;bay\n1,5;A\n2,5;B\n3;A\n",
    "tabs": "length\tbay\n1.5\tA\n2.5\tB\n3\tA\n",
    "bars": "length|bay\n1.5|A\n2.5|B\n3|A\n",
    "Windows line ends": "length,bay\r\n1.5,A\r\n2.5,B\r\n3,A\r\n",
    "line ends of old": "length,bay\r1.5,A\r2.5,B\r3,A\r",
    "quotes": '"length","bay"\n"1.5","A"\n"2.5","B"\n"3","A"\n',
    "blanks around": "length, bay\n 1.5, A\n 2.5, B\n 3, A\n",
    "no last line end": "length,bay\n1.5,A\n2.5,B\n3,A",
    "a comma at each end": "length,bay,\n1.5,A,\n2.5,B,\n3,A,\n",
}


@pytest.mark.parametrize("dialect", DIALECTS)
def test_every_dialect_gives_the_same_table(table_of, dialect):
    length, bay = table_of(DIALECTS[dialect]).columns
    assert (length.name, length.kind, values(length)) == ("length", "number", [1.5, 2.5, 3])
    assert (bay.name, bay.kind) == ("bay", "category")
    assert [bay.levels[code].strip() for code in bay.codes] == ["A", "B", "A"]


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-32", "cp1252"])
def test_encodings(table_of, encoding):
    table = table_of("Größe,Küste\n1,Möwe\n2,Möwe\n3,Düne\n".encode(encoding))
    assert [column.name for column in table.columns] == ["Größe", "Küste"]
    assert table.columns[1].levels == ("Düne", "Möwe")
    assert bool(table.remarks) == (encoding == "cp1252")


def test_an_odd_letter_far_down_is_read_too(table_of):
    table = table_of(b"place,n\n" + b"shore,1\n" * 60_000 + "Möwe,2\n".encode("cp1252"))
    assert table.columns[0].levels == ("Möwe", "shore")
    assert "windows-1252" in table.remarks[0]


def test_one_column_of_decimal_commas(table_of):
    (mass,) = table_of("mass\n1,5\n2,5\n").columns
    assert values(mass) == [1.5, 2.5]


def test_a_file_without_names(table_of):
    table = table_of("12\n15\n18\n")
    assert values(table.columns[0]) == [12, 15, 18]
    assert table.columns[0].name == "Column 1"
    assert "first row" in table.remarks[0]


def test_missing_values_are_counted_by_what_stood_there(table_of):
    mass, bay = table_of(
        "mass,bay\n1,A\n,B\nn/a,A\nNA,\n-,B\nNaN,A\ninf,B\n-inf,B\n7,n/a\n"
    ).columns
    assert values(mass) == [1, None, None, None, None, None, None, None, 7]
    assert mass.missing_as == {"blank": 1, "n/a": 1, "NA": 1, "-": 1, "NaN": 1, "infinite": 2}
    (infinite,) = problems_of(mass)
    assert (infinite.code, infinite.n) == ("infinite", 2)
    assert "2 infinite values" in infinite.text
    assert (mass.n, mass.missing) == (2, 7)
    assert bay.missing_as == {"blank": 1, "n/a": 1}
    assert bay.levels == ("A", "B")


def test_a_word_that_means_missing_among_numbers_may_be_a_level(table_of):
    fouling, _ = table_of("fouling,n\nnone,1\nfew,2\nnone,3\nmany,4\nfew,5\n").columns
    assert fouling.levels == ("few", "many", "none")


def test_categories_and_labels_are_told_apart(table_of):
    rows = "".join(f"T-{i},{'AB'[i % 2]},{i % 3}\n" for i in range(60))
    tag, bay, grade = table_of("tag,bay,grade\n" + rows).columns
    assert isinstance(tag, LabelColumn)
    assert tag.distinct == 60
    assert list(tag.texts[:2]) == ["T-0", "T-1"]
    assert isinstance(bay, CategoryColumn)
    assert bay.level_counts.tolist() == [30, 30]
    assert isinstance(grade, NumberColumn)


def test_levels_are_in_the_same_order_in_every_file(table_of):
    first, second = (
        "site,n\nsite 10,1\nsite 2,2\nSite 1,3\nsite 2,4\n",
        "site,n\nsite 2,1\nSite 1,2\nsite 10,3\nsite 10,4\n",
    )
    assert (
        table_of(first).columns[0].levels
        == table_of(second).columns[0].levels
        == ("Site 1", "site 2", "site 10")
    )


def test_yes_and_no_are_levels(table_of):
    assert table_of("alive,n\ntrue,1\nfalse,2\ntrue,3\n").columns[0].levels == ("false", "true")


def test_levels_that_differ_only_by_case_or_blanks_are_a_problem_with_a_cure(table_of):
    culture, _ = table_of('culture,n\nrack,1\n"Rack ",2\nrack,3\nline,4\nline,5\n').columns
    (similar,) = problems_of(culture)
    assert (similar.code, similar.n) == ("similar-levels", 1)
    assert "“Rack ” (1)" in similar.text
    assert similar.cure.become == {"Rack ": "rack"}
    assert len(culture.levels) == 3


def test_a_column_that_is_almost_numbers_says_which_row_is_not(table_of):
    rows = "".join(f"{i}\n" for i in range(40))
    (mass,) = table_of(f"mass\n{rows}~13\n{rows}").columns
    assert mass.kind in ("category", "label")
    (odd,) = problems_of(mass)
    assert (odd.code, odd.n) == ("not-numbers", 1)
    assert "“~13” 1" in odd.text
    assert "row 41" in odd.text


def test_a_number_late_in_the_file_that_is_none_loses_nothing(table_of):
    table = table_of("v,w\n" + "1,2\n" * 6000 + "x,3\n")
    assert table.rows == 6001
    assert table.columns[0].levels == ("1", "x")
    assert values(table.columns[1])[-1] == 3


def test_rows_of_unequal_length_lose_nothing(table_of):
    table = table_of("a,b\n1,2\n3,4,5\n6\n7,8\n")
    assert [values(c) for c in table.columns] == [
        [1, 3, 6, 7],
        [2, 4, None, 8],
        [None, 5, None, None],
    ]
    long, short = table.remarks
    assert "line 3" in long
    assert "“Column 3”" in long
    assert "line 4" in short


def test_short_rows_alone_are_remarked(table_of):
    table = table_of("a,b,c\n1,2,3\n4,5\n")
    assert values(table.columns[2]) == [3, None]
    assert "line 3" in table.remarks[0]


def test_names_that_come_twice_are_told_apart(table_of):
    table = table_of("a,a,,a\n1,2,3,4\n")
    assert [c.name for c in table.columns] == ["a", "a (2)", "Column 3", "a (3)"]
    assert "“a (2)”" in table.remarks[0]


def test_a_thousand_columns(table_of):
    table = table_of(
        ",".join(f"v{i}" for i in range(1000)) + "\n" + (",".join(["1.5"] * 1000) + "\n") * 5
    )
    assert len(table.numbers) == 1000


def test_a_column_with_nothing_in_it_is_kept_and_told(table_of):
    empty, full = table_of("a,b\n,1\n,2\n").columns
    assert (empty.n, empty.missing, full.n) == (0, 2, 2)


def test_the_ends_of_the_range_of_numbers(table_of):
    (v,) = table_of("v\n1e308\n-1e308\n1e-308\n5e-324\n1e400\n").columns
    assert values(v) == [1e308, -1e308, 1e-308, 5e-324, None]


REFUSED = {
    "empty": (b"", "is empty"),
    "blank": (b" \n\n", "is empty"),
    "names only": (b"a,b\n", "no rows of values"),
    "binary": (bytes(range(256)) * 9, "not a text file"),
    "zipped": (b"PK\x03\x04rest of it", "not a text file"),
    "a wrong mark": (b"\xff\xfea,b\n1,2", "utf-16"),
}


@pytest.mark.parametrize("case", REFUSED)
def test_what_is_no_table_is_refused_in_a_sentence(table_of, case):
    content, reason = REFUSED[case]
    with pytest.raises(ReadingError, match=reason) as refused:
        table_of(content)
    assert str(refused.value).startswith("landings.csv")
    assert str(refused.value).endswith(".")


def test_a_file_that_is_not_there_or_is_a_folder(tmp_path):
    with pytest.raises(ReadingError, match="There is no file"):
        read_table(tmp_path / "gone.csv")
    with pytest.raises(ReadingError, match="is a folder"):
        read_table(tmp_path)


@pytest.mark.parametrize(
    "error", [PermissionError(13, "Permission denied"), OSError(5, "Input/output error")]
)
def test_a_file_that_may_not_or_cannot_be_read(tmp_path, monkeypatch, error):
    def fail(*_args, **_more):
        raise error

    (tmp_path / "a.csv").write_text("a\n1\n")
    monkeypatch.setattr("os.open", fail)
    with pytest.raises(ReadingError, match=r"may not be read|could not be read"):
        read_table(tmp_path / "a.csv")


def test_progress_rises_and_a_cancel_stops_the_reading(tmp_path):
    path = tmp_path / "long.csv"
    path.write_text("v,w\n" + "1.25,a\n" * 1_200_000)
    shares = []
    read_table(path, lambda _stage, share: shares.append(share))
    known = [share for share in shares if share is not None]
    assert known == sorted(known)
    assert len(known) >= 4

    def stop(stage, _share):
        if "so far" in stage:
            raise Cancelled

    with pytest.raises(Cancelled):
        read_table(path, stop)


def test_a_header_longer_than_any_buffer_keeps_all_its_names(table_of):
    names = [f"{'n' * 95}{i:05d}" for i in range(3000)]
    table = table_of(",".join(names) + "\n" + ",".join("1" for _ in names) + "\n")
    assert [column.name for column in table.columns] == names


def test_many_columns_of_one_name_are_told_apart_quickly(table_of):
    table = table_of(
        ",".join("n" for _ in range(8000)) + "\n" + ",".join("1" for _ in range(8000)) + "\n"
    )
    assert (table.columns[1].name, table.columns[-1].name) == ("n (2)", "n (8000)")
    assert len({column.name for column in table.columns}) == 8000
    assert "7,993 more" in table.remarks[0]


def test_names_taken_by_others_are_passed_over(table_of):
    table = table_of("n,n (2),n,n\n1,2,3,4\n")
    assert [column.name for column in table.columns] == ["n", "n (2)", "n (3)", "n (4)"]


def test_more_columns_than_can_be_read_are_refused(table_of):
    with pytest.raises(ReadingError, match="60,001 fields; at most 50,000"):
        table_of("," * 60_000 + "\n")
    with pytest.raises(ReadingError, match="Line 2 of landings.csv has over 50,000"):
        table_of("a,b\n" + "," * 60_000 + "\n")


def test_a_name_beyond_all_measure_is_cut_and_said(table_of):
    table = table_of(f"{'x' * 100_000},b\n1,2\n")
    assert len(table.columns[0].name) == 1000
    assert "longer than 1,000 letters" in table.remarks[0]


def test_words_beyond_all_measure_are_no_levels(table_of):
    table = table_of("a,b\n" + f"1,{'y' * 2000}\n2,z\n" * 20)
    assert table.columns[1].kind == "label"


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ('a,b\n1,"x\n2,y\n3,z\n', "opens in line 2 is never closed"),
        ("a,b\n" + "1,x\n" * 50 + '2,"y\n' + "3,z\n" * 50, "opens in line 52 is never closed"),
    ],
)
def test_a_quote_that_is_never_closed_is_told_with_its_line(table_of, content, words):
    try:
        told = " ".join(table_of(content).remarks)
    except ReadingError as refused:
        told = str(refused)
    assert words in told


@pytest.mark.parametrize(
    "content", ['a,b\n1,5" pipe\n2,y\n3,z\n', 'a,b\n1,"5"" pipe"\n2,"two\nlines"\n']
)
def test_quotes_that_harm_nothing_are_not_told(table_of, content):
    assert table_of(content).remarks == ()


def test_text_that_begins_like_something_compressed_is_text(table_of):
    for first in ("x^2", "x\x01y"):
        assert table_of(f"{first},b\n1,2\n3,4\n").columns[0].n == 2


def test_a_file_is_opened_once(table_of, monkeypatch):
    opened = []
    real = os.open
    monkeypatch.setattr(
        os, "open", lambda path, *more: opened.append(str(path)) or real(path, *more)
    )
    for content in ("a,b\n1,2\n", b"a,\xff\xe9\n1,2\n", "a,b\n1,2,3\n4\n", 'a,b\n1,"x\n2,y\n'):
        opened.clear()
        with suppress(ReadingError):
            table_of(content)
        assert len([path for path in opened if path.endswith("landings.csv")]) == 1


def test_a_line_above_columns_that_blanks_part_is_told(tmp_path):
    path = tmp_path / "log.txt"
    path.write_text("x\nA 5\nB 6\nC 7\n")
    table = read_table(path)
    assert table.rows == 3
    assert any("begins with “x”" in remark for remark in table.remarks)


@pytest.mark.parametrize("unit", ["mm", "°C", "kg/m³"])
def test_numbers_with_a_unit_behind_them_are_one_column_under_its_name(tmp_path, unit):
    path = tmp_path / "log.txt"
    path.write_text("len\n" + "".join(f"{number / 4} {unit}\n" for number in range(40)))
    (column,) = read_table(path).columns
    assert (column.name, column.rows) == ("len", 40)


def test_rows_that_begin_with_names_have_numbers_behind_them(tmp_path):
    path = tmp_path / "named.txt"
    path.write_text("length mass\nrack 2.5 3\nline 4.5 7\nbasket 1.5 9\n")
    names = [column.name for column in read_table(path).columns]
    assert names == ["Row", "length", "mass"]


@pytest.mark.parametrize(
    ("lines", "values"),
    [
        ("1,5 2 3,25 4", [1.5, 2, 3.25, 4]),
        ("1 2,5 3 4,75", [1, 2.5, 3, 4.75]),
        ("-1,5 2,25 −3,5", [-1.5, 2.25, -3.5]),
        ("1.234,5 12,25 3,5", [1234.5, 12.25, 3.5]),
        ("1,5 NA 2,5 - 3", [1.5, np.nan, 2.5, np.nan, 3]),
        ("1,234 12,345 999", [1234, 12_345, 999]),
        ("1,234 2,345", [1.234, 2.345]),
    ],
)
def test_one_column_with_commas_is_one_column(tmp_path, lines, values):
    path = tmp_path / "x.csv"
    path.write_text("\n".join(["x", *lines.split()]) + "\n")
    table = read_table(path)
    (column,) = table.columns
    np.testing.assert_array_equal(column.values, values)
    unsure = [remark for remark in table.remarks if "choose how the file is read" in remark]
    assert len(unsure) == lines.startswith("1,234 ")


def test_prices_with_a_sign_and_decimal_commas_are_one_column(tmp_path):
    path = tmp_path / "prices.csv"
    path.write_text("price\n€ 1.234,50\n€ 12\n€ 3,40\n")
    (column,) = read_table(path).columns
    assert (column.name, column.unit, column.values.tolist()) == ("price", "€", [1234.5, 12, 3.4])


@pytest.mark.parametrize("text", ["x\n1,2,3\n4,5\n", "x,y\n1,2\n3,4\n", "x\na,1\nb,2\n"])
def test_what_is_no_column_of_numbers_has_its_fields(tmp_path, text):
    path = tmp_path / "x.csv"
    path.write_text(text)
    assert len(read_table(path).columns) > 1


@pytest.mark.parametrize("unit", [" mm", "%", " %", " kg"])
@pytest.mark.parametrize("decimal", [".", ","])
def test_numbers_with_a_unit_are_read_whatever_their_decimal_mark(tmp_path, unit, decimal):
    path = tmp_path / "x.csv"
    rows = "".join(f"{i};{i}{decimal}{i % 10}{unit}\n" for i in range(40))
    path.write_text(f"at;len\n{rows}")
    table = read_table(path)
    (problem,) = problems_of(table.column("len"))
    assert problem.code == "numbers-with-unit"
    read = prepared(table, (problem.cure,)).column("len")
    assert read.unit == unit.strip()
    assert read.values.tolist() == [i + i % 10 / 10 for i in range(40)]
    asked = prepared(table, (ChangeKind(variable="len", kind="number"),)).column("len")
    assert asked.values.tolist() == read.values.tolist()
