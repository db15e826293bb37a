"""The words by which people say when, in the languages that ship. Data, to be added to."""

from __future__ import annotations

DAYS: dict[str, dict[str, int]] = {
    "en": {"today": 0, "tonight": 0, "this evening": 0, "tomorrow": 1, "the day after tomorrow": 2},
}
"""Days named by how far off they are."""
WEEKDAYS: dict[str, tuple[str, ...]] = {
    "en": (
        "monday mon", "tuesday tues tue", "wednesday wed", "thursday thurs thur thu", "friday fri",
        "saturday sat", "sunday sun",
    ),
}  # fmt: skip
"""From Monday on, each by its names."""
MONTHS: dict[str, tuple[str, ...]] = {
    "en": (
        "january jan", "february feb", "march mar", "april apr", "may", "june jun", "july jul", "august aug",
        "september sept sep", "october oct", "november nov", "december dec",
    ),
}  # fmt: skip
UNITS: dict[str, dict[str, str]] = {
    "en": {
        "minute": "minutes minute mins min",
        "hour": "hours hour hrs hr h",
        "day": "days day d",
        "week": "weeks week wks wk w",
        "month": "months month",
        "year": "years year yrs yr y",
    },
}
NUMBERS: dict[str, str] = {
    "en": "one two three four five six seven eight nine ten eleven twelve",
}
"""From one on."""
TIMES: dict[str, dict[str, tuple[int, int]]] = {
    "en": {
        "noon": (12, 0),
        "midday": (12, 0),
        "morning": (8, 0),
        "afternoon": (14, 0),
        "evening": (18, 0),
        "this evening": (18, 0),
        "tonight": (20, 0),
        "close of business": (17, 0),
    },
}
"""Times of the day that have names, as hours and minutes."""
WORKED_UNTIL = (17, 0)
"""When a day ends for those who say *end of day*."""
SMALL: dict[str, dict[str, str]] = {
    "en": {
        "in": "in",
        "next": "next",
        "this": "this|the",
        "end": "end of the|end of this|end of",
        "next end": "end of next",
        "the": "the",
        "of": "of",
        "at": "at|by|before|until|till|around|from",
        "on": "on|by|before|until|till|for",
        "half": "half past",
        "clock": "o'clock|o’clock",
        "one": "an|a",
        "now": "from now",
        "weekend": "weekend",
        "ordinal": "st|nd|rd|th",
        "half-days": "am|pm",
    },
}
"""The small words between them, by what they do."""
OTHERWISE: dict[str, str] = {"en": "may mon wed sat sun"}
"""Names of days and months that are words of their own where they are written small in a text."""

NOW = frozenset({"now", "jetzt", "sofort", "maintenant", "ahora"})
"""The moment itself, typed; no text is looked through for it."""

NEVER = frozenset({"", "no date", "no day", "no time", "none", "never"})
"""No moment at all, typed."""
