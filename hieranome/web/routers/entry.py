"""Signing in and out."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from hieranome.app.access.entry import Admitted, Visitor
from hieranome.web.guard import session_of
from hieranome.web.models.entry import EntryOut, FirstIn, PasswordIn, SignInIn
from hieranome.web.state import ServiceDep

router = APIRouter(tags=["entry"])


def _let_in(request: Request, response: Response, admitted: Admitted) -> EntryOut:
    lasting = {
        request.app.state.cookie: (admitted.session, 30),
        f"{request.app.state.cookie}-known": (admitted.mark, 365),
    }
    for name, (value, days) in lasting.items():
        response.set_cookie(
            name,
            value,
            max_age=days * 86_400,
            httponly=True,
            samesite="strict",
            secure=request.app.state.secure,
            path="/",
        )
    return EntryOut(signed_in=True, first=False)


def _visitor(request: Request) -> Visitor:
    mark = session_of(request.headers, f"{request.app.state.cookie}-known")
    return Visitor(request.client.host if request.client else "", mark)


@router.get("/entry")
def ask_entry(request: Request, service: ServiceDep) -> EntryOut:
    """Whether the one who asks is signed in."""
    inside = service.entry.is_in(session_of(request.headers, request.app.state.cookie))
    return EntryOut(signed_in=inside, first=bool(service.entry.code))


@router.post("/entry")
def sign_in(request: Request, response: Response, service: ServiceDep, given: SignInIn) -> EntryOut:
    """Sign in with the password. After several wrong ones it is heard again later only."""
    return _let_in(request, response, service.entry.sign_in(given.password.get_secret_value(), _visitor(request)))


@router.post("/entry/first")
def set_first_password(request: Request, response: Response, service: ServiceDep, given: FirstIn) -> EntryOut:
    """Set the first password with the code that was printed where Hieranome was started."""
    return _let_in(
        request, response, service.entry.set_first(given.code, given.password.get_secret_value(), _visitor(request))
    )


@router.put("/entry/password")
def change_password(request: Request, response: Response, service: ServiceDep, given: PasswordIn) -> EntryOut:
    """Change the password; every other session ends."""
    admitted = service.entry.change(given.old.get_secret_value(), given.new.get_secret_value(), _visitor(request))
    service.room.tell("entry")
    return _let_in(request, response, admitted)


@router.delete("/entry", status_code=204)
def sign_out(request: Request, response: Response, service: ServiceDep) -> None:
    """Sign out."""
    service.entry.sign_out(session_of(request.headers, request.app.state.cookie))
    service.room.tell("entry")
    response.delete_cookie(request.app.state.cookie, path="/")
