"""Rules that also run at the server of a mailbox, so that they work while this machine is off.

What runs there is a script of ours, put there by ManageSieve. A script that is not ours is never written over: where
one runs already, ours runs beside it by a third that includes both (RFC 6609), and theirs runs alone again when ours
is taken away.
"""

from __future__ import annotations

import logging
import ssl
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeVar

from hieranome.app.access.logins import Logins
from hieranome.app.at_server.scripting import Script, script_for
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.core.errors import CallerError, Conflict, HieranomeError
from hieranome.mail.managesieve import PORT, Listing, Scripts, visit
from hieranome.mail.servers import Login, Security, Server
from hieranome.mail.sieve_writing import quoted
from hieranome.store import accounts, rules, scripts
from hieranome.store.accounts import Account

OURS, BOTH = "hieranome", "hieranome-and-yours"
"""Our script, and the one that includes it and the owner's."""
MARK = "# Put here by Hieranome, which writes it anew when its rules change.\n"
"""The first line of what is ours: only what begins with it is ever written over or taken away."""
HOUR = 3_600.0
T = TypeVar("T")
_LOG = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Standing:
    """How it stands with the rules of a mailbox at its server: where that is, which rules can run there, what is there
    now (None: nothing of ours), and whether that is what the rules say by now."""

    account: int
    server: Server
    can: list[tuple[int, str]]
    placed: scripts.Placed | None
    current: bool


@dataclass(frozen=True, slots=True)
class Answering:
    """Whether the server of a mailbox sends the away notice, and whether it does so as the notice is now."""

    account: int
    address: str
    answers: bool
    current: bool


class AtServer:
    """Puts chosen rules at servers, takes them away, and looks every hour whether they are as they were put there."""

    def __init__(
        self, room: Mailroom, logins: Logins, schedule: Schedule, *, trust: ssl.SSLContext | None = None
    ) -> None:
        self._room = room
        self._logins = logins
        self._trust = trust
        doing = "looking whether rules stand at servers as they were put"
        self.regular = Regular(room, schedule, "rules at servers", doing, HOUR, self._round)

    def standing(self, account: int) -> Standing:
        """How it stands, by what was found last. Raises :class:`NotFound`."""
        db = self._room.reader()
        known, whole = accounts.get(db, account), script_for(self._room, account)
        left = {one.rule.id for one in whole.left}
        # Copies stay ours to send: a server knows no bound, no loop and no forged mail, and they would go out twice.
        can = [
            (rule.id, rule.name)
            for rule in rules.every(db)
            if rule.enabled and rule.id not in left and not rule.targets("forward")
        ]
        placed = scripts.of_account(db, account)
        if placed is None:
            return Standing(account, Server(known.imap_host, PORT, _security(known), known.imap_pin), can, None, False)
        server = _server(placed)
        try:
            wanted = self._text(account, placed.rules & {number for number, _ in can}, placed.away)
        except CallerError:  # the away notice cannot be sent there by now
            wanted = ""
        return Standing(account, server, can, placed, wanted == placed.text)

    def answer_at(self, account: int, on: bool, server: Server | None = None) -> Standing:
        """Let the server of a mailbox send the away notice, beside the rules that run there, or no longer. Left out, it
        is asked where it was asked before, or where such servers are as a rule. Raises as :meth:`put` does."""
        standing = self.standing(account)
        there = standing.placed.rules & {number for number, _ in standing.can} if standing.placed else frozenset()
        if not on and not there:
            return self.take_away(account) if standing.placed else standing
        return self.put(account, sorted(there), server or standing.server, answers=on)

    def answer_anew(self, on: bool) -> dict[int, str]:
        """Put the away notice anew at the servers that send it, or take it away there; why that could not be done, by
        mailbox."""
        problems = {}
        for placed in scripts.every(self._room.reader()):
            if placed.away:
                try:
                    self.answer_at(placed.account, on)
                except HieranomeError as exc:
                    problems[placed.account] = str(exc)
        return problems

    def answering(self) -> list[Answering]:
        """The mailboxes, and whether their servers send the away notice."""
        db = self._room.reader()
        there = {one.account: one for one in scripts.every(db) if one.away}
        return [
            Answering(one.id, one.address, one.id in there, one.id in there and there[one.id].state == "there")
            for one in accounts.every(db)
        ]

    def served(self) -> frozenset[int]:
        """The rules that run at any server."""
        return frozenset[int]().union(*(one.rules for one in scripts.every(self._room.reader())))

    def put(self, account: int, chosen: Sequence[int], server: Server, *, answers: bool | None = None) -> Standing:
        """Let rules run at the server of a mailbox, and no others; ``answers`` says that it sends the away notice too
        (None: as it does now).

        Raises :class:`CallerError` for a rule that cannot run there, :class:`Conflict` where a script of the owner's
        runs there and both cannot, and the errors of reaching the server; nothing is changed then.
        """
        can = dict(self.standing(account).can)
        before = scripts.of_account(self._room.reader(), account)
        if answers is None:
            answers = before is not None and before.away
        strange = [number for number in chosen if number not in can]
        if strange or not (chosen or answers):
            why = f"Rule {strange[0]} cannot run at a server. Remove it." if strange else "Choose at least one rule."
            raise CallerError(why)
        text = self._text(account, frozenset(chosen), answers)
        beside = self._visit(account, server, lambda there: _put(there, text))
        placed = scripts.Placed(
            account, server.host, server.port, server.security, server.pin, frozenset(chosen), text, beside, "there",
            self._room.clock(), answers,
        )  # fmt: skip
        with self._room.change() as db:
            scripts.put(db, placed)
            self._tell()
        return self.standing(account)

    def take_away(self, account: int) -> Standing:
        """Take our script away from a server; what of the owner's ran beside it runs alone again."""
        placed = self._placed(account)
        self._visit(account, _server(placed), lambda there: _take_away(there, placed.beside))
        with self._room.change() as db:
            scripts.forget(db, account)
            self._tell()
        return self.standing(account)

    def leave(self, account: int) -> str:
        """A mailbox is left: take our script away from its server; why that could not be done, or an empty text."""
        if scripts.of_account(self._room.reader(), account) is None:
            return ""
        try:
            self.take_away(account)
        except HieranomeError as exc:
            return f"Your rules still run at its server, as the script “{OURS}”, which could not be taken away: {exc}"
        return ""

    def look(self, account: int) -> Standing:
        """Fetch what is there, and compare it with what was put there."""
        placed = self._placed(account)
        state = self._visit(account, _server(placed), lambda there: _found(there, placed))
        with self._room.change() as db:
            if scripts.of_account(db, account) == placed:
                scripts.note_found(db, account, state, self._room.clock())
                self._tell()
        return self.standing(account)

    def _round(self) -> None:
        problem: HieranomeError | None = None
        for one in scripts.every(self._room.reader()):
            try:
                self.look(one.account)
            except HieranomeError as exc:  # the others are looked at all the same
                problem = exc
        if problem is not None:
            raise problem

    def _tell(self) -> None:
        self._room.tell("rules")
        self._room.tell("away")

    def _placed(self, account: int) -> scripts.Placed:
        placed = scripts.of_account(self._room.reader(), account)
        if placed is None:
            raise Conflict("None of your rules runs at this server. Load the page again.")
        return placed

    def _visit(self, account: int, server: Server, work: Callable[[Scripts], T]) -> T:
        def signed_in(login: Login) -> T:
            with visit(server, login, trust=self._trust) as there:
                return work(there)

        return self._logins.enter(accounts.get(self._room.reader(), account), signed_in)

    def _text(self, account: int, chosen: frozenset[int], answers: bool) -> str:
        script: Script = script_for(self._room, account, chosen, with_away=answers)
        return MARK + script.text


def _server(placed: scripts.Placed) -> Server:
    return Server(placed.host, placed.port, placed.security, placed.pin)


def _security(account: Account) -> Security:
    return "plain" if account.imap_security == "plain" else "starttls"


def _put(there: Scripts, text: str) -> str:
    """Put our script there and let it run; the owner's script that runs beside it, or an empty name."""
    listing = there.listing()
    for name in (OURS, BOTH):
        _check_ours(there, listing, name)
    beside = _theirs(there, listing)
    if beside and "include" not in there.extensions:
        raise Conflict(
            f"The script “{beside}” runs at this server, which cannot run two. Take it over as rules here, or "
            "switch it off there first."
        )
    there.put(OURS, text)
    if beside:
        there.put(BOTH, _including(beside))
    if listing.active != (BOTH if beside else OURS):
        there.choose(BOTH if beside else OURS)
    if not beside and BOTH in listing.names:
        there.remove(BOTH)
    return beside


def _theirs(there: Scripts, listing: Listing) -> str:
    """The owner's script that runs, alone or beside ours."""
    if listing.active == BOTH:
        return next((name for name in listing.names if there.get(BOTH).strip() == _including(name).strip()), "")
    return "" if listing.active == OURS else listing.active


def _including(beside: str) -> str:
    """The script that runs the owner's first, and ours behind it."""
    return f'{MARK}require "include";\ninclude :personal {quoted(beside)};\ninclude :personal "{OURS}";\n'


def _check_ours(there: Scripts, listing: Listing, name: str) -> None:
    if name in listing.names and not there.get(name).startswith(MARK.strip()):
        raise Conflict(
            f"There is a script “{name}” at this server that Hieranome did not put there. Rename it there first; it is "
            "not written over."
        )


def _take_away(there: Scripts, beside: str) -> None:
    listing = there.listing()
    ours = [name for name in (BOTH, OURS) if name in listing.names]
    for name in ours:
        _check_ours(there, listing, name)
    if listing.active in ours:
        there.choose(beside if beside in listing.names else "")
    for name in ours:
        there.remove(name)


def _found(there: Scripts, placed: scripts.Placed) -> scripts.State:
    listing = there.listing()
    if OURS not in listing.names:
        return "gone"
    running = BOTH if placed.beside else OURS
    if listing.active != running:  # whatever else was done to it, it does nothing
        return "resting"
    if _lines(there.get(OURS)) != _lines(placed.text):
        return "changed"
    return "there" if not placed.beside or _lines(there.get(BOTH)) == _lines(_including(placed.beside)) else "changed"


def _lines(text: str) -> list[str]:
    """A script as servers give it back: with other ends of lines, and perhaps without the last."""
    return [line.rstrip() for line in text.strip().splitlines()]
