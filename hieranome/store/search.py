"""What a search line finds: its tree as SQL, over the index of words and the rows of mail.

Words go to the full-text index in as few questions as they allow. Where those give few hits, the search begins
there; otherwise it walks the mail in the wanted order and stops when a page is full.
"""

from __future__ import annotations

import difflib
import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, assert_never

from hieranome.core.conditions import NUMBERS, All, Any, Due, Held, Holds, Is, Node, Not, Stands, Tagged, Test, Words
from hieranome.core.text import folded, phrase
from hieranome.store.listing import Page, read_cursor, write_cursor
from hieranome.store.messages import get_many

Exact = Literal["time", "importance"]
Ranking = Literal["relevance", "time", "importance"]
FEW = 2_000
"""Hits that are counted and ranked; beyond them there are just more."""
SAME, MANY, LIKE = 2, 20_000, 0.7
"""Words alike: how many letters at the beginning are the same, how many are compared, how like they are at least."""
_COLUMN: dict[Exact, str] = {"time": "time", "importance": "score"}
_WALK: dict[Exact, str] = {"time": "messages_by_when", "importance": "messages_by_score"}
_WEIGHTS = "6.0, 4.0, 1.0, 1.0, 2.0, 2.0, 1.0"
"""What a word counts in the subject, sender, To, Cc, list, files and body when hits are ranked by relevance."""


@dataclass(frozen=True, slots=True)
class _Sql:
    """A condition on ``m`` with its values."""

    text: str
    values: tuple[str | float, ...] = ()


def expression(words: Words) -> str:
    """Words as the full-text index asks for them."""
    text, open_end = phrase(words.text.replace("\x00", " "))
    quoted = '"' + text.replace('"', '""') + '"'
    star = " *" if words.prefix or open_end else ""
    columns = "" if len(words.columns) > 1 else f"{{{words.columns[0]}}} : "
    return f"({columns}{quoted}{star})"


def _textual(node: Node) -> str | None:
    """The whole node as one question to the full-text index, where it can be."""
    if isinstance(node, Words):
        return expression(node)
    if isinstance(node, All | Any) and node.parts:
        parts = [_textual(part) for part in node.parts]
        if all(parts):
            return "(" + (" AND " if isinstance(node, All) else " OR ").join(str(part) for part in parts) + ")"
    return None


def _condition(node: Node, span: tuple[int, int] | None = None) -> _Sql:
    """A node in SQL; ``span`` are the ids within which words are looked for."""
    text = _textual(node)
    if text is not None:
        return _matching(text, span)
    match node:
        case Words():
            return _matching(expression(node), span)
        case Test():
            if node.field not in NUMBERS:
                raise ValueError(node.field)
            return _Sql(f"m.{node.field} {node.sign} ?", (node.value,))
        case Stands():
            return _Sql("m.place = ?", (node.place,))
        case Is():
            return _is(node)
        case Holds():
            name = "m.sender_address" if node.column == "address" else "m.subject"
            return _Sql(f"instr(lower({name}), ?) > 0", (node.text,))
        case Tagged():
            those = json.dumps(sorted(node.tags))
            return _Sql("m.id IN (SELECT message FROM tagged WHERE tag IN (SELECT value FROM json_each(?)))", (those,))
        case Due():
            due = "SELECT message FROM following WHERE kind = 'due' AND at >= ? AND at < ?"
            return _Sql(f"m.id IN ({due})", (node.since, node.until))
        case Held():
            return _Sql(
                "EXISTS (SELECT 1 FROM copies AS c JOIN folders AS f ON f.id = c.folder"
                " JOIN accounts AS a ON a.id = f.account WHERE c.message = m.id AND instr(lower(a.address), ?) > 0)",
                (node.account,),
            )
        case Not():
            inner = _condition(node.part, span)
            return _Sql(f"NOT ({inner.text})", inner.values)
        case All():
            return _joined(_gathered(node.parts), " AND ", "1", span)
        case Any():
            return _joined(node.parts, " OR ", "0", span)
        case _:
            assert_never(node)


def _matching(text: str, span: tuple[int, int] | None) -> _Sql:
    """A question to the full-text index."""
    within = " AND rowid BETWEEN ? AND ?" if span else ""
    return _Sql(f"+m.id IN (SELECT rowid FROM words_index WHERE words_index MATCH ?{within})", (text, *(span or ())))


_NAMED = {"address": "m.sender_address", "domain": "m.sender_domain", "list": "m.list_id"}


def _is(node: Is) -> _Sql:
    name = _NAMED[node.field]
    if node.field == "address":
        return _Sql(f"{name} = ?", (node.value,))
    return _Sql(f"({name} = ? OR substr({name}, -length(?)) = ?)", (node.value, f".{node.value}", f".{node.value}"))


def _gathered(parts: Sequence[Node]) -> list[Node]:
    """Parts that must all hold: what the index of small things holds, the textual ones as one, then the rest."""
    textual = [part for part in parts if _textual(part) is not None]
    small = [part for part in parts if isinstance(part, Test | Stands) and not _is_scored(part)]
    others = [part for part in parts if part not in textual and part not in small]
    return [*small, *([All(tuple(textual))] if textual else []), *others]


def _is_scored(part: Node) -> bool:
    return isinstance(part, Test) and part.field in ("score", "certainty")


def _joined(parts: Sequence[Node], by: str, empty: str, span: tuple[int, int] | None) -> _Sql:
    if not parts:
        return _Sql(empty)
    found = [_condition(part, span) for part in parts]
    return _Sql("(" + by.join(one.text for one in found) + ")", tuple(v for one in found for v in one.values))


def _leading(node: Node) -> str | None:
    """Words that every hit must have, as one question to the full-text index."""
    whole = _textual(node)
    if whole is not None:
        return whole
    if isinstance(node, All):
        return next((_textual(part) for part in _gathered(node.parts) if _textual(part) is not None), None)
    return None


def _source(db: sqlite3.Connection, node: Node, walk: str) -> tuple[str, _Sql]:
    """Where the rows come from, and the condition on them."""
    condition = _condition(node)
    leading = _leading(node)
    if leading is not None:
        rows = db.execute("SELECT rowid FROM words_index WHERE words_index MATCH ? LIMIT ?", (leading, FEW + 1))
        ids = [row[0] for row in rows]
        if len(ids) <= FEW:
            few = "m.id IN (SELECT value FROM json_each(?))"
            return "messages AS m", _Sql(f"{few} AND {condition.text}", (json.dumps(ids), *condition.values))
    return f"messages AS m INDEXED BY {walk}", condition


def first(db: sqlite3.Connection, node: Node, order: Exact) -> list[int]:
    """The ids of the first hits in an exact order: at most :data:`FEW` and one, which says that there are more."""
    return _ids(db, node, order, "", FEW + 1)


def every(db: sqlite3.Connection, node: Node, since: int = 0, most: int = 0) -> list[int]:
    """The ids of all hits dated later than ``since``, newest first; of the newest where ``most`` says how many."""
    wanted = All((node, Test("time", ">", since))) if since else node
    return _ids(db, wanted, "time", "", most or 2**40)


def among(db: sqlite3.Connection, node: Node, numbers: Sequence[int]) -> list[int]:
    """Those of some messages that meet conditions; words are looked for in their span of ids alone."""
    if not numbers:
        return []
    span = (min(numbers), max(numbers))
    leading = _leading(node)
    if leading is not None:  # few hold the words: only those are looked up
        rows = db.execute(
            "SELECT rowid FROM words_index WHERE words_index MATCH ? AND rowid BETWEEN ? AND ?", (leading, *span)
        )
        numbers = sorted({row[0] for row in rows}.intersection(numbers))
        if leading == _textual(node):
            return numbers
    where = _condition(node, span)
    rows = db.execute(
        f"SELECT m.id FROM messages AS m WHERE m.id IN (SELECT value FROM json_each(?)) AND {where.text}",
        (json.dumps(list(numbers)), *where.values),
    )
    return [row[0] for row in rows]


def ordered(db: sqlite3.Connection, node: Node, order: Exact, cursor: str, limit: int) -> Page:
    """One page of the hits in an exact order, newest or most important first."""
    return page_of(db, _ids(db, node, order, cursor, limit + 1), order, limit)


def page_of(db: sqlite3.Connection, hits: Sequence[int], order: Exact, limit: int) -> Page:
    """The first page of hits that stand in the order already; whether there are more shows in how many are given."""
    found = get_many(db, hits[:limit])
    if len(hits) <= limit or not found:
        return Page(found, "")
    last = found[-1]
    return Page(found, write_cursor(f"search-{order}", 0, getattr(last, _COLUMN[order]), last.id))


def _ids(db: sqlite3.Connection, node: Node, order: Exact, cursor: str, limit: int) -> list[int]:
    """Ids alone: the index holds what is walked and sorted, and whole rows are heavy to sort."""
    column = _COLUMN[order]
    source, where = _source(db, node, _WALK[order])
    text, values = f"m.place <> 'gone' AND {where.text}", list(where.values)
    if cursor:
        _, key, number = read_cursor(cursor, f"search-{order}")
        text += f" AND (m.{column}, m.id) < (?, ?)"
        values += [key, number]
    rows = db.execute(
        f"SELECT m.id FROM {source} WHERE {text} ORDER BY m.{column} DESC, m.id DESC LIMIT ?", (*values, limit)
    )
    return [row[0] for row in rows]


def ranked(db: sqlite3.Connection, node: Node, hits: Sequence[int], cursor: str, limit: int) -> Page:
    """One page of the given hits by how well they match (BM25), newer before older where they match alike."""
    wanted = " OR ".join(expression(words) for words in _positive(node))
    places = {number: at for at, number in enumerate(hits)}
    order = list(hits)
    if wanted and order:
        rows = db.execute(
            f"SELECT rowid, bm25(words_index, {_WEIGHTS}) FROM words_index WHERE words_index MATCH ?"
            " AND rowid BETWEEN ? AND ? AND +rowid IN (SELECT value FROM json_each(?))",
            (wanted, min(order), max(order), json.dumps(order)),
        )
        rank = {row[0]: row[1] for row in rows}
        order.sort(key=lambda number: (rank.get(number, 0.0), places[number]))
    start = int(read_cursor(cursor, "search-relevance")[2]) if cursor else 0
    end = start + limit
    following = write_cursor("search-relevance", 0, 0, end) if end < len(order) else ""
    return Page(get_many(db, order[start:end]), following)


def alike(db: sqlite3.Connection, word: str, limit: int) -> list[str]:
    """Words of the mail that look like one nobody wrote: those that begin with the same two letters and differ little
    (Ratcliff and Obershelp's likeness, :mod:`difflib`), the likest first."""
    begin = folded(word)[:SAME]
    if len(begin) < SAME:
        return []
    rows = db.execute(
        "SELECT term FROM words_terms WHERE term >= ? AND term < ? LIMIT ?",
        (begin, begin[:-1] + chr(ord(begin[-1]) + 1), MANY),
    )
    return difflib.get_close_matches(folded(word), [row[0] for row in rows], limit, LIKE)


def _positive(node: Node) -> list[Words]:
    """The words that speak for a hit."""
    if isinstance(node, Words):
        return [node]
    return [words for part in node.parts for words in _positive(part)] if isinstance(node, All | Any) else []
