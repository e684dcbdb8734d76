"""Frequency polygons as a line a group."""

from rhabdos.scene.forms.lines import line_form

DRAWN = {"polygon": line_form("polygon", "bars")}
