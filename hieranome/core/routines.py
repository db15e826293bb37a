"""Routines: what the owner does with mail in a row, named, in order, and done by one key.

All that a routine does is one step of the journal. What it writes is a draft, to be looked at.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from hieranome.core import doings
from hieranome.core.buckets import ARCHIVE, DRAFTS, PARKED, TRASH
from hieranome.core.deciders import NEVER_TAUGHT, Decider
from hieranome.core.errors import CallerError

Verb = Literal[
    "bucket", "folder", "archive", "trash", "park", "park-answer", "tag", "untag", "due", "done", "flag", "unflag",
    "read", "unread", "reply", "reply-all", "forward", "next",
]  # fmt: skip
Doing = doings.Doing[Verb]
Action = doings.Action[Verb]

DOINGS: tuple[Doing, ...] = (
    Doing("bucket", "Put in the bucket", "bucket", places=True),
    Doing("folder", "File in the folder", "folder", places=True),
    Doing("archive", "Put in the Archive", places=True, place=ARCHIVE),
    Doing("trash", "Put in the Trash", places=True, place=TRASH),
    Doing("park", "Park until", "time", places=True, place=PARKED),
    Doing("park-answer", "Park until somebody answers", places=True, place=PARKED),
    Doing("tag", "Tag", "tag"),
    Doing("untag", "Take off the tag", "tag"),
    Doing("due", "Due", "time"),
    Doing("done", "Done: due no more", against=("due", "flag")),
    Doing("flag", "Flag"),
    Doing("unflag", "Take the flag away", against=("flag", "due")),
    Doing("read", "Mark read"),
    Doing("unread", "Mark unread", against=("read",)),
    Doing("reply", "Begin a reply with", "phrase", begins="reply"),
    Doing("reply-all", "Begin a reply to all with", "phrase", begins="reply_all"),
    Doing("forward", "Begin a forward with", "phrase", begins="forward"),
    Doing("next", "Go to the next message"),
)
"""The table of what routines do; the form, the API and the guide read it."""
BY_VERB = {one.verb: one for one in DOINGS}
MAX_ACTIONS = 20
MAX_ROUTINES = 100
MAX_NAME = 60


@dataclass(frozen=True, slots=True)
class Routine:
    """A routine: its name, the key it is done by (one character, or empty), and what it does, in order."""

    id: int
    name: str
    key: str
    actions: tuple[Action, ...]


def check(routine: Routine) -> None:
    """Raises :class:`CallerError` for a routine without a name, with a key that is none, and for one that does nothing,
    too much, or two things that are against each other."""
    if not routine.name.strip() or len(routine.name) > MAX_NAME:
        raise CallerError(f"A routine has a name of 1 to {MAX_NAME} characters.")
    if routine.key and (len(routine.key) != 1 or routine.key.isspace() or not routine.key.isprintable()):
        raise CallerError("The key of a routine is one letter, digit or sign, or none.")
    doings.check_actions(routine.actions, BY_VERB, MAX_ACTIONS, "routine")
    there = {one.verb for one in routine.actions}
    for one in DOINGS:
        for other in one.against if one.verb in there else ():
            if other in there:
                raise CallerError(f"“{BY_VERB[other].title}” and “{one.title}” are against each other.")
    on, off = ({one.target for one in routine.actions if one.verb == verb} for verb in ("tag", "untag"))
    if on & off:
        raise CallerError("The same tag is put on and taken off. Remove one of them.")
    if len(set(routine.actions)) < len(routine.actions):
        raise CallerError("The routine does the same thing twice. Remove one of them.")
    if "next" in {one.verb for one in routine.actions[:-1]}:
        raise CallerError(f"“{BY_VERB['next'].title}” comes last: what follows it would be done to that one.")


def refusal(actions: Sequence[Action], place: str, decided_by: Decider) -> str:
    """Why a routine cannot be done to a message, by the place it stands in and by what it stands there; empty where it
    can."""
    there = {one.verb for one in actions}
    if "bucket" in there and decided_by in NEVER_TAUGHT:
        return "you wrote it or it was put together here, so no bucket learns from it"
    if place == DRAFTS and any(BY_VERB[one.verb].begins or BY_VERB[one.verb].place == PARKED for one in actions):
        return "it is a draft, which is neither parked nor answered"
    return ""
