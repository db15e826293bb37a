"""The search line: what it means as a tree (:mod:`hieranome.core.conditions`) and in a sentence.

A line is words and operators side by side, all of which must hold; ``or`` between two gives a choice, ``not`` or a
leading dash turns one round, parentheses group. Quotation marks make a phrase; a star at the end of a word stands
for its endings. Dates are days of the owner's clock.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from hieranome.core.conditions import (
    EVERYWHERE,
    All,
    Any,
    Column,
    Held,
    Node,
    Not,
    Sign,
    Stands,
    Tagged,
    Test,
    Words,
)
from hieranome.core.errors import CallerError
from hieranome.core.operators import ANY_FILE, BY_NAME, Operator
from hieranome.core.text import words
from hieranome.core.times import Span, read_span

MAX_LINE = 2_000
MAX_TERMS = 60


class QueryError(CallerError):
    """A search line that cannot be understood."""


@dataclass(frozen=True, slots=True)
class Term:
    """One condition of the line as the form shows it: an operator (empty for bare words) and its value."""

    operator: str
    value: str


@dataclass(frozen=True, slots=True)
class Query:
    """A line understood: its tree, the sentence that says it, what may have been meant otherwise, and, where all its
    conditions simply hold together, those conditions."""

    node: Node
    sentence: str
    hints: tuple[str, ...]
    terms: tuple[Term, ...]


_TOKEN = re.compile(
    rf"""\s*(?: (?P<open>\() | (?P<close>\)) | (?P<minus>-(?=[^\s-]))
    | (?P<operator>{"|".join(BY_NAME)}):(?P<said>"[^"]*"?|[^\s()"]*)
    | "(?P<quoted>[^"]*)"? | (?P<word>[^\s()"]+) )""",
    re.VERBOSE | re.IGNORECASE,
)
_LOOKS_LIKE_ONE = re.compile(r"^([a-z]{2,12}):[^/\s\d]", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Names:
    """What the owner has by name: titles of places by their key, and of each tag the ids it stands for, those below
    it among them."""

    places: Mapping[str, str]
    tags: Mapping[str, frozenset[int]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class _Said:
    """A node and how it reads."""

    node: Node
    words: str


class _Reader:
    """Recursive descent over the tokens of one line."""

    def __init__(self, line: str, names: Names, now: datetime) -> None:
        self._places, self._tags = names.places, names.tags
        self._now = now
        self.hints: list[str] = []
        self.terms: list[Term] = []
        self.simple = True
        self._tokens = list(_TOKEN.finditer(line.strip()))
        self._at = 0
        if len(self._tokens) > MAX_TERMS:
            raise QueryError(f"A search takes up to {MAX_TERMS} words and operators; this has {len(self._tokens)}.")

    def read(self) -> _Said:
        said = self._choice()
        if self._at < len(self._tokens):
            raise QueryError("A closing parenthesis has no opening one. Take it out, or put ( before what it closes.")
        return said

    def _peek(self, kind: str) -> re.Match[str] | None:
        token = self._tokens[self._at] if self._at < len(self._tokens) else None
        return token if token is not None and token[kind] is not None else None

    def _keyword(self, *names: str) -> bool:
        token = self._peek("word")
        if token is None or token["word"].lower() not in names:
            return False
        self._at += 1
        return True

    def _choice(self) -> _Said:
        found = [self._together()]
        while self._keyword("or"):
            self.simple = False
            found.append(self._together())
        if len(found) == 1:
            return found[0]
        return _Said(Any(tuple(one.node for one in found)), " or ".join(one.words for one in found))

    def _together(self) -> _Said:
        found = []
        while self._at < len(self._tokens) and self._peek("close") is None:
            token = self._peek("word")
            if token is not None and token["word"].lower() == "or":
                break
            if not self._keyword("and"):
                found.append(self._one())
        if not found:
            raise QueryError("Something is missing beside “or” or within ( ). Write a word or an operator there.")
        if len(found) == 1:
            return found[0]
        return _Said(All(tuple(one.node for one in found)), ", ".join(one.words for one in found))

    def _one(self) -> _Said:
        if self._peek("minus") is not None or self._peek("word") is not None:
            dash = self._peek("minus") is not None
            if dash:
                self._at += 1
            if dash or self._keyword("not"):
                return self._turned()
        if self._peek("open") is not None:
            return self._group()
        token = self._tokens[self._at]
        self._at += 1
        if token["operator"] is not None:
            return self._operator(BY_NAME[token["operator"].lower()], token["said"].strip('"').strip())
        text = token["quoted"] if token["quoted"] is not None else token["word"]
        self.terms.append(Term("", f'"{text}"' if token["quoted"] is not None else text))
        found = _LOOKS_LIKE_ONE.match(text)
        if found and token["word"]:
            names = ", ".join(BY_NAME)
            self.hints.append(f"“{found[1]}:” is no operator, so it was looked for as words. There are: {names}.")
        return _Said(_words(EVERYWHERE, text), f"with “{text}”")

    def _turned(self) -> _Said:
        self.simple = False
        if self._at >= len(self._tokens) or self._peek("close") is not None:
            raise QueryError("Nothing stands behind “not”. Write what the mail must not have.")
        said = self._one()
        return _Said(Not(said.node), f"not {said.words}")

    def _group(self) -> _Said:
        self.simple = False
        self._at += 1
        said = self._choice()
        if self._peek("close") is None:
            self.hints.append("A parenthesis was left open; it was closed at the end.")
        self._at += 1
        return _Said(said.node, f"({said.words})")

    def _operator(self, operator: Operator, value: str) -> _Said:
        if not value:
            raise QueryError(f"{operator.name}: says nothing yet. Write what it is, as in {operator.example}.")
        self.terms.append(Term(operator.name, value))
        node, shown = _READERS[operator.takes](self, operator, value)
        return _Said(node, operator.says.format(shown))

    def words_of(self, operator: Operator, value: str) -> tuple[Node, str]:
        """Words in one column."""
        column: Column = operator.about  # type: ignore[assignment]
        return _words((column,), value), f"“{value}”"

    def file_of(self, _: Operator, value: str) -> tuple[Node, str]:
        """Any attachment, or words of its name or kind."""
        if value.lower() == ANY_FILE:
            return Test("attachments", ">=", 1), "an attachment"
        return _words(("files",), value), f"an attachment “{value}”"

    def bucket_of(self, operator: Operator, value: str) -> tuple[Node, str]:
        """A place by its name or its title."""
        for name, title in self._places.items():
            if value.lower() in (name.lower(), title.lower()):
                return Stands(name), title
        known = ", ".join(self._places.values())
        raise QueryError(
            f"There is no bucket or folder called “{value}”. There are: {known}. Write it as in {operator.example}."
        )

    def tag_of(self, operator: Operator, value: str) -> tuple[Node, str]:
        """A tag by its name, with those below it."""
        for name, ids in self._tags.items():
            if value.casefold() == name.casefold():
                return Tagged(ids), f"“{name}”"
        there = ", ".join(self._tags) or "none yet"
        raise QueryError(f"There is no tag “{value}”. There are: {there}. Write it as in {operator.example}.")

    def account_of(self, _: Operator, value: str) -> tuple[Node, str]:
        """A mailbox by its address, or a part of it."""
        return Held(value.lower()), f"“{value}”"

    def choice_of(self, operator: Operator, value: str) -> tuple[Node, str]:
        """One of the operator's own words."""
        found = operator.choices.get(value.lower())
        if found is None:
            raise QueryError(f"{operator.name}: knows {', '.join(operator.choices)}; “{value}” is none of them.")
        return Test(*found), value.lower()

    def size_of(self, operator: Operator, value: str) -> tuple[Node, str]:
        """Bytes, with a unit or without."""
        found = re.fullmatch(r"(\d+(?:\.\d+)?)\s*([kmg]?)b?", value.lower())
        if found is None:
            raise QueryError(f"“{value}” is no size. Write a number and B, KB, MB or GB, as in {operator.example}.")
        factor = {"": 1, "k": 1_000, "m": 1_000_000, "g": 1_000_000_000}[found[2]]
        sign: Sign = ">" if operator.name == "larger" else "<"
        return Test("size", sign, float(found[1]) * factor), f"{found[1]} {found[2].upper()}B"

    def date_of(self, operator: Operator, value: str) -> tuple[Node, str]:
        """A day, a month, a year, or how long ago."""
        span = read_span(value, self._now)
        if span is None:
            raise QueryError(
                f"“{value}” is no date. Write a day (2026-03-05), a month (2026-03), a year, today, yesterday, a "
                "weekday, or how long ago: 3d, 2w, 6m, 1y."
            )
        return _dated(operator.name, span), span.title

    def range_of(self, operator: Operator, value: str) -> tuple[Node, str]:
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


_READERS = {
    "words": _Reader.words_of,
    "file": _Reader.file_of,
    "bucket": _Reader.bucket_of,
    "tag": _Reader.tag_of,
    "account": _Reader.account_of,
    "choice": _Reader.choice_of,
    "size": _Reader.size_of,
    "date": _Reader.date_of,
    "range": _Reader.range_of,
}


def read_query(line: str, names: Names, now: datetime) -> Query:
    """Understand a line; ``now`` is the owner's clock.

    Raises :class:`QueryError`, whose message says what is wrong and how to mend it.
    """
    if len(line) > MAX_LINE:
        raise QueryError(f"A search line has at most {MAX_LINE} characters; this has {len(line)}.")
    if not line.strip():
        return Query(All(()), "All mail.", (), ())
    reader = _Reader(line, names, now)
    said = reader.read()
    terms = tuple(reader.terms) if reader.simple else ()
    return Query(said.node, f"Mail {said.words}.", tuple(dict.fromkeys(reader.hints)), terms)


def _words(columns: tuple[Column, ...], text: str) -> Words:
    prefix = text.endswith("*")
    bare = text.rstrip("*")
    if not words(bare, 1):
        raise QueryError(f"“{text}” has neither letters nor digits to look for. Leave it out, or add a word.")
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
