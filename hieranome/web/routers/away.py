"""The away notice: set, tried out, who got it, at servers."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime

from fastapi import APIRouter

from hieranome.app.at_server import differences as serving
from hieranome.app.away import keeping, telling
from hieranome.app.away.telling import Would
from hieranome.app.following.due import told as time_told
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.searching import understand
from hieranome.app.service import Service
from hieranome.core.away import Away, Circle
from hieranome.core.stopwords import BY_LANGUAGE
from hieranome.core.times import DAY
from hieranome.core.values import QueryError
from hieranome.core.when import Moment, read_moment
from hieranome.mail.servers import Server
from hieranome.web.models.answer import Id
from hieranome.web.models.away import (
    AnswerAtIn,
    AwayIn,
    AwayOut,
    AwayServerOut,
    CircleOut,
    DifferenceOut,
    DryRunOut,
    InvitedOut,
    ToldOut,
    WouldNotOut,
    WouldOut,
)
from hieranome.web.models.mail import InvitationOut
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["away"])


@router.get("/away")
def get_away(service: ServiceDep) -> AwayOut:
    """The notice as it stands, and who got it."""
    return _out(service)


@router.put("/away")
def set_away(service: ServiceDep, wanted: AwayIn) -> AwayOut:
    """Set the notice; servers that send it are told."""
    keeping.set_away(service.room, _away(service.room, wanted))
    return _out(service, service.at_server.answer_anew(wanted.on))


@router.post("/away/off")
def switch_away_off(service: ServiceDep) -> AwayOut:
    """Send no more notices, here or at servers; the texts stay."""
    keeping.switch_off(service.room)
    return _out(service, service.at_server.answer_anew(False))


@router.post("/away/dry-run")
def try_away(room: RoomDep, wanted: AwayIn) -> DryRunOut:
    """Who of those who wrote last week would have got a notice, and why the others would not. Nothing is sent."""
    run = telling.dry_run(room, _away(room, wanted))
    others = [WouldNotOut(why=why, count=count, message=number) for why, count, number in run.others]
    return DryRunOut(looked_at=run.looked_at, would=_would_out(room, run.would), others=others)


@router.get("/away/invitations")
def list_away_invitations(room: RoomDep) -> list[InvitedOut]:
    """The invitations that fall into the time away."""
    known = keeping.notice(room)
    if known.ends <= known.begins:
        return []
    found = telling.invitations(room, known.begins, known.ends)
    rows = rows_out(room, [one.message for one in found])
    return [
        InvitedOut(message=row, invitation=InvitationOut.model_validate(one.invitation), answer=one.answer)
        for row, one in zip(rows, found, strict=True)
    ]


@router.get("/away/server")
def compare_away_server(room: RoomDep, account: Id) -> list[DifferenceOut]:
    """What the server of a mailbox would do otherwise with the notice."""
    return [DifferenceOut.model_validate(one) for one in serving.differences(room, account)]


@router.put("/away/server")
def answer_at_server(service: ServiceDep, wanted: AnswerAtIn) -> AwayOut:
    """Let the server of a mailbox send the notice, or no longer."""
    server = Server(wanted.host, wanted.port, wanted.security) if wanted.host else None
    service.at_server.answer_at(wanted.account, wanted.on, server)
    return _out(service)


def _away(room: Mailroom, wanted: AwayIn) -> Away:
    """The notice with its times read."""
    known, now = keeping.notice(room), room.now()
    begins = _time(wanted.begins, now, over=False) if wanted.begins.strip() else known.begins
    ends = _time(wanted.ends, now, over=True) if wanted.ends.strip() else known.ends
    if not wanted.begins.strip() and (not begins or known.ends <= room.clock()):
        begins = room.clock()
    circles = tuple(Circle(one.name, one.who, one.line, one.texts) for one in wanted.circles)
    return Away(wanted.on, begins, ends, wanted.days, circles)


def _time(said: str, now: datetime, *, over: bool) -> int:
    moment = read_moment(said, now)
    return moment.at + (DAY if over and moment.day else 0)


def _out(service: Service, problems: dict[int, str] | None = None) -> AwayOut:
    room = service.room
    known, failed = keeping.notice(room), problems or {}

    def shown(at: int) -> str:
        return time_told(room, Moment(at)) if at else ""

    servers = [
        AwayServerOut(**asdict(one), problem=failed.get(one.account, "")) for one in service.at_server.answering()
    ]
    return AwayOut(
        on=known.on and known.ends > room.clock(),
        holds=known.holds_at(room.clock()),
        begins=known.begins,
        ends=known.ends,
        begins_shown=shown(known.begins),
        ends_shown=shown(known.ends),
        days=known.days,
        circles=[_circle(room, one) for one in known.circles],
        languages=list(BY_LANGUAGE),
        told=[ToldOut.model_validate(one) for one in keeping.told(room)],
        servers=servers,
    )


def _circle(room: Mailroom, one: Circle) -> CircleOut:
    try:
        sentence = understand(room, one.line).sentence if one.who == "line" else ""
    except QueryError as exc:
        sentence = str(exc)
    return CircleOut(name=one.name, who=one.who, line=one.line, sentence=sentence, texts=dict(one.texts))


def _would_out(room: Mailroom, would: list[Would]) -> list[WouldOut]:
    rows = rows_out(room, [one.message for one in would])
    return [
        WouldOut(message=row, person=said.person, circle=said.circle, language=said.language, text=said.text)
        for row, said in zip(rows, (one.answer for one in would), strict=True)
    ]
