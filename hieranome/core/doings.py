"""What can be done with mail by something its owner wrote down, a rule or a routine: a table of doings, and what is
written down of one."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Generic, Literal, TypeVar

from hieranome.core.errors import CallerError

V = TypeVar("V", bound=str)
Takes = Literal["", "bucket", "folder", "tag", "time", "address", "phrase"]
_NUMBERED = ("tag", "phrase")
"""What is named by its number."""


@dataclass(frozen=True)
class Doing(Generic[V]):
    """Something that can be done: how it is called, what it needs to know, and whether it says where mail goes."""

    verb: V
    title: str
    takes: Takes = ""
    places: bool = False


@dataclass(frozen=True)
class Action(Generic[V]):
    """One thing that is done: ``target`` is the place, the tag's or the phrase's number, the time or the address it
    needs, or empty."""

    verb: V
    target: str = ""


def check_actions(actions: Sequence[Action[V]], table: Mapping[V, Doing[V]], most: int, what: str) -> None:
    """Raises :class:`CallerError` where nothing is done, too much, mail is put in two places, or something does not
    know what it needs; ``what`` is what was written down."""
    if not actions:
        raise CallerError(f"Say what the {what} does: it does nothing yet.")
    if len(actions) > most:
        raise CallerError(f"A {what} does up to {most} things; this one does {len(actions)}.")
    if sum(table[one.verb].places for one in actions) > 1:
        raise CallerError(f"The {what} puts its mail in two places. Leave one of them out.")
    for one in actions:
        doing = table[one.verb]
        if bool(doing.takes) != bool(one.target.strip()):
            raise CallerError(f"“{doing.title}” needs to know {doing.takes or 'nothing'}.")
        if doing.takes in _NUMBERED and not re.fullmatch(r"\d{1,18}", one.target):
            raise CallerError(f"A {doing.takes} is named by its number.")
