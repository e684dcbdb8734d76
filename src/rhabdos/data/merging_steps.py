"""One more step, or another one in the place of a former: a unit that is typed twice is one
sentence."""

from collections.abc import Sequence

from msgspec import structs

from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import Code, DeclareMissing
from rhabdos.data.steps.naming import Bound, Describe, OrderLevels
from rhabdos.data.steps.step import Step

Steps = tuple[Step, ...]
# Steps of which a variable has one, the last.
_ONCE = (Describe, Bound, ChangeKind, OrderLevels, DeclareMissing)


def amended(steps: Sequence[Step], step: Step) -> Steps:
    """The steps with one more; where the last one about the variable says the same thing otherwise,
    it takes that one's place."""
    index = _same(steps, step)
    if index is None:
        return (*steps, step)
    former = steps[index]
    if isinstance(step, Describe) and isinstance(former, Describe):
        step = structs.replace(
            step,
            label=former.label if step.label is None else step.label,
            unit=former.unit if step.unit is None else step.unit,
        )
    if isinstance(step, DeclareMissing) and isinstance(former, DeclareMissing):
        codes = dict.fromkeys((*former.codes, *step.codes))
        step = structs.replace(step, codes=tuple(codes))
    return (*steps[:index], step, *steps[index + 1 :])


def _same(steps: Sequence[Step], step: Step) -> int | None:
    """The place of the last step about the same variable, if it is of the same kind; what comes
    after it may be about others, but not about the rows as a whole."""
    if not isinstance(step, _ONCE):
        return None
    for index in range(len(steps) - 1, -1, -1):
        former = steps[index]
        if former.off:
            continue
        if step.variable in former.about:
            return index if type(former) is type(step) else None
        if not former.about and not former.begins:
            return None
    return None


def codes_of(steps: Sequence[Step], variable: str) -> tuple[Code, ...]:
    """The codes that steps declare as missing in a variable."""
    declared = [
        step
        for step in steps
        if isinstance(step, DeclareMissing) and step.variable == variable and not step.off
    ]
    return tuple(dict.fromkeys(code for step in declared for code in step.codes))


def with_codes(steps: Sequence[Step], variable: str, codes: Sequence[Code]) -> Steps:
    """The steps with exactly these codes for missing values of a variable."""
    kept: list[Step] = []
    placed = False
    for step in steps:
        mine = isinstance(step, DeclareMissing) and step.variable == variable and not step.off
        if not mine:
            kept.append(step)
        elif codes and not placed:
            kept.append(structs.replace(step, codes=tuple(codes)))
            placed = True
    if codes and not placed:
        kept.append(DeclareMissing(variable=variable, codes=tuple(codes)))
    return tuple(kept)


def struck(steps: Sequence[Step], index: int) -> Steps:
    """The steps with one struck out, or in force again."""
    step = steps[index]
    return (*steps[:index], structs.replace(step, off=not step.off), *steps[index + 1 :])


def without_step(steps: Sequence[Step], index: int) -> Steps:
    """The steps without one."""
    return (*steps[:index], *steps[index + 1 :])


def with_step_moved(steps: Sequence[Step], index: int, by: int) -> Steps:
    """The steps with one earlier or later; what rows begin with stays first."""
    there = index + by
    least = 1 if steps and steps[0].begins else 0
    if not least <= there < len(steps) or index < least:
        return tuple(steps)
    moved = list(steps)
    moved.insert(there, moved.pop(index))
    return tuple(moved)


def with_step_changed(steps: Sequence[Step], index: int, step: Step) -> Steps:
    """The steps with another one in a place."""
    return (*steps[:index], step, *steps[index + 1 :])


def order_of(steps: Sequence[Step], variable: str) -> str:
    """How dates of a variable are written, or what counts them, as a step says it; empty where none
    does."""
    changed = [
        step.order
        for step in steps
        if isinstance(step, ChangeKind) and step.variable == variable and not step.off
    ]
    return changed[-1] if changed else ""
