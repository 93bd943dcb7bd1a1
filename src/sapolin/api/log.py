"""The log: what went wrong and when, without what anyone typed; it never grows beyond a few files."""

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

__all__ = ["keep_log"]

MOST_BYTES = 1_000_000
FILES = 4


def keep_log(database: Path) -> None:
    """Write the log beside a database, for the maker alone, and warnings to the terminal as before."""
    handler = RotatingFileHandler(
        database.with_name(f"{database.stem}.log"), maxBytes=MOST_BYTES, backupCount=FILES, encoding="utf-8", delay=True
    )
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s %(message)s"))
    # The server's own log would repeat what was typed: faults reach this one without contents.
    logging.getLogger("sapolin").addHandler(handler)
