"""Defects: what nobody can mend but us is logged under an id, and the id is what people are shown."""

import logging
import secrets
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

log = logging.getLogger("lenskeep")
LOG_BYTES, LOG_FILES = 2_000_000, 4


def defect(where: str, error: BaseException | None = None) -> str:
    """Log what is being handled, or ``error``, with a new id; returns the id."""
    name = f"defect {secrets.token_hex(3)}"
    log.error("%s: %s", name, where, exc_info=error or sys.exc_info())
    return name


def log_into(folder: Path) -> None:
    """Write the log into a rotating file in the library, once."""
    path = folder / "lenskeep.log"
    if any(isinstance(h, RotatingFileHandler) and Path(h.baseFilename) == path for h in log.handlers):
        return
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(path, maxBytes=LOG_BYTES, backupCount=LOG_FILES, encoding="utf-8", delay=True)
    except OSError:
        return  # a library that can't be written to says so elsewhere
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s %(message)s"))
    log.addHandler(handler)
    log.setLevel(logging.INFO)
