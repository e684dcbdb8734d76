"""Hostile files and recipes through the command line: answered or refused in a sentence, and nothing else."""

import itertools

import pytest

from tests import fuzzing_files
from tests.fuzzing import cases, faults

pytestmark = pytest.mark.usefixtures(
    "qapp"
)  # drawing would make an application that the window's tests cannot use


@pytest.mark.parametrize(
    "seed", [*range(3), *(pytest.param(seed, marks=pytest.mark.long) for seed in range(3, 9))]
)
def test_no_case_is_worse_than_a_sentence(seed, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr("os.fsync", lambda _handle: None)  # which a test need not wait for
    for number, case in enumerate(itertools.islice(cases(seed), 100)):
        assert not (wrong := faults(case, tmp_path)), f"case {number}: {case} -> {wrong}"


@pytest.mark.parametrize("count", [16, pytest.param(120, marks=pytest.mark.long)])
def test_no_file_of_any_format_is_worse_than_a_sentence(count, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr("os.fsync", lambda _handle: None)
    for number, case in enumerate(itertools.islice(fuzzing_files.hostile(7), count)):
        wrong, _ = fuzzing_files.faults(case, tmp_path)
        assert not wrong, f"case {number}: {case.kind}, {case.command} -> {wrong}"
