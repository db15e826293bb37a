"""Phrases: stock text with placeholders, filled in for one message.

A placeholder stands in braces: ``{first name|there}`` (what stands behind the bar is used where it is not known),
``{name}``, ``{address}``, ``{subject}``, ``{date}`` and ``{date in 3 days}`` (told from the day it is used),
``{choose Monday|Tuesday}`` (one of them is chosen when it is used), ``{ask the amount}`` (it is written then), and
``{phrase sign-off}`` (another phrase by its short name). ``{{`` and ``}}`` are braces. What cannot be filled stays in
its braces, and nothing is sent with such a hole left.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

from hieranome.core.errors import CallerError
from hieranome.core.times import wall
from hieranome.core.when import read_moment

KNOWN = ("first name", "name", "address", "subject")
"""Placeholders that the message fills."""
KINDS = ("date", "choose", "ask", "phrase")
"""Placeholders that say more behind their first word."""
MOST_DEEP = 8
MOST_TEXT = 20_000
MOST_FILLED = 100_000
_PLACEHOLDER = re.compile(r"\{\{|\}\}|\{([^{}\n]{0,300})\}")
_WORDS = "|".join((*KNOWN, *KINDS))
_HOLE = re.compile(rf"\{{\s*(?:{_WORDS})\b[^{{}}\n]*\}}", re.IGNORECASE)
_SHORT = re.compile(r"[\w-]{1,40}")
_NOON = datetime(2026, 1, 15, 12, tzinfo=UTC)


@dataclass(frozen=True, slots=True)
class Values:
    """What a phrase is filled with: what is known of the message and its sender (empty: not known)."""

    first_name: str = ""
    name: str = ""
    address: str = ""
    subject: str = ""


@dataclass(frozen=True, slots=True)
class Filled:
    """A phrase filled in: the text, and the placeholders left in it, each once, in order."""

    text: str
    holes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Read:
    """A placeholder: its kind, what is said to it, and what stands in where that is not known."""

    whole: str
    kind: str
    said: str
    instead: str | None


def check_name(name: str) -> str:
    """The short name of a phrase, cleaned. Raises :class:`CallerError`."""
    clean = name.strip()
    if not _SHORT.fullmatch(clean):
        raise CallerError("A phrase has a short name of 1 to 40 letters, digits and dashes, without blanks.")
    return clean


def check(text: str, name: str, book: Mapping[str, str]) -> None:
    """Raises :class:`CallerError` for a phrase that can never be filled: a placeholder nobody knows, a brace that
    stands alone, a phrase that is not in the ``book`` (texts by short name), or one that stands within itself."""
    if not text.strip():
        raise CallerError("The phrase says nothing yet.")
    if len(text) > MOST_TEXT:
        raise CallerError(f"A phrase has up to {MOST_TEXT:,} characters.")
    _check(text, {**book, name: text}, (name,))


def _check(text: str, book: Mapping[str, str], within: tuple[str, ...]) -> None:
    if len(within) > MOST_DEEP:
        raise CallerError(f"Phrases stand within each other up to {MOST_DEEP} deep.")
    if re.search(r"[{}]", _PLACEHOLDER.sub("", text)):
        raise CallerError("A brace stands alone. Close the placeholder in its line, or write {{ or }} for a brace.")
    for one in _placeholders(text):
        if one.kind == "phrase":
            if one.said in within:
                raise CallerError(f"The phrase “{one.said}” would stand within itself.")
            if one.said not in book:
                raise CallerError(f"There is no phrase “{one.said}”. There are: {', '.join(sorted(book))}.")
            _check(book[one.said], book, (*within, one.said))
        elif one.kind == "date" and one.said:
            read_moment(one.said, _NOON)
        elif one.kind in ("choose", "ask") and not one.said:
            raise CallerError(f"“{one.whole}” does not say what to {one.kind}.")
        elif not one.kind:
            raise CallerError(f"“{one.whole}” is no placeholder. There are: {', '.join((*KNOWN, *KINDS))}.")


def _placeholders(text: str) -> list[_Read]:
    return [_read(found) for found in _PLACEHOLDER.finditer(text) if found[1] is not None]


def _read(found: re.Match[str]) -> _Read:
    words = " ".join(found[1].split())
    plain, bar, instead = words.partition("|")
    if plain.strip().lower() in KNOWN:
        return _Read(found[0], plain.strip().lower(), "", instead.strip() if bar else None)
    kind, _, said = words.partition(" ")
    return _Read(found[0], kind.lower() if kind.lower() in KINDS else "", said.strip(), None)


def fill(text: str, book: Mapping[str, str], values: Values, now: datetime) -> Filled:
    """A phrase filled in on a day (``now`` is aware). What is not known and has nothing to stand in for it stays as it
    is; what strangers wrote is put in as it is, and never read as a phrase."""
    out = _fill(text, book, values, now, 0)[:MOST_FILLED]
    return Filled(out, holes(out))


def _fill(text: str, book: Mapping[str, str], values: Values, now: datetime, deep: int) -> str:
    def put(found: re.Match[str]) -> str:
        if found[1] is None:
            return found[0][0]
        one = _read(found)
        if one.kind == "phrase":
            inner = book.get(one.said)
            return found[0] if inner is None or deep >= MOST_DEEP else _fill(inner, book, values, now, deep + 1)
        if one.kind == "date":
            return _date(one, now)
        if one.kind in ("choose", "ask"):
            return one.whole  # the owner chooses or writes it in the draft
        known = _harmless(getattr(values, one.kind.replace(" ", "_"), "") if one.kind else "")
        return known or (one.instead if one.instead is not None else one.whole)

    return _PLACEHOLDER.sub(put, text)


def _harmless(text: str) -> str:
    """Text of somebody else on one line, without what would read as a placeholder."""
    return _HOLE.sub(lambda found: f"({found[0][1:-1]})", " ".join(text.split()))


def _date(one: _Read, now: datetime) -> str:
    try:
        day = wall(read_moment(one.said, now).at, now.tzinfo or UTC) if one.said else now
    except CallerError:
        return one.whole
    return f"{day:%A} {day.day} {day:%B}"


def holes(text: str) -> tuple[str, ...]:
    """The placeholders that are left in a text, each once, in order."""
    return tuple(dict.fromkeys(found[0] for found in _HOLE.finditer(text)))


_TITLES = frozenset(
    {"mr", "mrs", "ms", "miss", "mx", "dr", "prof", "sir", "herr", "frau", "mme", "mlle", "m", "sr", "sra"}
)
_NO_NAME = re.compile(r"[\d@/\\|:;<>()\[\]&+*#]|https?")
_ROLES = frozenset(
    "team office info support desk service services group groups club board committee news sales billing accounts admin"
    " the hall company orchestra hotel gmbh ltd inc llc".split()
)


def first_name(display: str) -> str:
    """The first name in a display name, or nothing. Rules: two to four words, of letters; *Last, First* is turned
    round; titles are passed over; an initial is no first name; words of offices and firms make it none; never from an
    address."""
    clean = " ".join(display.replace('"', " ").split())
    if not clean or _NO_NAME.search(clean):
        return ""
    if clean.count(",") == 1:
        last, _, first = clean.partition(",")
        clean = f"{first.strip()} {last.strip()}"
    elif "," in clean:
        return ""
    parts = [one for one in clean.split() if one.rstrip(".").lower() not in _TITLES]
    plain = [one.rstrip(".") for one in parts]
    if not 2 <= len(parts) <= 4 or any(one.lower() in _ROLES for one in plain):
        return ""
    if not all(one.replace("-", "").replace("'", "").replace("’", "").isalpha() for one in plain):
        return ""
    first = plain[0]
    if len(first) < 2 or parts[0].endswith(".") or not first[0].isupper():
        return ""
    return first.capitalize() if first.isupper() and len(first) > 2 else first
