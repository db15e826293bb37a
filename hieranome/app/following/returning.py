"""What comes when its time has come: parked mail, and word of answers that did not come."""

from __future__ import annotations

import sqlite3

from hieranome.app.following.parking import bring_back, parked_elsewhere
from hieranome.app.reading.listening import Arriving, Listener
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import tell_following
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.core.buckets import JUNK, PARKED, TRASH
from hieranome.core.recurring import by_machine
from hieranome.store import following, messages, owing
from hieranome.store.following import State

LOOK = 15.0
"""Seconds between two looks at what has come due."""


def returner(room: Mailroom, schedule: Schedule) -> Regular:
    """What lets parked mail come back and tells of answers that did not come."""

    today = ""

    def work() -> None:
        nonlocal today
        deliver(room)
        before, today = today, str(room.now().date())
        if before and before != today:
            tell_following(room, [])  # what is due today is another now

    return Regular(room, schedule, "following", "bringing parked mail back", LOOK, work)


def deliver(room: Mailroom) -> list[int]:
    """Let all come back whose time has come, in the order of their times; which messages. Each comes once: what is
    noted of it and where it stands change together. A machine that slept delivers what it missed."""
    _settle(room)
    now = room.clock()
    came: list[int] = []
    db = room.reader()
    waiting = [*following.every(db, "parked", now), *following.every(db, "awaited", now)]
    for one in sorted(waiting, key=lambda each: (each.state.at, each.message)):
        with room.change() as db:
            if following.get(db, one.kind, one.message) != one.state:
                continue
            if one.kind == "parked":
                if messages.get(db, one.message).place == PARKED:
                    bring_back(room, db, one.message)
                    came.append(one.message)
                else:
                    following.set_state(db, "parked", one.message, None)
            elif _tell_unanswered(room, db, one.message, one.state):
                came.append(one.message)
    return came


def _settle(room: Mailroom) -> None:
    """Let what something else put among the parked wait until the next working morning."""
    if following.parked_without_time(room.reader()):
        with room.change() as db:
            for number in following.parked_without_time(db):
                parked_elsewhere(room, db, number)


def _tell_unanswered(room: Mailroom, db: sqlite3.Connection, number: int, state: State) -> bool:
    """The time by which an answer was wanted is over: where none came, that stands at the head of the Desk."""
    following.set_state(db, "awaited", number, None)
    missing = not owing.is_answered(db, number)
    if missing:
        following.set_state(db, "unanswered", number, State(room.clock(), state.since))
    tell_following(room, [number])
    return missing


class Answers(Listener):
    """What waits for an answer, or was parked until one comes: mail in its thread settles it. What a machine wrote by
    itself, in the owner's name or in another's, is no answer."""

    def stored(self, one: Arriving) -> None:
        """Look what waits in the thread of a message."""
        if by_machine(one.incoming.facts):
            return
        if one.mine:
            _asked_again(one.room, one.db, one.thread)
        elif one.where.place not in (JUNK, TRASH):
            _answered(one.room, one.db, one.thread)


def _asked_again(room: Mailroom, db: sqlite3.Connection, thread: int) -> None:
    """The owner wrote in a thread: that nobody answered in time was dealt with."""
    for number in following.waiting_in(db, thread):
        if following.get(db, "unanswered", number) is not None:
            following.set_state(db, "unanswered", number, None)
            tell_following(room, [number])


def _answered(room: Mailroom, db: sqlite3.Connection, thread: int) -> None:
    """Somebody wrote in a thread: what is parked in it until an answer comes back, and none is waited for any more."""
    for number in following.parked_in(db, thread):
        state = following.get(db, "parked", number)
        if state is not None and state.answer:
            bring_back(room, db, number, answer=True)
    for number in following.waiting_in(db, thread):
        following.set_state(db, "awaited", number, None)
        following.set_state(db, "unanswered", number, None)
        tell_following(room, [number])
