"""Hostile files of every format, pictures, looks and state files: built as they should be, with one
or a few of their parts turned wrong.

Run as ``python -m tests.fuzzing_files [CASES] [SEED]``; every fault is printed with its case, and at
the end what was covered.
"""

import gzip
import io
import json
import os
import random
import re
import sqlite3
import sys
import tempfile
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager, redirect_stderr, redirect_stdout
from functools import lru_cache
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from msgspec import Struct

from rhabdos.cli import main
from tests.data import corpus, corpus_formats
from tests.fuzzing import time_limit, typed

LONGEST_WAIT = 20
MOST_MEMORY = 2 << 30


class Hostile(Struct, frozen=True):
    """A file, what it is, and what is asked of it."""

    kind: str
    name: str
    content: bytes
    command: str


# Mutating bytes and texts


def flipped(rng: random.Random, content: bytes, most: int = 4) -> bytes:
    """A few bytes flipped, cut out, doubled or overwritten."""
    held = bytearray(content)
    for _ in range(rng.randint(1, most)):
        at = rng.randrange(len(held) + 1)
        match rng.randrange(5):
            case 0 if at < len(held):
                held[at] ^= 1 << rng.randrange(8)
            case 1:
                del held[at : at + rng.randint(1, 64)]
            case 2:
                held[at:at] = held[at : at + rng.randint(1, 200)]
            case 3:
                held[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\x00\x00\x00\x00", b"\x7f"))
            case _:
                del held[at : len(held) if rng.random() < 0.2 else at + 1]
    return bytes(held)


def one_of(rng: random.Random, text: str, changes: list[tuple[str, list[str]]]) -> str:
    """A text in which one or two patterns are replaced, each where it stands once by chance."""
    for pattern, replacements in rng.sample(changes, min(len(changes), rng.randint(1, 3))):
        found = list(re.finditer(pattern, text))
        if found:
            place = rng.choice(found)
            text = text[: place.start()] + rng.choice(replacements) + text[place.end() :]
    return text


# Workbooks


@lru_cache(maxsize=1)
def _books() -> tuple[bytes, ...]:
    return (
        corpus.SHEET,
        corpus.merged_workbook(),
        corpus.faulty_workbook(),
        corpus_formats.timed_workbook(),
        corpus.workbook(S=[["a", "b"], *([at, f"x{at % 3}"] for at in range(40))]),
        corpus.ods([["length", "bay"], [1.5, "A"], [2.5, "B"], [3, "A"]]),
    )


_IN_SHEETS = [
    (
        r' r="[A-Z]+\d+"',
        [' r="XFD1048576"', ' r="A1048576"', ' r="ZZZZ9"', ' r="A0"', "", ' r="A1"'],
    ),
    (r't="\w+"', ['t="s"', 't="e"', 't="b"', 't="d"', 't="str"', 't="x"', ""]),
    (r"<v>[^<]*</v>", ["<v>99999999</v>", "<v>-1</v>", "<v>1e999</v>", "<v></v>", "<v>&#0;</v>"]),
    (r"<row ", ["<row><row ", "<rows ", '<row r="1048577" ']),
    (r's="\d+"', ['s="9999"', 's="-1"']),
    (r"</sheetData>", ["", "</sheetData></sheetData>", "<sheetData>"]),
    (r"<dimension[^>]*>", ['<dimension ref="A1:XFD1048576"/>', '<dimension ref="x"/>']),
    (r"<t>[^<]*</t>", ["<t>" + "y" * 70_000 + "</t>", "<t>&lol;</t>", "<t>\x00</t>", "<t/>"]),
    (r"<table:table-row", ['<table:table-row table:number-rows-repeated="1048576"']),
    (r"<table:table-cell", ['<table:table-cell table:number-columns-repeated="16384"']),
    (r'office:value="[^"]*"', ['office:value="x"', 'office:value="1e999"', ""]),
    (r'name="[^"]*"', ['name=""', 'name="' + "n" * 400 + '"', 'name="../x"']),
    (r'Target="[^"]*"', ['Target="/etc/passwd"', 'Target="nowhere.xml"', 'Target=""']),
]


def workbook(rng: random.Random) -> Hostile:
    """A workbook of which one part says something else, or lies about its size."""
    source = zipfile.ZipFile(io.BytesIO(rng.choice(_books())))
    file = io.BytesIO()
    names = source.namelist()
    chosen = rng.choice([name for name in names if name.endswith(".xml")] or names)
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as parts:
        for name in names:
            content = source.read(name)
            if name == chosen:
                if rng.random() < 0.75:
                    content = one_of(rng, content.decode("utf-8", "replace"), _IN_SHEETS).encode()
                else:
                    content = flipped(rng, content)
            if name == chosen and rng.random() < 0.05:
                continue
            parts.writestr(name, content)
    held = file.getvalue()
    if rng.random() < 0.15:
        held = flipped(rng, held)
    return Hostile("workbook", "book.xlsx", held, rng.choice(("variables", "draw")))


# Databases


def database(rng: random.Random) -> Hostile:
    """A database with odd tables and views, or with a page turned wrong."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "d.db"
        base = sqlite3.connect(path)
        odd = rng.choice(("t", "a b", 'q"q', "x" * 300, "möwe", "select", "1"))
        table = '"' + odd.replace('"', '""') + '"'
        kinds = ("INTEGER", "REAL", "TEXT", "BLOB", "", "NUMERIC", "DATE")
        base.execute(f"CREATE TABLE {table} (a {rng.choice(kinds)}, b {rng.choice(kinds)}, c)")
        values = (
            1, 2.5, "x", None, b"\x00\xff", 1 << 62, -(1 << 62), "", "n/a", "1e400", "\ud7ff",
            float("inf"), "y" * rng.choice((10, 70_000)), "2024-05-01",
        )  # fmt: skip
        for _ in range(rng.choice((0, 1, 40, 900))):
            row = [rng.choice(values) for _ in range(3)]
            base.execute(f"INSERT INTO {table} VALUES (?, ?, ?)", row)
        views = (
            f"SELECT a, a, b AS a FROM {table}",
            "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c LIMIT 5000) SELECT x FROM c",
            "SELECT * FROM nowhere",
            "SELECT zeroblob(20000000) z",
            f"SELECT randomblob(9) r, {', '.join(f'{n} AS c{n}' for n in range(rng.choice((3, 300))))}",
            f"SELECT a, c, 2 * length(b) AS d FROM {table} WHERE a IS NOT NULL",
            "SELECT 1/0 z, abs(-9223372036854775808)",
        )
        if rng.random() < 0.6:
            base.execute(f"CREATE VIEW v AS {rng.choice(views)}")
            if rng.random() < 0.5:
                base.execute(f"DROP TABLE {table}")
        base.commit()
        base.close()
        content = path.read_bytes()
    if rng.random() < 0.5:
        held = bytearray(content)
        page = rng.randrange(max(1, len(held) // 4096)) * 4096
        for _ in range(rng.randint(1, 6)):  # the head of a page, where its cells are told
            held[min(len(held) - 1, page + rng.choice((0, 1, 3, 5, 8, 16, 18, 28, 100)))] = (
                rng.randrange(256)
            )
        content = bytes(held)
    elif rng.random() < 0.2:
        content = flipped(rng, content)
    return Hostile("database", "base.db", content, rng.choice(("variables", "draw")))


# All other formats: what is right, with a few bytes wrong


@lru_cache(maxsize=1)
def _files() -> tuple[tuple[str, bytes], ...]:
    texts = {"a text": corpus.SMALL.encode(), "JSON": json.dumps(corpus.RECORDS).encode()}
    known = {
        **{name: case[0] for name, case in corpus.CASES.items()},
        **{name: case[0] for name, case in corpus_formats.FORMATS.items()},
        **texts,
        "GeoJSON": json.dumps(corpus_formats.GEOJSON).encode(),
    }
    return tuple(known.items())


def other(rng: random.Random) -> Hostile:
    """A file of any format that is read, with a few bytes wrong, perhaps packed."""
    name, content = rng.choice(_files())
    content = flipped(rng, content)
    if rng.random() < 0.1:
        content = gzip.compress(content)
    elif rng.random() < 0.1:
        content = corpus_formats.zipped(**{"inner.dat": content})
    return Hostile(f"format: {name}", "file.dat", content, rng.choice(("variables", "draw")))


def laid_out(rng: random.Random) -> Hostile:
    """A text whose separators, rows and cells are drawn by chance from those that people use."""
    mark = rng.choice((",", ";", "\t", "|", ":", "^", "~", " ", "  "))
    cells = (
        "1", "2.5", "1,234", "1.234", "12,5", "$12.50", "(3.50)", "€9", "1,23,456", "n/a", "",
        "2024-05-01", "01/02/2024", "13/02/24", "2-Jan-2024", "09:05", "1/2/2024 9:05 AM", "Jan 2024",
        "Saltmere", "Total", "calm", "NA", '"a, b"', "−4", "9007199254740993", "1e400", "é", "#x",
    )  # fmt: skip
    columns = rng.randint(1, 6)
    kinds = [rng.sample(cells, rng.randint(1, 3)) for _ in range(columns)]
    lines = []
    if rng.random() < 0.3:
        lines.append(rng.choice(("# a remark, by hand", "Landings of May", "", "% x")))
    if rng.random() < 0.7:
        lines.append(mark.join(f"name{at}" for at in range(columns - rng.randrange(2))))
    for _ in range(rng.choice((0, 1, 3, 12, 60))):
        row = [rng.choice(kind) for kind in kinds]
        if rng.random() < 0.05:
            row = row[: rng.randint(0, columns)] + ["more"] * rng.randrange(3)
        lines.append(mark.join(row))
    content = (
        rng.choice(("\n", "\r\n"))
        .join(lines)
        .encode(rng.choice(("utf-8", "utf-8", "cp1252", "utf-16")), "replace")
    )
    return Hostile("layout", "text.txt", content, rng.choice(("variables", "draw")))


# Pictures, looks and state files


@lru_cache(maxsize=1)
def _pictures() -> dict[str, bytes]:
    folder = Path(tempfile.mkdtemp())
    data, recipe = folder / "d.csv", folder / "r.toml"
    data.write_text(DATA)
    recipe.write_text(RECIPE)
    made = {}
    for ending in ("svg", "png", "pdf"):
        path = folder / f"p.{ending}"
        with redirect_stdout(io.StringIO()), redirect_stderr(io.StringIO()):
            assert main(["draw", str(recipe), "--data", str(data), "--output", str(path)]) == 0
        made[ending] = path.read_bytes()
    return made


DATA = "length,bay\n" + "".join(f"{at % 17}.5,{'AB'[at % 2]}\n" for at in range(40))
RECIPE = 'rhabdos = 1\n[show]\nvariables = ["length"]\nsplit = ["bay"]\n[words]\ntitle = "x"\n'
_IN_RECIPES = [
    (r"rhabdos = 1", ["rhabdos = 2", "rhabdos = []", ""]),
    (r'"length"', ['"nowhere"', "7", '"' + "x" * 5_000 + '"', "1e999"]),
    (r"\[show\]", ["[shew]", "[[show]]", "[show.show]"]),
    (r'title = "x"', ["title = " + "[" * 300, "title = 0x" + "f" * 900, "#" + "y" * 9_000_000]),
    (r"variables", ["variable", '"\x00"']),
]


def picture(rng: random.Random) -> Hostile:
    """A figure with its recipe inside, of which the picture or the recipe is turned wrong."""
    ending = rng.choice(("svg", "png", "pdf"))
    content = _pictures()[ending]
    if ending == "svg" and rng.random() < 0.7:
        text = content.decode()
        changes = [*_IN_RECIPES, (r"<metadata>", ["<metadata><metadata>", "<meta>", "&x;"])]
        content = one_of(rng, text, changes).encode("utf-8", "replace")
    else:
        content = flipped(rng, content, 6)
    return Hostile(f"picture: {ending}", f"figure.{ending}", content, "picture")


_LOOK = (
    'rhabdos-look = 1\n[look]\nfont = "Source Sans 3"\noutline = 1.5\npalette = "reef"\n'
    '[legend]\nplace = "right"\n'
)
_IN_LOOKS = [
    (r"rhabdos-look = 1", ["rhabdos = 1", "rhabdos-look = true", "rhabdos-look = 1.0"]),
    (r"= [\d.]+", ["= 1e999", "= -1", "= nan", '= "x"', "= 0x" + "f" * 500, "= 2026-05-01"]),
    (r'"[^"]*"', ['"' + "x" * 9_000 + '"', "[]", "{}", '"\\u0000"', "'''"]),
    (r"\[\w+\]", ["[show]", "[[look]]", "[look.look.look]", "[" * 400]),
    (r"\w+ =", ["colour =", '"" =', "k" * 400 + " ="]),
]


def look(rng: random.Random) -> Hostile:
    """A look of which a key or a value is turned wrong."""
    content = one_of(rng, _LOOK, _IN_LOOKS).encode("utf-8", "replace")
    if rng.random() < 0.2:
        content = flipped(rng, content)
    return Hostile("look", "look.toml", content, "look")


_STATES = {
    "memory.json": {
        "recent": ["/a.csv", "/b.csv"],
        "readings": {"/a.csv": {"step": "read", "separator": ";", "places": [0, 4]}},
    },
    "window.json": {"geometry": "AAAA", "columns": "BBBB", "folders": {"data": "/x"}},
    "open/1-1.json": {
        "written": 1.5, "path": "L2EuY3N2", "name": "a", "said": ["1 step"],
        "steps": [{"step": "missing", "variable": "x", "codes": [1.0]}],
        "recipe": {"show": {"variables": ["x"]}},
    },
}  # fmt: skip
_IN_STATES = [
    (r'"[^"]*"', ['"' + "x" * 5_000 + '"', "null", "7", '"\\ud800"', "[]", '"\\u0000"', '"../.."']),
    (r"[\d.]+", ["1e999", "-1", '"x"', "9" * 900, "{}"]),
    (r"[\[{]", ["[[", "{{", "[" * 900, "null"]),
    (r":", ["", "::", ":null,"]),
]


def state(rng: random.Random) -> Hostile:
    """A file that is remembered from the last start, turned wrong."""
    name, value = rng.choice(list(_STATES.items()))
    content = one_of(rng, json.dumps(value), _IN_STATES).encode("utf-8", "replace")
    if rng.random() < 0.3:
        content = flipped(rng, content)
    return Hostile(f"state: {name}", name, content, "state")


MAKERS: tuple[tuple[Callable[[random.Random], Hostile], int], ...] = (
    (workbook, 6), (database, 6), (other, 6), (laid_out, 6), (picture, 5), (look, 4), (state, 4),
)  # fmt: skip


def hostile(seed: int) -> Iterator[Hostile]:
    """Cases without end."""
    makers = [maker for maker, times in MAKERS for _ in range(times)]
    number = 0
    while True:
        rng = random.Random(f"{seed}-{number}")
        yield rng.choice(makers)(rng)
        number += 1


# What no case may do


def faults(case: Hostile, folder: Path) -> tuple[list[str], str]:
    """What a case did that none may do, and what became of it."""
    data, recipe, output = folder / "d.csv", folder / "r.toml", folder / "o.svg"
    data.write_text(DATA)
    recipe.write_text(RECIPE)
    output.unlink(missing_ok=True)
    path = folder / Path(case.name).name
    path.write_bytes(case.content)
    if case.command == "state":
        return _recalled(case)
    words = {
        "variables": ["variables", str(path)],
        "draw": ["draw", str(folder / "any.toml"), "--data", str(path), "--output", str(output)],
        "picture": ["draw", str(path), "--data", str(data), "--output", str(output)],
        "look": ["draw", *map(str, (recipe, "--data", data, "--output", output, "--look", path))],
    }[case.command]
    (folder / "any.toml").write_text('rhabdos = 1\n[show]\nvariables = "numbers"\n')
    with tempfile.TemporaryFile() as below, _descriptor(2, below.fileno()):
        status, _, wrong = typed(words, LONGEST_WAIT)
        if status is None:
            return wrong, "raised"
        below.seek(0)
        strange = below.read(500)
    wrong += [f"a library said {strange!r}"] if strange else []
    if status == 2 and output.exists():
        wrong.append("refused, and wrote all the same")
    return wrong, "done" if status == 0 else "refused"


def _recalled(case: Hostile) -> tuple[list[str], str]:
    """What is remembered of a state file: something, whatever it holds."""
    from rhabdos.project.memory import recall
    from rhabdos.project.recovery import orphans
    from rhabdos.project.state_file import state_file
    from rhabdos.project.window_state import window_state

    path = state_file(case.name)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(case.content)
    try:
        with time_limit():
            recall()
            window_state()
            found = orphans()
    except BaseException as error:  # noqa: BLE001 - whatever comes out is a fault
        return [f"raised {error!r}"], "raised"
    finally:
        path.unlink()
    for orphan in found:
        orphan.discard()
    return [], "done"


@contextmanager
def _descriptor(number: int, instead: int) -> Iterator[None]:
    """For a while another file under the number of one that is open."""
    former = os.dup(number)
    os.dup2(instead, number)
    try:
        yield
    finally:
        os.dup2(former, number)
        os.close(former)


def _most_taken() -> int:
    """The most bytes of memory that this process has taken so far."""
    status = Path("/proc/self/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+) kB", status)[1]) << 10


def search(count: int, seed: int) -> int:
    """Try so many cases, print every fault, and then what was covered; how many had a fault."""
    found, covered = 0, Counter[tuple[str, str]]()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_STATE_HOME"] = folder
        for number, case in zip(range(count), hostile(seed), strict=False):
            wrong, became = faults(case, Path(folder))
            covered[case.kind.partition(":")[0], became] += 1
            covered[case.kind, "all"] += 1
            if wrong:
                found += 1
                kept = Path(f"fault-{seed}-{number}{Path(case.name).suffix}")
                kept.write_bytes(case.content[: 1 << 20])
                print(f"case {number} of seed {seed}: {case.kind}, {case.command}; kept in {kept}")
                print(*(f"  -> {one[:400]}" for one in wrong), sep="\n", flush=True)
    for kind, became in sorted(covered):
        print(f"  {kind:60} {became:8} {covered[kind, became]:6,}")
    own = _most_taken()
    print(f"At most {own >> 20:,} MiB were taken, beside processes that are limited themselves.")
    found += own > MOST_MEMORY
    print(f"{found} of {count:,} cases of seed {seed} went wrong.")
    return found


if __name__ == "__main__":
    asked = [int(word) for word in sys.argv[1:]]
    sys.exit(search(asked[0] if asked else 10_000, asked[1] if len(asked) > 1 else 1) > 0)
