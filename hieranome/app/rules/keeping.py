"""Rules kept, arranged and read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from hieranome.app.following.due import check_relative
from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.searching import names_of
from hieranome.core.arranged import Thing
from hieranome.core.buckets import UNDECIDED
from hieranome.core.conditions import All, Node, Not
from hieranome.core.doings import Takes
from hieranome.core.errors import CallerError, HieranomeError
from hieranome.core.query import read_query
from hieranome.core.rules import BY_VERB, MAX_RULES, Read, Rule, check, narrowest
from hieranome.core.values import Names
from hieranome.store import drafts, phrases, places, rules, tags


@dataclass(frozen=True, slots=True)
class Kept:
    """A rule as it stands: what it did so far, how its lines read, and why it cannot run (empty: it can)."""

    rule: Rule
    tally: rules.Tally
    sentence: str
    broken: str


@dataclass(frozen=True, slots=True)
class Here:
    """What rules may name: what lines speak of, the places, the tags by their ids, the owner's addresses, whether
    any of them can send, and the phrases by their ids."""

    names: Names
    places: Mapping[str, places.Place]
    tags: frozenset[str]
    own: frozenset[str]
    sends: bool
    phrases: frozenset[str]

    @classmethod
    def of(cls, room: Mailroom) -> Here:
        """What there is now."""
        db = room.reader()
        return cls(
            names_of(room),
            {one.name: one for one in places.every(db)},
            frozenset(str(one.id) for one in tags.every(db)),
            room.owner.addresses,
            bool(drafts.identities(db)),
            frozenset(str(one.id) for one in phrases.every(db)),
        )

    def check(self, takes: Takes, target: str, what: str) -> None:
        """Raises :class:`CallerError` where what something written down (a rule, a routine) needs is not there."""
        place = self.places.get(target)
        if takes == "bucket" and (place is None or place.band < 0 or target == UNDECIDED):
            raise CallerError(f"The bucket the {what} puts its mail in is not there. Choose another.")
        if takes == "bucket" and place is not None and place.instead:
            raise CallerError(f"{place.title} is not used now. Choose another bucket, or use it again.")
        if takes == "folder" and (place is None or not place.own or place.band >= 0):
            raise CallerError(f"The folder the {what} files its mail in is not there. Choose another.")
        if takes == "tag" and target not in self.tags:
            raise CallerError(f"A tag the {what} needs is not there any more. Choose another.")
        if takes == "phrase" and target not in self.phrases:
            raise CallerError(f"A phrase the {what} needs is not there any more. Choose another.")
        if takes in ("address", "phrase") and not self.sends:
            raise CallerError("No mailbox of yours can send that. Connect one first.")


def every(room: Mailroom) -> list[Kept]:
    """All rules in the owner's order."""
    tallies, here = rules.tallies(room.reader()), Here.of(room)
    return [_kept(here, rule, tallies.get(rule.id, rules.Tally())) for rule in rules.every(room.reader())]


def get(room: Mailroom, number: int) -> Kept:
    """One rule. Raises :class:`NotFound`."""
    rule = rules.get(room.reader(), number)
    return _kept(Here.of(room), rule, rules.tallies(room.reader()).get(number, rules.Tally()))


def _kept(here: Here, rule: Rule, tally: rules.Tally) -> Kept:
    try:
        check_whole(here, rule)
        return Kept(rule, tally, sentence(here.names, rule.line, rule.excepted), "")
    except HieranomeError as exc:
        return Kept(rule, tally, "", str(exc))


def sentence(known: Names, line: str, excepted: str) -> str:
    """How the lines of a rule read. Raises :class:`hieranome.core.values.QueryError`."""
    said = read_query(line, known).sentence
    return f"{said[:-1]}; except {read_query(excepted, known).sentence}" if excepted.strip() else said


def check_whole(here: Here, rule: Rule) -> None:
    """Raises :class:`CallerError` for a rule that cannot run: its lines, or what it needs that is not there."""
    check(rule)
    sentence(here.names, rule.line, rule.excepted)
    for one in rule.actions:
        here.check(BY_VERB[one.verb].takes, one.target, "rule")
        if one.verb == "due":
            check_relative(one.target)
        if one.verb == "forward" and one.target.lower() in here.own:
            raise CallerError(f"{one.target} is yours: a copy to it would come back here. Choose another address.")


def put(room: Mailroom, rule: Rule, *, confirmed: bool = False) -> Kept:
    """Keep a rule, a new one (id 0) at the end. Raises :class:`CallerError` for one that cannot run, and for one that
    would send copies to an address it does not send any to now, unless that is ``confirmed``."""
    clean = replace(rule, name=" ".join(rule.name.split()), line=rule.line.strip(), excepted=rule.excepted.strip())
    title = f"Rule “{clean.name}” {'changed' if rule.id else 'added'}"
    with arranging(room, Thing.RULE, title, [rule.id]) as it:
        db = it.db
        check_whole(Here.of(room), clean)
        there = rules.every(db)
        if not rule.id and len(there) >= MAX_RULES:
            raise CallerError(f"There are {MAX_RULES} rules, which is the most. Remove some.")
        _check_copies(clean, rules.get(db, rule.id) if rule.id else None, confirmed=confirmed)
        number = rules.put(db, clean, room.clock())
        it.made += [] if rule.id else [number]
    return get(room, number)


def _check_copies(rule: Rule, before: Rule | None, *, confirmed: bool) -> None:
    sent = before.targets("forward") if before is not None and before.enabled else []
    fresh = [one for one in rule.targets("forward") if one not in sent]
    if rule.enabled and fresh and not confirmed:
        raise CallerError(
            f"A copy of each such message will go to {', '.join(fresh)} from now on, without asking again. Confirm "
            "that, or remove it."
        )


def switch(room: Mailroom, number: int, on: bool, *, confirmed: bool = False) -> Kept:
    """Let a rule run, or rest. Raises as :func:`put` does for one that cannot run or sends copies."""
    before = rules.get(room.reader(), number)
    with arranging(room, Thing.RULE, f"Rule “{before.name}” switched {'on' if on else 'off'}", [number]) as it:
        before = rules.get(it.db, number)
        rule = replace(before, enabled=on)
        if on:
            check_whole(Here.of(room), rule)
            _check_copies(rule, before, confirmed=confirmed)
        rules.put(it.db, rule, room.clock())
    return get(room, number)


def remove(room: Mailroom, number: int) -> None:
    """Remove a rule; what it did stays as it is."""
    name = rules.get(room.reader(), number).name
    with arranging(room, Thing.RULE, f"Rule “{name}” removed", [number]) as it:
        rules.get(it.db, number)
        rules.remove(it.db, number)


def arrange(room: Mailroom, numbers: Sequence[int]) -> None:
    """Put the rules in an order: all of them, each once."""
    with arranging(room, Thing.RULE, "Rules put in another order", numbers) as it:
        if sorted(numbers) != sorted(one.id for one in rules.every(it.db)):
            raise CallerError("The order must name every rule once. Load the list again; it may have changed.")
        rules.arrange(it.db, numbers)


def reads(room: Mailroom) -> list[Read]:
    """The rules for arriving mail that run now, in order, with their lines understood today."""
    today = str(room.now().date())
    if room.rules is None or room.rules[0] != today:
        here = Here.of(room)
        found = [read(here, one) for one in rules.every(room.reader()) if one.enabled and one.when == "arrives"]
        room.rules = (today, [one for one in found if one is not None])
    return room.rules[1]


def read(here: Here, rule: Rule) -> Read | None:
    """A rule with its lines understood; None for one that cannot run."""
    try:
        check_whole(here, rule)
        return understood(here.names, rule)
    except HieranomeError:
        return None


def understood(known: Names, rule: Rule) -> Read:
    """A rule with its lines understood, whatever it does. Raises :class:`hieranome.core.values.QueryError`."""
    node = read_query(rule.line, known).node
    excepted = read_query(rule.excepted, known).node if rule.excepted.strip() else None
    return Read(rule, node, excepted, narrowest(node))


def whole_node(one: Read) -> Node:
    """Which mail a rule is about, its exceptions taken out."""
    return All((one.node, Not(one.excepted))) if one.excepted is not None else one.node
