"""The one clock of the store."""

from datetime import UTC, datetime

__all__ = ["utc_now"]


def utc_now() -> str:
    """Now, UTC, ISO 8601 to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")
