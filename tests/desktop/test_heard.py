"""The window as it is heard: read from the accessibility bus, and used by keys alone."""

import csv
import re
import time
from pathlib import Path

import pytest

from rhabdos.figure.phrases import PHRASES
from tests.desktop.bus import Program, Reader, session
from tests.desktop.needing import need

DEMO = Path(__file__).parents[2] / "demo"
_CLOSE = "[w.close() for w in app.topLevelWidgets() if w is not window and w.isVisible()]"
_LEAST_CONTROLS = 30  # of the window with a figure


@pytest.fixture(scope="module")
def environment(tmp_path_factory):
    need("Xvfb", "dbus-daemon")
    with session(tmp_path_factory.mktemp("session")) as made:
        yield made


@pytest.fixture
def reader(environment):
    made = Reader(environment["DBUS_SESSION_BUS_ADDRESS"])
    yield made
    made.close()


@pytest.fixture(scope="module")
def running(environment):
    made = Program(environment, "--demo")
    yield made
    made.end()


@pytest.fixture
def program(running):
    """A new window with the demo data, when its figure can be heard."""
    running.do(f"{_CLOSE}; anew()")
    until = time.monotonic() + 20
    while running.ask("window.figure.stage.canvas.heard.parts is not None") != "True":
        assert time.monotonic() < until
        running.do("None")
    return running


@pytest.fixture
def look(reader):
    """Look at all that is shown: how many things there are, after whatever is at fault was told."""

    def looked(where: str) -> int:
        tree = reader.tree(most=30, hidden=False, behind=False)
        faults = reader.faults(tree)
        assert not faults, "\n".join(f"{where}: {fault}" for fault in faults)
        return len(list(tree.walk()))

    return looked


_ENTRIES = """
def entries(actions, above=""):
    for action in actions:
        if action.menu():
            yield from entries(action.menu().actions(), f"{above}{action.text()} › ")
        elif action.text() and action.isEnabled():
            yield (above + action.text()).replace("&", ""), action
"""


def test_nothing_that_a_menu_opens_is_nameless_or_without_a_role(program, look):
    assert look("the figure") > _LEAST_CONTROLS
    program.do(f"exec({_ENTRIES!r}, globals())")
    listed = program.ask("'|'.join(name for name, _ in entries(window.menu_bar.actions()))")
    opening = [n for n in listed.split("|") if n.endswith("…") or n.startswith(("Help", "Data › "))]
    assert len(opening) > len(PHRASES) + 25
    for name in opening:
        deed = f"dict(entries(window.menu_bar.actions()))[{name!r}].trigger"
        told = program.do(f"{_CLOSE}; later({deed})")
        assert not told, f"{name}: {told}"
        look(name)


def test_nothing_else_that_opens_is_nameless_or_without_a_role(program, look, tmp_path):
    work, filing = tmp_path / "landings.rhabdos", "window.filing"
    fixed = tmp_path / "fixed.txt"
    fixed.write_text("length  bay\n12.5    north\n13.25   south\n14      north\n" * 9)
    form, dialog = "window.rows_place.form.isVisible()", "app.activeModalWidget().isVisible()"
    for what, stands in (
        ("window.go_to('overview'); window.overview.numbers.click()", "window.overview.isVisible()"),
        ("window.go_to('rows'); window.rows_place.begin('recode', 'Bay')", form),
        ("window.rows_place.begin('numbers', 'Bay')", form),
        ("window.rows_place.begin('fill', 'Wet mass')", form),
        ("window.rows_place.begin('make', 'Wet mass', 'classes')", form),
        ("window.rows_place.leave_form(); window.rows_place.choose('Bay')", "window.rows_place.facts.isVisible()"),
        ("window.go_to('figure'); window.figure.foot.show_face('bins')", "window.figure.foot.isVisible()"),
        ("window.session.figures.keep_variant(); window.session.figures.part()", "len(window.session.figures) == 2"),
        ("window.variable_actions.draw('Culture')", "window.figure.chart_view.isVisible()"),
        ("window.variable_actions.look_at_two()", "window.figure.chart_view.lying.isVisible()"),
        (f"{filing}.arriving.look_into(path({str(fixed)!r}))", "app.activeModalWidget().ruler.isVisible()"),
        (f"{filing}.set_on_a_page()", dialog),
        (f"{filing}.arriving.look_into(path({str(DEMO)!r}) / 'oyster-landings.csv')", dialog),
        (f"{filing}.recipe_path = path({str(work)!r}); {filing}.save()", f"path({str(work)!r}).exists()"),
        (f"{filing}.show_versions()", dialog),
    ):  # fmt: skip
        told = program.do(f"{_CLOSE}; {what}")
        assert not told, f"{what}: {told}"
        look(what)
        assert program.ask(stands) == "True", what


def test_the_empty_window_is_heard_too(environment, reader):
    program = Program(environment)
    tree = reader.tree()
    assert not reader.faults(tree)
    assert tree.one("push button", "Open data")
    program.end()


def test_what_we_paint_is_heard_as_what_it_is(program, reader):
    tree = reader.tree(most=60)
    figure = tree.one("graphic", "Figure")
    assert figure.description.startswith("Shell length of every row that has one, split by Bay")
    assert "tail" in figure.description or "lies from" in figure.description
    parts = figure.one("list", "Parts of the figure").children
    assert parts[1].name.startswith("44 to under 48 mm. Heron Sound: 0 of 820")
    assert len(tree.all("button menu")) >= 6
    assert [tab.name for tab in tree.all("page tab")] == ["Overview", "Rows", "Figure"]
    assert "drawn" in tree.one("list item", "Shell length").name
    program.do("window.go_to('rows')")
    tree = reader.tree(most=400)
    table = tree.one("table", "Rows")
    with (DEMO / "oyster-landings.csv").open(newline="") as file:
        first = next(csv.DictReader(file))
    cells = [cell.name for cell in table.all("cell")]
    assert first["Tag"] in cells
    assert first["Bay"] in cells
    assert "Bay" in [head.name for head in table.all("column header")]
    program.do("window.go_to('overview')")
    cards = reader.tree().all("list", "Variables")
    listed = [item.name for each in cards for item in each.children]
    assert any("Drawn in the figure." in name for name in listed)
    assert any(name.startswith("Water temperature") and "−9" in name for name in listed)


def _standing(reader, name):
    """A slider in its own unit: its value, the least, the greatest and the step."""
    slider = reader.tree().one("slider", name)
    part = re.search(r" in ([0-9.e-]+) ", slider.name)
    return slider, [n * (float(part[1]) if part else 1.0) for n in reader.value(slider)]


@pytest.mark.parametrize(
    ("forms", "phrase", "name", "value"),
    [
        (("bars",), "bins", "Rod: the bin edges, width", "readings.edges.width"),
        (("bars", "curve"), "curve", "Rod: the bandwidth", "recipe.curve.bandwidth"),
        (("box",), "box", "Rod: the reach of the whiskers", "recipe.box.whiskers"),
        (("bars",), "value_axis", "Rod: the ends of the value axis, low end", "recipe.axes.value.low"),
    ],
)  # fmt: skip
def test_rods_are_sliders_with_value_range_and_step(program, reader, forms, phrase, name, value):
    program.do(f"window.session.ask('x', window.session.recipe.showing(forms={forms!r}))")
    program.do(f"window.sentence.opened.emit({phrase!r}, window.pos())")
    program.do(_CLOSE)
    slider, (now, low, high, step) = _standing(reader, name)
    assert low <= now <= high
    assert 0 < step < high - low
    raw = reader.value(slider)
    reader.set_value(slider, raw[0] + 2 * raw[3])
    program.do("None")
    _, (after, *_) = _standing(reader, name)
    assert after == pytest.approx(now + 2 * step, rel=0.01)
    assert float(program.do(f"print(window.session.{value})")) == pytest.approx(after, rel=0.005)


def test_a_range_that_is_marked_has_two_sliders(program, reader):
    program.do(
        "from rhabdos.app.paper.range_hand import MarkedRange; "
        "window.figure.stage.canvas.range_hand.show(MarkedRange(60.0, 80.0))"
    )
    tree = reader.tree()
    ends = [
        reader.value(tree.one("slider", f"{end} end of the range")) for end in ("Lower", "Upper")
    ]
    assert ends[0][0] * 4 == ends[1][0] * 3
    reader.set_value(tree.one("slider", "Upper end of the range"), ends[1][0] * 0.9)
    assert program.do("print(window.figure.stage.canvas.range_hand.marked.ends)") == "(60.0, 72.0)"


def test_a_step_in_the_figure_is_told_once(program, reader):
    program.keys("Ctrl+B", "Right")
    focused = [
        n for _, n in reader.tree(most=60).walk() if n.role == "list item" and 12 in n.states
    ]
    before = [n.name for n in focused if "under" in n.name]
    told = reader.heard(lambda: program.keys("Right"))
    after = [
        n.name for _, n in reader.tree(most=60).walk()
        if n.role == "list item" and 12 in n.states and "under" in n.name
    ]  # fmt: skip
    assert before != after
    assert len(after) == 1
    descriptions = [kind for kind in told if "description" in kind]
    assert not descriptions  # the part itself is told, and nothing beside it
    assert len([kind for kind in told if "active-descendant" in kind or "focus" in kind]) <= 2


def _go_to(program, name):
    """Go to a field by Tab, as one who hears where the keys are."""
    for _ in range(60):
        if program.ask("app.focusWidget() and app.focusWidget().accessibleName()") == name:
            return
        program.ask("keys('Tab')")
    raise AssertionError(f"{name} is not reached by Tab")


def test_a_whole_job_by_keyboard_alone(environment, reader, tmp_path):
    """Open, split, width, compare, title, export."""
    data, out = tmp_path / "landings.csv", tmp_path / "bays.png"
    data.write_bytes((DEMO / "oyster-landings.csv").read_bytes())
    program = Program(environment)
    program.keys("Ctrl+O")
    program.type(str(data))
    program.keys("Return")
    assert program.do("print(window.session.table.rows)") == "2416"
    program.keys("F4", "Ctrl+1")
    tree = reader.tree(most=60)
    menu = tree.one("button menu", "Variable")
    offered = [item.name for _, item in menu.walk() if "menu item" in item.role]
    program.keys(*["Down"] * offered.index("Wet mass"), "Return")
    program.keys("Ctrl+2")
    menu = reader.tree(most=60).one("button menu", "Groups")
    offered = [item.name for _, item in menu.walk() if "menu item" in item.role]
    program.keys(*["Down"] * offered.index("Bay"), "Return")
    assert program.do("print(window.sentence.accessibleDescription())").startswith(
        "Wet mass of every row that has one, split by Bay"
    )
    program.keys("Ctrl+R")
    before = _standing(reader, "Rod: the bin edges, width")[1][0]
    program.keys("Up", "Up")
    assert _standing(reader, "Rod: the bin edges, width")[1][0] > before
    program.keys("F12")
    tree = reader.tree(most=60)
    assert tree.one("table", "Each group compared with one of them").all("cell", "Saltmere")
    program.keys("Ctrl+9")
    _go_to(program, "Title")
    program.type("Landings of three bays")
    program.keys("Return")
    assert reader.tree(most=30).all("text", "Title")
    assert program.do("print(window.session.recipe.words.title)") == "Landings of three bays"
    program.keys("Ctrl+Shift+E")
    assert reader.tree(most=30).one("dialog", "Export figure")
    _go_to(program, "File")
    program.keys("Ctrl+A")
    program.type(str(out))
    program.keys("Return")
    until = time.monotonic() + 20
    while not out.exists() and time.monotonic() < until:
        program.do("None")
    assert out.read_bytes()[:8] == b"\x89PNG\r\n\x1a\n"
    program.end()
