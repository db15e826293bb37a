"""The search line: what it means as a tree (:mod:`hieranome.core.conditions`) and in a sentence.

A line is words and operators side by side, all of which must hold; ``or`` between two gives a choice, ``not`` or a
leading dash turns one round, parentheses group. A word finds what begins with it, from :data:`BEGINS` letters on;
quotation marks mean the whole word, or a phrase. For operators a star does that. Dates are days of the owner's clock.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.conditions import EVERYWHERE, All, Any, Node, Not
from hieranome.core.operators import BY_NAME, Operator
from hieranome.core.text import folded
from hieranome.core.values import Names, QueryError, read_value, words_in

MAX_LINE = 2_000
MAX_TERMS = 60
JOINING = ("and", "or", "not")
BEGINS = 3
"""Letters or digits from which on a bare word finds longer ones too."""


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
    rf"""(?<!\s)\s*+(?: (?P<open>\() | (?P<close>\)) | (?P<minus>-(?=[^\s-]))
    | (?P<operator>{"|".join(BY_NAME)}):(?P<said>"[^"]*"?|[^\s()"]*)
    | "(?P<quoted>[^"]*)"? | (?P<word>[^\s()"]+) )""",
    re.VERBOSE | re.IGNORECASE,
)
_LOOKS_LIKE_ONE = re.compile(r"^([a-z]{2,12}):[^/\s\d]", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class _Said:
    """A node and how it reads."""

    node: Node
    words: str


class _Reader:
    """Recursive descent over the tokens of one line."""

    def __init__(self, line: str, known: Names) -> None:
        self._known = known
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
            raise QueryError("A closing parenthesis has no opening one. Remove it, or put ( before what it closes.")
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
        begins = token["word"] is not None and not text.endswith("*") and len(folded(text)) >= BEGINS
        node = words_in(EVERYWHERE, f"{text}*" if begins else text)
        return _Said(node, f"with “{text}{'…' if begins else ''}”")

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
        node, shown = read_value(operator, value, self._known)
        return _Said(node, operator.says.format(shown))


def read_query(line: str, known: Names) -> Query:
    """Understand a line.

    Raises :class:`QueryError`, whose message says what is wrong and how to mend it.
    """
    if len(line) > MAX_LINE:
        raise QueryError(f"A search line has at most {MAX_LINE} characters; this has {len(line)}.")
    if not line.strip():
        return Query(All(()), "All mail.", (), ())
    reader = _Reader(line, known)
    said = reader.read()
    terms = tuple(reader.terms) if reader.simple else ()
    return Query(said.node, f"Mail {said.words}.", tuple(dict.fromkeys(reader.hints)), terms)


def written(terms: Iterable[Term]) -> str:
    """The line that conditions make, all of which must hold."""
    return " ".join(f"{one.operator}:{_quoted(one.value)}" if one.operator else _bare(one.value) for one in terms)


def _bare(value: str) -> str:
    """A word as it stands by itself, and not as what joins others."""
    return f'"{value}"' if value.lower() in JOINING else value


def _quoted(value: str) -> str:
    return f'"{value}"' if re.search(r'[\s()"]', value) else value


def renamed(line: str, operator: str, old: str, new: str) -> str:
    """A line that asks the same once something an operator names is called otherwise: ``tag:old`` becomes ``tag:new``,
    all else stays as it was typed."""
    said = f"{operator}:{_quoted(new)}"
    pieces, behind = [], 0
    for token in _TOKEN.finditer(line):
        named = (token["operator"] or "").lower() == operator
        if named and token["said"].strip('"').strip().casefold() == old.casefold():
            pieces += [line[behind : token.start("operator")], said]
            behind = token.end("said")
    return "".join([*pieces, line[behind:]])


def names(line: str, operator: str, value: str) -> bool:
    """Whether an operator of a line names something, as in ``tag:visas``."""
    return renamed(line, operator, value, f"{value}-") != line
