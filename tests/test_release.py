"""What is released: licences of all that is shipped, the same bytes twice, and a bundle's ways."""

import io
import re
import sys
import tarfile
from pathlib import Path

import pytest
from tools.distributions import _settled
from tools.licences import licence_of, shipped

from rhabdos.data.files.reading import read_table

ROOT = Path(__file__).parents[1]


def test_the_page_of_licences_names_everything_that_is_shipped():
    """Otherwise: python tools/licences.py."""
    page = (ROOT / "docs" / "licences.md").read_text()
    listed = set(re.findall(r"^\| ([\w-]+) \| \d", page, re.MULTILINE))
    there = set(shipped())
    assert there <= listed
    # Another Python needs a little more or less: what stands in for its standard library.
    assert listed - there <= {"backports-zstd", "typing-extensions"}
    for name in there:
        assert licence_of(name) != "see its own files", name
    assert {name for name in there if licence_of(name).startswith("GPL")} == {"pyqt6"}
    assert "General Public License 3" in page


def test_dependencies_that_are_named_are_those_that_are_told_of():
    told = (ROOT / "docs" / "architecture.md").read_text().partition("## Dependencies")[2]
    project = (ROOT / "pyproject.toml").read_text()
    named = re.search(r"^dependencies = \[(.*?)^\]", project, re.MULTILINE | re.DOTALL)[1]
    for name in re.findall(r'"([A-Za-z0-9_.-]+)', named):
        assert name.casefold() in told.casefold(), name


def _packed(names, at, owner):
    plain = io.BytesIO()
    with tarfile.open(fileobj=plain, mode="w:gz") as tar:
        for name in names:
            member = tarfile.TarInfo(name)
            member.size, member.mtime, member.uid, member.uname = 3, at, owner, f"u{owner}"
            tar.addfile(member, io.BytesIO(b"abc"))
    return plain.getvalue()


def test_an_sdist_is_the_same_whenever_and_wherever_it_is_made():
    one = _settled(_packed(["a/b", "a/c"], 1_000, 7), 5)
    other = _settled(_packed(["a/c", "a/b"], 2_000, 8), 5)
    assert one == other
    with tarfile.open(fileobj=io.BytesIO(one)) as tar:
        assert [(m.name, m.mtime, m.uid, m.uname) for m in tar] == [
            ("a/b", 5, 0, ""), ("a/c", 5, 0, ""),
        ]  # fmt: skip
        assert tar.extractfile("a/b").read() == b"abc"


@pytest.mark.parametrize("frozen", [False, True])
def test_a_process_of_our_own_is_started_by_python_or_by_the_bundle(monkeypatch, tmp_path, frozen):
    if frozen:
        begin = tmp_path / "bundle"
        entry = ROOT / "tools" / "bundle" / "entry.py"
        begin.write_text(f'#!/bin/sh\nexec "{sys.executable}" "{entry}" "$@"\n')
        begin.chmod(0o755)
        monkeypatch.setattr(sys, "frozen", True, raising=False)
        monkeypatch.setattr(sys, "executable", str(begin))
    table = read_table(_workbook(tmp_path))  # which is read in a process of its own
    assert [column.name for column in table.columns] == ["length", "mass"]


def _workbook(folder):
    import openpyxl

    book = openpyxl.Workbook()
    book.active.append(["length", "mass"])
    book.active.append([1, 2])
    path = folder / "x.xlsx"
    book.save(path)
    return path
