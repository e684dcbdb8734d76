"""The log: what went wrong unforeseen, in a file that the user can send."""

import logging
from functools import lru_cache
from pathlib import Path


@lru_cache(maxsize=1)
def log_file() -> Path:
    """Begin logging, once, and tell where; a log that cannot be written is done without."""
    from logging.handlers import RotatingFileHandler  # brings half the network library, for a rare day

    import platformdirs

    path = Path(platformdirs.user_log_dir("rhabdos")) / "rhabdos.log"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(path, maxBytes=500_000, backupCount=1, encoding="utf-8")
    except OSError:
        handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.getLogger().addHandler(handler)
    return path
