"""Rules as a Sieve script for the server of a mailbox, and a script taken over as rules."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace

from dateutil.tz import tzlocal

from hieranome.app.away.keeping import Reader
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules.keeping import Here, Kept, get, read
from hieranome.core.away import Circle
from hieranome.core.errors import CallerError
from hieranome.core.rules import BY_VERB, DOINGS, Action, Verb
from hieranome.mail.sieve_away import vacation_of
from hieranome.mail.sieve_reading import Known, rules_of
from hieranome.mail.sieve_writing import Left, OnServer, script_of
from hieranome.store import accounts, away, drafts, keywords, places, rules, tags

_FIXED = {one.place: one.verb for one in DOINGS if one.place}


@dataclass(frozen=True, slots=True)
class Script:
    """The rules that run, as a script for one mailbox, and those that stay here with why; where the away notice is to
    be sent there too, what of its circles a server cannot do."""

    account: int
    text: str
    left: list[Left]
    away_left: tuple[tuple[Circle, str], ...] = ()


def script_for(room: Mailroom, account: int, only: frozenset[int] | None = None, *, with_away: bool = False) -> Script:
    """The rules that are on, or some of them, as a script, with the names folders and tags have in a mailbox; with the
    away notice before them where it is wanted. Raises :class:`NotFound`, :class:`CallerError` for a notice no circle of
    which a server can send."""
    db = room.reader()
    accounts.get(db, account)
    here = Here.of(room)
    notice, away_left = _notice(room, db, account) if with_away else ("", ())
    known = [(rule, read(here, rule)) for rule in rules.every(db) if rule.enabled]
    known = [(rule, one) for rule, one in known if only is None or rule.id in only]
    text, left = script_of([one for _, one in known if one is not None], _names(db, account), notice)
    broken = [Left(rule, "it rests, since it cannot run as it is") for rule, one in known if one is None]
    return Script(account, text, left + broken, away_left)


def _notice(room: Mailroom, db: sqlite3.Connection, account: int) -> tuple[str, tuple[tuple[Circle, str], ...]]:
    """The away notice as Sieve for a mailbox, and what of it a server cannot do."""
    wanted = away.get(db)
    who = [one for one in drafts.identities(db) if one.account == account]
    if not who:
        raise CallerError("Nothing is sent as this mailbox's address, so its server cannot send a notice in your name.")
    addresses = sorted({*room.owner.addresses, *(one.address for one in who)})
    nodes = Reader.of(room, wanted.circles).nodes
    text, left = vacation_of(wanted, nodes, _names(db, account), addresses, who[0].address)
    if not text:
        why = "; ".join(f"{circle.name}: {said}" for circle, said in left)
        raise CallerError(f"A server can send no part of this notice ({why}). It is sent from here.")
    return text, tuple(left)


def take_over(room: Mailroom, account: int, script: str) -> list[Kept]:
    """Keep the rules of a script, behind those there are, all or none.

    Raises :class:`hieranome.mail.sieve_reading.ScriptRefused` with the line of what cannot be a rule.
    """
    with room.change() as db:
        accounts.get(db, account)
        found = rules_of(script, _known(db, account))
        if not found:
            raise CallerError("The script says nothing that is a rule. Nothing was taken over.")
        numbers = []
        for rule in found:
            # Kept switched off: a script is read over before it does anything, and copies need a word of their own.
            numbers.append(rules.put(db, replace(rule, enabled=False), room.clock()))
        for number in numbers:
            _check(room, number)
        room.tell("rules")
    return [get(room, number) for number in numbers]


def _check(room: Mailroom, number: int) -> None:
    kept = get(room, number)
    if kept.broken:
        raise CallerError(f"{kept.rule.name}: {kept.broken} Nothing was taken over.")


def _names(db: sqlite3.Connection, account: int) -> OnServer:
    folders = {one.place: one.name for one in accounts.folders(db, account) if one.role != "inbox"}
    inbox = next((one.name for one in accounts.folders(db, account) if one.role == "inbox"), "INBOX")
    told = {} if keywords.kept_here(db, account) else {str(one.id): one.keyword for one in tags.every(db)}
    return OnServer({**folders, "desk": inbox}, told, tzlocal())


def _known(db: sqlite3.Connection, account: int) -> Known:
    there = {one.name: one for one in places.every(db)}
    folders = {"INBOX": Action("bucket", "desk")}
    for one in accounts.folders(db, account):
        place = there.get(one.place)
        if place is None or one.role in ("inbox", "sent", "drafts", "junk"):
            continue
        verb: Verb = _FIXED.get(one.place, "bucket" if place.band >= 0 else "folder")
        folders[one.name] = Action(verb, "" if BY_VERB[verb].place else one.place)
    return Known(folders, {one.keyword.lower(): str(one.id) for one in tags.every(db)}, tzlocal())
