"""How the forms of a figure are drawn: one file each, and a line in ``figure.recipe.forms.FORMS``.

Layout asks the table and knows no form by name.
"""

from functools import cache
from importlib import import_module

from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.recipe import Form
from rhabdos.scene.forms.form import SceneForm


@cache  # found by its module, which is then imported
def scene_form(form: Form) -> SceneForm:
    """How a form is drawn; its file is imported when it is first drawn."""
    home = import_module(f"rhabdos.scene.forms.{FORMS[form].home}")
    answer: SceneForm = home.DRAWN[form]
    return answer
