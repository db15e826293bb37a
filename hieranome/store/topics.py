"""Topics: what was said, answered and found; and the words of mail they are made of."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from hieranome.core.conditions import Column, Words
from hieranome.core.errors import NotFound
from hieranome.core.text import folded
from hieranome.store.messages import RECEIVED
from hieranome.store.search import expression

_LOOKED_IN: tuple[Column, ...] = ("subject", "body")


@dataclass(frozen=True, slots=True)
class Kept:
    """A topic as it is stored; ``said`` in the owner's words, ``weights`` and ``beside`` what is looked for, ``others``
    the messages nobody answered about that are learned from."""

    id: int
    tag: int
    said: str
    weights: Mapping[str, float]
    beside: tuple[str, ...]
    others: tuple[int, ...]
    bucket: str
    enabled: bool


@dataclass(frozen=True, slots=True)
class Answer:
    """What the owner said of a message last; ``drawn``: it was drawn by lot from those found."""

    message: int
    belongs: bool
    drawn: bool


_COLUMNS = "id, tag, said, words, others, bucket, enabled"


def _kept(row: sqlite3.Row) -> Kept:
    words = json.loads(row[3])
    return Kept(
        row[0], row[1], row[2], words["said"], tuple(words["beside"]), tuple(json.loads(row[4])), row[5], bool(row[6])
    )


_THERE = f"""
    SELECT {_COLUMNS} FROM topics AS t WHERE removed = 0 AND tag IN (SELECT id FROM tags WHERE removed = 0)
"""


def every(db: sqlite3.Connection) -> list[Kept]:
    """All topics of tags that are there, in the order they were made."""
    return [_kept(row) for row in db.execute(f"{_THERE} ORDER BY id")]


def of_tag(db: sqlite3.Connection, tag: int) -> Kept | None:
    """The topic of a tag, if it has one."""
    row = db.execute(f"{_THERE} AND tag = ?", (tag,)).fetchone()
    return _kept(row) if row is not None else None


def get(db: sqlite3.Connection, number: int) -> Kept:
    """A topic. Raises :class:`NotFound`."""
    row = db.execute(f"{_THERE} AND id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no topic {number}. Its tag may have been deleted; load the page again.")
    return _kept(row)


def add(db: sqlite3.Connection, tag: int, at: int) -> int:
    """Make a topic of a tag, of which nothing was said yet; its number."""
    number = db.execute(
        "INSERT INTO topics (tag, said, words, others, bucket, enabled, made_at) VALUES (?, '', ?, '[]', '', 0, ?)",
        (tag, json.dumps({"said": {}, "beside": []}), at),
    ).lastrowid
    assert number is not None
    return number


def say(
    db: sqlite3.Connection,
    number: int,
    said: str,
    weights: Mapping[str, float],
    beside: Sequence[str],
    others: Sequence[int],
) -> None:
    """Keep what was said of a topic, and what is looked for and learned from because of it."""
    words = json.dumps({"said": dict(weights), "beside": list(beside)}, ensure_ascii=False)
    db.execute(
        "UPDATE topics SET said = ?, words = ?, others = ? WHERE id = ?",
        (said, words, json.dumps(list(others)), number),
    )


def turn(db: sqlite3.Connection, number: int, enabled: bool, bucket: str) -> None:
    """Let a topic tag what arrives or not, and put it in a bucket (empty: in none)."""
    db.execute("UPDATE topics SET enabled = ?, bucket = ? WHERE id = ?", (enabled, bucket, number))


def remove(db: sqlite3.Connection, number: int) -> None:
    """Let a tag learn no more; what it has learned is kept for the journal."""
    db.execute("UPDATE topics SET removed = 1, enabled = 0 WHERE id = ?", (number,))


def answers(db: sqlite3.Connection, number: int) -> list[Answer]:
    """What stands of the answers about a topic, one for each message, in the order they were given."""
    rows = db.execute(
        "SELECT a.message, a.belongs, a.drawn FROM topic_answers AS a JOIN steps AS s ON s.id = a.step"
        " WHERE a.topic = ? AND s.undone_at IS NULL ORDER BY a.id",
        (number,),
    )
    last: dict[int, Answer] = {}
    for message, belongs, drawn in rows:
        last.pop(message, None)
        last[message] = Answer(message, bool(belongs), bool(drawn))
    return list(last.values())


def note_answers(
    db: sqlite3.Connection, step: int, number: int, messages: Iterable[int], belongs: bool, drawn: bool = False
) -> None:
    """Note answers as part of a step."""
    db.executemany(
        "INSERT INTO topic_answers (step, topic, message, belongs, drawn) VALUES (?, ?, ?, ?, ?)",
        [(step, number, message, belongs, drawn) for message in messages],
    )


def answered_by(db: sqlite3.Connection, step: int) -> list[int]:
    """The topics a step answered about."""
    return [row[0] for row in db.execute("SELECT DISTINCT topic FROM topic_answers WHERE step = ?", (step,))]


def note_found(db: sqlite3.Connection, number: int, message: int, at: int, *, asked: bool) -> None:
    """Note that a topic found a message as it arrived, or asks about it."""
    db.execute("INSERT OR REPLACE INTO topic_found VALUES (?, ?, ?, ?)", (number, message, at, asked))


def questions(db: sqlite3.Connection, messages: Collection[int] | None = None) -> dict[int, int]:
    """The topic that asks about each message that stands in Your call because of one; of some, or of all."""
    wanted = "" if messages is None else " AND f.message IN (SELECT value FROM json_each(?))"
    rows = db.execute(
        "SELECT f.message, f.topic FROM topic_found AS f JOIN messages AS m ON m.id = f.message"
        " JOIN topics AS t ON t.id = f.topic AND t.removed = 0 JOIN tags AS g ON g.id = t.tag AND g.removed = 0"
        f" WHERE f.asked = 1 AND m.place = 'undecided' AND m.decided_by = 'topic'{wanted}",
        () if messages is None else (json.dumps(list(messages)),),
    )
    return {row[0]: row[1] for row in rows}


def of_message(db: sqlite3.Connection, message: int) -> list[int]:
    """The tags of the topics that found a message by themselves as it arrived, or ask about it."""
    rows = db.execute(
        "SELECT t.tag FROM topic_found AS f JOIN topics AS t ON t.id = f.topic JOIN tags AS g ON g.id = t.tag"
        " WHERE f.message = ? AND g.removed = 0 ORDER BY t.id",
        (message,),
    )
    return [row[0] for row in rows]


_WEIGHED = f"{RECEIVED} AND EXISTS (SELECT 1 FROM vectors WHERE message = m.id)"


def newest(db: sqlite3.Connection, since: int, most: int) -> dict[int, int]:
    """Received mail that was weighed, later than a time, newest first: when each came."""
    rows = db.execute(
        f"SELECT m.id, m.time FROM messages AS m INDEXED BY messages_by_when WHERE m.time > ? AND {_WEIGHED}"
        " ORDER BY m.time DESC, m.id DESC LIMIT ?",
        (since, most),
    )
    return {row[0]: row[1] for row in rows}


def weighed(db: sqlite3.Connection, numbers: Sequence[int]) -> list[int]:
    """Those of some messages that are received mail and were weighed, in the order given."""
    rows = db.execute(
        f"SELECT m.id FROM messages AS m WHERE m.id IN (SELECT value FROM json_each(?)) AND {_WEIGHED}",
        (json.dumps(list(numbers)),),
    )
    there = {row[0] for row in rows}
    return [number for number in numbers if number in there]


def hits(db: sqlite3.Connection, begins: Iterable[str], most: int) -> list[int]:
    """The messages whose subject and text match words that begin so best (BM25), the best first."""
    wanted = [expression(Words((column,), begin, prefix=True)) for begin in begins for column in _LOOKED_IN]
    if not wanted:
        return []
    rows = db.execute(
        "SELECT rowid FROM words_index WHERE words_index MATCH ? ORDER BY rank LIMIT ?", (" OR ".join(wanted), most)
    )
    return [row[0] for row in rows]


def texts(db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, tuple[str, str]]:
    """Subject and text of some messages, as the index takes them."""
    rows = db.execute(
        "SELECT message, subject, substr(body, 1, 8000) FROM words WHERE message IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0]: (row[1], row[2]) for row in rows}


def check(db: sqlite3.Connection) -> None:
    """Read all topics as they are read later. Raises what they hold that cannot be."""
    for one in every(db):
        counted = [*one.weights.values(), 0.0]
        if not all(isinstance(value, float | int) and 0.0 <= value <= 1.0 for value in counted):
            raise ValueError("what a topic's words count cannot be")
        if not all(isinstance(word, str) for word in (*one.weights, *one.beside)):
            raise ValueError("a topic looks for what is no word")
        if not all(isinstance(number, int) and 0 < number < 2**63 for number in one.others):
            raise ValueError("a topic learns from what is no message")
        if one.bucket and not db.execute("SELECT 1 FROM places WHERE name = ? AND band >= 0", (one.bucket,)).fetchone():
            raise ValueError("a topic puts mail in a bucket that is not there")
        answers(db, one.id)


def holding(db: sqlite3.Connection, word: str, *, prefix: bool = False) -> int:
    """How many messages hold a word, or words that begin so (a message with several counts for each)."""
    term = folded(word)
    until = term + "\U0010ffff" if prefix else term
    row = db.execute("SELECT sum(doc) FROM words_terms WHERE term >= ? AND term <= ?", (term, until)).fetchone()
    return int(row[0] or 0)
