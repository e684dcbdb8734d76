"""How much a table may hold, and the refusal of a file that cannot be read as one."""

from rhabdos.errors import Refusal

MOST_COLUMNS = 50_000
LONGEST_NAME = 1_000
"""Letters of a variable's name, and of a level of a factor."""


class ReadingError(Refusal):
    """A file cannot be read as a table."""
