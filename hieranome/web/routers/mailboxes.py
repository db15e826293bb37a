"""Mailboxes on servers: watched, routed, left; and what other programs did in them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import lists
from hieranome.app.access.vault import has_keyring
from hieranome.app.mailbox import elsewhere, mailboxes
from hieranome.app.mailbox.first_round import ANSWERS, first_round
from hieranome.app.mailbox.habits import habits_of
from hieranome.app.mailbox.leaving import Leaving, forget
from hieranome.app.service import Service
from hieranome.web.models.answer import Id
from hieranome.web.models.mail import MessageOut
from hieranome.web.models.mailboxes import (
    AddressFoundOut,
    CountOut,
    DoubtedOut,
    ElsewhereIn,
    ElsewhereOut,
    FollowIn,
    HistoryOut,
    KeepersOut,
    LearnedOut,
    LeaveIn,
    LeavingOut,
    MailboxesOut,
    MailboxOut,
    MailFolderOut,
    PersonFoundOut,
    PreviewOut,
    QuestionOut,
    RoundOut,
    SwitchIn,
)
from hieranome.web.routers.connecting import mailbox_out
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["mailboxes"])

SHOWN = 5
"""Messages shown of a set that is asked about."""
DOUBTED = 50


@router.get("/mailboxes")
def list_mailboxes(service: ServiceDep) -> MailboxesOut:
    """All mailboxes and how they are."""
    return MailboxesOut(
        mailboxes=[mailbox_out(service, one) for one in mailboxes.every(service.room)],
        keepers=KeepersOut(keyring=has_keyring(), sealed=service.vault.unlocked),
    )


@router.post("/mailboxes/{number}/routing")
def set_routing(service: ServiceDep, number: Id, wanted: SwitchIn) -> MailboxOut:
    """Let mail be moved on the server as it is placed here, or not."""
    account = mailboxes.route(service.room, number, on=wanted.on)
    service.watchers.wake()
    return mailbox_out(service, account)


@router.post("/mailboxes/{number}/pause")
def pause_mailbox(service: ServiceDep, number: Id, wanted: SwitchIn) -> MailboxOut:
    """Pause a mailbox, or let it go on where it was."""
    account = mailboxes.pause(service.room, number, on=wanted.on)
    service.watchers.wake()
    return mailbox_out(service, account)


@router.post("/mailboxes/{number}/look", status_code=202)
def look_now(service: ServiceDep, number: Id) -> MailboxOut:
    """Look for news now."""
    account = mailboxes.get(service.room, number)
    service.watchers.wake()
    return mailbox_out(service, account)


@router.get("/mailboxes/{number}/folders")
def list_mailbox_folders(room: RoomDep, number: Id) -> list[MailFolderOut]:
    """The folders of a mailbox."""
    return [
        MailFolderOut(
            **{name: getattr(one, name) for name in MailFolderOut.model_fields if name != "known"}, known=known
        )
        for one, known in mailboxes.folders(room, number)
    ]


@router.put("/mailboxes/{number}/folders/{folder}")
def follow_folder(room: RoomDep, number: Id, folder: Id, wanted: FollowIn) -> list[MailFolderOut]:
    """Follow a folder, or leave it alone."""
    mailboxes.follow(room, number, folder, wanted=wanted.followed)
    return list_mailbox_folders(room, number)


@router.get("/mailboxes/{number}/preview")
def show_preview(room: RoomDep, number: Id) -> PreviewOut:
    """Where the newest messages of the inbox would go, were mail routed."""
    found = mailboxes.preview(room, number)
    counts = [CountOut(place=place, messages=count) for place, count in found.counts.items()]
    return PreviewOut(counts=counts, total=found.total)


@router.get("/round")
def show_first_round(
    room: RoomDep,
    mailbox: Annotated[Id | None, Query()] = None,
    skipped: Annotated[list[Id] | None, Query(max_length=100)] = None,
) -> RoundOut:
    """The next question of the first round, about a mailbox or all mail; those ``skipped`` are not asked again."""
    found = first_round(room, mailbox, skipped or ())
    question = None
    if found.question is not None:
        question = QuestionOut(message=rows_out(room, [found.question.message])[0], alike=found.question.alike)
    return RoundOut(answered=found.answered, answers=ANSWERS, question=question)


@router.get("/mailboxes/found")
def show_found(room: RoomDep) -> HistoryOut:
    """What the history tells: whose addresses, who is answered, who is not read."""
    told = habits_of(room)
    return HistoryOut(
        addresses=[AddressFoundOut(address=address, messages=count) for address, count in told.addresses],
        answered=[PersonFoundOut.model_validate(one) for one in told.answered],
        unread=[PersonFoundOut.model_validate(one) for one in told.unread],
        lists=told.lists,
    )


@router.post("/mailboxes/{number}/leaving", status_code=202)
def begin_leaving(service: ServiceDep, number: Id, wanted: LeaveIn) -> LeavingOut:
    """Begin to leave a mailbox: stop, see that every message is on the server, put mail back where that is wanted."""
    return _leaving(service, service.leavings.begin(number, back=wanted.how == "back"))


@router.get("/mailboxes/{number}/leaving")
def show_leaving(service: ServiceDep, number: Id) -> LeavingOut:
    """How far the leaving of a mailbox is."""
    return _leaving(service, service.leavings.state(number))


@router.delete("/mailboxes/{number}/leaving", status_code=204)
def stay(service: ServiceDep, number: Id) -> None:
    """Stay after all."""
    service.leavings.stay(number)


def _leaving(service: Service, found: Leaving | None) -> LeavingOut:
    if found is None:
        return LeavingOut(state="none")
    if found.accounted is None:
        return LeavingOut(state=found.state, error=found.error)
    return LeavingOut(
        state=found.state,
        left=found.left,
        there=found.accounted.there,
        brought_back=found.accounted.brought_back,
        missing=[MessageOut.model_validate(one) for one in service.leavings.missing(found.accounted)],
    )


@router.delete("/mailboxes/{number}", status_code=204)
def remove_mailbox(service: ServiceDep, number: Id) -> None:
    """Forget a mailbox and its secret. The messages stay here, and on the server everything stays as it is."""
    account = mailboxes.get(service.room, number)
    service.watchers.leave(number)
    forget(service.room, number)
    service.vault.forget(account.address)
    service.logins.forget(account.address)


@router.get("/elsewhere")
def list_elsewhere(room: RoomDep) -> list[ElsewhereOut]:
    """Moves other programs made that are too many to be learned unasked."""
    return [ElsewhereOut.model_validate(one) for one in elsewhere.waiting(room)]


@router.post("/elsewhere/{number}")
def answer_elsewhere(room: RoomDep, number: Id, wanted: ElsewhereIn) -> LearnedOut:
    """Learn these moves, or leave them unlearned."""
    return LearnedOut(lessons=elsewhere.answer(room, number, learn=wanted.learn))


@router.get("/junk/doubted")
def list_doubted(room: RoomDep) -> DoubtedOut:
    """Mail in Junk that the model thinks matters."""
    found = lists.doubted_in_junk(room)
    return DoubtedOut(messages=[MessageOut.model_validate(one) for one in found], total=len(found))
