"""Texts as people write them: how they are laid out, and what their cells mean."""

from datetime import datetime

import numpy as np
import polars as pl
import pytest

from rhabdos.data.fields.calendars import dates_in
from rhabdos.data.fields.kinds import column_from
from rhabdos.data.fields.notation import Notation
from rhabdos.data.fields.texts import texts_of
from rhabdos.data.files.encodings import encoding_of
from rhabdos.data.files.reading import read_table
from rhabdos.data.files.writing import written
from rhabdos.data.preparing import prepared
from rhabdos.data.problems.problems import problems_of
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.sources import Values
from tests.data.corpus_texts import CELLS, LAID_OUT
from tests.data.test_formats import shown


def table_of(tmp_path, text, how=None):
    path = tmp_path / "odd.txt"
    path.write_text(text)
    return read_table(path, how=how)


def column_of(tmp_path, cells, odd="z"):
    rows = [f"{odd}\t{cell}" for cell in cells.split("|")]
    return table_of(tmp_path, "\n".join(["a\tx", *rows]) + "\n").column("x")


@pytest.mark.parametrize("case", LAID_OUT)
def test_a_text_is_told_apart(tmp_path, case):
    text, how, columns, words = LAID_OUT[case]
    table = table_of(tmp_path, text, how)
    assert [(c.name, c.kind, shown(c)) for c in table.columns] == columns
    remarks = " ".join(table.remarks)
    assert all(word in remarks for word in words), remarks
    assert words or not remarks, remarks


@pytest.mark.parametrize("case", LAID_OUT)
def test_a_first_look_at_a_text_reads_it_alike(tmp_path, case):
    from rhabdos.data.files.preview import preview

    text, how, columns, _ = LAID_OUT[case]
    path = tmp_path / "odd.txt"
    path.write_text(text)
    seen = preview(path, how)
    assert [c.name for c in seen.columns] == [name for name, _, _ in columns]
    again = read_table(path, how=seen.how)
    assert [(c.name, c.kind, shown(c)) for c in again.columns] == columns


@pytest.mark.parametrize("case", CELLS)
def test_cells_are_read_as_they_are_meant_and_doubts_are_told(tmp_path, case):
    cells, kind, values, codes = CELLS[case]
    column = column_of(tmp_path, cells)
    assert column.kind == kind
    if values is not None:
        read = shown(column)
        assert read == (pytest.approx(values) if kind == "number" else values.split("|"))
    if codes is not None:
        assert [problem.code for problem in problems_of(column)] == codes


@pytest.mark.parametrize("case", CELLS)
def test_cells_keep_their_text(tmp_path, case):
    """A kind that is changed to a label gives the text back, blanks and odd words beside it."""
    cells, _, _, _ = CELLS[case]
    table = table_of(tmp_path, "a\tx\n" + "".join(f"z\t{c}\n" for c in f"{cells}|n/a".split("|")))
    label = prepared(table, [ChangeKind(variable="x", kind="label")]).column("x")
    assert list(label.texts) == [*cells.split("|"), None]
    assert label.missing_as == {"n/a": 1}


CURES = {
    "thousands": [1.234, 2.345, 12.345],
    "clock times": [9 + 5 / 60, 10.25, 23.5],
    "firsts of months": ["2024-01-02", "2024-02-03", "2024-03-04"],
    "short years": ["1924-02-13", "1923-03-14", "1945-01-01"],
}


@pytest.mark.parametrize("case", CURES)
def test_a_doubt_is_cured(tmp_path, case, monkeypatch):
    import datetime

    class Then(datetime.date):
        @classmethod
        def today(cls):
            return cls(2022, 6, 1)

    monkeypatch.setattr("rhabdos.data.fields.calendars.datetime.date", Then)
    cells, _, _, codes = CELLS[case]
    table = table_of(tmp_path, "a\tx\n" + "".join(f"z\t{cell}\n" for cell in cells.split("|")))
    problem = problems_of(table.column("x"))[0]
    assert problem.code == codes[0]
    cured = prepared(table, [problem.cure]).column("x")
    wanted = CURES[case]
    assert shown(cured) == (pytest.approx(wanted) if cured.kind == "number" else wanted)
    assert problems_of(cured) == ()
    if case == "clock times":
        assert cured.unit == "min"


@pytest.mark.parametrize(
    ("dates", "other", "told"),
    [(9, "some day", True), (3, "some day", False), (9, "a day " + "that came late " * 3, False)],
)
def test_dates_among_words_are_told_where_they_are_most_and_not_few(tmp_path, dates, other, told):
    lines = [f"2026-03-{day:02d}" for day in range(1, dates + 1)] + [other]
    table = table_of(tmp_path, "a\tx\n" + "".join(f"z\t{line}\n" for line in lines))
    column = prepared(table, [ChangeKind(variable="x", kind="label")]).column("x")
    again = prepared(table, [ChangeKind(variable="x", kind="category")]).column("x")
    for each in (column, again):
        assert ("dates-as-text" in [p.code for p in problems_of(each)]) == told
        if told:
            (problem,) = [p for p in problems_of(each) if p.code == "dates-as-text"]
            assert problem.text.endswith(
                f"are dates; 1 value is no date: “some day” 1 (the first in row {dates + 1})."
            )


def test_what_is_no_date_is_counted_by_rows_named_and_told_again_when_it_is_lost(tmp_path):
    lines = [f"2026-03-{day:02d}" for day in range(1, 29)]
    lines[3:3] = ["some day", "a day", "some day", "45", "a day", "some day"]
    table = table_of(tmp_path, "a\tx\n" + "".join(f"z\t{line}\n" for line in lines))
    named = "6 values are not dates: “some day” 3, “a day” 2, “45” 1"
    for kind in ("label", "category"):
        (problem,) = problems_of(prepared(table, [ChangeKind(variable="x", kind=kind)]).column("x"))
        told = f"most of its values are dates; {named} (the first in row 4)."
        assert (problem.n, problem.text) == (6, f"“x” reads as text, and {told}")
        cured = prepared(table, [ChangeKind(variable="x", kind=kind), problem.cure]).column("x")
        assert [(p.code, p.n, p.text) for p in problems_of(cured)] == [
            ("not-dates", 6, f"In “x” {named}; they count as missing.")
        ]


@pytest.mark.parametrize(
    ("first", "later", "meant"),
    [
        ("900", "1,050", 1050.0),
        ("7", "2,5", 2.5),
        ("9.5", "1 050.5", 1050.5),
        ("5", "1.050,5", 1050.5),
    ],
)
def test_marks_that_only_later_rows_have_are_read_too(tmp_path, first, later, meant):
    table = table_of(tmp_path, "v;b\n" + f"{first};A\n" * 5_100 + f"{later};B\n")
    assert table.columns[0].values[[0, -1]].tolist() == [float(first), meant]
    table = table_of(tmp_path, "v;b\n" + f"{first};A\n" * 5_100 + f"{later};B\nword;B\n")
    assert table.columns[0].kind == "category"


@pytest.mark.parametrize("end", ["", "\r", "\n", "\n\n", "\r\n"])
def test_lines_that_end_as_of_old_may_end_otherwise_at_last(tmp_path, end):
    table = table_of(tmp_path, "n;bay\r7;A\r8;B\r9,5;C" + end)
    assert [(c.name, c.rows) for c in table.columns] == [("n", 3), ("bay", 3)]
    assert table.columns[0].values.tolist() == [7, 8, 9.5]


@pytest.mark.parametrize("signs", ["€£", "°µ", "–’", "½²", "€\u00a0"])
def test_signs_that_are_of_no_language_are_those_of_the_usual_encoding(tmp_path, signs):
    path = tmp_path / "signs.csv"
    rows = "".join(f"A{signs[i % 2]}B;{i}\n" for i in range(400))
    path.write_bytes(f"bay;x\n{rows}".encode("cp1252"))
    table = read_table(path)
    assert table.columns[0].levels == tuple(sorted(f"A{sign}B" for sign in signs))
    assert "it was read as windows-1252" in table.remarks[0]


def test_a_text_that_speaks_for_no_encoding_is_read_as_usual_and_that_is_told(tmp_path):
    path = tmp_path / "letters.csv"
    rows = "".join(f"{'Łź'[i % 2]};{i * 7 % 100 / 100:.2f}\n" for i in range(400))
    path.write_bytes(f"bay;price\n{rows}".encode("cp1250"))
    table = read_table(path)
    assert table.rows == 400
    assert "is not in UTF-8; it was read as" in table.remarks[0]


_WORDS = {
    ("C", "cp1252"): "Möwe Süd|Près Forêt|Ærø Blå|España Bahía|Água", ("pl", "cp1250"): "Łódź|Gdańsk Żółty",
    ("cs", "cp1250"): "Děčín Žižkov", ("hu", "cp1250"): "Őszi Győr", ("tr", "cp1254"): "İstanbul Ağrı",
    ("C", "cp1251"): "Север|Залив Длина|Затока Їжак", ("C", "cp1253"): "Κόλπος Βορράς|Μήκος",
    ("he", "cp1255"): "מפרץ צפון", ("ar", "cp1256"): "خليج شمال", ("ja", "cp932"): "東京湾 カキ養殖",
    ("zh", "gbk"): "海湾 牡蛎", ("ko", "cp949"): "바다 서울", ("ru", "cp1252"): "Möwe Süd",
    ("C", "cp850"): "Möwe Größe", ("C", "mac_roman"): "Möwe Größe Fläche",
}  # fmt: skip


@pytest.mark.parametrize(
    ("language", "encoding", "words"),
    [(*at, words) for at, some in _WORDS.items() for words in some.split("|")],
)
def test_few_words_are_read_as_people_write_them(language, encoding, words, monkeypatch):
    monkeypatch.setenv("LC_ALL", f"{language}_XX.UTF-8")
    some = words.split()
    text = "bay;n\n" + "".join(f"{some[i % len(some)]};{i}\n" for i in range(90))
    told, guessed = encoding_of(text.encode(encoding), "names.csv")
    assert (text.encode(encoding).decode(told), guessed) == (text, True)


@pytest.mark.parametrize("above", [2, 70_000])
def test_a_text_of_which_few_bytes_are_damaged_is_utf_8_all_the_same(tmp_path, above):
    path = tmp_path / "damaged.csv"
    path.write_bytes(b"bay,x\n" + "Möwe,1\nSüd,2\n".encode() * above * 10 + b"N\xfcrd,3\n")
    table = read_table(path)
    assert table.columns[0].levels == ("Möwe", "N\ufffdrd", "Süd")
    assert table.remarks == (
        "Some bytes of damaged.csv are not UTF-8, and stand as “\ufffd”. Check these letters.",
    )


def test_leap_days_of_another_century_are_none():
    import polars as pl

    days = dates_in(pl.Series(["29/02/00", "29/02/04", "28/02/00 "]), Notation(
        date="%d/%m/%y", years_from=1900
    ))  # fmt: skip
    assert days[0] is None  # 1900 was no leap year
    assert days[1] == (np.datetime64("1904-02-29") - np.datetime64("1970-01-01")).astype(int)
    assert days[2] == (np.datetime64("1900-02-28") - np.datetime64("1970-01-01")).astype(int)


def test_short_windows_1251_follows_the_desktop(tmp_path, monkeypatch):
    path = tmp_path / "short.csv"
    path.write_bytes("Имя;Вес\nИван;3\nПётр;4\n".encode("cp1251"))
    monkeypatch.setenv("LC_ALL", "")
    monkeypatch.setenv("LC_CTYPE", "")
    monkeypatch.setenv("LANG", "ru_RU.UTF-8")
    table = read_table(path)
    assert [c.name for c in table.columns] == ["Имя", "Вес"]
    assert "windows-1251" in table.remarks[0]


TYPED = {
    "12 15 9 18": [("Column 1", [12, 15, 9, 18])],
    "12, 15, 9": [("Column 1", [12, 15, 9])],
    "12;15;9": [("Column 1", [12, 15, 9])],
    "1,2,3": [("Column 1", [1, 2, 3])],
    "12,5": [("Column 1", [12.5])],
    "12,5 13,7": [("Column 1", [12.5, 13.7])],
    "12,5\n13,7\n14\n": [("Column 1", [12.5, 13.7, 14])],
    "Length\n12,5\n13,7\n": [("Length", [12.5, 13.7])],
    "Length\n12 15 9": [("Length", [12, 15, 9])],
    "12 15 9\n18 20\n": [("Column 1", [12, 15, 9, 18, 20])],
    "a\tb\n1,234\t2\n2,345\t3\n": [("a", [1234, 2345]), ("b", [2, 3])],
    "a\tb\n12,5\t2\n13,25\t3\n": [("a", [12.5, 13.25]), ("b", [2, 3])],
    "x,y\n1,2\n": [("x", [1]), ("y", [2])],
    "x;y\n1,5;2\n3,5;4\n": [("x", [1.5, 3.5]), ("y", [2, 4])],
    "x\n1,5\n2,75\n": [("x", [1.5, 2.75])],
    "[12, 15.5,\n9]\n": [("Column 1", [12, 15.5, 9])],
    "(12, 15, 9)": [("Column 1", [12, 15, 9])],
    '{"rows": [{"x": 1}, {"x": 2}]}': [("x", [1, 2])],
    "<table><tr><th>x</th></tr><tr><td>1</td></tr></table>": [("x", [1])],
    "| x | y |\n|--:|--:|\n| 1 | 2 |\n": [("x", [1]), ("y", [2])],
    "<table>\tb\n1\t2\n": [("<table>", [1]), ("b", [2])],
}


@pytest.mark.parametrize("text", TYPED)
def test_typed_and_pasted_values_are_cells_or_a_list(text):
    table = Values(text=text).table()
    assert [(c.name, c.values.tolist()) for c in table.columns] == TYPED[text]


@pytest.mark.parametrize("remarks", [1, 2, 3])
@pytest.mark.parametrize("marked", ["", "# "])
def test_remarks_above_the_names_are_passed_over_however_many(tmp_path, remarks, marked):
    text = "# by hand\n" * remarks + f"{marked}x,y\n" + "".join(f"{i},{i + 1}\n" for i in range(30))
    table = table_of(tmp_path, text)
    assert [c.name for c in table.columns] == ["x", "y"] or marked
    assert len(table.columns) == 2
    assert table.rows == 30
    assert table.columns[1].values.tolist() == list(range(1, 31))


def test_typed_values_are_parted_by_what_is_named():
    table = Values(text="x\ty|z\n1|3\n2|4\n", read=Read(separator="|")).table()
    assert len(table.columns) == 2
    assert table.column("z").values.tolist() == [3, 4]


def test_what_a_kind_lost_comes_back(tmp_path):
    table = table_of(tmp_path, "a\tx\nz\t5\nz\tcalm\nz\t\nz\t7\nz\tn/a\nz\tT-9\n")
    lost = ChangeKind(variable="x", kind="number")
    numbers = prepared(table, [lost]).column("x")
    assert numbers.n == 2
    back = prepared(table, [lost, ChangeKind(variable="x", kind="label")]).column("x")
    assert list(back.texts) == ["5", "calm", None, "7", None, "T-9"]
    assert back.missing_as == {"blank": 1, "n/a": 1}
    declared = [lost, DeclareMissing(variable="x", codes=(7.0,))]
    kept = prepared(table, [*declared, ChangeKind(variable="x", kind="label")]).column("x")
    assert list(kept.texts) == ["5", "calm", None, None, None, "T-9"]
    assert kept.missing_as == {"blank": 1, "n/a": 1, "7": 1}
    assert kept.stood.word_at(3) == "7"


def test_a_code_among_dates_is_declared_missing(tmp_path):
    table = table_of(tmp_path, "a\tx\nz\t2024-05-01\nz\t1900-01-01\nz\t2024-05-03\n")
    for code in ("1900-01-01", "01.01.1900"):
        column = prepared(table, [DeclareMissing(variable="x", codes=(code,))]).column("x")
        assert shown(column) == ["2024-05-01", None, "2024-05-03"]
        assert column.missing_as == {code_written(code): 1}


def code_written(code):
    return f"“{code}”"


def test_parts_of_a_second_are_written(tmp_path):
    moments = "2024-01-02T03:04:05.25|2024-01-02T03:04:05|2024-01-02|2024-01-02T03:04:05.000001"
    table = table_of(tmp_path, "a\tx\n" + "".join(f"z\t{m}\n" for m in moments.split("|")))
    text = written(table, ".csv").decode()
    assert [line.split(",")[1] for line in text.splitlines()[1:]] == [
        "2024-01-02 03:04:05.25",
        "2024-01-02 03:04:05",
        "2024-01-02",
        "2024-01-02 03:04:05.000001",
    ]
    path = tmp_path / "again.csv"
    path.write_text(text)
    again = read_table(path).column("x")
    assert np.abs(again.values - table.column("x").values).max() * 86_400e6 < 0.5
    assert texts_of(again)[0] == "2024-01-02 03:04:05.25"


def test_moments_are_days_rounded_once():
    # A time of the day that is no binary fraction: a bound at 10:20:30 must find it.
    micros = np.random.default_rng(4).integers(0, 2 * 10**15, 5_000)
    series = pl.Series(micros).cast(pl.Datetime("us"))
    assert np.array_equal(column_from("d", series).values, micros / 86_400_000_000)
    texts = series.dt.to_string("%Y-%m-%d %H:%M:%S%.6f")
    assert np.array_equal(column_from("d", texts).values, micros / 86_400_000_000)


def test_moments_of_another_zone_are_read_as_utc_and_that_is_told():
    noon = pl.Series([None, datetime(2026, 7, 1, 12)]).dt.replace_time_zone("Europe/Paris")
    column = column_from("d", noon)
    assert column.written(column.values[1]) == "2026-07-01 10:00"
    (told,) = problems_of(column)
    assert "“2026-07-01 12:00 Europe/Paris” was read as 2026-07-01 10:00 in UTC" in told.text
    assert problems_of(column_from("d", noon.dt.convert_time_zone("UTC"))) == ()


@pytest.mark.parametrize("name", ["Soaking time", "Soaking time (min)", "a b c d e"])
def test_a_list_under_a_name_of_several_words_has_one_column(tmp_path, name):
    path = tmp_path / "list.txt"
    path.write_text("\n".join([name, *map(str, (4, 12, 18, 22, 25, 31))]))
    (column,) = read_table(path).columns
    assert (column.name, column.values.tolist()) == (name, [4, 12, 18, 22, 25, 31])
