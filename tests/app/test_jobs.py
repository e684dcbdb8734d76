"""The eighteen jobs that people bring, each done by mouse and keys, ending in a figure that can be
handed in. ``MOST`` holds how many steps each takes at most; see ``jobs.Job`` for what a step is."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication

from rhabdos.app.arriving.simulating_dialog import SimulatingDialog
from rhabdos.app.arriving.typing_dialog import TypingDialog
from rhabdos.cli import main
from rhabdos.scene.marks import Area, Dots, Segments, Text
from rhabdos.scene.marks import Path as Line
from tests.app.jobs import LEFT, Job, svg_of, words_in
from tests.app.texts import words_of

MOST = dict(enumerate((43, 61, 27, 26, 56, 34, 27, 18, 35, 18, 40, 32, 33, 20, 32, 29, 25, 28), 1))
"""Of each job, the steps it took when it was first done whole."""


@pytest.fixture
def job(empty, tmp_path, monkeypatch, request):
    made = Job(empty, tmp_path, monkeypatch)
    yield made
    number = int(request.node.name.split("_")[2])
    assert made.steps <= MOST[number], (number, made.steps)


def marks(job, kind, part, group=None):
    scene = job.window.figure.scene
    return [
        m for m in scene.marks
        if isinstance(m, kind) and m.meaning and m.meaning.part == part
        and (group is None or m.meaning.group == group)
    ]  # fmt: skip


def pens(job, rows=120):
    """Shells of two pens, with their masses by a key in another file."""
    rng = np.random.default_rng(5)
    lengths = rng.normal(70, 9, rows).round(1)
    first = job.file(
        "shells.csv", "Tag,Length (mm),Pen",
        *(f"T{i},{lengths[i]},{i % 2}" for i in range(rows)),
    )  # fmt: skip
    second = job.file(
        "yields.csv", "Tag,Meat (g)",
        *(f"T{i},{(lengths[i] / 3 + rng.normal(0, 1)):.2f}" for i in range(rows - 10)),
    )  # fmt: skip
    return first, second


def grades(job, rows=60):
    """Six columns of grades from 1 to 7."""
    rng = np.random.default_rng(6)
    columns = [rng.integers(1, 8, rows) for _ in range(6)]
    columns[3] = np.clip(columns[3] + 2, 1, 7)
    heads = ("Salty", "Sweet", "Firm", "Fresh", "Mineral", "Briny")
    return heads, job.file(
        "grades.csv", ",".join(heads),
        *(",".join(str(int(c[i])) for c in columns) for i in range(rows)),
    )  # fmt: skip


def harvest(job, rows=240, name="harvest.csv"):
    """Masses by site, season and gear."""
    rng = np.random.default_rng(7)
    sites, seasons, gear = ("North", "South", "East"), ("spring", "autumn"), ("rack", "line")
    lines = [
        f"{(60 + 8 * (i % 3) + rng.normal(0, 7)):.1f},{sites[i % 3]},{seasons[i // 3 % 2]},"
        f"{gear[i // 6 % 2]}"
        for i in range(rows)
    ]
    lines[5] = f"150.5,{lines[5].partition(',')[2]}"
    return job.file(name, "Mass (g),Site,Season,Gear", *lines)


def test_job_1_joined_panels_in_percent_and_drawn_again_from_the_command_line(job):
    first, second = pens(job)
    job.open(first)
    job.key("F3")
    place = job.window.rows_place
    job.click(adding(job, "Join a table"))
    job._asked.append(second)
    job.click(place.form.choose_button)
    job.put(place.form.keep, "Keep only rows that match")
    job.click(place.form.do_button)
    place.choose("Pen")
    job.steps += 1
    job.put(place.facts.kind, "category")
    for old, new in (("0", "old pen"), ("1", "new pen")):
        job.steps += 2
        levels = place.facts.levels
        row = next(r for r in range(levels.rowCount()) if levels.item(r, 0).text() == old)
        levels.item(row, 0).setText(new)
        job.settle()
    job.key("F4")
    job.variable("Meat")
    job.phrase("panels", "Pen")
    job.phrase("heights", "Percent")
    job.phrase("forms", "bars + normal")
    job.set("look", "See-through", "30")
    job.group_colour("Meat", "teal")
    job.words(value_axis="Meat of one shell (g)", height_axis="Share of the pen (%)")
    job.set("bars", "Numbers", "percent")
    svg = svg_of(job.export("pens.svg"))
    written = words_in(svg)
    assert {"old pen", "new pen"} <= set(written)
    assert "Meat of one shell (g)" in written
    assert "Share of the pen (%)" in written
    assert any(w.replace(".", "").isdigit() for w in written)
    assert job.readings.scale == "percent"
    assert job.readings.samples.pooled.n == 110
    bars = marks(job, Area, "bars")
    assert {bar.fill for bar in bars} == {"#008080"}
    assert {round(bar.opacity, 3) for bar in bars} == {0.7}
    recipe = job.save_recipe("pens.toml")
    other = job.file("next.csv", *first.read_text().splitlines()[:81])
    out = job.folder / "next.png"
    assert main(["draw", str(recipe), "--data", str(other), "--output", str(out)]) == 0
    assert QImage(str(out)).width() > 500


def adding(job, words):
    place = job.window.rows_place
    found = [b for b in place.steps.findChildren(QAbstractButton) if words in words_of(b)]
    return found[0]


def test_job_2_six_grades_as_notched_boxes_by_falling_median(job):
    heads, path = grades(job)
    job.open(path)
    job.variable(heads[0])
    for head in heads[1:]:
        job.variable(head, more=True)
    job.phrase("forms", "box")
    job.set("box", "Notches")
    job.set("box", "Beside it", "mean ± sd")
    job.set("box", "Written", "a table")
    for head, colour in zip(
        heads, ("teal", "orange", "purple", "olive", "navy", "crimson"), strict=True
    ):
        job.group_colour(head, colour)
    job.rename("Mineral", "Mineral,", "like wet stone")
    job.part("split")
    panel = job.side.panel("split")
    job.put(panel.order, "by median")
    job.put(panel.reverse, True)
    job.set("box", "Beside it", "median")
    job.set("value_axis", "Ticks", "1")
    job.set("value_axis", "Frame", "none")
    job.part("split")
    item = panel.levels.item_of("Fresh")
    job.steps += 2
    panel.levels.setCurrentItem(item)
    QTest.keyClick(panel.levels, Qt.Key.Key_Return)
    job.group_colour("Fresh", "red")
    job.words(note="Sixty tasters.")
    job.letters("Note below", ground="#FFF3C4")
    path = job.export("grades.png", transparent=True)
    image = QImage(str(path))
    assert image.hasAlphaChannel()
    assert image.pixelColor(2, 2).alpha() == 0
    assert image.dotsPerMeterX() == pytest.approx(300 / 0.0254, rel=0.01)
    medians = [s.median for s in job.readings.summaries]
    assert medians == sorted(medians, reverse=True)
    assert job.recipe.box.notches
    written = {m.text for m in job.window.figure.scene.marks if isinstance(m, Text)}
    assert {"Mineral,", "like wet stone", "1", "7"} <= written
    assert "1.5" not in written
    fills = {m.meaning.group: m.fill for m in marks(job, Area, "box")}
    forward = [i for i, g in enumerate(job.readings.groups) if g.label == "Fresh"]
    assert [i for i, fill in fills.items() if fill == "#FF0000"] == forward
    assert len({fill for i, fill in fills.items() if i not in forward}) == 1
    assert any(m.fill == "#FFF3C4" for m in marks(job, Area, "own-note"))
    assert job.readings.plan.upright


def test_job_3_numbers_of_all_then_a_histogram_with_its_words(job):
    job.open(harvest(job))
    job.key("F2")
    overview = job.window.overview
    job.click(overview.numbers)
    job.hands.qtbot.waitUntil(lambda: overview.list.complete, timeout=5_000)
    row = next(
        r for r in range(overview.list.model().rowCount())
        if overview.list.model().index(r, 0).data() == "Mass (g)"
    )  # fmt: skip
    job.steps += 1
    place = overview.list.visualRect(overview.list.model().index(row, 0)).center()
    QTest.mouseClick(overview.list.viewport(), LEFT, pos=place)
    job.settle()
    job.set("bins", "Number", "12")
    job.group_colour("Mass", "seagreen")
    job.set("look", "Paper", "#FDF6E3")
    job.words(title="Twelve bins of mass", value_axis="Mass of a shell (g)")
    job.set("value_axis", "In words", "60 light; 100 heavy")
    job.set("look", "Ink", "#333333")
    written = words_in(svg_of(job.export("mass.svg")))
    assert {"Twelve bins of mass", "Mass of a shell (g)", "light", "heavy"} <= set(written)
    assert job.readings.edges.count == 12
    assert job.window.figure.scene.paper == "#FDF6E3"
    assert marks(job, Area, "bars")[0].fill == "#2E8B57"


def test_job_4_eighteen_typed_scores_as_a_box_then_by_a_factor(job):
    job.key("Ctrl+T")
    dialog = next(d for d in job.window.findChildren(TypingDialog) if d.isVisible())
    scores = [41, 44, 45, 47, 48, 50, 50, 51, 52, 53, 54, 55, 57, 58, 60, 63, 66, 72]
    groups = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"]
    QApplication.clipboard().setText(
        "\n".join(f"{score}\t{groups[i % 7]}" for i, score in enumerate(scores))
    )
    job.steps += 1
    QTest.keyClick(dialog.sheet, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    job.done(dialog)
    job.phrase("split", "all together")
    job.phrase("forms", "box")
    job.phrase("way", "standing")
    assert marks(job, Text, "height-axis") == []
    job.set("box", "Lines", "#222222")
    job.set("look", "See-through", "85")
    job.words(title="Eighteen scores")
    job.phrase("way", "lying")
    job.phrase("split", "Group")
    written = words_in(svg_of(job.export("scores.svg")))
    assert "Eighteen scores" in written
    assert set(groups) <= set(written)
    assert len(marks(job, Area, "box")) == 7
    assert {round(a.opacity, 2) for a in marks(job, Area, "box")} == {0.15}


def test_job_5_two_practice_samples_overlaid_with_a_legend(job):
    job.key("Ctrl+Shift+T")
    dialog = next(d for d in job.window.findChildren(SimulatingDialog) if d.isVisible())
    job.click(dialog.more)
    job.hands.qtbot.waitUntil(lambda: dialog.done_button.isEnabled(), timeout=5_000)
    for part, name in zip(dialog.parts, ("calm", "rough"), strict=True):
        job.type(part.name, name)
    mean = dialog.parts[1].fields["mean"]
    job.type(mean, "62")
    job.done(dialog)
    job.phrase("arrange", "overlaid")
    job.phrase("heights", "Density of each")
    job.set("bins", "Number", "24")
    job.set("look", "See-through", "0.6")
    job.group_colour("calm", "#0072B2")
    job.group_colour("rough", "#E69F00")
    job.words(title="Two seas")
    job.letters("Title", place="middle")
    job.letters("Numbers on the axes", size="11")
    job.set("legend", "Title", "Sea")
    job.letters("Names of levels", size="11")
    job.letters("Title of the levels", size="12")
    job.letters("Value axis", size="12")
    job.letters("Height axis", size="12")
    written = words_in(svg_of(job.export("seas.svg")))
    assert {"Two seas", "Sea"} <= set(written)
    assert any(w.startswith("calm") for w in written)
    assert job.readings.edges.count == 24
    assert job.readings.scale == "density"
    (title,) = marks(job, Text, "title")
    assert title.anchor == "middle"
    assert {m.fill for m in marks(job, Area, "bars")} >= {"#0072B2", "#E69F00"}
    assert {m.size for m in marks(job, Text, "value-title")} == {12.0}
    assert {m.size for m in marks(job, Text, "height-title")} == {12.0}
    assert {m.size for m in marks(job, Text, "value-axis") if m.text.isdigit()} == {11.0}


def test_job_6_stacked_then_overlaid_white_bars_with_outlines(job):
    job.open(harvest(job))
    job.phrase("split", "Season")
    job.phrase("arrange", "stacked")
    assert job.recipe.show.arrange == "stacked"
    job.phrase("arrange", "overlaid")
    for level in ("spring", "autumn"):
        job.group_colour(level, "white")
    job.set("bars", "Outline", "#222222")
    job.set("lines", "At the mean, dashed")
    job.set("legend", "Place", "below")
    job.words(title="White bars")
    job.letters("Title", place="middle")
    svg = svg_of(job.export("white.svg"))
    pdf = job.export("white.pdf")
    assert pdf.read_bytes().startswith(b"%PDF")
    assert "White bars" in words_in(svg)
    assert {m.fill for m in marks(job, Area, "bars")} == {"#FFFFFF"}
    assert {m.colour for m in marks(job, Line, "bars")} == {"#222222"}
    assert len(marks(job, Segments, "centre")) == 2
    legend = marks(job, Text, "legend")
    assert min(m.y for m in legend) > job.window.figure.scene.frame.bottom


def test_job_7_kinds_put_right_boxes_by_two_coloured_by_clicking(job):
    rows = [f"{40 + i % 17 + (30 if i == 9 else 0)} g,{i % 3},{'ab'[i % 2]}" for i in range(90)]
    job.open(job.file("kinds.csv", "Mass,Plot,Side", *rows))
    job.key("F3")
    place = job.window.rows_place
    job.steps += 1
    place.choose("Plot")
    job.put(place.facts.kind, "category")
    job.steps += 1
    place.choose("Mass")
    job.put(place.facts.kind, "number")
    job.key("F4")
    job.variable("Mass")
    job.phrase("split", "Plot")
    job.phrase("split", "Plot, and Side")
    job.phrase("forms", "box")
    job.phrase("way", "lying")
    job.click_mark("box", 0)
    panel = job.side.panel(job.side.chosen)
    assert panel.level_colour.isVisible()
    job.put(panel.level_colour, "crimson")
    QTest.keyClick(job.window.figure.stage.canvas, Qt.Key.Key_Escape)
    job.steps += 1
    svg_of(job.export("kinds.svg"))
    assert any(m.fill == "#DC143C" for m in marks(job, Area, "box"))
    numbers = job.folder / "n.json"
    from rhabdos.figure.forms.box import boxes

    for group, box in zip(job.readings.groups, boxes(job.readings), strict=True):
        beyond = any(tail.stop > tail.start for tail in box.tails)
        if beyond:
            assert box.whisker_high < group.sample.maximum or box.whisker_low > group.sample.minimum
    assert not numbers.exists()


def test_job_8_finer_coarser_groups_hidden_and_each_normalised(job):
    job.open(harvest(job))
    rod = job.window.figure.stage.rod
    before = job.readings.edges.width
    job.steps += 2
    job.hands.keys(rod, Qt.Key.Key_Down, Qt.Key.Key_Up)
    job.settle()
    assert job.readings.edges.width == before
    job.phrase("split", "Site")
    job.part("split")
    levels = job.side.panel("split").levels
    for _ in range(2):
        job.steps += 1
        item = levels.item_of("South")
        rect = levels.visualItemRect(item)
        box = rect.topLeft()
        box.setX(rect.left() + 8)
        box.setY(rect.center().y())
        QTest.mouseClick(levels.viewport(), LEFT, pos=box)
        job.settle()
    assert job.recipe.groups.hidden == ()
    job.phrase("heights", "Percent of each")
    job.words(title="Three sites")
    written = words_in(svg_of(job.export("sites.svg")))
    assert "Three sites" in written
    assert job.readings.scale == "percent"


def test_job_9_densities_to_a_limit_listed_breaks_and_a_red_curve(job):
    job.open(harvest(job))
    job.phrase("heights", "Density")
    job.set("height_axis", "To", "0.15")
    job.set("bins", "Number", "8")
    assert job.readings.edges.count == 8
    job.set("bins", "Number", "16")
    assert job.readings.edges.count == 16
    job.set("bins", "Own edges", "30 to 160 by 10")
    job.words(title="Listed breaks", value_axis="Mass in g", height_axis="Density of it")
    job.set("value_axis", "Labels", "upright")
    job.phrase("forms", "bars + curve")
    job.set("curve", "Curve", "red")
    job.set("curve", "Curve, width", "2.5 pt")
    written = words_in(svg_of(job.export("breaks.svg")))
    assert {"Listed breaks", "Mass in g", "Density of it"} <= set(written)
    (curve,) = marks(job, Line, "curve")
    assert (curve.colour, curve.width) == ("#FF0000", 2.5)
    assert job.readings.edges.values.tolist() == list(range(30, 161, 10))
    assert {m.angle for m in marks(job, Text, "value-axis") if m.text.isdigit()} == {90.0}


def test_job_10_a_typed_list_in_twelve_bins_with_gaps(job):
    job.key("Ctrl+T")
    dialog = next(d for d in job.window.findChildren(TypingDialog) if d.isVisible())
    times = [3, 8, 11, 14, 17, 21, 22, 26, 27, 29, 31, 33, 34, 38, 41, 47, 52, 58]
    QApplication.clipboard().setText(" ".join(map(str, times)))
    job.steps += 1
    QTest.keyClick(dialog.sheet, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    job.done(dialog)
    job.set("bins", "Own edges", "0 to 60 by 5")
    job.set("bars", "Gap", "20 %")
    job.set("value_axis", "Ticks", "5")
    job.group_colour(job.readings.variable.label, "red")
    svg_of(job.export("soak.svg"))
    assert job.readings.edges.count == 12
    bars = marks(job, Area, "bars")
    assert {bar.fill for bar in bars} == {"#FF0000"}
    assert job.recipe.bars.gap == pytest.approx(0.2)
    ticks = [m.text for m in marks(job, Text, "value-axis") if m.text.isdigit()]
    assert ticks == [str(n) for n in range(0, 61, 5)]


def test_job_11_two_panels_in_percent_with_ticks_in_both_by_one_edit(job):
    job.open(harvest(job))
    job.phrase("heights", "Percent")
    job.set("bins", "Width", "4")
    job.phrase("panels", "Season")
    job.set("value_axis", "Ticks", "12")
    job.set("look", "Ground of frames", "#F1F4F8")
    job.group_colour("Mass", "#0072B2")
    job.set("bars", "Outline", "black")
    job.words(title="Two seasons", subtitle="of the same racks", note="Weighed wet.")
    job.set("look", "n of groups", "nowhere")
    job.set("value_axis", "Aspect", "0.6")
    job.set("bars", "Numbers", "percent")
    written = words_in(svg_of(job.export("seasons.svg")))
    assert {"Two seasons", "of the same racks", "Weighed wet."} <= set(written)
    assert not any("n = " in w for w in written)
    frames = job.window.figure.scene.frames
    assert len(frames) == 2
    for frame in frames:
        assert (frame.bottom - frame.top) / (frame.right - frame.left) == pytest.approx(
            0.6, abs=0.01
        )
    ticks = [m.text for m in marks(job, Text, "value-axis") if m.text.isdigit()]
    assert all(int(t) % 12 == 0 for t in ticks)
    assert len(ticks) > len(set(ticks))


def test_job_12_a_normal_sample_a_scatter_and_bars_of_typed_values(job):
    job.key("Ctrl+Shift+T")
    dialog = next(d for d in job.window.findChildren(SimulatingDialog) if d.isVisible())
    part = dialog.parts[0]
    for name, text in (("mean", "0"), ("sd", "1")):
        job.type(part.fields[name], text)
    job.type(part.count, "150")
    job.done(dialog)
    assert job.readings.samples.pooled.n == 150
    job.words(title="150 of a standard normal")
    job.group_colour(job.readings.variable.label, "indigo")
    assert "150 of a standard normal" in words_in(svg_of(job.export("normal.svg")))
    job.open(job.file("two.csv", "a,b", *(f"{i},{(i * 7) % 23}" for i in range(40))))
    job.key("Ctrl+Shift+X")
    job.put(job.window.figure.chart_view.panel.words["title"], "b against a")
    assert "b against a" in words_in(svg_of(job.export("two.svg")))
    job.key("Ctrl+T")
    dialog = next(d for d in job.window.findChildren(TypingDialog) if d.isVisible())
    QApplication.clipboard().setText("12\tSaltmere\n7\tGull Spit\n9\tLee Bank\n4\tOtter Ledge")
    job.steps += 1
    QTest.keyClick(dialog.sheet, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    job.done(dialog)
    written = words_in(svg_of(job.export("four.svg")))
    assert {"Saltmere", "Gull Spit", "Lee Bank", "Otter Ledge"} <= set(written)


def test_job_13_a_workbook_boxes_of_one_and_two_factors_and_all_variables(job):
    import openpyxl

    book = openpyxl.Workbook()
    sheet = book.active
    lines = harvest(job).read_text().splitlines()
    rng = np.random.default_rng(9)
    for i, line in enumerate(lines):
        cells = line.split(",")
        extra = ["Length (mm)", "Age (d)"] if i == 0 else [70 + rng.normal(0, 8), 300 + i]
        first = cells[0] if i == 0 else float(cells[0])
        sheet.append([first, *cells[1:], *extra])
    path = job.folder / "harvest.xlsx"
    book.save(path)
    job.open(path)
    job.phrase("forms", "box")
    job.set("box", "Of the strip", "60")
    job.set("box", "Of the strip", "25 %")
    job.phrase("way", "standing")
    job.phrase("split", "Site")
    job.phrase("split", "Site, and Season")
    job.set("box", "Mean", "circle")
    job.part("look")
    job.click(job.side.panel("look").palettes["kelp"])
    job.set("box", "Lines, width", "0.4 pt")
    job.set("box", "Median, width", "2.5")
    boxes = marks(job, Line, "box")
    assert {line.width for line in boxes} == {0.4}
    assert any(isinstance(m, Dots) and m.shape == "circle" for m in marks(job, Dots, "box"))
    job.phrase("variable", "all 3 numeric variables")
    job.set("page", "Width × height", "18 x 6 in")
    path = job.export("all.png")
    image = QImage(str(path))
    assert (image.width(), image.height()) == (5400, 1800)
    assert len(job.window.figure.scene.frames) == 3
    assert job.recipe.box.share == 0.25


def test_job_14_levels_that_differ_by_capitals_are_merged(job):
    rows = [f"{50 + (i * 13) % 61},{('rack', 'Rack', 'line')[i % 3]}" for i in range(120)]
    job.open(job.file("caps.csv", "Length,Gear", *rows))
    job.key("F2")
    cards = job.window.overview.cards
    job.hands.qtbot.waitUntil(lambda: all(cards.looked_at(c) for c in cards.columns), timeout=5_000)
    index = next(i for i, c in enumerate(cards.columns) if c.name == "Gear")
    rect = cards.rect_of(index)
    job.steps += 1
    foot = rect.bottomLeft()
    foot.setX(rect.center().x())
    foot.setY(rect.bottom() - 6)
    QTest.mouseClick(cards.viewport(), LEFT, pos=foot)
    job.settle()
    place = job.window.rows_place
    offers = [
        b for notice in place.facts.notices for b in notice.findChildren(QAbstractButton)
    ]  # fmt: skip
    job.click(offers[0])
    assert job.window.session.table.column("Gear").levels == ("line", "Rack")
    job.key("F4")
    job.variable("Length")
    job.set("bins", "Width", "12")
    job.set("bins", "Width", "15")
    job.set("value_axis", "From", "40")
    job.set("value_axis", "To", "120")
    svg_of(job.export("caps.svg"))
    frame = job.window.figure.scene.frame
    assert (frame.low, frame.high) == (40, 120)
    assert job.readings.edges.width == 15


def test_job_15_boxes_in_clusters_and_panels_with_named_values_and_hatching(job):
    job.open(harvest(job))
    job.phrase("forms", "box")
    job.phrase("split", "Site")
    job.phrase("split", "Site, and Season")
    job.phrase("panels", "Gear")
    job.words(title="Two lines")
    job.set("box", "Beyond", "by row")
    job.set("box", "Names beyond", "8")
    job.set("box", "Marks beyond", "5")
    job.letters("Numbers on the axes", size="10")
    job.set("look", "Hatching", "of each group")
    written = words_in(svg_of(job.export("clusters.svg")))
    assert "Two lines" in written
    assert "6" in written  # the row of the value that lies far beyond
    assert len(job.window.figure.scene.frames) == 2
    assert {area.hatch for area in marks(job, Area, "box")} > set()
    assert any(area.hatch for area in marks(job, Area, "box"))
    assert {d.size for d in marks(job, Dots, "box")} == {5.0}
    titles = marks(job, Text, "value-title")
    assert len(titles) == 1


def test_job_16_heights_numbers_and_two_curves_told_apart_bars_hidden(job):
    job.open(harvest(job))
    job.phrase("heights", "Proportion")
    assert job.readings.scale == "proportion"
    job.phrase("heights", "Density")
    job.set("bins", "Number", "20")
    job.set("bars", "Numbers", "percent")
    job.phrase("forms", "bars + curve")
    job.forms_panel()
    panel = job.side.panel("forms")
    job.click(panel.ticks["normal"])
    job.set("curve", "Curve", "#D98C00")
    job.set("curve", "Normal curve", "#333333")
    job.set("curve", "Normal curve, dash", "dotted")
    job.forms_panel()
    job.click(panel.ticks["bars"])
    written = words_in(svg_of(job.export("curves.svg")))
    assert {"density curve", "normal curve"} <= set(written)
    assert "bars" not in written
    (density,), (normal,) = marks(job, Line, "curve"), marks(job, Line, "normal")
    assert (density.colour, normal.colour) == ("#D98C00", "#333333")
    assert density.dash != normal.dash
    assert marks(job, Area, "bars") == []


def test_job_17_unequal_breaks_limits_told_and_a_curve_that_is_not_cut(job):
    job.open(harvest(job))
    job.words(title="Unequal breaks")
    job.group_colour("Mass", "teal")
    job.set("bins", "Number", "60")
    job.set("bins", "Own edges", "30, 50, 55, 60, 70, 100, 160")
    job.set("value_axis", "To", "110")
    told = [n.code for n in job.window.session.notices]
    assert "limits-hide" in told
    job.phrase("forms", "bars + curve")
    job.set("bars", "Numbers", "count")
    written = words_in(svg_of(job.export("unequal.svg")))
    assert "Unequal breaks" in written
    assert any("Not shown: 1 above the axis" in w for w in written)
    frame = job.window.figure.scene.frame
    assert job.recipe.show.forms == ("bars", "curve")
    (curve,) = marks(job, Line, "curve")
    assert curve.points[:, 1].min() >= frame.top - 0.5
    assert job.readings.scale == "density"
    counts = [t.text for t in marks(job, Text, "bars")]
    assert len(counts) >= 4


def test_job_18_polygon_and_histogram_at_three_numbers_of_bins(job):
    rng = np.random.default_rng(12)
    values = np.concatenate([rng.normal(40, 3, 900), rng.normal(54, 3, 900)]).round(2)
    job.open(job.file("humps.csv", "Depth (m)", *map(str, values.tolist())))
    job.words(title="Two humps")
    job.forms_panel()
    job.click(job.side.panel("forms").ticks["polygon"])
    for count in ("40", "18", "4"):
        job.set("bins", "Number", count)
        assert job.readings.edges.count == int(count)
        assert job.recipe.words.title == "Two humps"
    assert any(n.code == "hidden-peaks" or "hump" in n.text.lower() or "peak" in n.text.lower()
               for n in job.window.session.notices)  # fmt: skip
    job.set("bins", "Number", "18")
    job.set("bars", "Outline", "#333333")
    job.set("look", "See-through", "40 %")
    job.forms_panel()
    job.click(job.side.panel("forms").ticks["bars"])
    written = words_in(svg_of(job.export("humps.svg")))
    assert "Two humps" in written
    assert job.recipe.show.forms == ("polygon",)
