"""What the forms of a figure read and say; their table is ``figure.recipe.forms``.

A form has one file here (its reading, its words, its notices, what it says when it is pointed at)
and one in ``scene/forms`` (how far it reaches, and its marks). Forms that draw the same reading in
another way share a file.
"""

from importlib import import_module
from typing import TYPE_CHECKING

from rhabdos.figure.recipe.forms import FORMS, forms_asked
from rhabdos.figure.recipe.recipe import Form, Recipe

if TYPE_CHECKING:
    from rhabdos.figure.forms.form import FigureForm


def figure_form(form: Form) -> "FigureForm":
    """What a form reads and says; its file is imported when it is first drawn."""
    home = import_module(f"rhabdos.figure.forms.{FORMS[form].home}")
    answer: FigureForm = home.FORM
    return answer


def homes(recipe: Recipe) -> tuple["FigureForm", ...]:
    """The files of the forms of a figure, each once."""
    first = {FORMS[form].home: form for form in reversed(tuple(forms_asked(recipe)))}
    return tuple(figure_form(form) for form in reversed(first.values()))
