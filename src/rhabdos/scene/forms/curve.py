"""Density curves as a line a group."""

from rhabdos.scene.forms.lines import line_form

DRAWN = {"curve": line_form("curve", "curve")}
