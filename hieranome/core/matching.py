"""Whether a message meets conditions: the search line's tree asked of one message that is not stored yet.

It says what the store says of the same message once it is stored: words are taken apart as the full-text index of the
store takes them apart (SQLite's ``unicode61`` with ``remove_diacritics 2``), and compared as it compares them.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import assert_never

from hieranome.core.conditions import (
    All,
    Any,
    Column,
    Due,
    Held,
    Holds,
    Is,
    Node,
    Not,
    Sign,
    Stands,
    Tagged,
    Test,
    Words,
)
from hieranome.core.text import folded, phrase, spaced

_COMPARE: dict[Sign, Callable[[float, float], bool]] = {
    "=": operator.eq,
    ">=": operator.ge,
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
}


@dataclass
class Mail:
    """What conditions look at: the text of each column, numbers by their names (see
    :class:`hieranome.core.conditions.Test`), the sender's address and domain and the list's id in lower case, where it
    stands, the mailboxes it stands in, the tags it carries."""

    texts: Mapping[str, str]
    numbers: Mapping[str, float]
    names: Mapping[str, str]
    place: str
    accounts: Sequence[str] = ()
    tags: set[int] = field(default_factory=set)

    @cached_property
    def _words(self) -> dict[Column, str]:
        return {}

    def words(self, column: Column) -> str:
        """The words of a column, folded, with a blank before and behind each."""
        found = self._words.get(column)
        if found is None:
            text = self.texts.get(column, "")
            found = self._words[column] = f" {folded(text if column == 'list' else spaced(text))} "
        return found


def holds(node: Node, mail: Mail) -> bool:
    """Whether a message meets conditions."""
    match node:
        case Words():
            wanted = sought(node)
            return any(wanted in mail.words(column) for column in node.columns)
        case Test():
            return _COMPARE[node.sign](mail.numbers[node.field], node.value)
        case All():
            return all(holds(part, mail) for part in node.parts)
        case Any():
            return any(holds(part, mail) for part in node.parts)
        case Not():
            return not holds(node.part, mail)
        case Is():
            value = mail.names[node.field]
            return value == node.value or (node.field != "address" and value.endswith(f".{node.value}"))
        case Holds():
            return node.text in lowered(mail.names["address"] if node.column == "address" else mail.texts["subject"])
        case Stands():
            return mail.place == node.place
        case Tagged():
            return bool(node.tags & mail.tags)
        case Held():
            return any(node.account in account for account in mail.accounts)
        case Due():
            return False  # nothing is due before it has arrived
        case _:
            assert_never(node)


def lowered(text: str) -> str:
    """Text with the letters of ASCII in lower case, as ``i;ascii-casemap`` compares it (RFC 4790, section 9.2)."""
    return text.translate(_ASCII)


_ASCII = {upper: upper + 32 for upper in range(ord("A"), ord("Z") + 1)}


def sought(node: Words) -> str:
    """Words as they stand in :meth:`Mail.words`: with a blank behind the last, unless it may go on."""
    text, open_end = phrase(node.text.replace("\x00", " "))
    return f" {folded(text)}" + ("" if node.prefix or open_end else " ")
