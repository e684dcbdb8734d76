"""Awkward files, small and made up, each with what it should become.

A case is a name, bytes, how the file is read (or None), the columns that come out as name, kind and
values, and words that the remarks must hold. Numbers are floats, blanks None; levels and labels are
their texts, dates their text.
"""

import gzip
import io
import json
import sqlite3
import zipfile
from datetime import date, datetime
from pathlib import Path

import openpyxl
import polars as pl

from rhabdos.data.steps.reading import Read

FOLDER = Path(__file__).parent.parent / "corpus"


def workbook(**sheets) -> bytes:
    """Sheets by name, each a list of rows."""
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets.items():
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(row)
    return _saved(book)


def _saved(book: openpyxl.Workbook) -> bytes:
    content = io.BytesIO()
    book.save(content)
    return content.getvalue()


def merged_workbook(*units: str | None) -> bytes:
    book = openpyxl.Workbook()
    sheet = book.active
    for row in (["Growth", None, "Site"], ["week 1", "week 2", "name"], [*units]):
        if row:
            sheet.append(row)
    sheet.merge_cells("A1:B1")
    for row in ([1.5, 2.5, "Saltmere"], [2.5, 3.5, "Saltmere"], [4, 5, "Gull Spit"]):
        sheet.append(row)
    return _saved(book)


def faulty_workbook() -> bytes:
    """Formulas without a result, as a spreadsheet stores them."""
    book = openpyxl.Workbook()
    sheet = book.active
    for row in (["tag", "ratio"], ["T-1", 1.5], ["T-2", "#DIV/0!"], ["T-3", 2], ["T-4", "#N/A"]):
        sheet.append(row)
    for cell in ("B3", "B5"):
        sheet[cell].data_type = "e"
    return _saved(book)


def ods(rows) -> bytes:
    """An OpenDocument sheet of texts and numbers."""
    cells = ""
    for row in rows:
        cells += "<table:table-row>"
        for value in row:
            if isinstance(value, str):
                cells += f'<table:table-cell office:value-type="string"><text:p>{value}</text:p></table:table-cell>'
            else:
                cells += f'<table:table-cell office:value-type="float" office:value="{value}"><text:p>{value}</text:p></table:table-cell>'
        cells += "</table:table-row>"
    spaces = " ".join(
        f'xmlns:{short}="urn:oasis:names:tc:opendocument:xmlns:{long}:1.0"'
        for short, long in (("office", "office"), ("table", "table"), ("text", "text"))
    )
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {spaces}><office:body>'
        f'<office:spreadsheet><table:table table:name="Landings">{cells}</table:table>'
        "</office:spreadsheet></office:body></office:document-content>"
    )
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as parts:
        parts.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        parts.writestr("content.xml", content)
        parts.writestr(
            "META-INF/manifest.xml",
            '<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>',
        )
    return file.getvalue()


def database(*statements: str) -> bytes:
    connection = sqlite3.connect(":memory:")
    for statement in statements:
        connection.execute(statement)
    connection.commit()
    content = connection.serialize()
    connection.close()
    return content


def frame_bytes(frame: pl.DataFrame, write: str) -> bytes:
    content = io.BytesIO()
    getattr(frame, write)(content)
    return content.getvalue()


def zstd(content: bytes) -> bytes:
    import sys

    if sys.version_info >= (3, 14):
        from compression.zstd import compress
    else:
        from backports.zstd import compress
    return compress(content)


TYPED = pl.DataFrame(
    {
        "length": [64.5, None, 70.25],
        "bay": ["Saltmere", "Saltmere", None],
        "day": [date(2026, 5, 1), None, date(2026, 5, 3)],
        "alive": [True, False, True],
        "grade": pl.Series(["low", "high", "low"], dtype=pl.Enum(["low", "mid", "high"])),
        "tag": [9007199254740993, 9007199254740995, 9007199254740997],
    }
)
_TYPED = [
    ("length", "number", [64.5, None, 70.25]),
    ("bay", "category", ["Saltmere", "Saltmere", None]),
    ("day", "date/time", ["2026-05-01", None, "2026-05-03"]),
    ("alive", "yes/no", ["true", "false", "true"]),
    ("grade", "ordered category", ["low", "high", "low"]),
    ("tag", "label", ["9007199254740993", "9007199254740995", "9007199254740997"]),
]
SMALL = "length,bay\n1.5,A\n2.5,B\n3,A\n"
_SMALL = [("length", "number", [1.5, 2.5, 3]), ("bay", "category", ["A", "B", "A"])]
RECORDS = [
    {"length": 64.5, "bay": "Saltmere", "note": ["a", 1]},
    {"length": None, "bay": "Saltmere", "note": {"by": "Åsa"}},
    {"bay": "Gull Spit", "length": 70},
    {"bay": "Gull Spit", "length": 71},
]
_RECORDS = [
    ("length", "number", [64.5, None, 70, 71]),
    ("bay", "category", ["Saltmere", "Saltmere", "Gull Spit", "Gull Spit"]),
    ("note", "category", ['["a",1]', None, None, None]),
    ("note.by", "category", [None, "Åsa", None, None]),
]
LINES = "\n".join(json.dumps(r, ensure_ascii=False) for r in RECORDS)
LANDINGS = (
    "CREATE TABLE sites (site TEXT)",
    "CREATE TABLE landings (tag INTEGER, length REAL, mixed, bay TEXT)",
    "INSERT INTO landings VALUES (1, 64.5, 1, 'Saltmere'), (2, NULL, 'two', 'Saltmere'), (3, 70, 3.5, 'Gull Spit'), (4, 71, x'0aff', 'Gull Spit')",
    "CREATE VIEW large AS SELECT length FROM landings WHERE length > 65",
)
_LANDINGS = [
    ("tag", "number", [1, 2, 3, 4]),
    ("length", "number", [64.5, None, 70, 71]),
    ("mixed", "label", ["1", "two", "3.5", "0x0aff"]),
    ("bay", "category", ["Saltmere", "Saltmere", "Gull Spit", "Gull Spit"]),
]
SHEET = workbook(
    Cover=[],
    Landings=[
        ["tag", "length", "day", "mixed", "alive"],
        ["T-1", 1 / 3, date(2026, 5, 1), 1, True],
        ["T-2", None, datetime(2026, 5, 2, 14, 30), "two", False],
        ["T-3", 70, date(2026, 5, 3), 3.5, True],
    ],
)
_SHEET = [
    ("tag", "label", ["T-1", "T-2", "T-3"]),
    ("length", "number", [1 / 3, None, 70]),
    ("day", "date/time", ["2026-05-01", "2026-05-02 14:30", "2026-05-03"]),
    ("mixed", "label", ["1", "two", "3.5"]),
    ("alive", "yes/no", ["true", "false", "true"]),
]

CASES = {
    "gzip": (gzip.compress(SMALL.encode()), None, _SMALL, ()),
    "zstd": (zstd(SMALL.encode()), None, _SMALL, ()),
    "two zstd frames": (zstd(SMALL[:15].encode()) + zstd(SMALL[15:].encode()), None, _SMALL, ()),
    "a workbook": (SHEET, None, _SHEET, ("2 sheets", "“Landings”")),
    "a workbook, its sheet named": (SHEET, Read(sheet="Landings"), _SHEET, ()),
    "cells of a workbook": (
        SHEET,
        Read(sheet="Landings", range="B1:C3"),
        [
            ("length", "number", [1 / 3, None]),
            ("day", "date/time", ["2026-05-01", "2026-05-02 14:30"]),
        ],
        (),
    ),
    "merged names": (
        merged_workbook(),
        None,
        [
            ("Growth week 1", "number", [1.5, 2.5, 4]),
            ("Growth week 2", "number", [2.5, 3.5, 5]),
            ("Site name", "category", ["Saltmere", "Saltmere", "Gull Spit"]),
        ],
        ("two rows",),
    ),
    "merged names, and units": (
        merged_workbook("mm", "mm", None),
        None,
        [
            ("Growth week 1 (mm)", "number", [1.5, 2.5, 4]),
            ("Growth week 2 (mm)", "number", [2.5, 3.5, 5]),
            ("Site name", "category", ["Saltmere", "Saltmere", "Gull Spit"]),
        ],
        ("two rows, and units in a third",),
    ),
    "formulas without a result": (
        faulty_workbook(),
        None,
        [("tag", "label", ["T-1", "T-2", "T-3", "T-4"]), ("ratio", "number", [1.5, None, 2, None])],
        (),
    ),
    **{
        f"a table that is drawn, {told}": (
            text,
            None,
            [("bay", "category", ["A|B", "C", "C"]), ("n", "number", [1.5, None, 12])],
            ("is a table drawn with bars and dashes; its cells were read",),
        )
        for told, text in (
            (
                "in notes",
                b"| bay | n |\r\n|:--|--:|\r\n| A\\|B | 1.5 |\r\n| C | |\r\n| C | 12 |\r\n",
            ),
            (
                "by a shell",
                b" bay  |  n\n------+------\n A\\|B |  1.5\n C    |\n C    |   12\n(3 rows)\n",
            ),
            ("in a box", b"+---+---+\n|bay|n|\n+---+---+\n|A\\|B|1.5|\n|C||\n|C|12|\n+===+===+\n"),
        )
    },
    "a drawn table whose first cell is blank": (
        b" bay | n\n-----+---\n     | 1\n A   | \n A   | 2\n",
        None,
        [("bay", "category", [None, "A", "A"]), ("n", "number", [1, None, 2])],
        ("its cells were read",),
    ),
    "bars beneath which no table is drawn": (
        b"bay|n\n-|+\nA|1\nB|2\n",
        None,
        [("bay", "label", ["-", "A", "B"]), ("n", "label", ["+", "1", "2"])],
        (),
    ),
    "a table that is drawn, and a sentence": (
        b"bay|n\n--|--\nA|1\nA|2\nby hand\n",
        None,
        [("bay", "category", ["--", "A", "A", "by hand"]), ("n", "label", ["--", "1", "2", None])],
        ("1 row has fewer fields",),
    ),
    "notes beneath rows": (
        b"bay,n\nA,1.5\n\nA,2\nB,\n\n\n* by hand\nSource: the harbour\n",
        None,
        [("bay", "category", ["A", "A", "B"]), ("n", "number", [1.5, 2, None])],
        (
            "1 blank line between rows was passed over (line 3).",
            "Beneath the rows stand 2 notes, the first of which is “* by hand”; they stayed out.",
        ),
    ),
    "notes beneath the rows of a sheet": (
        workbook(S=[["n", "bay"], [1.5, "A"], [2, "A"], [None, "B"], [], ["by hand"]]),
        None,
        [("n", "number", [1.5, 2, None]), ("bay", "category", ["A", "A", "B"])],
        ("Beneath the rows stands “by hand”, which is no row of this table; it stayed out.",),
    ),
    "remarks at the end": (
        b"# logger 7\nn,bay\r\n1.5,A\r\n2,A\r\n\r\n# paused\r\n# end, 2 rows\r\n\r\n",
        None,
        [("n", "number", [1.5, 2]), ("bay", "category", ["A", "A"])],
        ("Beneath the rows stand 2 notes, the first of which is “# paused”; they stayed out.",),
    ),
    "tags that begin as remarks": (
        b"tag,n\n#1,5\n#2,6\n#3,9\n",
        None,
        [("tag", "label", ["#1", "#2", "#3"]), ("n", "number", [5, 6, 9])],
        (),
    ),
    "a first row that is short, and no names": (
        b"1\n2,5\n3\n4,6\n",
        Read(separator=","),
        [("Column 1", "number", [1, 2, 3, 4]), ("Column 2", "number", [None, 5, None, 6])],
        ("2 rows have fewer fields than the others",),
    ),
    "remarks above rows that have no names, as was asked": (
        b"# by hand\n1,5\n2,7\n",
        Read(header=0, separator=","),
        [("Column 1", "number", [1, 2]), ("Column 2", "number", [5, 7])],
        (),
    ),
    "a last row that is no note": (
        b"bay,n\nA,1.5\nB,2\n\nC,\n7\n",
        None,
        [("bay", "label", ["A", "B", "C", "7"]), ("n", "number", [1.5, 2, None, None])],
        ("1 blank line", "1 row has fewer fields"),
    ),
    "formulas that nobody worked out": (
        workbook(S=[["bay", "n"], ["A", "=1+1"], ["A", 5], ["B", "=B2*3"], ["B", 7]]),
        None,
        [("bay", "category", ["A", "A", "B", "B"]), ("n", "number", [None, 5, None, 7])],
        ("2 formulas have no result in the file (the first in B2) and read as missing",),
    ),
    "a formula that nobody worked out": (
        workbook(S=[["", "bay", "n"], ["", "A", 5], ["", "A", "=SUM(C2)"], ["", "B", 7]]),
        None,
        [("bay", "category", ["A", "A", "B"]), ("n", "number", [5, None, 7])],
        ("The formula in C3 has no result in the file and reads as missing",),
    ),
    "an OpenDocument sheet": (
        ods([["length", "bay"], [1.5, "A"], [2.5, "B"], [3, "A"]]),
        None,
        _SMALL,
        (),
    ),
    "a title above the names": (
        workbook(S=[["Landings of May"], [], ["length", "bay"], [1.5, "A"], [2.5, "B"], [3, "A"]]),
        None,
        _SMALL,
        ("“Landings of May”",),
    ),
    "Parquet": (frame_bytes(TYPED, "write_parquet"), None, _TYPED, ()),
    "Arrow": (frame_bytes(TYPED, "write_ipc"), None, _TYPED, ()),
    "an Arrow stream": (frame_bytes(TYPED, "write_ipc_stream"), None, _TYPED, ()),
    "JSON records": (json.dumps(RECORDS).encode(), None, _RECORDS, ()),
    "JSON lines": (LINES.encode(), None, _RECORDS, ()),
    "JSON in UTF-16": (LINES.encode("utf-16"), None, _RECORDS, ()),
    "JSON of mixed kinds": (
        b'[{"v": 1}, {"v": "two"}, {"v": true}, {"w": 5}]',
        None,
        [("v", "label", ["1", "two", "true", None]), ("w", "number", [None, None, None, 5])],
        (),
    ),
    "records within an object": (
        b'{"made": "2026", "rows": [{"v": 1.5}, {"v": 2}]}',
        None,
        [("v", "number", [1.5, 2])],
        (),
    ),
    "lists of columns": (
        b'{"v": [1, 2, 3], "g": ["a", "b", "a"]}',
        None,
        [("v", "number", [1, 2, 3]), ("g", "category", ["a", "b", "a"])],
        (),
    ),
    "one record": (b'{"v": 1.5}', None, [("v", "number", [1.5])], ()),
    "a database": (database(*LANDINGS), None, _LANDINGS, ("3 tables and views", "“landings”")),
    "a view": (database(*LANDINGS), Read(table="large"), [("length", "number", [70, 71])], ()),
    "lines above the names": (
        b"Landings of May\nmade by hand\n\n" + SMALL.encode(),
        None,
        _SMALL,
        ("first 3 lines", "“Landings of May”"),
    ),
    "units below the names": (
        b"length,mass,bay\nmm,g,\n1.5,2,A\n2.5,3,B\n3,4,A\n",
        None,
        [
            ("length (mm)", "number", [1.5, 2.5, 3]),
            ("mass (g)", "number", [2, 3, 4]),
            ("bay", "category", ["A", "B", "A"]),
        ],
        ("two rows",),
    ),
    "semicolons under a title, with units and decimal commas": (
        b"Report of May\n\nlength;mass;bay\nmm;g;\n0,5;0,25;A\n1,5;2,25;B\n2,5;4,25;A\n3,5;6,25;B\n",
        None,
        [
            ("length (mm)", "number", [0.5, 1.5, 2.5, 3.5]),
            ("mass (g)", "number", [0.25, 2.25, 4.25, 6.25]),
            ("bay", "category", ["A", "B", "A", "B"]),
        ],
        ("“Report of May”", "two rows"),
    ),
    "a first value that is none": (
        b"length,bay\nlost,A\n2.5,B\n3,A\n4,B\n",
        None,
        [("length", "label", ["lost", "2.5", "3", "4"]), ("bay", "category", ["A", "B", "A", "B"])],
        (),
    ),
    "columns in line": (
        b"length  bay\n 1.5    A\n12.5    B\n 3      A\n",
        None,
        [("length", "number", [1.5, 12.5, 3]), ("bay", "category", ["A", "B", "A"])],
        (),
    ),
    "names in the third line, asked for": (
        b"a,b\nc,d\nlength,bay\n1,A\n2,A\n",
        Read(header=3),
        [("length", "number", [1, 2]), ("bay", "category", ["A", "A"])],
        (),
    ),
    "no names, asked for": (
        b"x,5\ny,6\nx,7\n",
        Read(header=0),
        [("Column 1", "category", ["x", "y", "x"]), ("Column 2", "number", [5, 6, 7])],
        (),
    ),
    "another quote": (
        b"a,b\n'one, two',1\n'three',2\n'one, two',3\n",
        Read(quote="'"),
        [("a", "category", ["one, two", "three", "one, two"]), ("b", "number", [1, 2, 3])],
        (),
    ),
    "another separator": (
        b"a:b\n1:2\n3:4\n",
        Read(separator=":"),
        [("a", "number", [1, 3]), ("b", "number", [2, 4])],
        (),
    ),
    "thousands": (
        b'mass;n\n"1.234,5";1\n"12.000,0";2\n"1.000.000,25";3\n',
        None,
        [("mass", "number", [1234.5, 12000, 1000000.25]), ("n", "number", [1, 2, 3])],
        (),
    ),
    "powers of ten": (
        "dose;n;code\n2,5 × 10⁻⁶;1 × 10^3;2³\n10⁶;-10^2;3³\n0,125;4.5*10^2;2³\n".encode(),
        None,
        [
            ("dose", "number", [2.5e-6, 1e6, 0.125]),
            ("n", "number", [1000, -100, 450]),
            ("code", "category", ["2³", "3³", "2³"]),
        ],
        (),
    ),
    "a few odd letters": (
        "place,n\nÆrø,1\nÆrø,2\nLæsø,3\nLæsø,4\n".encode("cp1252"),
        None,
        [("place", "category", ["Ærø", "Ærø", "Læsø", "Læsø"]), ("n", "number", [1, 2, 3, 4])],
        ("windows-1252",),
    ),
    "many odd letters": (
        ("place,n\n" + "Ærø,1\nLæsø,2\nFanø,3\nÖland,4\n" * 12).encode("cp1252"),
        None,
        [
            ("place", "category", ["Ærø", "Læsø", "Fanø", "Öland"] * 12),
            ("n", "number", [1, 2, 3, 4] * 12),
        ],
        ("windows-1252",),
    ),
    "Cyrillic letters": (
        ("место,n\n" + "Белая бухта,1\nТихий залив,2\n" * 20).encode("cp1251"),
        None,
        [("место", "category", ["Белая бухта", "Тихий залив"] * 20), ("n", "number", [1, 2] * 20)],
        ("windows-1251",),
    ),
    "an encoding that was asked for": (
        "place,n\nĆma,1\nĆma,2\n".encode("cp1250"),
        Read(encoding="cp1250"),
        [("place", "category", ["Ćma", "Ćma"]), ("n", "number", [1, 2])],
        (),
    ),
    "UTF-16 without a mark": (
        "length,bay\n1.5,A\n2.5,B\n3,A\n".encode("utf-16-le"),
        None,
        _SMALL,
        ("utf-16-le",),
    ),
    "dates": (
        b"day,when\n2026-05-31,31.05.2026 14:30\n2026-06-01,01.06.2026 09:05\n",
        None,
        [
            ("day", "date/time", ["2026-05-31", "2026-06-01"]),
            ("when", "date/time", ["2026-05-31 14:30", "2026-06-01 09:05"]),
        ],
        (),
    ),
}


def _archive() -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as parts:
        parts.writestr("landings.csv", SMALL)
        parts.writestr("sites.csv", SMALL)
    return file.getvalue()


REFUSED = {
    "truncated gzip": (gzip.compress(SMALL.encode() * 500)[:-20], None, "cut short"),
    "damaged gzip": (gzip.compress(SMALL.encode() * 500)[:30] + b"x" * 90, None, "damaged"),
    "truncated zstd": (zstd(SMALL.encode() * 500)[:-5], None, "cut short"),
    "a bomb": (gzip.compress(bytes(10 << 20), 6) * 30, None, "300 times its own size"),
    "a web page without a table": (b"<html><p>1</p></html>", None, "is a web page without a table"),
    "a web page with a mark": (b"\xef\xbb\xbf\r\n<!DOCTYPE HTML><html>", None, "web page"),
    "a password": ((FOLDER / "locked.xlsx").read_bytes(), None, "behind a password"),
    "a workbook cut short": (SHEET[: len(SHEET) // 2], None, "cut short or damaged"),
    "an archive": (_archive(), None, "an archive of 2 files: “landings.csv” and “sites.csv”"),
    "a PDF": (b"%PDF-1.7\n", None, "is a PDF"),
    "a sheet that is not there": (SHEET, Read(sheet="Growth"), "no sheet “Growth”. It has “Cover”"),
    "an empty workbook": (workbook(Empty=[]), None, "no sheet that holds anything"),
    "Parquet cut short": (frame_bytes(TYPED, "write_parquet")[:-20], None, "cut short"),
    "Arrow cut short": (frame_bytes(TYPED, "write_ipc")[:-40], None, "cut short"),
    "JSON cut short": (json.dumps(RECORDS).encode()[:-9], None, "looks like JSON but is none"),
    "a broken line of JSON": (b'{"v": 1}\nbroken\n{"v": 2}\n', None, "Line 2 of"),
    "JSON that is no record": (b'[{"v": 1}, 5]', None, "record 2 is “5”"),
    "a table that is not there": (database(*LANDINGS), Read(table="sea"), "no table “sea”"),
    "an empty database": (database("PRAGMA user_version = 1"), None, "no table and no view"),
    "a damaged database": (
        b"SQLite format 3\x00" + b"\x07" * 3000,
        None,
        "cannot be read as a database",
    ),
    "NUL bytes": (b"a,b\n1,\x00\n2,3\n", None, "NUL bytes"),
    "an encoding that does not fit": (
        "ä,b\n1,2\n".encode(),
        Read(encoding="ascii"),
        "cannot be read as ascii",
    ),
    "an encoding that is none": (b"a\n1\n", Read(encoding="herring"), "“herring” is no encoding"),
    "bytes as an encoding": (b"a\n1\n", Read(encoding="hex"), "no encoding of text"),
}
