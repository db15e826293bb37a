"""What the routers share: the mailroom and the workers around it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, cast

from fastapi import Depends, Request

from hieranome.app.mailroom import Mailroom
from hieranome.app.pictures import Pictures
from hieranome.app.trial import Trial
from hieranome.app.workers import Importer
from hieranome.standin.delivery import Delivery


@dataclass(slots=True)
class Served:
    """One running application."""

    room: Mailroom
    importer: Importer
    trial: Trial
    pictures: Pictures
    delivery: Delivery | None = None
    demo: bool = False

    @classmethod
    def of(cls, room: Mailroom, delivery: Delivery | None = None, *, demo: bool = False) -> Served:
        """A mailroom with the workers it needs, not yet started."""
        return cls(room, Importer(room), Trial(room), Pictures(room), delivery, demo)


def served(request: Request) -> Served:
    """The application a request is for."""
    return cast(Served, request.app.state.served)


def room(request: Request) -> Mailroom:
    """The mailroom a request is for."""
    return served(request).room


ServedDep = Annotated[Served, Depends(served)]
RoomDep = Annotated[Mailroom, Depends(room)]
