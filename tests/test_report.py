"""Reports: what they say is what the window says, in real tables, and nothing of theirs is run."""

import base64
import re
from collections import Counter

import polars as pl
import pytest
from lxml import etree, html
from markdown_it import MarkdownIt
from pypdf import PdfReader

from rhabdos.cli import main
from rhabdos.data.files.reading import read_table
from rhabdos.figure.output.report import methods_of
from rhabdos.figure.output.seen import seen
from rhabdos.paint.report import make_report, write_report
from rhabdos.project.batch import Item, readings_of
from rhabdos.project.work_file import read_work_file

pytestmark = pytest.mark.usefixtures("qapp")

HOSTILE = '<script>alert(1)</script> & "*_`|\\'
ROWS = f'Length (mm),"Bay, {HOSTILE.replace(chr(34), "")}"\n' + "".join(
    f"{40 + (i * 7) % 50},{'North' if i % 3 else '<b>South</b>'}\n" for i in range(150)
)
WORK = """rhabdos-work = 1
[source]
path = "d.csv"
[[prepare]]
step = "keep"
where = [{ variable = "Length", from = 45.0 }]
[[figure]]
name = "Lengths <i>of</i> shells"
show.variables = ["Length"]
words.title = "A & B < C"
[[figure]]
name = "By bay"
show.variables = ["Length"]
show.split = ["Bay"]
show.forms = ["box", "curve"]
show.heights = "density"
[[figure]]
show.variables = ["Gone"]
"""


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "d.csv").write_text(ROWS.replace(ROWS.split("\n")[0], "Length (mm),Bay"))
    (tmp_path / "w.rhabdos").write_text(WORK)
    return tmp_path


def figures(folder):
    table = read_table(folder / "d.csv")
    work = read_work_file(WORK, "w")
    from rhabdos.data.preparing import prepared

    table = prepared(table, work.steps)
    return [readings_of(Item(f.name, f.recipe), (), table) for f in work.figures[:2]]


def test_a_page_says_what_the_window_says_with_real_tables_and_alternative_texts(folder, capsys):
    assert main(["report", "w.rhabdos", "--output", "r.html", "--title", "Mine & <yours>"]) == 2
    assert (
        "1 of 3 figures could not be drawn.\nGone: d has no variable “Gone”"
        in capsys.readouterr().err
    )
    page = html.parse("r.html").getroot()
    assert page.get("lang") == "en"
    assert page.findtext(".//title") == page.findtext(".//h1") == "Mine & <yours>"
    assert [h2.text for h2 in page.iterfind(".//h2")] == [
        "Lengths <i>of</i> shells", "By bay", "How the rows came about", "Methods", "Sources",
        "Recipes",
    ]  # fmt: skip
    text = page.text_content()
    for readings in figures(folder):
        for each in seen(readings):
            assert each.text in text
    images = page.findall(".//img")
    assert all(image.get("alt").startswith("Length of ") for image in images)
    for image in images:
        source = image.get("src")
        assert source.startswith("data:image/svg+xml;base64,")
        picture = etree.fromstring(base64.b64decode(source.partition(",")[2]))
        assert picture.tag.endswith("svg")
        for side in ("width", "height"):  # in pixels, of which 96 are an inch
            across = float(picture.get(side).removesuffix("mm"))
            assert float(image.get(side)) == pytest.approx(across / 25.4 * 96, abs=0.51)
    frame = pl.read_csv("d.csv").filter(pl.col("Length (mm)") >= 45)
    tables = page.findall(".//table")
    # Few groups of many numbers stand beside one another.
    told = {row[0].text: row[1].text for row in tables[0].findall(".//tbody/tr")}
    assert int(told["n"]) == len(frame)
    assert float(told["mean"]) == pytest.approx(frame["Length (mm)"].mean(), abs=0.01)
    assert float(told["sd"]) == pytest.approx(frame["Length (mm)"].std(), abs=0.01)
    bays = {th.text for th in tables[1].findall(".//thead//th")[1:]}
    assert bays == {"North", "<b>South</b>"}
    assert all(th.get("scope") == "col" for th in page.iterfind(".//thead//th"))
    assert all(table.find("caption") is not None for table in tables)
    assert page.findtext(".//ol/li").startswith("Kept rows whose Length is 45")
    recipes = page.findall(".//pre")
    assert recipes[0].text.startswith("rhabdos = 1\n")
    assert not page.findall(".//script")
    assert not page.findall(".//b")


def test_only_methods_that_were_used_are_told_in_the_words_of_the_methods(folder):
    plain, boxes = figures(folder)
    of_plain = {method.title for method in methods_of([plain])}
    of_boxes = {method.title for method in methods_of([boxes])}
    assert "Density curve" not in of_plain
    assert not any("Difference" in title for title in of_plain)
    assert {"Density curve", "Difference of medians", "Mean"} <= of_boxes
    assert not any(title.startswith("Bins") for title in of_boxes)
    both = methods_of([plain, boxes, plain])
    assert len({(method.title, method.text) for method in both}) == len(both)
    mean = next(method for method in both if method.title == "Mean")
    assert "x̄ = Σxᵢ / n" in mean.text
    assert "checked against" not in mean.text.lower()
    assert any("Chan" in source for source in mean.sources)


def test_markdown_has_its_pictures_beside_it_and_no_letter_becomes_markup(folder):
    assert main(["report", "w.rhabdos", "--output", "r.md"]) == 2
    text = (folder / "r.md").read_text()
    page = html.fromstring(f"<div>{MarkdownIt('commonmark').enable('table').render(text)}</div>")
    assert [image.get("src") for image in page.findall(".//img")] == ["r-1.svg", "r-2.svg"]
    assert (folder / "r-1.svg").exists()
    assert page.findall(".//h2")[0].text_content() == "Lengths <i>of</i> shells"
    cells = [cell.text_content() for cell in page.findall(".//td")]
    assert "<b>South</b>" in cells
    assert "[[figure]]" not in text
    assert "```toml\nrhabdos = 1" in text


def test_a_pdf_holds_all_of_it_as_text(folder):
    assert main(["report", "w.rhabdos", "--output", "r.pdf"]) == 2
    pages = PdfReader(folder / "r.pdf").pages
    text = re.sub(r"\s+", " ", " ".join(page.extract_text() for page in pages))
    for words in (
        "Lengths <i>of</i> shells", "By bay", "A & B < C", "Kept rows whose Length", "Methods",
        "Sources", "Recipes",
    ):  # fmt: skip
        assert words in text
    assert all(round(float(page.mediabox.width)) == 595 for page in pages)
    assert "rhabdos = 1 " in text


def test_a_report_of_many_groups_breaks_its_tables_across_pages(folder, tmp_path):
    rows = "x,g\n" + "".join(f"{i % 13 + i / 7},level {i % 60}\n" for i in range(2400))
    (folder / "many.csv").write_text(rows)
    (folder / "r.toml").write_text(
        'rhabdos = 1\n[show]\nvariables = ["x"]\nsplit = ["g"]\nforms = ["box"]\n'
    )
    assert main(["report", "r.toml", "--data", "many.csv", "--output", "r.pdf"]) == 0
    assert main(["report", "r.toml", "--data", "many.csv", "--output", "r.html"]) == 0
    heights = []

    def seen(text, page, at, *_):
        if text.strip():
            heights.append(at[4] * page[1] + at[5] * page[3] + page[5])

    pages = [page.extract_text(visitor_text=seen) for page in PdfReader(folder / "r.pdf").pages]
    assert all(0 < height < 842 for height in heights)  # the points of A4
    told = Counter(" ".join(pages).split())
    cells = html.parse(str(folder / "r.html")).xpath("//table//*[self::td or self::th]")
    assert len(cells) > 60 * 11
    words = Counter(word for cell in cells for word in cell.text_content().split())
    assert words - told == Counter()


@pytest.mark.parametrize("high", [40.0, 90.0, 230.0, 290.0, 600.0])
def test_a_figure_and_its_heading_are_on_one_page(folder, high):
    size = f"page.size = '80x{high}mm'\n"
    figures = "".join(
        f'[[figure]]\nname = "Heading-{n}"\n{size}show.variables = ["Length"]\n'
        f'words.title = "Title-{n}"\n'
        for n in range(4)
    )
    (folder / "high.rhabdos").write_text(WORK.split("[[figure]]")[0] + figures)
    assert main(["report", "high.rhabdos", "--output", "r.pdf"]) == 0
    pages = [page.extract_text() for page in PdfReader(folder / "r.pdf").pages]
    for n in range(4):
        first = next(page for page in pages if f"Heading-{n}" in page)
        assert f"Title-{n}" in first
    if high < 50:  # what has room on a page begins no other
        assert any("Title-0" in page and "Title-1" in page for page in pages)


@pytest.mark.parametrize(
    ("given", "told"),
    [
        (["w.rhabdos", "--output", "r.doc"], "must end in .html, .pdf or .md"),
        (["w.rhabdos", "--output", "no/r.html"], "There is no folder"),
        (["d.csv", "--output", "r.html"], "d.csv"),
    ],
)
def test_wrong_wishes_are_refused(folder, capsys, given, told):
    assert main(["report", *given]) == 2
    assert told in capsys.readouterr().err


def test_nothing_drawn_is_refused(folder):
    table = read_table(folder / "d.csv")
    work = read_work_file(WORK, "w")
    with pytest.raises(Exception, match="No figure could be drawn"):
        make_report([Item("x", work.figures[2].recipe)], table, ())
    made = make_report([Item("x", work.figures[0].recipe)], table, ())
    assert [path.name for path in write_report(made, folder / "a.md")] == ["a.md", "a-1.svg"]
