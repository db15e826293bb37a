"""What is built on a tag, a bucket or a folder: named before one is deleted, and led to another when two are merged."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Literal

from hieranome.core.doings import Action, Doing, V
from hieranome.core.errors import Asks
from hieranome.core.query import names
from hieranome.core.routines import BY_VERB as IN_ROUTINES
from hieranome.core.rules import BY_VERB as IN_RULES
from hieranome.core.tags import Tag
from hieranome.core.trays import Tray
from hieranome.store import away, plans, queues, routines, rules, searches, settings, topics
from hieranome.store.places import Place

Operator = Literal["tag", "bucket"]
NAMED = 5
"""Of what would break so many are named; of the rest it is told how many they are."""


def of_tag(db: sqlite3.Connection, tag: Tag) -> list[str]:
    """What is built on a tag, each as it reads in a sentence."""
    found = _by_lines(db, "tag", (tag.name,)) + _by_actions(db, ("tag",), str(tag.id))
    topic = topics.of_tag(db, tag.id)
    found += [f"the topic “{tag.name}”"] if topic is not None else []
    return list(dict.fromkeys(found))


def of_place(db: sqlite3.Connection, place: Place) -> list[str]:
    """What is built on a bucket or a folder, each as it reads in a sentence."""
    found = _by_lines(db, "bucket", (place.title, place.name)) + _by_actions(db, ("bucket", "folder"), place.name)
    found += [f"the plan “{one.plan.name}”" for one in plans.every(db) if place.name in one.plan.buckets]
    found += [f"the queue “{one.name}”" for one in queues.every(db) if (one.of, one.target) == ("bucket", place.name)]
    found += [f"the topic “{one.said[:60]}”" for one in topics.every(db) if one.bucket == place.name]
    return list(dict.fromkeys(found))


def ask_before(what: str, used: list[str], *, confirmed: bool) -> None:
    """Raises :class:`Asks` where something would break that the owner did not confirm; ``what`` says what is done."""
    if not used or confirmed:
        return
    rest = f" and {len(used) - NAMED} more" if len(used) > NAMED else ""
    verb = "needs" if len(used) == 1 else "need"
    raise Asks(f"{what}: {', '.join(used[:NAMED])}{rest} {verb} it and would find or do nothing any more.")


def lead_to(db: sqlite3.Connection, old: int, new: int, at: int) -> None:
    """Let rules and routines that put a tag on, or take it off, do so with another."""
    for rule in rules.every(db):
        acts = _led(rule.actions, IN_RULES, str(old), str(new))
        if acts != rule.actions:
            rules.put(db, replace(rule, actions=acts), at)
    for routine in routines.every(db):
        done = _led(routine.actions, IN_ROUTINES, str(old), str(new))
        if done != routine.actions:
            routines.put(db, replace(routine, actions=done), at)


def _led(actions: Iterable[Action[V]], table: Mapping[V, Doing[V]], old: str, new: str) -> tuple[Action[V], ...]:
    one_tag = [one.target == old and table[one.verb].takes == "tag" for one in actions]
    led = (replace(one, target=new) if of else one for one, of in zip(actions, one_tag, strict=True))
    return tuple(dict.fromkeys(led))


def _by_lines(db: sqlite3.Connection, operator: Operator, called: tuple[str, ...]) -> list[str]:
    def said(*lines: str) -> bool:
        return any(names(line, operator, one) for line in lines for one in called)

    kept = [Tray(**one) for one in settings.value(db, settings.TRAYS, None) or ()]
    return [
        *(f"the rule “{one.name or one.line}”" for one in rules.every(db) if said(one.line, one.excepted)),
        *(f"the saved search “{one.name}”" for one in searches.every(db) if said(one.line)),
        *(f"the plan “{one.plan.name}”" for one in plans.every(db) if said(one.plan.search)),
        *(f"the tray “{one.name}”" for one in kept if said(one.line)),
        *(f"the away notice for “{one.name}”" for one in away.get(db).circles if said(one.line)),
    ]


def _by_actions(db: sqlite3.Connection, takes: tuple[str, ...], target: str) -> list[str]:
    def does(actions: Iterable[Action[V]], table: Mapping[V, Doing[V]]) -> bool:
        return any(table[one.verb].takes in takes and one.target == target for one in actions)

    return [
        *(f"the rule “{one.name or one.line}”" for one in rules.every(db) if does(one.actions, IN_RULES)),
        *(f"the routine “{one.name}”" for one in routines.every(db) if does(one.actions, IN_ROUTINES)),
    ]
