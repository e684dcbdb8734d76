"""Rhabdos: histograms of numeric variables, and how they differ from group to group."""

import os

# numpy's linear algebra would start a thread a core while it is imported; nothing here is large
# enough for them.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
