"""Speed, as ratios of two things done side by side in one run: these say the same on any
machine."""

import rhabdos  # noqa: F401 - before NumPy, which it tells of how many threads
