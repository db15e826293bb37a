"""Bulk mail: subscriptions, and what is decided on them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import emptying
from hieranome.app.bulk import draining, old_mail, readiness, subscriptions
from hieranome.app.bulk.looking_through import to_look_at
from hieranome.web.models.bulk import (
    AboutOut,
    DecisionIn,
    DrainIn,
    DrainOut,
    EmptyIn,
    EmptyTrashIn,
    OfferOut,
    PutAwayIn,
    PutAwayOut,
    RequestOut,
    SubscriptionOut,
    SubscriptionsOut,
    TrashOut,
    UnsubscribeIn,
    WeighedOut,
    WouldOut,
)
from hieranome.web.models.mail import MessageOut
from hieranome.web.models.teaching import OutcomeOut, StepOut
from hieranome.web.routers.mail import rows_out
from hieranome.web.routers.teaching import outcome_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["bulk"])


@router.get("/subscriptions")
def list_subscriptions(room: RoomDep) -> SubscriptionsOut:
    """All subscriptions, those with most mail first."""
    found = [_out(one) for one in subscriptions.find(room)]
    return SubscriptionsOut(subscriptions=found, to_look_at=to_look_at(room))


def _out(one: subscriptions.Subscription) -> SubscriptionOut:
    newest = one.newest
    return SubscriptionOut.model_validate(
        {
            **{name: getattr(one, name) for name in SubscriptionOut.model_fields if hasattr(one, name)},
            "domain": newest.sender_address.rpartition("@")[2],
            "subject": newest.subject,
        }
    )


@router.get("/subscriptions/about")
def describe_subscription(service: ServiceDep, source: Annotated[str, Query(max_length=2_000)]) -> AboutOut:
    """What a subscription says it is, and how it can be ended."""
    found = subscriptions.about(service.room, source)
    return AboutOut(
        description=found.description,
        domain=found.domain,
        standing=found.standing.value,
        recent=rows_out(service.room, found.recent),
        offer=OfferOut.model_validate(service.unsubscriber.offer(source)),
        asked=[RequestOut.model_validate(one) for one in service.unsubscriber.asked(source)],
    )


@router.post("/subscriptions/unsubscribe")
def unsubscribe(service: ServiceDep, wanted: UnsubscribeIn) -> RequestOut:
    """End a subscription by the way that is offered; answers what came of it."""
    return RequestOut.model_validate(service.unsubscriber.unsubscribe(wanted.source))


@router.post("/subscriptions/decide")
def decide_on_subscriptions(room: RoomDep, decision: DecisionIn) -> OutcomeOut:
    """Decide where all mail of subscriptions belongs from now on, in one step."""
    given = subscriptions.decide(
        room, decision.sources, decision.belongs, confirmed=decision.confirmed, several=not decision.chosen
    )
    return outcome_out(room, given)


@router.get("/drain")
def show_drain(room: RoomDep) -> DrainOut:
    """How the Drain is."""
    return DrainOut(**asdict(draining.look(room)), cost=room.costs.drained_good)


@router.put("/drain")
def change_drain(room: RoomDep, wanted: DrainIn) -> DrainOut:
    """Say for how long the Drain keeps mail, and what good mail in it costs."""
    with room.change():
        if wanted.cost is not None:
            readiness.set_cost(room, wanted.cost)
        if wanted.days is not None:
            draining.keep_for(room, wanted.days)
    return show_drain(room)


@router.post("/drain/empty")
def empty_drain(room: RoomDep, wanted: EmptyIn) -> StepOut:
    """Put all that stands in the Drain up to a message in the Trash, as one step."""
    return StepOut.model_validate(draining.empty(room, wanted.newest))


@router.get("/drain/doubted")
def list_doubted_in_drain(room: RoomDep) -> list[MessageOut]:
    """Mail in the Drain of which it is doubtful that it belongs there, by sender."""
    return rows_out(room, draining.doubted(room))


@router.get("/drain/preview")
def preview_drain(room: RoomDep) -> list[WouldOut]:
    """What each cost of the scale would have done with the mail of the last month."""
    return [WouldOut.model_validate(one) for one in readiness.preview(room)]


@router.get("/trash")
def show_trash(room: RoomDep) -> TrashOut:
    """How the Trash is."""
    return TrashOut.model_validate(emptying.look(room))


@router.post("/trash/empty")
def empty_trash(room: RoomDep, wanted: EmptyTrashIn) -> StepOut:
    """Take what can go out of the Trash for good: it cannot be taken back."""
    return StepOut.model_validate(emptying.empty(room, wanted.messages))


@router.get("/old-mail")
def weigh_old_mail(
    room: RoomDep,
    weeks: Annotated[int, Query(ge=0, le=5_000)] = 52,
    by: old_mail.By = "source",
) -> WeighedOut:
    """Mail older than so many weeks, by what it weighs: what was never opened first, then the heaviest."""
    return WeighedOut.model_validate(old_mail.weigh(room, weeks, by))


@router.post("/old-mail/trash")
def put_away(room: RoomDep, wanted: PutAwayIn) -> PutAwayOut:
    """Put the old mail of chosen rows in the Trash, as one step."""
    step, size = old_mail.put_away(room, wanted.keys, wanted.weeks, wanted.by, kept=wanted.kept)
    return PutAwayOut(step=StepOut.model_validate(step), size=size)
