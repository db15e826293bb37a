"""Bulk mail: subscriptions, and what is decided on them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app.bulk import subscriptions
from hieranome.app.bulk.looking_through import to_look_at
from hieranome.web.models.bulk import AboutOut, DecisionIn, SubscriptionOut, SubscriptionsOut
from hieranome.web.models.mail import MessageOut
from hieranome.web.models.teaching import OutcomeOut
from hieranome.web.routers.teaching import outcome_out
from hieranome.web.state import RoomDep

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
            "answered": one.answered / one.total,
            "domain": newest.sender_address.rpartition("@")[2],
            "last_seen": newest.time,
            "subject": newest.subject,
        }
    )


@router.get("/subscriptions/about")
def describe_subscription(room: RoomDep, source: Annotated[str, Query(max_length=2_000)]) -> AboutOut:
    """What a subscription says it is."""
    found = subscriptions.about(room, source)
    recent = [MessageOut.model_validate(row) for row in found.recent]
    return AboutOut(**asdict(found.headers), domain=found.domain, standing=found.standing.value, recent=recent)


@router.post("/subscriptions/decide")
def decide_on_subscriptions(room: RoomDep, decision: DecisionIn) -> OutcomeOut:
    """Decide where all mail of subscriptions belongs from now on, in one step."""
    return outcome_out(subscriptions.decide(room, decision.sources, decision.belongs))
