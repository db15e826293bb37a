"""The places mail stands in: folders and buckets of the owner's own, and when a place wants to be looked at."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping
from contextlib import contextmanager

from hieranome.app import uses
from hieranome.app.lines import follow
from hieranome.app.mailbox.folders import free_name, mirror_place, unmirror_place
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rebuilding import build_apart, take_over
from hieranome.core.buckets import DRAIN, Bucket
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.steps import StepKind
from hieranome.store import always, journal, messages, places


def add_folder(room: Mailroom, title: str) -> places.Place:
    """A folder for filing."""
    with room.change() as db:
        name = _add_place(db, title, "folder").name
        room.tell("places")
    return places.get(room.reader(), name)


def add_bucket(room: Mailroom, title: str, important: bool) -> places.Place:
    """A bucket of the owner's own, behind those of the band; the model can route to it from now on.

    The model that knows it is built beforehand, so that nobody waits for that. Raises :class:`Conflict` when another
    bucket was added meanwhile.
    """
    reader = room.reader()
    clean, name = _fresh_title(reader, title), free_name(places.every(reader), "bucket")
    engine = build_apart(room, [*places.buckets(reader), Bucket(name, clean, important)])
    with room.change() as db:
        made = _add_place(db, title, "bucket", important)
        if engine is None or engine.buckets != places.buckets(db):
            raise Conflict("Another bucket was added or renamed meanwhile. Try once more.")
        take_over(room, db, engine)
        room.tell("places")
    return places.get(room.reader(), made.name)


def _add_place(db: sqlite3.Connection, title: str, kind: str, important: bool = False) -> places.Place:
    clean = _fresh_title(db, title)
    every = places.every(db)
    name = free_name(every, kind)
    last = max(place.band for place in every)
    places.add(db, name, clean, last + 1 if kind == "bucket" else -1, important)
    made = places.get(db, name)
    mirror_place(db, made)
    return made


def remove_place(room: Mailroom, name: str, *, confirmed: bool = False) -> None:
    """Take an own folder away; it must be empty, and nothing may have been taught of it. Raises
    :class:`hieranome.core.errors.Asks` where something is built on it and that is not ``confirmed``."""
    with room.change() as db:
        place = places.get(db, name)
        if not place.own or place.band >= 0:
            raise CallerError(f"{place.title} stays: only folders you made can be taken away.")
        if place.total:
            raise CallerError(f"{place.title} holds {place.total} messages. Move them elsewhere first.")
        if journal.names_place(db, name):
            raise CallerError(f"{place.title} stands in the journal, whose steps may yet be undone, so it stays.")
        uses.ask_before(f"“{place.title}” would be removed", uses.of_place(db, place), confirmed=confirmed)
        unmirror_place(db, place)
        places.remove(db, name)
    room.tell("places")


def describe_place(
    room: Mailroom, name: str, *, title: str | None, notice: int | None, rhythm: places.Rhythm | None
) -> places.Place:
    """Change what a place is called or when it wants to be looked at; what is None stays."""
    with room.change() as db:
        place = places.get(db, name)
        clean = place.title if title is None or title.strip() == place.title else _fresh_title(db, title)
        places.describe(
            db,
            name,
            clean,
            place.notice if notice is None else notice,
            place.rhythm if rhythm is None else rhythm,
        )
        if clean != place.title:
            room.touch()
            room.engine.retitle(places.buckets(db))
            follow(room, db, "bucket", place.title, clean)
    room.tell("places")
    return places.get(room.reader(), name)


def switch_off(room: Mailroom, name: str, instead: str, *, confirmed: bool = False) -> places.Place:
    """Do without a low bucket: its mail goes to another bucket in use, what stands in it in one undoable step, and
    what was taught of it counts for that one. Important buckets cannot be done without, nor the last low one. Mail of
    senders that are refused stays in the Drain, and goes on going there. Raises
    :class:`hieranome.core.errors.Asks` where something is built on it and that is not ``confirmed``.

    The model without it is built beforehand, so that nobody waits for that. Raises :class:`Conflict` when the buckets
    changed meanwhile.
    """
    reader = room.reader()
    title, other = _checked(reader, name, instead)
    used = uses.of_place(reader, places.get(reader, name))
    uses.ask_before(f"“{title}” would be switched off", used, confirmed=confirmed)
    stands_for = {off: instead if to == name else to for off, to in places.switched_off(reader).items()}
    with _built_for(room, {**stands_for, name: instead}) as db:
        places.switch_off(db, name, instead)
        step = journal.begin(db, room.clock(), StepKind.SWITCHED, f"{title} switched off: its mail to {other}")
        standing = messages.standing_in(db, name)
        refused = always.bound_to(db, DRAIN) if name == DRAIN else set()
        numbers = [one for one in standing if one[0] not in refused]
        for number, decided_by in numbers:
            journal.add_move(db, step, journal.Move(number, name, decided_by, instead))
            messages.move(db, number, instead, decided_by)
        room.tell_moved(step, [number for number, _ in numbers])
    return places.get(room.reader(), name)


def moved_off(room: Mailroom, name: str) -> journal.Step | None:
    """The step by which the mail of a bucket that was switched off went elsewhere, to be undone; None where there is
    none."""
    return journal.emptied(room.reader(), name)


def switch_on(room: Mailroom, name: str) -> places.Place:
    """Use a bucket again that was switched off; what was taught of it counts for it again. Its mail stays where it is
    until the step that moved it is undone (:func:`moved_off`). Raises :class:`Conflict` when the buckets changed
    meanwhile."""
    reader = room.reader()
    if not places.get(reader, name).instead:
        raise CallerError(f"{places.get(reader, name).title} is in use already.")
    stands_for = {off: to for off, to in places.switched_off(reader).items() if off != name}
    with _built_for(room, stands_for) as db:
        places.switch_on(db, name)
    return places.get(room.reader(), name)


def _checked(db: sqlite3.Connection, name: str, instead: str) -> tuple[str, str]:
    """The titles of a bucket that is to be switched off and of the one that takes its mail, when that can be."""
    place, other = places.get(db, name), places.get(db, instead)
    used = {bucket.name: bucket.important for bucket in places.buckets(db)}
    if place.important or name not in used:
        raise CallerError(f"{place.title} cannot be switched off. Only buckets in use for what can wait can.")
    if instead == name or instead not in used:
        raise CallerError(f"The mail of {place.title} cannot go to {other.title}. Choose another bucket in use.")
    if list(used.values()).count(False) < 2:
        raise CallerError(f"{place.title} is the last bucket for what can wait. Switch another on first.")
    return place.title, other.title


@contextmanager
def _built_for(room: Mailroom, stands_for: Mapping[str, str]) -> Iterator[sqlite3.Connection]:
    """A change after which other buckets are used: ``stands_for`` names those that are not, each with the one that
    takes its mail. The model for it is built before, and taken over at its end."""
    reader = room.reader()
    used = [bucket for bucket in places.every_bucket(reader) if bucket.name not in stands_for]
    engine = build_apart(room, used, instead=stands_for)
    with room.change() as db:
        yield db
        if engine is None or engine.buckets != places.buckets(db) or places.switched_off(db) != stands_for:
            raise Conflict("The buckets were changed meanwhile. Try once more.")
        take_over(room, db, engine)
        room.tell("places")


def visit(room: Mailroom, name: str) -> places.Place:
    """Note that the owner looks at a place now."""
    with room.change() as db:
        places.check(db, name)
        places.note_visit(db, name, room.clock())
    return places.get(room.reader(), name)


def _fresh_title(db: sqlite3.Connection, title: str) -> str:
    clean = " ".join(title.split())
    if not clean or len(clean) > 40:
        raise CallerError("A name has 1 to 40 characters.")
    if '"' in clean or not clean.isprintable():
        raise CallerError("A name has no quotation marks and no control characters. Remove them.")
    if clean.lower() in {word for place in places.every(db) for word in (place.title.lower(), place.name)}:
        raise CallerError(f"There is a place called “{clean}” already. Choose another name.")
    return clean
