"""The log: what went wrong unforeseen, in a file that the user can send."""

from functools import lru_cache
from typing import TYPE_CHECKING, Any, cast

from rhabdos.quoting import LONGEST_QUOTED, file_named, shortened_to

if TYPE_CHECKING:
    from pathlib import Path


def record(error: BaseException) -> "Path":
    """Write an error with its traceback to the log, and tell where that is."""
    import logging  # as rare as what it is for

    path = log_file()
    logging.getLogger("rhabdos").error("Unforeseen", exc_info=error)
    return path


def note(text: str) -> None:
    """Write to the log what a library says of its own."""
    import logging

    log_file()
    logging.getLogger("rhabdos").warning("%s", text)


def unforeseen(error: BaseException) -> str:
    """Write an error to the log; a sentence that says so."""
    where = file_named(record(error))
    return (
        f"Something unforeseen went wrong ({shortened_to(LONGEST_QUOTED, str(error))}). "
        f"Details are in {where}."
    )


def quieten_libraries() -> None:
    """What libraries warn of goes to the log, not to the terminal."""
    import logging
    import warnings

    class ToLog(logging.Handler):
        """Hands on what nobody else listens to."""

        def emit(self, record: logging.LogRecord) -> None:
            """Write it to the log."""
            note(f"{record.name}: {record.getMessage()}")

    def show(message: Warning | str, category: type[Warning], *_: Any, **__: Any) -> None:
        """Write a warning to the log."""
        note(f"{category.__name__}: {message}")

    logging.lastResort = ToLog(logging.WARNING)
    warnings.showwarning = cast("Any", show)


@lru_cache(maxsize=1)  # a second handler would write each line twice
def log_file() -> "Path":
    """Begin logging, once, and tell where; where that cannot be written, nothing is."""
    import logging
    from logging.handlers import RotatingFileHandler

    from rhabdos.desktop import state_folder

    path = state_folder() / "log" / "rhabdos.log"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(
            path, maxBytes=500_000, backupCount=1, encoding="utf-8"
        )
    except OSError:
        handler = logging.NullHandler()
    logging.raiseExceptions = False  # a log on a full disk is no reason to say more than once
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logger = logging.getLogger("rhabdos")
    logger.addHandler(handler)
    logger.propagate = False
    return path
