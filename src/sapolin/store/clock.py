"""The one clock: instants in UTC, days in the time zone of the workshop."""

import os
from datetime import UTC, datetime, timedelta, timezone, tzinfo
from functools import cache
from pathlib import Path
from zoneinfo import ZoneInfo, available_timezones

__all__ = ["is_zone", "now_in", "present", "utc_now", "zone_named"]


def present() -> datetime:
    """Now, UTC."""
    return datetime.now(UTC)


def utc_now() -> str:
    """Now, UTC, ISO 8601 to the millisecond."""
    return present().isoformat(timespec="milliseconds")


@cache
def is_zone(name: str) -> bool:
    """Whether `name` is a time zone of the IANA database, such as `Pacific/Auckland`."""
    return name in available_timezones()


def zone_named(name: str) -> tzinfo:
    """The time zone of this name; that of this machine when it is empty, or not known here."""
    if is_zone(name):
        return ZoneInfo(name)
    machines = os.environ.get("TZ", "") or str(Path("/etc/localtime").resolve()).rpartition("zoneinfo/")[2]
    if is_zone(machines):
        return ZoneInfo(machines)
    # Where the machine does not name its zone, what its clock is off from UTC today.
    return timezone(datetime.now().astimezone().utcoffset() or timedelta())


def now_in(zone: tzinfo) -> datetime:
    """Now, in a time zone."""
    return present().astimezone(zone)
