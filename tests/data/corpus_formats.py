"""Formats that people are handed, small and made up, as `corpus` has others."""

import bz2
import io
import json
import lzma
import struct
import tempfile
import zipfile
from datetime import time, timedelta
from pathlib import Path

import dbf
import numpy as np
import openpyxl
import polars as pl

from rhabdos.data.steps.reading import Read
from tests.data.corpus import _SMALL, SMALL, database, workbook


def zipped(**files):
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as parts:
        for name, content in files.items():
            parts.writestr(name, content)
    return file.getvalue()


def npy(array, **more):
    file = io.BytesIO()
    np.save(file, array, **more)
    return file.getvalue()


def npz(**arrays):
    file = io.BytesIO()
    np.savez_compressed(file, **arrays)
    return file.getvalue()


def avro(frame):
    file = io.BytesIO()
    frame.write_avro(file)
    return file.getvalue()


def dbf_table():
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.dbf"
        fields = "name C(20); length N(8,2); day D; alive L; n N(9,0)"
        table = dbf.Table(str(path), fields, codepage="cp1252").open(dbf.READ_WRITE)
        table.append(("Østers", 64.5, dbf.Date(2026, 5, 1), True, 3))
        table.append(("Østers", None, None, None, 4))
        table.append(("gone", 1, None, None, 5))
        table.append(("Musling", 70.25, dbf.Date(2026, 5, 3), False, 6))
        dbf.delete(table[2])
        table.close()
        return path.read_bytes()


FODS = (
    '<?xml version="1.0" encoding="UTF-8"?><office:document '
    'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" '
    'office:mimetype="application/vnd.oasis.opendocument.spreadsheet"><office:body>'
    '<office:spreadsheet><table:table table:name="Landings">{}</table:table>'
    "</office:spreadsheet></office:body></office:document>"
)


def fods(rows):
    def cell(value):
        kind = (
            f'office:value-type="float" office:value="{value}"'
            if isinstance(value, int | float)
            else 'office:value-type="string"'
        )
        return f"<table:table-cell {kind}><text:p>{value}</text:p></table:table-cell>"

    lines = "".join(f"<table:table-row>{''.join(map(cell, row))}</table:table-row>" for row in rows)
    return FODS.format(lines).encode()


def timed_workbook():
    book = openpyxl.Workbook()
    sheet = book.active
    for row in (
        ["start", "span", "ratio", "code"],
        [time(9, 6), timedelta(hours=30, minutes=15), "#NAME?", "007"],
        [time(23, 30), timedelta(minutes=15), 1 / 3, "010"],
        [time(0, 0), timedelta(0), 7, "007"],
    ):
        sheet.append(row)
    sheet["C2"].data_type = "e"
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


def lying_workbook():
    """One whose sheet unpacks to 120 MB, and says that it has 1,000 bytes."""
    source = zipfile.ZipFile(io.BytesIO(workbook(S=[["length"], [1.5]])))
    row = '<row r="{0}"><c r="A{0}" t="inlineStr"><is><t>' + "x" * 2_000 + "</t></is></c></row>"
    file = io.BytesIO()
    size = 0
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as parts:
        for name in source.namelist():
            content = source.read(name)
            if not name.endswith("sheet1.xml"):
                parts.writestr(name, content)
                continue
            head, tail = content.split(b"</sheetData>")
            with parts.open(name, "w") as sheet:
                size += sheet.write(head)
                for first in range(5, 60_000, 1_000):
                    rows = "".join(row.format(at) for at in range(first, first + 1_000))
                    size += sheet.write(rows.encode())
                size += sheet.write(b"</sheetData>" + tail)
    return file.getvalue().replace(struct.pack("<I", size), struct.pack("<I", 1_000))


def far_workbook(cell):
    book = openpyxl.load_workbook(io.BytesIO(workbook(S=[["length"], [1.5], [2.5]])))
    book.active[cell] = "x"
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


PAGE = """<!DOCTYPE html><html><head><meta charset="utf-8"></head><body>
<table><tr><td>menu</td></tr></table>
<table><caption>Landings of May</caption>
<tr><th>length</th><th colspan="2">bay</th></tr>
<tr><td>64,5</td><td rowspan="2">Saltmere</td><td>a</td></tr>
<tr><td>70,25</td><td>b</td></tr>
<tr><td>71,0</td><td>Gull&nbsp;Spit</td><td>a</td></tr></table></body></html>"""
GEOJSON = {
    "type": "FeatureCollection",
    "features": [
        {"type": "Feature", "id": at, "geometry": {"type": "Point", "coordinates": [at, 1]},
         "properties": {"length": 60 + at, "site": {"bay": "Saltmere" if at else "Wick"}}}
        for at in range(3)
    ],
}  # fmt: skip
PACKAGE = (
    "CREATE TABLE gpkg_contents (table_name TEXT, data_type TEXT)",
    "CREATE TABLE gpkg_geometry_columns (table_name TEXT, column_name TEXT)",
    "CREATE TABLE other (x REAL)",
    "CREATE TABLE beds (fid INTEGER, shape BLOB, length REAL)",
    "INSERT INTO gpkg_contents VALUES ('beds', 'features'), ('map', 'tiles')",
    "INSERT INTO gpkg_geometry_columns VALUES ('beds', 'shape')",
    "INSERT INTO beds VALUES (1, x'00', 64.5), (2, x'01', 70)",
)

FORMATS = {
    "bzip2": (bz2.compress(SMALL.encode()), None, _SMALL, ()),
    "xz": (lzma.compress(SMALL.encode()), None, _SMALL, ()),
    "an archive of one table": (
        zipped(**{"__MACOSX/._x": "", "data/": "", "data/landings.csv": SMALL}),
        None,
        _SMALL,
        (),
    ),
    "an archive of a workbook": (
        zipped(**{"a.xlsx": workbook(S=[["length", "bay"], [1.5, "A"], [2.5, "B"], [3, "A"]])}),
        None,
        _SMALL,
        (),
    ),
    "Avro": (
        avro(pl.DataFrame({"length": [1.5, 2.5, 3], "bay": ["A", "B", "A"]})),
        None,
        _SMALL,
        (),
    ),
    "DBF": (
        dbf_table(),
        None,
        [
            ("NAME", "category", ["Østers", "Østers", "Musling"]),
            ("LENGTH", "number", [64.5, None, 70.25]),
            ("DAY", "date/time", ["2026-05-01", None, "2026-05-03"]),
            ("ALIVE", "yes/no", ["true", None, "false"]),
            ("N", "number", [3, 4, 6]),
        ],
        ("1 row that is struck out",),
    ),
    "a flat workbook": (
        fods([["length", "bay"], [1.5, "A"], [2.5, "B"], [3, "A"]]),
        None,
        _SMALL,
        (),
    ),
    "a web page": (
        PAGE.encode(),
        None,
        [
            ("length", "number", [64.5, 70.25, 71]),
            ("bay", "category", ["Saltmere", None, "Gull Spit"]),
            ("Column 3", "category", ["a", "b", "a"]),
        ],
        ("its table “Landings of May” was read",),
    ),
    "a web page with what nobody sees": (
        "<table><tr><th>bay</th><th>n</th></tr><tr><td>Øst<br>er<script>1;</script></td><td>"
        '<span style="display: none">0007</span>1<sup>[3][a]</sup></td></tr><tr><td>m<sup>2</sup>'
        "<p>x</p>y</td><td>2<!-- no --><i hidden>0</i></td></tr></table>".encode(),
        None,
        [("bay", "category", ["Øst er", "m2 x y"]), ("n", "number", [1, 2])],
        ("Marks of notes, such as “[3][a]”, stayed out.",),
    ),
    "an array": (npy(np.array([1.5, np.nan, 3])), None, [("Value", "number", [1.5, None, 3])], ()),
    "decimals in four bytes": (
        npy(np.array([40.3, 0.1, np.nan, -1e-5, 99999.9], dtype="f4")),
        None,
        [("Value", "number", [40.3, 0.1, None, -1e-5, 99999.9])],
        (),
    ),
    "large whole numbers in four bytes": (
        npy(np.array([9.947e8, -3e9], dtype="f4")),
        None,
        [("Value", "number", [994700032, -3e9])],
        (),
    ),
    "all digits of four bytes": (
        npy(np.array([40.3, 1 / 3, 16777215], dtype=">f4")),
        None,
        [("Value", "number", [40.29999923706055, 0.3333333432674408, 16777215])],
        (),
    ),
    "an array of two dimensions": (
        npy(np.array([[1, 2], [3, 4]], dtype=">i2")),
        None,
        [("Column 1", "number", [1, 3]), ("Column 2", "number", [2, 4])],
        (),
    ),
    "an array of records": (
        npy(np.array([(1.5, "A"), (2.5, "B"), (3, "A")], dtype=[("length", "f4"), ("bay", "U1")])),
        None,
        _SMALL,
        (),
    ),
    "arrays": (
        npz(length=np.array([1.5, 2.5, 3]), bay=np.array(["A", "B", "A"]), short=np.array([1])),
        None,
        _SMALL,
        ("of other lengths are “short”",),
    ),
    "one of several arrays": (
        npz(length=np.array([1.5, 2.5, 3]), short=np.array([1])),
        Read(table="short"),
        [("short", "number", [1])],
        (),
    ),
    "a GeoPackage": (
        database(*PACKAGE),
        None,
        [("fid", "number", [1, 2]), ("length", "number", [64.5, 70])],
        ("1 column of shapes stayed out: “shape”",),
    ),
    "GeoJSON": (
        json.dumps(GEOJSON).encode(),
        None,
        [
            ("id", "number", [0, 1, 2]),
            ("length", "number", [60, 61, 62]),
            ("site.bay", "category", ["Wick", "Saltmere", "Saltmere"]),
        ],
        ("shapes", "stayed out"),
    ),
    "JSON whose records have a Feature": (
        b'[{"Feature": "reef", "type": "Feature"}, {"Feature": "bar", "type": "Feature"}]',
        None,
        [("Feature", "category", ["reef", "bar"]), ("type", "category", ["Feature", "Feature"])],
        (),
    ),
    **{
        f"a text that begins as {told} does": (
            f"{names}\n1.5,A\n2.5,B\n3,A\n".encode(),
            None,
            [(name, *of) for name, (_, *of) in zip(names.split(","), _SMALL, strict=True)],
            (),
        )
        for told, names in (
            ("Parquet", "PAR1,PAR2"),
            ("Arrow", "ARROW1,b"),
            ("ORC", "ORCHARD,b"),
            ("Parquet behind a password", "PARENT,b"),
            ("bzip2", "BZh9,b"),
            ("DuckDB", "species,DUCKS"),
        )
    },
    "a text that begins as DBF does": (
        b"1\t\t\t5.5\r\n" * 30,
        None,
        [
            ("Column 1", "number", [1] * 30),
            ("Column 2", "number", [None] * 30),
            ("Column 3", "number", [None] * 30),
            ("Column 4", "number", [5.5] * 30),
        ],
        ("the columns are numbered",),
    ),
    **{
        f"JSON, {told}": (text.encode(), None, [("x", "number", [1, 2]), *more], ())
        for told, text, *more in (
            ("records beneath others", '{"ok": true, "result": {"rows": [{"x": 1}, {"x": 2}]}}'),
            ("records beside others", '{"a": {"of": [{"y": 1}]}, "rows": [{"x": 1}, {"x": 2}]}'),
            (
                "rows beside their names",
                '{"n": 2, "names": ["x", "g"], "rows": [[1, "a"], [2, "b"]]}',
                ("g", "category", ["a", "b"]),
            ),
            (
                "an object that is null",
                '[{"x": 1, "at": {"g": "a"}}, {"x": 2, "at": null}]',
                ("at.g", "category", ["a", None]),
            ),
        )
    },
    "nested JSON": (
        b'[{"a": {"b": 1, "c": {"d": 2.5}}}, {"a": {"b": 3, "c": {"d": 4}}}]',
        None,
        [("a.b", "number", [1, 3]), ("a.c.d", "number", [2.5, 4])],
        (),
    ),
    "JSON with NaN": (
        b'[{"v": NaN, "g": "a"}, {"v": 2.5, "g": "b"}, {"v": -Infinity, "g": "a"}]',
        None,
        [("v", "number", [None, 2.5, None]), ("g", "category", ["a", "b", "a"])],
        (),
    ),
    "JSON by columns": (
        b'{"v": {"0": 1, "1": 2, "2": 5}, "g": {"0": "a", "1": "b", "2": "a"}}',
        None,
        [("v", "number", [1, 2, 5]), ("g", "category", ["a", "b", "a"])],
        (),
    ),
    "JSON of rows": (
        b'[["v", "g"], [1, "a"], [2, "b"], [5, "a"]]',
        None,
        [("v", "number", [1, 2, 5]), ("g", "category", ["a", "b", "a"])],
        (),
    ),
    "JSON of one row": (
        b'[["north", "a"]]',
        None,
        [("Column 1", "category", ["north"]), ("Column 2", "category", ["a"])],
        (),
    ),
    "times, spans and a name that is none": (
        timed_workbook(),
        None,
        [
            ("start", "number", [9.1, 23.5, 0]),
            ("span", "number", [30.25, 0.25, 0]),
            ("ratio", "number", [None, 1 / 3, 7]),
            ("code", "number", [7, 10, 7]),
        ],
        (),
    ),
    "a cover and blank rows": (
        workbook(
            Cover=[["Landings"], ["by hand"]],
            Data=[["length", "bay"], [1.5, "A"], [], [2.5, "B"], [None, None], [3, "A"]],
        ),
        None,
        _SMALL,
        ("“Data” was read", "2 blank rows between others were passed over"),
    ),
    "whole numbers of a database": (
        database(
            "CREATE TABLE t (id INTEGER)",
            "INSERT INTO t VALUES (9007199254740993), (9007199254740995), (9007199254740993)",
        ),
        None,
        [("id", "label", ["9007199254740993", "9007199254740995", "9007199254740993"])],
        (),
    ),
    "long numbers among words": (
        b"id,x\n9007199254740993,1\nN.A.,2\n9007199254740993,3\n",
        None,
        [
            ("id", "category", ["9007199254740993", None, "9007199254740993"]),
            ("x", "number", [1, 2, 3]),
        ],
        (),
    ),
}

NOT_READ = {
    "ORC": (b"ORC\x0a\x0b\x0c", None, "is ORC, which is not read here"),
    "DuckDB": (b"\x00" * 8 + b"DUCK" + b"\x00" * 90, None, "is a DuckDB database"),
    "an archive of nothing": (zipped(**{"a/": ""}), None, "without a file"),
    "bzip2 cut short": (bz2.compress(SMALL.encode() * 900)[:-20], None, "cut short"),
    "damaged bzip2": (bz2.compress(SMALL.encode())[:20] + b"x" * 40, None, "damaged"),
    "xz cut short": (lzma.compress(SMALL.encode() * 900)[:-20], None, "cut short"),
    "damaged xz": (lzma.compress(SMALL.encode() * 900)[:80] + b"x" * 90, None, "damaged"),
    "a far cell": (far_workbook("XFD1048576"), None, "A cell far from all others"),
    "an array of objects": (
        npy(np.array([{}], dtype=object), allow_pickle=True),
        None,
        "may run as programs",
    ),
    "an array that lies": (
        npy(np.arange(9.0)).replace(b"(9,)", b"(9000000000,)").replace(b" " * 10, b"", 1),
        None,
        "cannot be read as arrays",
    ),
    "an array of three dimensions": (npy(np.zeros((2, 2, 2))), None, "3 dimensions"),
    "complex numbers": (npy(np.array([1j])), None, "complex numbers"),
    "a damaged DBF": (dbf_table()[:100] + b"\r" + b"\xff" * 900, None, "DBF table"),
    "a table that a page lacks": (PAGE.encode(), Read(table="x"), "It has “Table 1” and “Landings"),
    "a long value": (
        database("CREATE TABLE t (a)", "INSERT INTO t VALUES (zeroblob(40000000))"),
        None,
        "a value of more than 16 MiB",
    ),
    "too many names": (
        json.dumps([{f"v{at}": 1 for at in range(50_001)}]).encode(),
        None,
        "50,001 names",
    ),
}
