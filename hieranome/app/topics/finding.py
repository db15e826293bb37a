"""A topic's mail found among all that is here, in one step with progress."""

from __future__ import annotations

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move
from hieranome.app.topics.answering import ANSWERED
from hieranome.app.topics.arriving import TOPIC
from hieranome.app.topics.learning import Learned, learned
from hieranome.app.topics.telling import chunks
from hieranome.core.actors import Actor
from hieranome.core.errors import Conflict
from hieranome.store import journal, messages, places, standing, tags, topics

_PART = 2_000


def check_learned(room: Mailroom, number: int) -> Learned:
    """A topic that was answered about. Raises :class:`Conflict` for one that no message is known to belong to."""
    with room.steady():
        one = learned(room, number)
    if not any(answer.belongs for answer in one.answers):
        raise Conflict("Say of at least one message that it belongs; words alone decide nothing.")
    return one


def find_here(room: Mailroom, number: int) -> int:
    """Tag what a topic holds for its own among all mail that is here, and put in its bucket what the model had put
    elsewhere; the step, or 0 where nothing had to change."""
    one = check_learned(room, number)
    db, name = room.reader(), tags.get(room.reader(), one.kept.tag).name
    said = {answer.message for answer in one.answers}
    last, found = messages.last_id(db), list[int]()
    for start in range(0, last + 1, _PART):
        part = [n for n in topics.weighed(db, range(start, start + _PART)) if n not in said]
        for ids, rows in chunks(db, part):
            found += [n for n, score in zip(ids, one.topic.score_all(rows).tolist(), strict=True) if score >= 0.0]
        room.events.publish("running", topic=number, done=start, of=max(last, start + 1), step=0)
    with room.change() as db:
        one = learned(room, number)  # what was answered meanwhile counts
        said = {answer.message for answer in one.answers}
        found = [n for n in found if n not in said]
        carry = set(tags.carrying(db, one.kept.tag))
        fresh = [n for n in topics.weighed(db, found) if n not in carry]
        bucket = places.in_use(db, one.kept.bucket) if one.kept.bucket else ""
        left = dict(standing.left_to_the_model(db, found)) if bucket else {}
        moving = [n for n, place in left.items() if place != bucket]
        if not fresh and not moving:
            return 0
        count = len({*fresh, *moving})
        title = f"“{name}” found {count} message{'s' * (count != 1)}"
        step = journal.begin(db, room.clock(), ANSWERED, title, Actor.TOPIC)
        tags.note_tagging(db, step, tags.put_on(db, fresh, one.kept.tag), one.kept.tag, True)
        move(db, step, messages.stood(db, moving), bucket, TOPIC)
        room.tell("tags")
        room.tell_moved(step, sorted({*fresh, *moving}))
    return step
