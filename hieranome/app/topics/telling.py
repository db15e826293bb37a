"""A topic as the page shows it: what is likely its own, what to ask, how it does."""

from __future__ import annotations

import random
import sqlite3
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.topics.learning import Learned, learned
from hieranome.core.features import Vector
from hieranome.core.figures import Share
from hieranome.core.gaussian import Rows
from hieranome.core.stopwords import WORDS as STOPWORDS
from hieranome.core.text import pairs, words
from hieranome.core.times import DAY
from hieranome.core.topics import DOUBT, Reason, Topic
from hieranome.store import messages, topics
from hieranome.store.messages import Message

DAYS, WEEKS = 91, 13
WEEK = 604_800
MOST_LOOKED_AT = 30_000
"""Messages of the last weeks that are looked at, the newest."""
ASKED = 8
"""Messages that are asked about at a time."""
WORTH_ASKING = -2.0
"""Log-odds below which it is out of the question that a message belongs, once it is known what does."""
OF_A_SHAPE = 2
"""How many of them have the same sender and subject, numbers aside."""
FIRST = 2
"""Answers before doubtful mail is asked about among the likely."""
DRAWN_FROM = 10
"""Answers from which on every third question is drawn by lot from what the topic holds for its own."""
_CHUNK = 2_000
_LOOKED_THROUGH = 200


@dataclass(frozen=True, slots=True)
class Question:
    """A message the owner is asked about: how likely it belongs (log-odds), why, and whether it was drawn by lot."""

    message: Message
    score: float
    reasons: list[Reason]
    drawn: bool


@dataclass(frozen=True, slots=True)
class Told:
    """A topic as it stands: answers for and against, how many messages of the last weeks it holds for its own and how
    many of those it doubts, how many a week (the last is this one), how often it was right of those drawn by lot, and
    what it asks."""

    kept: topics.Kept
    belongs: int
    others: int
    members: int
    doubtful: int
    weeks: list[int]
    right: Share
    asks: list[Question]


def tell(room: Mailroom, number: int) -> Told:
    """Everything the page shows of a topic. Raises :class:`NotFound`."""
    with room.steady():
        one = learned(room, number)
    db, now = room.reader(), room.clock()
    found = topics.newest(db, now - DAYS * DAY, MOST_LOOKED_AT)
    looked = list(dict.fromkeys([*found, *topics.weighed(db, one.kept.others)]))
    scores, likely = _scored(db, one.topic, looked)
    said = {answer.message: answer.belongs for answer in one.answers}
    begun = any(said.values())  # words alone decide nothing
    held = [n for n in found if said.get(n, begun and scores.get(n, -1.0) >= 0.0)]
    doubted = [n for n in found if begun and n not in said and abs(scores.get(n, 9.0)) <= DOUBT]
    drawn = [answer.belongs for answer in one.answers if answer.drawn]
    weeks = [0] * WEEKS
    for number in held:
        weeks[max(0, WEEKS - 1 - max(0, now - found[number]) // WEEK)] += 1
    return Told(
        one.kept,
        sum(said.values()),
        len(said) - sum(said.values()),
        len(held),
        len(doubted),
        weeks,
        Share(sum(drawn), len(drawn)),
        _asks(db, one, scores, likely, held),
    )


def _scored(db: sqlite3.Connection, topic: Topic, numbers: Sequence[int]) -> tuple[dict[int, float], dict[int, float]]:
    """The score of each of many messages, and how likely it is with its subject counted whole."""
    scores: dict[int, float] = {}
    likely: dict[int, float] = {}
    for ids, rows in chunks(db, numbers):
        scores.update(zip(ids, topic.score_all(rows).tolist(), strict=True))
        likely.update(zip(ids, topic.likely_all(rows).tolist(), strict=True))
    return scores, likely


def chunks(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[list[int], Rows]]:
    """Many messages in parts, each with its vectors made ready."""
    parts = []
    for start in range(0, len(numbers), _CHUNK):
        vectors = messages.vectors(db, numbers[start : start + _CHUNK])
        if vectors:
            parts.append((list(vectors), Rows.stacked(list(vectors.values()))))
    return parts


def _asks(
    db: sqlite3.Connection, one: Learned, scores: dict[int, float], likely: dict[int, float], held: Sequence[int]
) -> list[Question]:
    """What to ask next: the likeliest, and from some answers on the most doubtful among them, and some drawn by lot;
    of mail of one sender and subject a few. Once it is known what belongs, nothing that is out of the question."""
    said = {answer.message for answer in one.answers}
    begun = any(answer.belongs for answer in one.answers)
    open_ones = [n for n in likely if n not in said and (not begun or likely[n] > WORTH_ASKING)]
    surest = sorted(open_ones, key=lambda n: (-likely[n], n))
    doubtful = sorted(open_ones, key=lambda n: (abs(likely[n]), n))
    lot = [n for n in held if n not in said and scores[n] >= 0.0]
    random.Random(len(said)).shuffle(lot)
    shapes = _shapes(db, [*surest[:_LOOKED_THROUGH], *doubtful[:_LOOKED_THROUGH], *lot[:_LOOKED_THROUGH]])
    chosen: dict[int, bool] = {}
    seen: Counter[str] = Counter()
    for at in range(len(said), len(said) + 3 * ASKED):
        if len(chosen) == ASKED:
            break
        by_lot = len(said) >= DRAWN_FROM and at % 3 == 0
        source = lot if by_lot else surest if at < FIRST or at % 2 == 0 else doubtful
        near = (n for n in source[:_LOOKED_THROUGH] if n in shapes and n not in chosen)
        found = next((n for n in near if by_lot or seen[shapes[n]] < OF_A_SHAPE), None)  # a lot leaves nothing out
        if found is not None:
            chosen[found] = by_lot
            seen[shapes[found]] += 1
    return _questions(db, one.topic, chosen, scores)


def _shapes(db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, str]:
    """Sender and subject of messages, numbers taken for one another."""
    rows = messages.get_many(db, list(dict.fromkeys(numbers)))
    return {row.id: " ".join([row.list_id or row.sender_address, *words(row.subject[:200], 20)]) for row in rows}


def _questions(
    db: sqlite3.Connection, topic: Topic, chosen: dict[int, bool], scores: dict[int, float]
) -> list[Question]:
    vectors, texts = messages.vectors(db, list(chosen)), topics.texts(db, list(chosen))
    rows = {row.id: row for row in messages.get_many(db, list(chosen))}
    return [
        Question(rows[n], scores[n], why(topic, vectors[n], rows[n], texts.get(n, ("", ""))), drawn)
        for n, drawn in chosen.items()
        if n in rows
    ]


def why(topic: Topic, vector: Vector, row: Message, text: tuple[str, str]) -> list[Reason]:
    """What speaks for a message, in at most three reasons."""
    subject = list(dict.fromkeys(words(text[0][:500], 40)))
    named = [word for word in subject if "0" not in word]  # a number tells nobody anything
    spoken = {
        "subject": named,
        "subject_pairs": [pair for pair in pairs(subject) if "0" not in pair],
        "sender_subject": [f"{row.list_id or row.sender_address} {word}" for word in named],
        "text": [w for w in dict.fromkeys(words(text[1], 400)) if w not in STOPWORDS and "0" not in w],
        "address": [row.sender_address],
        "domain": [row.sender_address.rpartition("@")[2]],
        "list": [row.list_id],
    }
    return topic.reasons(vector, spoken)[:3]
