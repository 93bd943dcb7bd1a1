"""What the application is started with."""

from dataclasses import dataclass
from pathlib import Path

__all__ = ["Settings"]


@dataclass(frozen=True)
class Settings:
    """One running application."""

    database: Path
    """The SQLite file; created when missing."""
    web: Path | None = None
    """Directory of the built front end; none serves the API alone."""
