"""Searching: a line understood, run and explained; completions while it is written; searches kept by name."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from itertools import zip_longest

from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.arranged import Thing
from hieranome.core.errors import CallerError
from hieranome.core.files import KINDS
from hieranome.core.operators import ANY_FILE, BY_NAME, OPERATORS
from hieranome.core.query import Query, Term, read_query, written
from hieranome.core.tags import with_children
from hieranome.core.values import DUES, Names
from hieranome.store import accounts, places, search, searches, tags
from hieranome.store.listing import MAX_PAGE as MAX_PAGE
from hieranome.store.listing import Page
from hieranome.store.search import FEW
from hieranome.store.search import Ranking as Ranking

MAX_SUGGESTED = 8
MAX_SPELLINGS, MAX_LOOKED_AT = 3, 8
"""Other spellings of a word, and how many conditions of a line are looked at: each is a search of its own."""


@dataclass(frozen=True, slots=True)
class Found:
    """One page of what a line finds; ``total`` is exact up to :data:`FEW`, and ``beyond`` says there are more."""

    query: Query
    page: Page
    total: int
    beyond: bool


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A way to go on writing: the whole line after it, and what it is."""

    line: str
    shown: str
    about: str


@dataclass(frozen=True, slots=True)
class Instead:
    """A line that finds something, and how much: exact up to :data:`FEW`, and ``beyond`` says there is more."""

    line: str
    total: int
    beyond: bool


def understand(room: Mailroom, line: str) -> Query:
    """What a line means now. Raises :class:`hieranome.core.values.QueryError`."""
    return read_query(line, names_of(room))


def names_of(room: Mailroom) -> Names:
    """What a line may speak of now."""
    db = room.reader()
    titles = {place.name: place.title for place in places.every(db)}
    known = tags.every(db)
    below = with_children(known)
    return Names(titles, room.now(), {tag.name: below[tag.id] for tag in known})


def find(room: Mailroom, line: str, order: Ranking, cursor: str, limit: int) -> Found:
    """One page of what a line finds."""
    query = understand(room, line)
    db = room.reader()
    limit = max(1, min(limit, MAX_PAGE))
    exact = "time" if order == "relevance" else order
    hits = search.first(db, query.node, exact) if order == "relevance" or not cursor else []
    if order == "relevance":
        page = search.ranked(db, query.node, hits[:FEW], cursor, limit)
    elif cursor:
        page = search.ordered(db, query.node, order, cursor, limit)
    else:
        page = search.page_of(db, hits, order, limit)
    return Found(query, page, min(len(hits), FEW), len(hits) > FEW)


def instead(room: Mailroom, line: str) -> list[Instead]:
    """Lines that find something where this one finds nothing: a word as it is spelled in the mail, or one condition
    fewer. Raises :class:`hieranome.core.values.QueryError`."""
    terms = understand(room, line).terms
    db = room.reader()
    spelled = [_spellings(room, db, term) for term in terms[:MAX_LOOKED_AT]]
    best = [Term("", words[0]) if words else term for term, words in zip_longest(terms, spelled)]
    lines: dict[str, None] = {written(best): None} if any(spelled) else {}
    for at, words in enumerate(spelled):
        for word in words:
            lines[written([*terms[:at], Term("", word), *terms[at + 1 :]])] = None
    for at in range(len(spelled) if len(terms) > 1 else 0):
        lines[written([*terms[:at], *terms[at + 1 :]])] = None
    found = [(one, len(search.first(db, understand(room, one).node, "time"))) for one in lines]
    return [Instead(one, min(total, FEW), total > FEW) for one, total in found if total][:MAX_SUGGESTED]


def _spellings(room: Mailroom, db: sqlite3.Connection, term: Term) -> list[str]:
    """How a word of a line is spelled in the mail, where no mail has it as it stands."""
    if term.operator or term.value.startswith('"') or search.first(db, understand(room, term.value).node, "time"):
        return []
    return search.alike(db, term.value.rstrip("*"), MAX_SPELLINGS)


def matching(room: Mailroom, line: str, limit: int) -> list[int]:
    """The ids of the newest messages that a line finds. Raises :class:`hieranome.core.values.QueryError`."""
    return search.first(room.reader(), understand(room, line).node, "time")[:limit]


_LAST = re.compile(r'(?<![^\s"()])-?(?P<word>(?:[a-z]+:)?+(?:"[^"]*+|[^\s"()]*+))\Z', re.IGNORECASE)


def suggest(room: Mailroom, line: str) -> list[Suggestion]:
    """Ways to go on with a line that is being written: operators, their values, people, lists."""
    match = _LAST.search(line)
    if match is None or not match["word"]:
        return []
    before, word = line[: match.start("word")], match["word"]
    name, colon, value = word.partition(":")
    if not colon:
        begun = [one for one in OPERATORS if one.name.startswith(word.lower())]
        found = [Suggestion(f"{before}{one.name}:", f"{one.name}:", one.title) for one in begun]
        people = searches.correspondents(room.reader(), word, MAX_SUGGESTED - len(found)) if len(word) > 1 else []
        return found + [_person(before, "from", *one) for one in people]
    operator = BY_NAME.get(name.lower())
    if operator is None:
        return []
    return _VALUES.get(operator.name, _examples)(room, before, operator.name, value.strip('"'))[:MAX_SUGGESTED]


def _person(before: str, operator: str, name: str, address: str) -> Suggestion:
    return Suggestion(f"{before}{operator}:{address} ", f"{operator}:{address}", name or address)


def _people(room: Mailroom, before: str, operator: str, value: str) -> list[Suggestion]:
    found = searches.correspondents(room.reader(), value, MAX_SUGGESTED) if value else []
    return [_person(before, operator, *one) for one in found]


def _lists(room: Mailroom, before: str, operator: str, value: str) -> list[Suggestion]:
    found = searches.lists(room.reader(), value, MAX_SUGGESTED)
    return [Suggestion(f"{before}{operator}:{one} ", f"{operator}:{one}", "mailing list") for one in found]


def _buckets(room: Mailroom, before: str, operator: str, value: str) -> list[Suggestion]:
    known = places.every(room.reader())
    begun = [one for one in known if one.title.lower().startswith(value.lower())]
    quoted = {one.name: f'"{one.title}"' if " " in one.title else one.title.lower() for one in begun}
    return [
        Suggestion(f"{before}{operator}:{quoted[one.name]} ", f"{operator}:{quoted[one.name]}", f"{one.total} messages")
        for one in begun
    ]


def _tags(room: Mailroom, before: str, operator: str, value: str) -> list[Suggestion]:
    begun = [one for one in tags.every(room.reader()) if value.casefold() in one.name.casefold()]
    quoted = [(f'"{one.name}"' if re.search(r"[\s()]", one.name) else one.name, one.total) for one in begun]
    return [Suggestion(f"{before}{operator}:{name} ", f"{operator}:{name}", f"{n} messages") for name, n in quoted]


def _accounts(room: Mailroom, before: str, operator: str, value: str) -> list[Suggestion]:
    known = [one.address for one in accounts.every(room.reader()) if value.lower() in one.address]
    return [Suggestion(f"{before}{operator}:{one} ", f"{operator}:{one}", "mailbox") for one in known]


def _examples(_room: Mailroom, before: str, operator: str, value: str) -> list[Suggestion]:
    one = BY_NAME[operator]
    offered = list(one.choices) or _OFFERED.get(one.takes, [])
    begun = [word for word in offered if word.startswith(value.lower())]
    return [Suggestion(f"{before}{operator}:{word} ", f"{operator}:{word}", one.title) for word in begun]


_OFFERED = {
    "date": ["today", "yesterday", "3d", "2w", "6m", "1y"],
    "due": [*DUES, "tomorrow", "friday"],
    "size": ["100KB", "1MB", "10MB"],
    "range": ["<20", "20..50", "50..80", ">80"],
    "file": [ANY_FILE, *KINDS],
}
_VALUES: dict[str, Callable[[Mailroom, str, str, str], list[Suggestion]]] = {
    "from": _people,
    "to": _people,
    "list": _lists,
    "bucket": _buckets,
    "tag": _tags,
    "account": _accounts,
}


def saved(room: Mailroom) -> list[searches.Saved]:
    """The saved searches."""
    return searches.every(room.reader())


def save(room: Mailroom, name: str, line: str) -> searches.Saved:
    """Keep a line that can be understood under a name."""
    clean = " ".join(name.split())
    if not clean or len(clean) > 60:
        raise CallerError("A saved search has a name of 1 to 60 characters.")
    if not line.strip():
        raise CallerError("There is nothing to save: write a search first.")
    understand(room, line)
    with room.change():
        there = next((one.id for one in saved(room) if one.name == clean), 0)
        with arranging(room, Thing.SEARCH, f"Search “{clean}” {'changed' if there else 'saved'}", [there]) as it:
            kept = searches.save(it.db, clean, line.strip(), room.clock())
            it.made += [] if there else [kept.id]
    return kept


def forget(room: Mailroom, number: int) -> None:
    """Keep a search no longer."""
    name = next((one.name for one in saved(room) if one.id == number), "")
    with arranging(room, Thing.SEARCH, f"Search “{name}” removed", [number]) as it:
        searches.remove(it.db, number)
