"""What can be done with mail by something its owner wrote down, a rule or a routine: a table of doings, and what is
written down of one."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Generic, Literal, TypeVar

from hieranome.core.errors import CallerError

V = TypeVar("V", bound=str)
Takes = Literal["", "bucket", "folder", "tag", "time", "address", "phrase"]
_NUMBERED = ("tag", "phrase")
"""What is named by its number."""


@dataclass(frozen=True)
class Doing(Generic[V]):
    """Something that can be done, with all that is asked of it: how it is called, what it needs to know, whether it
    says where mail goes, and to which ``place`` where that is always the same; ``begins`` is the kind of draft it
    begins, ``against`` are doings that take back what it does. Of rules: ``arriving`` says that it is for arriving mail
    alone, ``stays`` why no mail server can do it."""

    verb: V
    title: str
    takes: Takes = ""
    places: bool = False
    place: str = ""
    begins: Literal["", "reply", "reply_all", "forward"] = ""
    against: tuple[V, ...] = ()
    arriving: bool = False
    stays: str = ""


@dataclass(frozen=True)
class Action(Generic[V]):
    """One thing that is done: ``target`` is the place, the tag's or the phrase's number, the time or the address it
    needs, or empty."""

    verb: V
    target: str = ""


def place_of(actions: Iterable[Action[V]], table: Mapping[V, Doing[V]]) -> str:
    """Where actions put mail; empty where they leave it."""
    return next((table[one.verb].place or one.target for one in actions if table[one.verb].places), "")


def check_actions(actions: Sequence[Action[V]], table: Mapping[V, Doing[V]], most: int, what: str) -> None:
    """Raises :class:`CallerError` where nothing is done, too much, mail is put in two places, or something does not
    know what it needs; ``what`` is what was written down."""
    if not actions:
        raise CallerError(f"Say what the {what} does: it does nothing yet.")
    if len(actions) > most:
        raise CallerError(f"A {what} does up to {most} things; this one does {len(actions)}.")
    if sum(table[one.verb].places for one in actions) > 1:
        raise CallerError(f"The {what} puts its mail in two places. Remove one of them.")
    for one in actions:
        doing = table[one.verb]
        if bool(doing.takes) != bool(one.target.strip()):
            raise CallerError(f"“{doing.title}” needs to know {doing.takes or 'nothing'}.")
        if doing.takes in _NUMBERED and not re.fullmatch(r"\d{1,18}", one.target):
            raise CallerError(f"A {doing.takes} is named by its number.")
