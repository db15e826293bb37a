"""The owner describes a kind of mail, answers about it, and lets it be found from now on."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app import shaping_tags
from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, tell_filed
from hieranome.app.room.moving import move
from hieranome.app.topics.arriving import TOPIC
from hieranome.app.topics.learning import MOST_LEARNED, Learned, learned, listen
from hieranome.core.actors import Actor
from hieranome.core.buckets import UNDECIDED
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.routing import settle
from hieranome.core.steps import StepKind
from hieranome.core.tags import Tag
from hieranome.core.topics import DOUBT
from hieranome.store import journal, messages, places, tags, topics
from hieranome.store.messages import Message

ANSWERED = StepKind.TOPIC
"""The kind of steps in which the owner answered about a topic."""
_VERBS = {
    (True, True): "belongs",
    (True, False): "belong",
    (False, True): "does not belong",
    (False, False): "do not belong",
}
MAX_SAID = 500
MOST_TOPICS = 20


def describe(room: Mailroom, said: str, name: str = "", tag: int = 0) -> topics.Kept:
    """Say of a tag which mail is meant; a new tag is made where none is given. With nothing said, what carries the tag
    is all it is known by: those messages count as answers.

    Raises :class:`CallerError` for too long a sentence or too many topics, :class:`Conflict` for a name that is taken.
    """
    sentence = " ".join(said.split())
    if len(sentence) > MAX_SAID:
        raise CallerError(f"A topic is said in at most {MAX_SAID} characters. Keep the words that matter.")
    with room.change() as db:
        number = tag or shaping_tags.make(room, name).id
        known = topics.of_tag(db, tags.get(db, number).id)
        if known is None:
            if len(topics.every(db)) >= MOST_TOPICS:
                raise CallerError(f"{MOST_TOPICS} tags learn already, which is the most. Let one of them rest.")
            topic = topics.add(db, number, room.clock())
            _take_carried(room, db, topic, tags.get(db, number))
        else:
            topic = known.id
        listen(db, topic, sentence)
        _changed(room)
    return topics.get(room.reader(), topic)


def _take_carried(room: Mailroom, db: sqlite3.Connection, topic: int, tag: Tag) -> None:
    carried = topics.weighed(db, tags.carrying(db, tag.id))[-MOST_LEARNED:]
    if carried:
        step = journal.begin(db, room.clock(), ANSWERED, f"“{tag.name}” learns from {_count(len(carried))} it is on")
        topics.note_answers(db, step, topic, carried, True)


def answer(room: Mailroom, number: int, those: Sequence[int], belongs: bool, *, drawn: bool = False) -> Filed:
    """Say of messages that they belong to a topic or do not; they carry its tag then, or no longer. ``drawn``: one was
    drawn by lot from those it held for its own. A question about them in Your call is answered by it."""
    with room.change() as db:
        kept = topics.get(db, number)
        tag = tags.get(db, kept.tag)
        known = set(topics.weighed(db, those))
        rows = [row for row in rows_of(db, those) if row.id in known]
        if not rows:
            raise CallerError("What you wrote yourself, or threw away, tells nothing about a topic.")
        verb = _VERBS[belongs, len(rows) == 1]
        title = f"{named(rows)} {verb} to “{tag.name}”"
        step = journal.begin(db, room.clock(), ANSWERED, title)
        topics.note_answers(db, step, number, [row.id for row in rows], belongs, drawn)
        work = tags.put_on if belongs else tags.take_off
        tags.note_tagging(db, step, work(db, [row.id for row in rows], tag.id), tag.id, belongs)
        _leave_call(room, db, step, kept, rows, belongs)
        _changed(room)
        _release(room, db, learned(room, number), tag.name)
        return tell_filed(room, step, rows)


def _leave_call(
    room: Mailroom, db: sqlite3.Connection, step: int, kept: topics.Kept, rows: Sequence[Message], belongs: bool
) -> None:
    """Let messages the topic asked about go where they belong, as part of a step."""
    asked = topics.questions(db, [row.id for row in rows])
    for row in rows:
        if asked.get(row.id) == kept.id:
            _put(room, db, step, row.id, kept, belongs)


def _put(room: Mailroom, db: sqlite3.Connection, step: int, message: int, kept: topics.Kept, belongs: bool) -> None:
    target, by = settle(room.engine.judge(vector_of(room, db, message)), room.costs)[0], Decider.MODEL
    if belongs and kept.bucket:
        target, by = places.in_use(db, kept.bucket), TOPIC
    move(db, step, messages.stood(db, [message]), target, by)


def _release(room: Mailroom, db: sqlite3.Connection, one: Learned, name: str) -> None:
    """Let the other questions of a topic that it answers itself by now leave Your call, as a step of their own."""
    open_ones = [message for message, topic in topics.questions(db).items() if topic == one.kept.id]
    sure = [(message, one.topic.score(vector_of(room, db, message))) for message in open_ones]
    sure = [(message, score) for message, score in sure if abs(score) > DOUBT]
    if not sure:
        return
    call = places.get(db, UNDECIDED).title
    title = f"{_count(len(sure))} left {call}: “{name}” has learned it"
    step = journal.begin(db, room.clock(), StepKind.LEARNED, title, Actor.TOPIC)
    for message, score in sure:
        _put(room, db, step, message, one.kept, score > 0)
        if score > 0:
            tags.note_tagging(db, step, tags.put_on(db, [message], one.kept.tag), one.kept.tag, True)
    room.tell_moved(step, [message for message, _ in sure])


def turn(room: Mailroom, number: int, enabled: bool, bucket: str) -> topics.Kept:
    """Let a topic tag mail as it arrives, or rest; with a bucket, put it there too. Raises :class:`Conflict` before the
    owner has said of any message that it belongs, :class:`CallerError` for a bucket that is not there."""
    with room.change() as db:
        kept = topics.get(db, number)
        if bucket and bucket not in {one.name for one in places.buckets(db)}:
            raise CallerError(f"There is no bucket {bucket}. Choose one of the band.")
        if enabled and not any(one.belongs for one in topics.answers(db, number)):
            raise Conflict("Say of at least one message that it belongs; words alone decide nothing.")
        topics.turn(db, kept.id, enabled, bucket)
        _changed(room)
    return topics.get(room.reader(), number)


def rest(room: Mailroom, number: int) -> None:
    """Let a tag learn no more. The tag and the mail it is on stay; what the topic asks in Your call goes where it would
    have gone."""
    with room.change() as db:
        kept = topics.get(db, number)
        open_ones = [message for message, topic in topics.questions(db).items() if topic == number]
        if open_ones:
            title = f"{_count(len(open_ones))} left Your call: “{tags.get(db, kept.tag).name}” learns no more"
            step = journal.begin(db, room.clock(), StepKind.LEARNED, title, Actor.TOPIC)
            for message in open_ones:
                _put(room, db, step, message, kept, False)
            room.tell_moved(step, open_ones)
        topics.remove(db, number)
        _changed(room)


def _changed(room: Mailroom) -> None:
    room.topics = None
    room.tell("topics")
    room.tell("tags")


def _count(number: int) -> str:
    return "1 message" if number == 1 else f"{number} messages"
