"""What the routers share: the running application a request is for."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service


def service(request: Request) -> Service:
    """The application a request is for."""
    return cast(Service, request.app.state.service)


def room(request: Request) -> Mailroom:
    """The mailroom a request is for."""
    return service(request).room


ServiceDep = Annotated[Service, Depends(service)]
RoomDep = Annotated[Mailroom, Depends(room)]
