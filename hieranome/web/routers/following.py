"""Following through: due dates, parked mail, what is owed, and the calendar of what is due."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from hieranome.app.following import due, feed, owing, parking
from hieranome.app.following.due import Followed
from hieranome.app.following.hours import usual_hours
from hieranome.app.following.owing import Owed
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import follow_of
from hieranome.app.writing import beginning
from hieranome.core.errors import NotFound
from hieranome.core.when import Moment, is_no_time, read_moment
from hieranome.web.models.answer import Id
from hieranome.web.models.filing import FiledOut
from hieranome.web.models.following import (
    DoneIn,
    DueIn,
    FeedOut,
    FollowingOut,
    FollowUpOut,
    FollowUpSettingsIn,
    FollowUpSettingsOut,
    HourOut,
    LetGoIn,
    MomentOut,
    OfferOut,
    OwedListsOut,
    OwedOut,
    ParkIn,
)
from hieranome.web.models.mail import FollowedOut
from hieranome.web.models.writing import DraftOut
from hieranome.web.routers.mail import rows_by_id, rows_out
from hieranome.web.routers.writing import draft_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["following"])
outside = APIRouter(include_in_schema=False)
"""What is read without signing in, by a token of its own."""
CALENDAR = "text/calendar; charset=utf-8"


@router.get("/when")
def read_when(room: RoomDep, said: Annotated[str, Query(max_length=200)]) -> MomentOut:
    """What a typed time means now; *no date* is none (0)."""
    if said.strip() and is_no_time(said):
        return MomentOut(at=0, day=False, shown="no date")
    moment = read_moment(said, room.now())
    return MomentOut(at=moment.at, day=moment.day, shown=due.told(room, moment))


@router.get("/times")
def offer_times(room: RoomDep, message: Annotated[int, Query(ge=0, le=2**53)] = 0) -> list[OfferOut]:
    """Times that are offered for a message: the dates of its text, then what the owner types most often."""
    found = due.offers(room, message or None)
    return [OfferOut(said=one.said, shown=due.told(room, one.moment), words=one.words) for one in found]


@router.get("/hours")
def offer_hours(room: RoomDep, address: Annotated[str, Query(max_length=254)]) -> list[HourOut]:
    """The next times at which somebody usually writes."""
    found = usual_hours(room, address.strip().lower())
    return [HourOut(said=o.said, shown=due.told(room, Moment(o.at)), hour=o.hour, apart=o.apart) for o in found]


@router.post("/due")
def set_due(room: RoomDep, wanted: DueIn) -> FiledOut:
    """Let messages be due at a time that was typed, in one undoable step."""
    return FiledOut.model_validate(due.set_due(room, wanted.messages, wanted.said))


@router.post("/due/done")
def clear_due(room: RoomDep, wanted: DoneIn) -> FiledOut:
    """Messages are done: they are due no more, and what came back does not head the Desk any more."""
    return FiledOut.model_validate(due.clear_due(room, wanted.messages))


@router.post("/parked")
def park(room: RoomDep, wanted: ParkIn) -> FiledOut:
    """Park messages until a time, until somebody answers, or whichever comes first."""
    return FiledOut.model_validate(parking.park(room, wanted.messages, wanted.said, wanted.answer))


@router.post("/awaited")
def await_answer(room: RoomDep, wanted: DueIn) -> FiledOut:
    """Tell when nobody has answered messages by a time that was typed."""
    return FiledOut.model_validate(owing.await_answer(room, wanted.messages, wanted.said))


@router.post("/owed/let-go")
def let_go(room: RoomDep, wanted: LetGoIn) -> FiledOut:
    """Nothing is owed for messages; the next like them is not listed."""
    return FiledOut.model_validate(owing.let_go(room, wanted.messages, promised=wanted.promised))


@router.post("/messages/{number}/ask-again", status_code=201)
def ask_again(room: RoomDep, number: Id) -> DraftOut:
    """Begin a reply to a message of the owner's own that quotes its open question; a draft, never sent unseen."""
    return draft_out(room, beginning.ask_again(room, number, owing.question_of(room, number)))


@router.get("/follow-up")
def follow_up(room: RoomDep) -> FollowUpOut:
    """What is due and what is parked."""
    today = room.now().replace(hour=0, minute=0, second=0, microsecond=0)
    return FollowUpOut(
        due=_followed(room, due.every_due(room)),
        parked=_followed(room, parking.parked(room)),
        today=int(today.timestamp()),
    )


@router.get("/owed")
def list_owed(room: RoomDep) -> OwedListsOut:
    """What is owed, both ways."""
    they, you = owing.owed(room)
    return OwedListsOut(they=owed_out(room, they), you=owed_out(room, you), now=room.clock())


def _followed(room: Mailroom, many: list[Followed]) -> list[FollowingOut]:
    shown = rows_by_id(room, [one.message for one in many])
    return [
        FollowingOut(message=shown[one.message], state=FollowedOut.model_validate(follow_of(one)))
        for one in many
        if one.message in shown
    ]


def owed_out(room: Mailroom, many: list[Owed]) -> list[OwedOut]:
    """What is owed as the page takes it."""
    rows = rows_out(room, [one.message for one in many])
    return [
        OwedOut(
            message=row,
            sentence=one.sentence,
            person=one.person,
            usual=one.usual,
            until=one.until,
            proposed=one.proposed,
            promised=one.promised,
            missed=one.missed,
        )
        for row, one in zip(rows, many, strict=True)
    ]


@router.get("/follow-up/settings")
def get_follow_up_settings(room: RoomDep) -> FollowUpSettingsOut:
    """When a day begins, what brings parked mail back, whether calendars may read what is due."""
    db = room.reader()
    return FollowUpSettingsOut(
        morning=due.morning(db), answer_returns=parking.answer_returns(db), feed=feed.is_open(room)
    )


@router.put("/follow-up/settings")
def put_follow_up_settings(room: RoomDep, wanted: FollowUpSettingsIn) -> FollowUpSettingsOut:
    """Say when a day begins, and what brings parked mail back."""
    parking.say_when(room, day_begins=wanted.morning, returns=wanted.answer_returns)
    return get_follow_up_settings(room)


@router.get("/due.ics", response_class=Response)
def export_due(room: RoomDep) -> Response:
    """All that is due as a calendar of to-dos."""
    held = {"content-disposition": 'attachment; filename="due.ics"'}
    return Response(feed.to_dos(room), media_type=CALENDAR, headers=held)


@router.post("/due/feed", status_code=201)
def open_feed(room: RoomDep) -> FeedOut:
    """Let calendars read what is due at an address of its own; the one before is worth nothing any more."""
    return FeedOut(path=f"/calendar/{feed.open_feed(room)}/due.ics")


@router.delete("/due/feed", status_code=204)
def close_feed(room: RoomDep) -> None:
    """Let no calendar read what is due any more."""
    feed.close_feed(room)


@outside.get("/calendar/{token}/due.ics")
def read_feed(room: RoomDep, token: str) -> Response:
    """What is due, for whoever has the token."""
    if not feed.may_read(room, token):
        raise NotFound("There is no calendar at this address. Ask Hieranome for a new one.")
    return Response(feed.to_dos(room), media_type=CALENDAR, headers={"cache-control": "private, no-cache"})
