"""One more step, or another in the place of a former; moving, striking out and taking away."""

from rhabdos.data.merging_steps import (
    amended,
    codes_of,
    struck,
    with_codes,
    with_step_changed,
    with_step_moved,
    without_step,
)
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import Bound, Describe, RenameLevels
from rhabdos.data.steps.reading import Read

UNIT = Describe(variable="a", unit="mm")
KEEP = KeepRows(where=(Condition(variable="a", low=1.0),))


def test_a_name_and_a_unit_are_one_sentence_and_the_last_word_holds():
    named = amended((UNIT,), Describe(variable="a", label="Length"))
    assert named == (Describe(variable="a", label="Length", unit="mm"),)
    assert amended(named, Describe(variable="a", unit="cm")) == (
        Describe(variable="a", label="Length", unit="cm"),
    )


def test_what_is_about_another_variable_does_not_come_between():
    other = Describe(variable="b", unit="g")
    assert amended((UNIT, other), Describe(variable="a", unit="cm")) == (
        Describe(variable="a", unit="cm"),
        other,
    )


def test_what_is_about_the_same_variable_or_the_rows_comes_between():
    for between in (ChangeKind(variable="a", kind="label"), KEEP):
        again = Describe(variable="a", unit="cm")
        assert amended((UNIT, between), again) == (UNIT, between, again)
    off = Describe(variable="a", unit="g", off=True)
    assert amended((off,), UNIT) == (off, UNIT)


def test_codes_add_up_and_kinds_take_one_anothers_place():
    both = amended(
        (DeclareMissing(variable="a", codes=(-9.0,)),), DeclareMissing(variable="a", codes=(99.0,))
    )
    assert both == (DeclareMissing(variable="a", codes=(-9.0, 99.0)),)
    kinds = amended(
        (ChangeKind(variable="a", kind="label"),), ChangeKind(variable="a", kind="number")
    )
    assert kinds == (ChangeKind(variable="a", kind="number"),)
    bounds = amended((Bound(variable="a", lower=0.0),), Bound(variable="a", lower=1.0))
    assert bounds == (Bound(variable="a", lower=1.0),)
    names = RenameLevels(variable="a", become={"x": "y"})
    assert amended((names,), names) == (names, names)


def test_codes_are_set_to_exactly_those_that_are_typed():
    steps = (
        DeclareMissing(variable="a", codes=(-9.0,)),
        UNIT,
        DeclareMissing(variable="b", codes=(1.0,)),
    )
    assert codes_of(steps, "a") == (-9.0,)
    assert codes_of(with_codes(steps, "a", (0.0, 5.0)), "a") == (0.0, 5.0)
    assert with_codes(steps, "a", ()) == steps[1:]
    assert with_codes((), "a", (1.0,)) == (DeclareMissing(variable="a", codes=(1.0,)),)


def test_steps_are_struck_out_moved_changed_and_taken_away():
    steps = (Read(separator=";"), UNIT, KEEP)
    assert struck(steps, 1)[1].off
    assert struck(struck(steps, 1), 1) == steps
    assert without_step(steps, 1) == (steps[0], KEEP)
    assert with_step_moved(steps, 2, -1) == (steps[0], KEEP, UNIT)
    assert with_step_moved(steps, 1, -1) == steps
    assert with_step_moved(steps, 0, 1) == steps
    assert with_step_moved(steps, 2, 1) == steps
    assert with_step_changed(steps, 2, UNIT) == (steps[0], UNIT, UNIT)
