"""Draws a scene on any paint device, and exports it. QtGui only."""
