"""Rhabdos: histograms of numeric variables, and how they differ from group to group."""

__version__ = "0.1.0"
