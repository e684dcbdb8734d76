"""The panels at the side of the figure, and the summary under it."""
