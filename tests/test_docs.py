"""The documents: what they link to and what they name is there."""

import ast
import re
import tomllib
from pathlib import Path

import pytest

import rhabdos

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "rhabdos"
DOCUMENTS = sorted([*ROOT.glob("*.md"), *(ROOT / "docs").rglob("*.md")])


def anchors(document: Path) -> set[str]:
    """The headings of a document, as links name them."""
    headings = re.findall(r"^#+ +(.+)$", document.read_text(), re.MULTILINE)
    return {
        re.sub(r"[^\w\- ]", "", heading).strip().lower().replace(" ", "-") for heading in headings
    }


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_links_lead_somewhere(document):
    for target in re.findall(r"\]\(([^)\s]+)\)", document.read_text()):
        if "://" in target or target.startswith("mailto:"):
            continue
        path, _, anchor = target.partition("#")
        there = (document.parent / path) if path else document
        assert there.exists(), f"{target} of {document.name} leads nowhere"
        if anchor:
            assert anchor in anchors(there), f"{target} of {document.name}: no such heading"


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_files_that_are_named_are_there(document):
    for named in re.findall(r"`(\w[\w/]*\.py|\w+/[\w/]*/)`", document.read_text()):
        if "NAME" in named:  # stands for any
            continue
        places = [
            ROOT / named,
            SOURCE / named,
            *SOURCE.rglob(named),
            *(ROOT / "tests").rglob(named),
        ]
        assert any(place.exists() for place in places), f"{document.name} names {named}"


def test_there_is_one_version():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    assert "version" in project["dynamic"]
    assert f"## {rhabdos.__version__}" in (ROOT / "CHANGELOG.md").read_text()


def test_no_file_of_tests_is_without_one():
    for file in (ROOT / "tests").rglob("test_*.py"):
        assert "def test_" in file.read_text(), f"{file.name} tests nothing"


def test_public_functions_say_the_shapes_of_the_arrays_that_they_take():
    silent, taking = [], 0
    for file in SOURCE.rglob("*.py"):
        holders = ast.walk(ast.parse(file.read_text()))
        bodies = (
            held.body
            for held in holders
            if isinstance(held, ast.Module)
            or (isinstance(held, ast.ClassDef) and not held.name.startswith("_"))
        )
        for function in (each for body in bodies for each in body):
            if not isinstance(function, ast.FunctionDef) or function.name.startswith("_"):
                continue
            taken = [*function.args.args, *function.args.kwonlyargs]
            if any("Array" in ast.unparse(a.annotation) for a in taken if a.annotation):
                taking += 1
                if "Parameters\n" not in (ast.get_docstring(function) or ""):
                    silent.append(f"{file.relative_to(SOURCE)} {function.name}")
    assert not silent
    assert taking > 70
