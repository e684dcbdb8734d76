"""Normal curves as a line a group."""

from rhabdos.scene.forms.lines import line_form

DRAWN = {"normal": line_form("normal", "normal")}
