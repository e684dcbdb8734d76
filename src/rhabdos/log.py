"""The log: what went wrong unforeseen, in a file that the user can send."""

from functools import lru_cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pathlib import Path


def record(error: BaseException) -> "Path":
    """Write an error with its traceback to the log, and tell where that is."""
    import logging  # as rare as what it is for

    path = log_file()
    logging.getLogger("rhabdos").error("Unforeseen", exc_info=error)
    return path


@lru_cache(maxsize=1)
def log_file() -> "Path":
    """Begin logging, once, and tell where; a log that cannot be written goes to standard error."""
    import logging
    from logging.handlers import RotatingFileHandler
    from pathlib import Path

    import platformdirs

    path = Path(platformdirs.user_log_dir("rhabdos")) / "rhabdos.log"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(path, maxBytes=500_000, backupCount=1, encoding="utf-8")
    except OSError:
        handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.getLogger("rhabdos").addHandler(handler)
    return path
