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
    stands alone, a phrase that is not in the ``book`` (texts by short name), one that stands within itself, or one that
    would be too long with those within it."""
    _Checker({**book, name: text}).look_at(name, ())


def check_all(book: Mapping[str, str]) -> None:
    """Raises :class:`CallerError` where a phrase of a book can never be filled, naming it."""
    checker = _Checker(book)
    for name in book:
        try:
            checker.look_at(name, ())
        except CallerError as exc:
            raise CallerError(f"The phrase “{name}”: {exc}") from exc


class _Checker:
    """Looks at phrases, at each once, however often it stands within others."""

    def __init__(self, book: Mapping[str, str]) -> None:
        self._book = book
        self._found: dict[str, tuple[int, int]] = {}

    def look_at(self, name: str, within: tuple[str, ...]) -> tuple[int, int]:
        """How deep phrases stand within a phrase, and how many characters it has with all of them."""
        if name not in self._found and len(within) < MOST_DEEP:
            self._found[name] = self._looked_at(name, (*within, name))
        deep, size = self._found.get(name, (1, 0))
        if len(within) + deep > MOST_DEEP:
            raise CallerError(f"Phrases stand within each other up to {MOST_DEEP} deep.")
        return deep, size

    def _looked_at(self, name: str, within: tuple[str, ...]) -> tuple[int, int]:
        text = self._book[name]
        if not text.strip():
            raise CallerError("The phrase says nothing yet.")
        if len(text) > MOST_TEXT:
            raise CallerError(f"A phrase has up to {MOST_TEXT:,} characters.")
        if re.search(r"[{}]", _PLACEHOLDER.sub("", text)):
            raise CallerError("A brace stands alone. Close the placeholder in its line, or write {{ or }} for a brace.")
        deep, size = 1, len(text)
        for one in _placeholders(text):
            if one.kind == "phrase":
                inner, more = self._within(one.said, within)
                deep, size = max(deep, inner + 1), size + more
            else:
                _check_placeholder(one)
            if size > MOST_FILLED:
                raise CallerError(f"With the phrases within it, it would have over {MOST_FILLED:,} characters.")
        return deep, size

    def _within(self, name: str, within: tuple[str, ...]) -> tuple[int, int]:
        if name in within:
            raise CallerError(f"The phrase “{name}” would stand within itself.")
        if name not in self._book:
            raise CallerError(f"There is no phrase “{name}”. There are: {', '.join(sorted(self._book))}.")
        return self.look_at(name, within)


def _check_placeholder(one: _Read) -> None:
    if one.kind == "date" and one.said:
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
    out = _Filling(book, values, now).filled(text, 0)[:MOST_FILLED]
    return Filled(out, holes(out))


class _Filling:
    """Fills phrases in, until so much was put in that no more is."""

    def __init__(self, book: Mapping[str, str], values: Values, now: datetime) -> None:
        self._book, self._now = book, now
        self._known = {one: _harmless(getattr(values, one.replace(" ", "_"))) for one in KNOWN}
        self._left = MOST_FILLED

    def filled(self, text: str, deep: int) -> str:
        """A text with its placeholders filled in, within so many others."""
        self._left -= len(text)
        return _PLACEHOLDER.sub(lambda found: self._put(found, deep), text)

    def _put(self, found: re.Match[str], deep: int) -> str:
        if found[1] is None:
            return found[0][0]
        one = _read(found)
        if one.kind == "phrase":
            inner = self._book.get(one.said)
            too_much = deep >= MOST_DEEP or self._left < 0
            return found[0] if inner is None or too_much else self.filled(inner, deep + 1)
        if one.kind == "date":
            return _date(one, self._now)
        if one.kind in ("choose", "ask"):
            return one.whole  # the owner chooses or writes it in the draft
        known = self._known.get(one.kind, "") if self._left > 0 else ""
        self._left -= len(known)
        return known or (one.instead if one.instead is not None else one.whole)


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
