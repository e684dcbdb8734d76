"""What levels, variables, panels and axes are called in a figure."""

from collections.abc import Sequence

from rhabdos.figure.planning.titles import common_words, height_axis_title, value_axis_title
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.recipe import NUMBERS, Recipe
from rhabdos.figure.words.markup import as_written, plain_text
from rhabdos.figure.words.placeholders import stands_in

_LONGEST_TITLE = 60  # letters of a title made of names


def shown_words(readings: Readings, name: str) -> str:
    """What a level, a variable or a panel is called, with the markup and the line breaks that the
    recipe gives it."""
    given = readings.recipe.words.names.get(name) if readings.recipe.words.names else None
    lines = as_written(name).split() if given is None else given.split("\n")
    return (" " if given is None else "\n").join(" ".join(line.split()) for line in lines)


def shown_name(readings: Readings, name: str) -> str:
    """The same in one line of plain letters."""
    words = shown_words(readings, name)
    if "{" in words or "}" in words:
        words = plain_text(words, stands_in(readings))
    return words.replace("\n", " ")


def shown_title(readings: Readings) -> str:
    """What stands over a figure, in one line of plain letters; empty where nothing does."""
    words = plain_text(readings.recipe.words.title or "", stands_in(readings))
    return " ".join(words.split())


def figure_name(recipe: Recipe) -> str:
    """What a figure is called among others: its title, or what it shows, told without its data."""
    title = " ".join(plain_text(recipe.words.title or "", lambda _name: None).split())
    if title and not any(brace in title for brace in "{}"):
        return title
    show = recipe.show
    names = "All numbers" if show.variables == NUMBERS else _listed(show.variables)
    parts = [names, *([f"by {_listed(show.split)}"] if show.split else [])]
    if show.forms != ("bars",):
        parts.append(f"as {_listed([FORMS[form].title for form in show.forms])}")
    return " ".join(parts)


def _listed(names: Sequence[str]) -> str:
    return " and ".join(filter(None, (", ".join(names[:-1]), names[-1]))) if names else ""


def default_value_title(readings: Readings) -> str:
    """The title of the value axis where none is given: the variable with its unit.

    Several variables on one axis have the words that their labels share; on axes of their own,
    their panels are called by them.
    """
    if readings.plan.axes > 1:
        return ""
    labels = [variable.label for variable in readings.variables]
    if readings.recipe.show.standardised:
        of = f"{labels[0]}, " if len(labels) == 1 else ""
        words = f"{of}standard deviations from the mean"
        return words[0].upper() + words[1:]
    if len(labels) == 1:
        return value_axis_title(labels[0], readings.variable.unit)
    common = common_words(labels)
    joined = ", ".join(labels)
    title = common or (joined if len(joined) <= _LONGEST_TITLE else "Values")
    return value_axis_title(title, readings.variable.unit)


def usual_height_title(readings: Readings) -> str:
    """The title of the height axis where none is given; an ECDF always adds up."""
    of, forms = readings.recipe.show.of, readings.plan.heights
    adds_up = readings.cumulative or forms == ("ecdf",)
    title = height_axis_title(readings.scale, of, readings.divided, readings.per, adds_up)
    return f"{title}, cumulative for the ECDF" if "ecdf" in forms and not adds_up else title
