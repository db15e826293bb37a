"""The phrasebook: phrases kept, put into drafts, offered by what they were used for, exported and imported."""

from __future__ import annotations

import sqlite3
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing import attaching, beginning
from hieranome.core.arranged import Thing
from hieranome.core.doings import Action, Doing, V
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.features import Vector
from hieranome.core.phrases import Filled, Values, check, check_all, check_name, fill, first_name
from hieranome.core.routines import BY_VERB as IN_ROUTINES
from hieranome.core.rules import BY_VERB as IN_RULES
from hieranome.mail.reading import Reading
from hieranome.store import drafts, messages, phrases, routines, rules
from hieranome.store.drafts import Draft, DraftAttachment
from hieranome.store.phrases import Phrase as Phrase

MOST = 500
"""Phrases there may be."""
REMEMBERED = 300
"""Uses by which phrases are offered."""
FORMAT = 1


@dataclass(frozen=True, slots=True)
class Put:
    """A phrase put into a draft: the text, the holes left in it, and the draft with the files that went
    along."""

    filled: Filled
    draft: Draft


def book(db: sqlite3.Connection) -> dict[str, str]:
    """All phrases, by short name."""
    return {one.short: one.text for one in phrases.every(db)}


def keep(room: Mailroom, short: str, text: str, number: int = 0) -> Phrase:
    """Keep a phrase (0: a new one). Raises :class:`CallerError` for one that can never be filled, or without which
    another could not, :class:`Conflict` for a short name that is taken."""
    name, clean = check_name(short), text.replace("\r\n", "\n").strip("\n")
    title = f"Phrase “{name}” {'changed' if number else 'added'}"
    with arranging(room, Thing.PHRASE, title, [number]) as it:
        db = it.db
        before = phrases.get(db, number) if number else None
        other = phrases.named(db, name)
        if other is not None and other.id != number:
            raise Conflict(f"There is a phrase “{other.short}” already. Choose another name, or change that one.")
        there = {one: said for one, said in book(db).items() if before is None or one != before.short}
        if before is None and len(there) >= MOST:
            raise CallerError(f"There are {MOST} phrases, which is the most. Take some out.")
        check(clean, name, there)
        kept = phrases.put(db, number, name, clean, room.clock())
        it.made += [] if number else [kept]
        check_all(book(db))
    return phrases.get(room.reader(), kept)


def remove(room: Mailroom, number: int) -> None:
    """Take a phrase out. Raises :class:`CallerError` where another, a rule or a routine says it."""
    short = phrases.get(room.reader(), number).short
    with arranging(room, Thing.PHRASE, f"Phrase “{short}” removed", [number]) as it:
        db = it.db
        there = phrases.get(db, number)
        users = [f"the rule “{one.name}”" for one in rules.every(db) if _says(one.actions, IN_RULES, number)]
        users += [f"the routine “{one.name}”" for one in routines.every(db) if _says(one.actions, IN_ROUTINES, number)]
        if users:
            raise CallerError(f"The phrase “{there.short}” is used by {users[0]}. Remove it there first.")
        phrases.remove(db, number)
        check_all(book(db))


def _says(actions: Iterable[Action[V]], table: Mapping[V, Doing[V]], phrase: int) -> bool:
    return any(table[one.verb].takes == "phrase" and one.target == str(phrase) for one in actions)


def attach(room: Mailroom, number: int, name: str, media_type: str, content: bytes) -> Phrase:
    """Let a file go along with a phrase. Raises :class:`CallerError` when all its files were too large."""
    clean, short = attaching.file_name(name), phrases.get(room.reader(), number).short
    with arranging(room, Thing.PHRASE, f"“{clean}” attached to the phrase “{short}”", [number]) as it:
        phrases.get(it.db, number)
        attaching.check_size(phrases.files(it.db, number), name, content)
        phrases.add_file(it.db, number, clean, media_type, content)
    return phrases.get(room.reader(), number)


def take_out(room: Mailroom, number: int, file: int) -> Phrase:
    """Let a file go along with a phrase no more."""
    short = phrases.get(room.reader(), number).short
    with arranging(room, Thing.PHRASE, f"A file of the phrase “{short}” removed", [number]) as it:
        phrases.remove_file(it.db, number, file)
    return phrases.get(room.reader(), number)


def put_into(room: Mailroom, draft: int, short: str, reading: Reading | None = None) -> Put:
    """Fill a phrase in for a draft, whose text the owner changes: its files go along, and the draft is not sent with a
    hole left. ``reading`` is what it answers, where that was read. Raises :class:`NotFound`, :class:`CallerError` for a
    name that is none."""
    with room.change() as db:
        phrase = phrases.named(db, short.strip())
        if phrase is None:
            there = ", ".join(book(db)) or "none yet"
            raise CallerError(f"There is no phrase “{short.strip()[:60]}”. There are: {there}.")
        one = drafts.get(db, draft)
        filled = fill(phrase.text, book(db), _values(room, one.answers, reading), room.now())
        for name, media_type, content in phrases.contents(db, phrase.id):
            attaching.attach(room, draft, name, media_type, content)
        drafts.update(db, draft, phrased=1)
        if one.answers is not None:
            phrases.note_use(db, phrase.id, one.answers, room.clock())
        room.tell("phrases")
        return Put(filled, drafts.get(db, draft))


def begin_with(room: Mailroom, kind: beginning.Kind, message: int, short: str) -> Draft:
    """Begin a reply to a message, or a forward of it, that says a phrase; a draft, to be looked at."""
    with room.change() as db:
        reading = beginning.read_whole(room, message)
        draft = beginning.begin(room, kind, message, reading)
        put = put_into(room, draft.id, short, reading)
        drafts.update(db, draft.id, body=f"{put.filled.text}\n\n{draft.body.lstrip()}")
        room.tell("drafts")
    return drafts.get(room.reader(), draft.id)


def shown_for(room: Mailroom, message: int, number: int) -> str:
    """What a phrase says for a message. Raises :class:`NotFound`."""
    db = room.reader()
    return fill(phrases.get(db, number).text, book(db), _values(room, message), room.now()).text


def _values(room: Mailroom, message: int | None, reading: Reading | None = None) -> Values:
    """What is known for an answer: of the message and who wrote that."""
    if message is None:
        return Values()
    row = messages.get(room.reader(), message)
    facts = (reading or beginning.read_whole(room, message)).facts
    display = (facts.reply_to if facts.reply_to.name else facts.sender).name
    return Values(first_name(display), display, row.sender_address, row.subject)


def every(room: Mailroom) -> list[Phrase]:
    """All phrases by name."""
    return phrases.every(room.reader())


def files(room: Mailroom, number: int) -> list[DraftAttachment]:
    """The files that go along with a phrase."""
    return phrases.files(room.reader(), number)


def ordered(room: Mailroom, message: int) -> list[Phrase]:
    """The phrases for a message: first those that were used for mail like it, then those used most."""
    db = room.reader()
    every = phrases.every(db)
    uses = phrases.latest_uses(db, REMEMBERED)
    vectors = messages.vectors(db, [message, *(one for _, one in uses)])
    alike: dict[int, float] = defaultdict(float)
    mine = vectors.get(message)
    for phrase, used_for in uses:
        if mine is not None and used_for in vectors and used_for != message:
            alike[phrase] = max(alike[phrase], _likeness(mine, vectors[used_for]))
    return sorted(every, key=lambda one: (-round(alike[one.id], 3), -one.uses, one.short))


def _likeness(one: Vector, other: Vector) -> float:
    """The share of features two messages have in common, of all either has (Jaccard), in [0, 1]."""
    both = len(np.intersect1d(one, other))
    return both / max(1, len(one) + len(other) - both)


def take_in_book(room: Mailroom, version: int, given: Sequence[tuple[str, str]]) -> int:
    """Take phrases in, each a short name and a text, all or none; one of a name that is there takes its place. How
    many. Raises :class:`CallerError` for a format that is not read here, and for what cannot be filled."""
    if version != FORMAT:
        raise CallerError(f"This phrasebook has the format {version}; {FORMAT} is read here.")
    before = (one.id for one in phrases.every(room.reader()))
    with room.change(), arranging(room, Thing.PHRASE, f"A phrasebook of {len(given)} read in", before) as it:
        for short, text in given:
            name = check_name(short)
            there = phrases.named(it.db, name)
            kept = there.id if there else 0
            made = phrases.put(it.db, kept, name, text.replace("\r\n", "\n").strip("\n"), room.clock())
            it.made += [] if kept or made in it.made else [made]
        if len(phrases.every(it.db)) > MOST:
            raise CallerError(f"With these there would be more than {MOST} phrases, which is the most.")
        check_all(book(it.db))
    return len(given)
