"""Rules: kept, arranged, tried out and run."""

from __future__ import annotations

from dataclasses import fields

from fastapi import APIRouter

from hieranome.app.at_server import placing as at_server
from hieranome.app.at_server import scripting
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping, previewing, proposing
from hieranome.core.rules import DOINGS, Action, Rule
from hieranome.mail.servers import Server
from hieranome.web.models.answer import Id
from hieranome.web.models.rules import (
    CanRunOut,
    ConflictOut,
    DoingOut,
    FollowingOut,
    HiddenOut,
    LeftOut,
    OrderIn,
    ProposalOut,
    ProposeIn,
    RuleIn,
    RuleOut,
    RulePreviewOut,
    RulesOut,
    ScriptIn,
    ScriptOut,
    ServerRulesIn,
    ServerRulesOut,
    SwitchIn,
)
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["rules"])


def _rule(wanted: RuleIn, number: int = 0) -> Rule:
    given = {one.name: getattr(wanted, one.name) for one in fields(Rule) if one.name not in ("id", "actions")}
    return Rule(id=number, actions=tuple(Action(one.verb, one.target) for one in wanted.actions), **given)


def _out(kept: keeping.Kept, served: frozenset[int] = frozenset()) -> RuleOut:
    given = {one.name: getattr(kept.rule, one.name) for one in fields(Rule)}
    tally = kept.tally
    return RuleOut.model_validate(
        given | {"sentence": kept.sentence, "broken": kept.broken, "hits": tally.hits, "last": tally.last,
                 "put": tally.put, "served": kept.rule.id in served}
    )  # fmt: skip


@router.get("/rules/hidden")
def list_hidden(room: RoomDep) -> list[HiddenOut]:
    """What rules hid lately of what looks like the Desk; what was left standing (as of a second look) is none of it."""
    found = previewing.hidden(room)
    rows = rows_out(room, [one.message for one in found])
    return [HiddenOut(rule=one.rule.id, name=one.rule.name, message=row) for one, row in zip(found, rows, strict=True)]


@router.get("/rules")
def list_rules(service: ServiceDep) -> RulesOut:
    """All rules with what they did, and where they worked against each other."""
    return RulesOut(
        rules=[_out(one, service.at_server.served()) for one in keeping.every(service.room)],
        doings=[DoingOut.model_validate(one) for one in DOINGS],
        conflicts=[ConflictOut.model_validate(one) for one in proposing.conflicts(service.room)],
    )


@router.post("/rules")
def add_rule(room: RoomDep, wanted: RuleIn) -> RuleOut:
    """Keep a new rule, at the end."""
    return _out(keeping.put(room, _rule(wanted), confirmed=wanted.confirmed))


@router.put("/rules/{number}")
def change_rule(room: RoomDep, number: Id, wanted: RuleIn) -> RuleOut:
    """Say a rule anew."""
    keeping.get(room, number)
    return _out(keeping.put(room, _rule(wanted, number), confirmed=wanted.confirmed))


@router.put("/rules/{number}/enabled")
def switch_rule(room: RoomDep, number: Id, wanted: SwitchIn) -> RuleOut:
    """Let a rule run, or rest."""
    return _out(keeping.switch(room, number, wanted.enabled, confirmed=wanted.confirmed))


@router.delete("/rules/{number}", status_code=204)
def remove_rule(room: RoomDep, number: Id) -> None:
    """Remove a rule; what it did stays as it is."""
    keeping.remove(room, number)


@router.post("/rules/order", status_code=204)
def arrange_rules(room: RoomDep, wanted: OrderIn) -> None:
    """Put the rules in an order."""
    keeping.arrange(room, wanted.rules)


@router.post("/rules/proposed")
def propose_rule(room: RoomDep, wanted: ProposeIn) -> ProposalOut:
    """A name and a line for a rule about mail like some messages."""
    return ProposalOut.model_validate(proposing.propose(room, wanted.messages))


@router.post("/rules/preview")
def preview_rule(room: RoomDep, wanted: RuleIn, quick: bool = False) -> RulePreviewOut:
    """What a rule would take, without keeping it; ``quick`` for a first answer."""
    return _preview(room, previewing.preview(room, _rule(wanted), quick=quick))


@router.get("/rules/sieve")
def get_script(room: RoomDep, account: Id) -> ScriptOut:
    """The rules as a Sieve script for a mailbox, and those that stay here."""
    found = scripting.script_for(room, account)
    left = [LeftOut(rule=one.rule.id, name=one.rule.name, why=one.why) for one in found.left]
    return ScriptOut(account=account, text=found.text, left=left)


@router.post("/rules/sieve")
def take_over_script(room: RoomDep, wanted: ScriptIn) -> list[RuleOut]:
    """Take a Sieve script over as rules, switched off, all or none."""
    return [_out(one) for one in scripting.take_over(room, wanted.account, wanted.text)]


@router.get("/server-rules")
def get_server_rules(service: ServiceDep, account: Id) -> ServerRulesOut:
    """Which rules run at the server of a mailbox, which could, and what was found there last."""
    return _standing(service.at_server.standing(account))


@router.put("/server-rules")
def put_server_rules(service: ServiceDep, wanted: ServerRulesIn) -> ServerRulesOut:
    """Let rules run at the server of a mailbox, those and no others of ours; what is not ours there is not changed."""
    pin = service.at_server.standing(wanted.account).server
    server = Server(wanted.host, wanted.port, wanted.security, pin.pin if pin.host == wanted.host else "")
    return _standing(service.at_server.put(wanted.account, wanted.rules, server))


@router.post("/server-rules/look")
def look_at_server_rules(service: ServiceDep, account: Id) -> ServerRulesOut:
    """Fetch what is at the server of a mailbox, and compare it."""
    return _standing(service.at_server.look(account))


@router.delete("/server-rules")
def take_server_rules(service: ServiceDep, account: Id) -> ServerRulesOut:
    """Take our rules away from the server of a mailbox; a script of the owner's that ran beside them runs alone."""
    return _standing(service.at_server.take_away(account))


def _standing(told: at_server.Standing) -> ServerRulesOut:
    placed = told.placed
    return ServerRulesOut(
        account=told.account,
        host=told.server.host,
        port=told.server.port,
        security=told.server.security,
        rules=sorted(placed.rules) if placed else [],
        can=[CanRunOut(rule=number, name=name) for number, name in told.can],
        state=placed.state if placed else "",
        current=told.current,
        beside=placed.beside if placed else "",
        looked_at=placed.looked_at if placed else 0,
    )


@router.post("/rules/{number}/run", status_code=202)
def run_rule(service: ServiceDep, number: Id) -> None:
    """Run a rule on the mail that is here, in one undoable step; progress comes as events."""
    service.runner.run(number)


def _preview(room: Mailroom, told: previewing.Preview) -> RulePreviewOut:
    following = zip(rows_out(room, [row for row, _ in told.following]), told.following, strict=True)
    return RulePreviewOut(
        sentence=told.sentence,
        total=told.total,
        exact=told.exact,
        newest=rows_out(room, told.newest),
        standing=told.standing,
        by_model=told.by_model,
        against=told.against,
        answered=told.answered,
        answers=rows_out(room, told.answers),
        marginal=rows_out(room, told.marginal),
        following=[FollowingOut(message=row, at=at) for row, (_, at) in following],
    )
