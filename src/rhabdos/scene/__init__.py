"""Ticks, layout, palettes and forms: readings become marks on a page, in points. No Qt."""
