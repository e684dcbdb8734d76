"""Works as files: written and read again, and refused where they are wrong."""

import io
import os
import tomllib
import zipfile
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec import structs

from rhabdos.data.demo import demo_table
from rhabdos.data.files.reading import read_table
from rhabdos.data.files.writing import written
from rhabdos.data.steps.joining import Join
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.project.document import Document, Figure, Source
from rhabdos.project.work_file import (
    KeptSource,
    WorkFile,
    is_work,
    open_work_file,
    packed,
    read_work_file,
    write_work_file,
)
from rhabdos.project.work_sources import (
    files_outside,
    found,
    kept_source,
    steps_found,
    steps_seen_from,
    told_changes,
)

DEMO = demo_recipe()
OTHER = Recipe(show=Show(variables=("Wet mass",)))


def some_work(**changes):
    fields = {
        "source": KeptSource("landings.csv", 12, "2026-11-29T04:00:00Z", "ab" * 32, 3, ("x", "y")),
        "steps": (KeepRows((Condition(variable="Bay", levels=("Saltmere",)),)),),
        "figures": (Figure(DEMO), Figure(OTHER, "Wet & dry")),
        "shown": 1,
        "beside": (0, 1),
    }
    return WorkFile(**(fields | changes))


def test_a_work_is_read_as_it_was_written_and_is_plain_text():
    work = some_work()
    text = write_work_file(work)
    assert read_work_file(text, "w.rhabdos") == work
    raw = tomllib.loads(text)
    assert raw["rhabdos-work"] == 1
    assert raw["shown"] == 2
    assert raw["source"]["path"] == "landings.csv"
    assert raw["figure"][1]["name"] == "Wet & dry"
    assert raw["figure"][1]["show"]["variables"] == ["Wet mass"]
    assert raw["prepare"][0]["step"] == "keep"
    assert text.count("\n") > 20  # a line each, which shows well where versions are compared
    titled = structs.replace(DEMO, words=structs.replace(DEMO.words, title="Wet\nand dry"))
    assert "Wet\nand dry" in write_work_file(some_work(figures=(Figure(titled),)))


@given(
    st.lists(st.text(max_size=20), min_size=1, max_size=6),
    st.integers(0, 5),
    st.sets(st.integers(0, 5)),
)
@settings(max_examples=60, deadline=None)
def test_any_names_and_places_come_back(names, shown, beside):
    figures = tuple(Figure(DEMO if at % 2 else OTHER, name) for at, name in enumerate(names))
    shown = min(shown, len(names) - 1)
    beside = tuple(sorted(place for place in beside | {shown} if place < len(names)))
    work = some_work(figures=figures, shown=shown, beside=beside if len(beside) > 1 else ())
    assert read_work_file(write_work_file(work), "w.rhabdos") == work


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "w.rhabdos is no work: one begins with the line “rhabdos-work = 1”."),
        ("rhabdos = 1\n", "is no work"),
        ("rhabdos-work = 2\n", "was saved by a newer Rhabdos, in version 2"),
        ("rhabdos-work = true\n", "must be 1"),
        (
            "rhabdos-work = 1\nshow = 3\n",
            "Did you mean shown? Keys of the work are shown, beside, source.",
        ),
        ("rhabdos-work = 1\nshown = 0\n", "shown is 0, but must be the number of a figure"),
        (
            "rhabdos-work = 1\nshown = 3\n[[figure]]\nshow.variables = ['x']",
            "names figure 3, but holds 1",
        ),
        ("rhabdos-work = 1\nfigure = 3\n", "figure must be a list of tables"),
        ("rhabdos-work = 1\n[[figure]]\nname = 3\n", "the name of figure 1 must be text"),
        ("rhabdos-work = 1\n[[figure]]\n", "figure 1: show is missing"),
        ("rhabdos-work = 1\n[[figure]]\nshow.variables = ['x']\nshow.formz = 3", "formz"),
        ("rhabdos-work = 1\n[source]\nsize = -3\n", "source.size is -3"),
        ("rhabdos-work = 1\n[source]\ncommand = 'rm'\n", "command"),
        ("rhabdos-work = 1\n[[prepare]]\nstep = 'run'\n", "prepare 1 is “run”"),
        ("rhabdos-work = 1\n" + "[[figure]]\nshow.variables = ['x']\n" * 501, "501 figures"),
        ("rhabdos-work = 1\n[", "is not valid TOML"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(text, told):
    with pytest.raises(Refusal, match="w.rhabdos") as refused:
        read_work_file(text, "w.rhabdos")
    assert told in str(refused.value)


def test_a_packed_work_holds_text_and_table_and_the_same_bytes_twice(tmp_path):
    table = demo_table()
    text = write_work_file(some_work(source=KeptSource(inside=True)))
    content = packed(text, written(table, ".parquet"))
    assert content == packed(text, written(table, ".parquet"))
    path = tmp_path / "w.rhabdos"
    path.write_bytes(content)
    assert open_work_file(path) == some_work(source=KeptSource(inside=True))
    inside = read_table(path)  # as any archive with a table in it
    assert inside.rows == table.rows
    assert [column.name for column in inside.columns] == [column.name for column in table.columns]
    assert [column.kind for column in inside.columns] == [column.kind for column in table.columns]


@pytest.mark.parametrize(
    ("parts", "told"),
    [
        ({"data.parquet": b""}, "lacks work.toml"),
        ({"work.toml": b"\xff\xfe"}, "is not a text in UTF-8"),
        ({"work.toml": b" " * (33 << 20)}, "is larger than a work can be"),
        ({"../../work.toml": b"rhabdos-work = 1"}, "lacks work.toml"),
    ],
)
def test_a_hostile_zip_fills_neither_memory_nor_disk(tmp_path, parts, told):
    path = tmp_path / "w.rhabdos"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in parts.items():
            archive.writestr(name, content)
    with pytest.raises(Refusal) as refused:
        open_work_file(path)
    assert told in str(refused.value)
    assert [file.name for file in tmp_path.iterdir()] == ["w.rhabdos"]


def test_a_damaged_zip_is_said_to_be_one(tmp_path):
    whole = packed(write_work_file(some_work()), b"x" * 999)
    for cut in range(4, len(whole), 37):
        path = tmp_path / "w.rhabdos"
        path.write_bytes(whole[:cut] + b"\x00" * 3)
        with pytest.raises(Refusal):
            open_work_file(path)


def test_works_are_told_from_recipes_by_name_or_first_line(tmp_path):
    (tmp_path / "a.rhabdos").write_text("anything")
    (tmp_path / "b.toml").write_text("# ours\nrhabdos-work = 1\n")
    (tmp_path / "c.toml").write_text("rhabdos = 1\n")
    assert [is_work(tmp_path / name) for name in ("a.rhabdos", "b.toml", "c.toml", "d.toml")] == [
        True, True, False, False,
    ]  # fmt: skip


def test_files_are_named_from_the_folder_and_found_where_it_is_moved(tmp_path):
    here, there = tmp_path / "here", tmp_path / "there"
    (here / "data").mkdir(parents=True)
    file = here / "data" / "landings.csv"
    file.write_text("x\n1\n2\n")
    table = read_table(file)
    source = kept_source(Document.of(Source(file, 1)), here, table)
    assert source.path == "data/landings.csv"
    assert (source.size, source.rows, source.variables) == (6, 2, ("x",))
    here.rename(there)
    place = found(there, source.path)
    assert place.path == (there / "data" / "landings.csv").resolve()
    assert not place.outside
    assert told_changes(source, place.path, table) == ""
    place.path.write_text("x,z\n1,2\n2,3\n5,6\n")
    told = told_changes(source, place.path, read_table(place.path))
    assert told == (
        "landings.csv has changed since the work was saved: 3 rows instead of 2; with “z”."
    )
    place.path.write_text("x\n1\n9\n")
    assert told_changes(source, place.path, read_table(place.path)).endswith(": other values.")


def test_a_file_too_large_to_be_gone_through_is_known_by_its_size_and_time(tmp_path):
    file = tmp_path / "landings.csv"
    file.write_text("x\n1\n2\n")
    table = read_table(file)
    whole = kept_source(Document.of(Source(file, 1)), tmp_path, table)
    source = structs.replace(whole, sha256="")
    assert told_changes(source, file, table) == ""
    assert told_changes(structs.replace(source, size=0, modified=""), file, table) == ""
    os.utime(file, (0, 0))
    assert told_changes(whole, file, table) == ""  # the same by its checksum
    assert told_changes(source, file, table).endswith(": other values.")
    file.write_text("x\n1\n25\n")
    assert told_changes(source, file, read_table(file)).endswith(": other values.")
    assert told_changes(source, tmp_path / "gone.csv", table) == ""


def test_what_lies_outside_the_folder_is_found_out_whatever_it_is_called(tmp_path):
    folder = tmp_path / "work"
    folder.mkdir()
    secret = tmp_path / "secret.csv"
    secret.write_text("x\n1\n")
    (folder / "linked.csv").symlink_to(secret)
    for name in ("../secret.csv", str(secret), "linked.csv", "./a/../../secret.csv"):
        work = WorkFile(KeptSource(name))
        assert files_outside(work, folder) == [secret.resolve()], name
    assert files_outside(WorkFile(KeptSource("no such.csv")), folder) == []


def test_steps_keep_their_files_beside_the_work(tmp_path):
    (tmp_path / "bays.csv").write_text("Bay\n")
    steps = (Join(file=str(tmp_path / "bays.csv"), keys=("Bay",)),)
    named = steps_seen_from(tmp_path, steps)
    assert named[0].files == ("bays.csv",)
    assert steps_found(tmp_path, named) == steps


def test_the_text_of_a_zip_is_stored_first_and_readable_by_any_tool(tmp_path):
    content = packed(write_work_file(some_work()), b"data")
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert archive.namelist() == ["work.toml", "data.parquet"]
        assert archive.read("work.toml").decode().startswith("rhabdos-work = 1")


WORKS = sorted((Path(__file__).parents[1] / "corpus" / "works").iterdir())


@pytest.mark.parametrize("path", WORKS, ids=lambda path: path.name)
def test_works_of_every_version_are_read(path):
    """One file a version and kind is kept from when that was new."""
    work = open_work_file(path)
    assert [figure.name for figure in work.figures] == ["Two harvests", ""]
    assert work.figures[0].recipe.words.title == "Two harvests hide in Saltmere"
    assert work.figures[1].recipe.show.forms == ("box", "points")
    assert (work.shown, work.beside) == (1, (0, 1))
    assert work.source.rows == 2416
    assert read_work_file(write_work_file(work), path.name).figures == work.figures


def test_the_example_of_the_page_is_read():
    text = (Path(__file__).parents[2] / "docs" / "work.md").read_text()
    example = text.partition("```toml\n")[2].partition("```")[0]
    work = read_work_file(example, "the example")
    assert (len(work.figures), work.shown, work.beside) == (2, 1, (0, 1))
    assert work.plates[0].figures == (0, 1)
    assert work.source.path == "landings.csv"
