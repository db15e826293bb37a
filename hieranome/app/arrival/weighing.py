"""The history weighed again, once all of it is known, and put where it belongs."""

from __future__ import annotations

import sqlite3
import time

from hieranome.app.arrival.arrive import WAITING
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.scoring import SCORE_STEP, score_of
from hieranome.core.buckets import ARCHIVE, DESK, UNDECIDED
from hieranome.core.deciders import Decider
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.features import Vector, pack, relation_features, unpack, with_relation
from hieranome.core.groups import Context
from hieranome.core.routing import MOST_ASKED, WINDOW, Asking, settle, worth_asking
from hieranome.store import messages, scores

DEALT_WITH_AFTER = 7 * 86_400
"""Important mail that was answered, or that was read and is this many seconds older than the newest imported,
goes to the Archive: the Desk holds what still needs its owner."""


def weigh_again(room: Mailroom, first_message: int, chunk: int = 400) -> None:
    """Weigh imported mail with the whole history known, and put what the model placed where it belongs.

    Of the newest messages not yet read, those about which asking saves most go to Your call, within the bound.
    """
    newest = messages.newest_received(room.reader())
    at = first_message
    while True:
        with room.change() as db:
            rows = scores.to_weigh(db, at, chunk)
            if rows:
                _weigh_rows(room, db, rows, newest)
        if not rows:
            break
        at = rows[-1]["id"] + 1
        time.sleep(0)  # whoever waits for the lock comes first
    with room.change() as db:
        room.touch()
        _ask_about_newest(room, db, first_message)
        room.asking = Asking(scores.recent_questions(db, WINDOW))
        room.revision += 1


def _weigh_rows(room: Mailroom, db: sqlite3.Connection, rows: list[sqlite3.Row], newest: int) -> None:
    vectors, changed = [], []
    relations: dict[tuple[str, str, int], Vector] = {}
    for row in rows:
        key = (row["sender_address"], row["list_id"], row["mine"])
        if key not in relations:
            facts = MessageFacts(sender=Correspondent(row["sender_address"]), list_id=row["list_id"])
            relations[key] = relation_features(facts, Context(room.owner, room.relations, bool(row["mine"])))
        vector = with_relation(unpack(row["features"]), relations[key])
        packed = pack(vector)
        if packed != row["features"]:
            changed.append((packed, row["id"]))
        vectors.append(vector)
    scores.put_vectors(db, changed)
    room.vectors.clear()
    judged = room.engine.judge_all(vectors)
    scores.rescore(
        db,
        [
            score_of(row["id"], one)
            for row, one in zip(rows, judged, strict=True)
            if abs(row["score"] - one.importance) > SCORE_STEP
        ],
    )
    for row, judgement in zip(rows, judged, strict=True):
        if row["decided_by"] != WAITING.decided_by:
            continue
        place, why = settle(judgement, room.costs)[0], Decider.MODEL
        old = row["time"] < newest - DEALT_WITH_AFTER
        if place == DESK and (row["answered"] or (row["seen"] and not row["flagged"] and old)):
            place, why = ARCHIVE, Decider.HISTORY
        messages.move(db, row["id"], place, why)


def _ask_about_newest(room: Mailroom, db: sqlite3.Connection, first_message: int) -> None:
    rows = [row for row in scores.newest_weighed(db, first_message, WINDOW) if row["decided_by"] == Decider.MODEL]
    unread = [row for row in rows if not row["seen"]]
    judged = room.engine.judge_all([unpack(row["features"]) for row in unread])
    worth = [(worth_asking(one, room.costs)[1], row["id"]) for row, one in zip(unread, judged, strict=True)]
    for value, number in sorted(worth, reverse=True)[:MOST_ASKED]:
        if value > 0.0:
            messages.move(db, number, UNDECIDED, Decider.MODEL)
            scores.note_asked(db, number)
