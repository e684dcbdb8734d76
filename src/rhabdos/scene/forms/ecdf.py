"""ECDFs as a line a group."""

from rhabdos.scene.forms.lines import line_form

DRAWN = {"ecdf": line_form("ecdf", "ecdf")}
