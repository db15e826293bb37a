"""Rules of the owner's."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.rules.proposing import Conflict, Proposal
from hieranome.core.doings import Takes
from hieranome.core.query import MAX_LINE
from hieranome.core.rules import MAX_ACTIONS, MAX_DAYS, MAX_RULES, Counted, Verb, When
from hieranome.mail.managesieve import PORT
from hieranome.mail.sieve_reading import MAX_SCRIPT
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.filing import Numbers
from hieranome.web.models.mail import MessageOut
from hieranome.web.models.mailboxes import Host, PortNumber, Security

Line = Annotated[str, Field(max_length=MAX_LINE)]


class ActionIn(BaseModel):
    """One thing a rule does: what, and the place, tag (by its id) or address it needs."""

    verb: Verb
    target: Annotated[str, Field(max_length=320)] = ""


class RuleIn(BaseModel):
    """A rule. ``when`` mail arrives, or ages: it is older than ``days``, counted from when it came or from the newest
    message of its thread; with ``last_of_day`` the newest of each source and day stays. ``confirmed`` says that copies
    may go to addresses they did not go to before."""

    name: Annotated[str, Field(max_length=400)]
    enabled: bool = True
    when: When = "arrives"
    days: Annotated[int, Field(ge=0, le=MAX_DAYS)] = 0
    counted: Counted = "came"
    last_of_day: bool = False
    line: Line
    excepted: Line = ""
    actions: Annotated[list[ActionIn], Field(max_length=MAX_ACTIONS)]
    confirmed: bool = False


class ActionOut(Answer):
    """One thing a rule does."""

    verb: Verb
    target: str


class RuleOut(Answer):
    """A rule as it stands. ``sentence`` is how its lines read, ``broken`` why it cannot run (empty: it can), ``hits``
    how many messages it took, ``last`` when (0: never), ``put`` how many of them it put somewhere; ``served`` says that
    it runs at a server too."""

    id: int
    name: str
    enabled: bool
    when: When
    days: int
    counted: Counted
    last_of_day: bool
    line: str
    excepted: str
    actions: list[ActionOut]
    sentence: str
    broken: str
    hits: int
    last: int
    put: int
    served: bool = False


class DoingOut(Answer):
    """Something a rule can do, what it needs to know, and whether it says where mail goes."""

    verb: Verb
    title: str
    takes: Takes
    places: bool


class ConflictOut(Answer, of=Conflict):
    """A rule that did not have its way: against another (``other``), or against what; one such message (0: none)."""


class HiddenOut(Answer):
    """A message that looks like the Desk and that a rule (its id and name) put elsewhere, or marked read."""

    rule: int
    name: str
    message: MessageOut


class RulesOut(Answer):
    """All rules in order, what rules can do, and where they worked against each other or against the owner."""

    rules: list[RuleOut]
    doings: list[DoingOut]
    conflicts: list[ConflictOut]


class OrderIn(BaseModel):
    """All rules by their ids, in the order they are passed in."""

    rules: Annotated[list[Id], Field(max_length=MAX_RULES)]


class SwitchIn(BaseModel):
    """Whether a rule runs; ``confirmed`` says that the copies it sends may go where it says."""

    enabled: bool
    confirmed: bool = False


class ProposeIn(BaseModel):
    """Messages a rule is to be about."""

    messages: Numbers


class ProposalOut(Answer, of=Proposal):
    """A name and a line for a rule."""


class LeftOut(Answer):
    """A rule that stays here, and what of it Sieve cannot say."""

    rule: int
    name: str
    why: str


class ScriptOut(Answer):
    """The rules that are on, as a Sieve script for a mailbox (empty: none can be said), and those that stay here."""

    account: int
    text: str
    left: list[LeftOut]


class ScriptIn(BaseModel):
    """A Sieve script that is taken over as rules, with the names of a mailbox's server."""

    account: Id
    text: Annotated[str, Field(max_length=MAX_SCRIPT)]


class ServerRulesIn(BaseModel):
    """Rules that are to run at the server of a mailbox, and where that keeps its scripts (RFC 5804)."""

    account: Id
    rules: Annotated[list[Id], Field(max_length=MAX_RULES)]
    host: Host
    port: PortNumber = PORT
    security: Security = "starttls"


class CanRunOut(Answer):
    """A rule that can run at a server."""

    rule: int
    name: str


class ServerRulesOut(Answer):
    """How it stands with the rules of a mailbox at its server. ``rules`` run there (none: nothing of ours is there);
    ``can`` could; ``state`` is what was found there last, at ``looked_at`` (Unix seconds): it stands as it was put
    there, was *changed* by another program, is *gone*, or is *resting*; ``current`` says that it is what the rules say
    now; ``beside`` is a script of the owner's that runs with it (empty: none)."""

    account: int
    host: str
    port: int
    security: Security
    rules: list[int]
    can: list[CanRunOut]
    state: Literal["", "there", "changed", "gone", "resting"]
    current: bool
    beside: str
    looked_at: int


class FollowingOut(Answer):
    """A message that grows old, and when the rule takes it."""

    message: MessageOut
    at: int


class RulePreviewOut(Answer):
    """Which mail of the last ninety days a rule would take; ``exact`` says that ``total`` is, else there is more.
    ``standing`` of them are where it puts them, ``by_model`` by the model; ``against`` were put elsewhere by a verdict;
    ``marginal`` are those the model is surest belong elsewhere."""

    sentence: str
    total: int
    exact: bool
    newest: list[MessageOut]
    standing: int
    by_model: int
    against: int
    answered: int
    answers: list[MessageOut]
    marginal: list[MessageOut]
    following: list[FollowingOut]
