"""What stands behind the colon of a search operator, understood: a condition, and how it reads."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

from hieranome.core.conditions import All, Column, Due, Held, Holds, Is, Node, Sign, Stands, Tagged, Test, Words
from hieranome.core.errors import CallerError
from hieranome.core.matching import lowered
from hieranome.core.operators import ANY_FILE, Operator
from hieranome.core.text import words
from hieranome.core.times import Span, read_span, wall
from hieranome.core.when import read_moment


class QueryError(CallerError):
    """A search line that cannot be understood."""


@dataclass(frozen=True, slots=True)
class Names:
    """What a line may speak of: titles of places by their key, of each tag by its name the ids it stands for (those
    below it among them), and the owner's clock."""

    places: Mapping[str, str]
    at: datetime
    tags: Mapping[str, frozenset[int]] = field(default_factory=dict)


def read_value(operator: Operator, value: str, known: Names) -> tuple[Node, str]:
    """What an operator with a value asks, and how the value reads. Raises :class:`QueryError`."""
    return _READERS[operator.takes](known, operator, value)


def _words_of(_known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """Words in one column; a whole address, a domain behind an @ or a list's whole id as such; between two stars,
    anything that stands there."""
    column: Column = operator.about  # type: ignore[assignment]
    if len(value) > 2 and value[0] == value[-1] == "*" and (column in ("subject", "sender")):
        return Holds("subject" if column == "subject" else "address", lowered(value[1:-1])), f"“{value[1:-1]}” anywhere"
    exact = _exact(column, value.lower())
    words = words_in((column,), value)
    return (All((words, exact)) if exact else words), f"“{value}”"


def _file_of(_known: Names, _operator: Operator, value: str) -> tuple[Node, str]:
    """Any attachment, or words of its name or kind."""
    if value.lower() == ANY_FILE:
        return Test("attachments", ">=", 1), "an attachment"
    return words_in(("files",), value), f"an attachment “{value}”"


def _bucket_of(known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """A place by its name or its title."""
    for name, title in known.places.items():
        if value.lower() in (name.lower(), title.lower()):
            return Stands(name), title
    there = ", ".join(known.places.values())
    raise QueryError(
        f"There is no bucket or folder called “{value}”. There are: {there}. Write it as in {operator.example}."
    )


def _tag_of(known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """A tag by its name, with those below it."""
    for name, ids in known.tags.items():
        if value.casefold() == name.casefold():
            return Tagged(ids), f"“{name}”"
    there = ", ".join(known.tags) or "none yet"
    raise QueryError(f"There is no tag “{value}”. There are: {there}. Write it as in {operator.example}.")


def _account_of(_known: Names, _operator: Operator, value: str) -> tuple[Node, str]:
    """A mailbox by its address, or a part of it."""
    return Held(value.lower()), f"“{value}”"


def _choice_of(_known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """One of the operator's own words."""
    found = operator.choices.get(value.lower())
    if found is None:
        raise QueryError(f"{operator.name}: knows {', '.join(operator.choices)}; “{value}” is none of them.")
    return Test(*found), value.lower()


def _size_of(_known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """Bytes, with a unit or without."""
    found = re.fullmatch(r"(\d+(?:\.\d+)?)\s*([kmg]?)b?", value.lower())
    if found is None:
        raise QueryError(f"“{value}” is no size. Write a number and B, KB, MB or GB, as in {operator.example}.")
    factor = {"": 1, "k": 1_000, "m": 1_000_000, "g": 1_000_000_000}[found[2]]
    sign: Sign = ">" if operator.name == "larger" else "<"
    return Test("size", sign, float(found[1]) * factor), f"{found[1]} {found[2].upper()}B"


def _date_of(known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """A day, a month, a year, or how long ago."""
    span = read_span(value, known.at)
    if span is None:
        raise QueryError(
            f"“{value}” is no date. Write a day (2026-03-05), a month (2026-03), a year, today, yesterday, a "
            "weekday, or how long ago: 3d, 2w, 6m, 1y."
        )
    return _dated(operator.name, span), span.title


ANY_DUE = "any"
DUES = (ANY_DUE, "overdue", "today", "week")
"""What ``due:`` knows besides days."""
_FAR = 2**40


def _due_of(known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """Any due date, one that has passed, this week's, or that of a day, a month or a year."""
    word = value.lower()
    today = known.at.replace(hour=0, minute=0, second=0, microsecond=0)
    if word == ANY_DUE:
        return Due(0, _FAR), "at any time"
    if word == "overdue":
        return Due(0, int(today.timestamp())), "before today"
    if word == "week":
        end = today + timedelta(days=7 - today.weekday())
        return Due(0, int(end.timestamp())), "this week or before"
    span = read_span(word, known.at) if re.fullmatch(r"[\d-]+|today|yesterday", word) else None
    if span is None:
        try:
            day = wall(read_moment(word, known.at).at, known.at.tzinfo or UTC)
        except CallerError as exc:
            raise QueryError(
                f"“{value}” is no day for {operator.name}:. Write {', '.join(DUES)}, or a day, "
                f"as in {operator.example}."
            ) from exc
        span = read_span(f"{day:%Y-%m-%d}", known.at)
        assert span is not None
    return Due(span.start, span.end), span.title


def _range_of(_known: Names, operator: Operator, value: str) -> tuple[Node, str]:
    """Two numbers from 0 to 100, or one with a sign."""
    found = re.fullmatch(r"(\d{1,3})?\.\.(\d{1,3})?|([<>])(\d{1,3})|(\d{1,3})", value)
    if found is None or value == "..":
        raise QueryError(f"“{value}” is no range. Write two numbers from 0 to 100, as in {operator.example}.")
    low, high, sign, bound, only = found.groups()
    if sign:
        low, high = (bound, None) if sign == ">" else (None, bound)
    low, high = (only, only) if only else (low, high)
    tests = []
    if low:
        tests.append(Test(operator.about, ">=", _share(low, -0.5)))
    if high:
        tests.append(Test(operator.about, "<", _share(high, 0.5)))
    shown = f"from {low} to {high}" if low and high else f"of {low} or more" if low else f"of {high} or less"
    return (tests[0] if len(tests) == 1 else All(tuple(tests))), shown


_ADDRESS = re.compile(r"[^\s@*]+@[^\s@*]+\.[^\s@*.]+")
_DOTTED = re.compile(r"[^\s@*.]+(?:\.[^\s@*.]+)+")


def _exact(column: Column, value: str) -> Is | None:
    if column == "sender" and _ADDRESS.fullmatch(value):
        return Is("address", value)
    if column == "sender" and value[:1] == "@" and _DOTTED.fullmatch(value[1:]):
        return Is("domain", value[1:])
    if column == "list" and _DOTTED.fullmatch(value):
        return Is("list", value)
    return None


def words_in(columns: tuple[Column, ...], text: str) -> Words:
    """Words in any of some columns; a star at the end lets the last go on. Raises :class:`QueryError` for none."""
    prefix = text.endswith("*")
    bare = text.rstrip("*")
    if not words(bare, 1):
        raise QueryError(f"“{text}” has neither letters nor digits to look for. Remove it, or add a word.")
    return Words(columns, bare, prefix)


def _dated(operator: str, span: Span) -> Node:
    if operator == "before":
        return Test("time", "<", span.start)
    if operator == "since":
        return Test("time", ">=", span.start)
    return All((Test("time", ">=", span.start), Test("time", "<", span.end)))


def _share(shown: str, by: float) -> float:
    """A number as shown (0 to 100, rounded) as the bound of the share it stands for."""
    return (min(100, int(shown)) + by) / 100


_READERS: dict[str, Callable[[Names, Operator, str], tuple[Node, str]]] = {
    "words": _words_of,
    "file": _file_of,
    "bucket": _bucket_of,
    "due": _due_of,
    "tag": _tag_of,
    "account": _account_of,
    "choice": _choice_of,
    "size": _size_of,
    "date": _date_of,
    "range": _range_of,
}
