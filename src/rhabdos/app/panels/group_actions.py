"""What a hand on the figure wishes of its groups: one brought forward, all alike, another order."""

from rhabdos.app.session.session import Session
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.marks import Meaning


def bring_forward(session: Session, meaning: Meaning, more: bool) -> None:
    """Bring the level or the group forward that was clicked, if one was; ``more`` keeps others."""
    from rhabdos.figure.edits.level_edits import brought_forward  # which no start waits for

    readings = session.readings
    level = level_of(readings, meaning) if readings else None
    if readings and level is not None:
        session.ask(*brought_forward(readings.recipe, level, more))


def level_of(readings: Readings, meaning: Meaning) -> str | None:
    """The level that a part shows: its own, or the one that its group's colour stands for."""
    coloured = readings.plan.coloured
    if meaning.level is not None or meaning.group is None or coloured is None:
        return meaning.level
    colour = readings.groups[meaning.group].colour
    return next(level.label for level in coloured.levels if level.index == colour)


def end_forward(session: Session) -> bool:
    """Draw all groups alike again; tells whether any was brought forward."""
    recipe = session.recipe
    if recipe is None or not recipe.groups.forward:
        return False
    session.ask("All groups alike", recipe.grouped(forward=()))
    return True


def move_level(session: Session, label: str, onto: str) -> None:
    """Put a level in the place of another one of its factor."""
    from rhabdos.figure.edits.level_edits import moved

    if session.readings and (step := moved(session.readings, label, onto)):
        session.ask(*step)
