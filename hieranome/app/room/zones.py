"""Time zones by their names, from the tables of this machine or those that ship (tzdata)."""

from __future__ import annotations

from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from tzlocal import get_localzone_name

from hieranome.core.errors import CallerError


def zone_of(name: str) -> ZoneInfo:
    """The time zone of a name. Raises :class:`CallerError`."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError) as exc:
        raise CallerError(f"“{name[:60]}” is no time zone known here. Write one such as UTC or a region/town.") from exc


def local_zone() -> str:
    """The name of the time zone of this machine; UTC where it is not known."""
    try:
        return get_localzone_name() or "UTC"
    except (LookupError, ValueError, OSError):
        return "UTC"
