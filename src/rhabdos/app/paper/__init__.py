"""The figure in the middle of the window, and what is painted and typed over it."""
