"""Rules: what the owner knows for sure about mail, said once.

A rule says when (as mail arrives, or once it is older than some days), which mail (a search line, with another for its
exceptions) and what is then done, in order. Rules are passed in the owner's order. The first that says where a message
goes decides that, unless something said of its sender is more specific (:mod:`hieranome.core.sure`); all else that they
say is done. A rule that says *stop here* ends the passage for the mail it takes.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal, assert_never

from hieranome.core import doings
from hieranome.core.buckets import ARCHIVE, TRASH
from hieranome.core.conditions import All, Any, Is, Node
from hieranome.core.errors import CallerError
from hieranome.core.matching import Mail, holds
from hieranome.core.sure import Reach

When = Literal["arrives", "ages"]
Counted = Literal["came", "thread"]
Verb = Literal[
    "bucket", "folder", "archive", "trash", "tag", "untag", "flag", "read", "due", "no-edition", "forward", "draft",
    "stop",
]  # fmt: skip
Doing = doings.Doing[Verb]
Action = doings.Action[Verb]
MAX_NAME = 80
MAX_RULES = 500
MAX_ACTIONS = 20
MAX_DAYS = 3_650


DOINGS: tuple[Doing, ...] = (
    Doing("bucket", "Put in the bucket", "bucket", places=True),
    Doing("folder", "File in the folder", "folder", places=True),
    Doing("archive", "Put in the Archive", places=True, place=ARCHIVE),
    Doing("trash", "Put in the Trash", places=True, place=TRASH),
    Doing("tag", "Tag", "tag"),
    Doing("untag", "Take off the tag", "tag"),
    Doing("flag", "Flag"),
    Doing("read", "Mark read"),
    Doing("due", "Due", "time", stays="due dates are kept here"),
    Doing("no-edition", "Keep out of editions", stays="editions are put together here"),
    Doing("forward", "Forward a copy to", "address", arriving=True),
    Doing("draft", "Begin a reply (a draft) with", "phrase", arriving=True, stays="drafts are begun here"),
    Doing("stop", "Stop here", arriving=True),
)
"""The table of what rules do; the form, the API and the guide read it."""
BY_VERB = {one.verb: one for one in DOINGS}
_ADDRESS = re.compile(r"[^@\s<>,;:\"()\\]+@[^@\s<>,;:\"()\\]+")


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule. ``days`` says how old mail is when a rule that waits for that does anything, counted from when it came or
    from the newest message of its thread; with ``last_of_day`` the newest of each source and day stays."""

    id: int
    name: str
    enabled: bool
    when: When
    days: int
    counted: Counted
    last_of_day: bool
    line: str
    excepted: str
    actions: tuple[Action, ...]

    @property
    def place(self) -> str:
        """Where it puts mail; empty where it does not say."""
        return doings.place_of(self.actions, BY_VERB)

    @property
    def stops(self) -> bool:
        """Whether no later rule is asked about the mail it takes."""
        return any(one.verb == "stop" for one in self.actions)

    def targets(self, verb: Verb) -> list[str]:
        """What stands behind all its actions of a kind."""
        return [one.target for one in self.actions if one.verb == verb]


def check(rule: Rule) -> None:
    """Raises :class:`CallerError` for a rule that says nothing, too much, or two things at once."""
    if not rule.name.strip() or len(rule.name) > MAX_NAME:
        raise CallerError(f"A rule has a name of 1 to {MAX_NAME} characters.")
    if not rule.line.strip():
        raise CallerError("Say which mail the rule is about: its line is empty, and it would take all mail.")
    doings.check_actions(rule.actions, BY_VERB, MAX_ACTIONS, "rule")
    if rule.when == "ages" and not 0 < rule.days <= MAX_DAYS:
        raise CallerError(f"Mail grows 1 to {MAX_DAYS} days old; {rule.days} are given.")
    if rule.when == "ages" and any(BY_VERB[one.verb].arriving for one in rule.actions):
        raise CallerError("A rule for mail that grows old neither writes to anybody nor stops others. Remove that.")
    for one in rule.actions:
        if one.verb == "forward" and not (one.target.isprintable() and _ADDRESS.fullmatch(one.target)):
            raise CallerError(f"“{one.target}” is no address a copy can go to.")


_ORDER = (Reach.ADDRESS, Reach.LIST, Reach.DOMAIN)
_NAMES = {"address": Reach.ADDRESS, "list": Reach.LIST, "domain": Reach.DOMAIN}


def narrowest(node: Node) -> Reach | None:
    """How specific a line is about who wrote: by the narrowest sender term all its mail must meet; None where there is
    none, which ranks below a whole domain."""
    if isinstance(node, Is):
        return _NAMES[node.field]
    if isinstance(node, All):
        found = [reach for part in node.parts if (reach := narrowest(part)) is not None]
        return min(found, key=_ORDER.index, default=None)
    if isinstance(node, Any) and node.parts:
        reaches = [narrowest(part) for part in node.parts]
        known = [reach for reach in reaches if reach is not None]
        return max(known, key=_ORDER.index) if len(known) == len(reaches) else None
    return None


@dataclass(frozen=True, slots=True)
class Read:
    """A rule with its lines understood: which mail it takes, which of that it leaves, how specific it is."""

    rule: Rule
    node: Node
    excepted: Node | None
    reach: Reach | None

    def takes(self, mail: Mail) -> bool:
        """Whether it is about a message."""
        return holds(self.node, mail) and not (self.excepted is not None and holds(self.excepted, mail))


@dataclass(slots=True)
class Ruled:
    """What rules say of one message: those that took it, in order; the one that says where it goes; tags it carries
    then; marks; when it is due, as it was typed; whether editions leave it out; whom copies go to; the phrases with
    which replies are begun."""

    took: list[Rule] = field(default_factory=list)
    placing: Read | None = None
    tags: set[int] = field(default_factory=set)
    flagged: bool = False
    seen: bool = False
    due: str = ""
    no_edition: bool = False
    forward: list[tuple[Rule, str]] = field(default_factory=list)
    drafts: list[tuple[Rule, int]] = field(default_factory=list)


def ruled(rules: Sequence[Read], mail: Mail) -> Ruled:
    """Pass the rules for arriving mail over a message. What one tags, the next may ask for."""
    said = Ruled(tags=set(mail.tags))
    for read in rules:
        if not read.takes(mail):
            continue
        said.took.append(read.rule)
        if said.placing is None and read.rule.place:
            said.placing = read
        for one in read.rule.actions:
            _note(said, read.rule, one)
        mail.tags = said.tags
        if read.rule.stops:
            break
    return said


def _note(said: Ruled, rule: Rule, action: Action) -> None:
    match action.verb:
        case "tag":
            said.tags = said.tags | {int(action.target)}
        case "untag":
            said.tags = said.tags - {int(action.target)}
        case "flag":
            said.flagged = True
        case "read":
            said.seen = True
        case "due":
            said.due = said.due or action.target
        case "no-edition":
            said.no_edition = True
        case "forward":
            said.forward.append((rule, action.target))
        case "draft":
            said.drafts.append((rule, int(action.target)))
        case "bucket" | "folder" | "archive" | "trash" | "stop":
            pass  # where mail goes, and where the passage ends, is asked of the rule
        case _:
            assert_never(action.verb)
