"""The forms that a figure may be drawn as: each says how far it reaches, and draws its groups.

A form is one file here and one line in this table; layout asks the table and knows no form by name.
"""

from collections.abc import Mapping

from rhabdos.figure.recipe import Form
from rhabdos.scene.forms import bars, lines
from rhabdos.scene.forms.form import HeightsForm

HEIGHTS_FORMS: Mapping[Form, HeightsForm] = {
    "bars": bars.BARS,
    "outline": bars.OUTLINE,
    "polygon": lines.POLYGON,
    "curve": lines.CURVE,
    "normal": lines.NORMAL,
    "ecdf": lines.ECDF,
}
"""Forms that need an axis of heights, in the order in which they are drawn over one another."""
