"""Connecting a mailbox: its servers found, tried, authorised in the browser where that is wanted; added, changed."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter, Request

from hieranome.app.access.authorising import Authorisation
from hieranome.app.access.logins import provider_of
from hieranome.app.access.reaching import Tried, try_servers
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.folders import bucket_of
from hieranome.app.mailbox.history import progress
from hieranome.app.mailbox.mailboxes import Account, NewAccount
from hieranome.app.service import Service
from hieranome.core.errors import CallerError
from hieranome.mail.finding import Named
from hieranome.mail.oauth import Provider, Tokens
from hieranome.mail.servers import Login
from hieranome.web.models.answer import Id
from hieranome.web.models.authorisations import AuthorisationOut, AuthorisedIn, AuthoriseIn
from hieranome.web.models.mailboxes import (
    AttemptOut,
    FindIn,
    ListedOut,
    MailboxOut,
    NamedOut,
    ProbeOut,
    ServersFoundOut,
    ServersIn,
)
from hieranome.web.state import ServiceDep

router = APIRouter(tags=["mailboxes"])


def mailbox_out(service: Service, account: Account) -> MailboxOut:
    """A mailbox and how it is."""
    read = progress(service.room, account.id)
    waiting = mailboxes.waiting(service.room, account.id)
    values = {name: getattr(account, name) for name in MailboxOut.model_fields if hasattr(account, name)}
    kept = service.vault.kind(account.address)
    return MailboxOut(**values, done=read.done, total=read.total, waiting=waiting, kept=kept)


def _described(service: Service, wanted: ServersIn, before: Account | None = None) -> tuple[NewAccount, str]:
    """The mailbox described, and its secret as it is to be kept: empty where the one kept ``before`` stays."""
    named = wanted.model_dump(exclude={"secret", "kept", "address", "authorisation"})
    new = NewAccount(address=wanted.address.strip().lower(), **named)
    secret = wanted.secret.get_secret_value() if wanted.secret else ""
    if wanted.authorisation:
        provider, tokens = service.authorisations.granted(wanted.authorisation)
        return _authorised(new, provider), tokens.kept()
    if before is not None and before.token_url and not secret:
        return _authorised(new, provider_of(before)), ""
    return new, secret


def _authorised(new: NewAccount, by: Provider) -> NewAccount:
    return replace(
        new,
        bearer=True,
        authorise_url=by.authorise_url,
        token_url=by.token_url,
        client_id=by.client_id,
        scope=by.scope,
    )


def _tried(service: Service, new: NewAccount, secret: str, before: Account | None = None) -> Tried:
    """What the servers described tell. The secret that is kept goes to no other server than it was given for. Raises
    what connecting raises."""
    if secret:
        login = Login(new.user, Tokens.of(secret).access if new.token_url else secret, new.bearer)
    elif before is None or service.vault.kind(new.address) is None:
        raise CallerError("Enter the password or token of this mailbox, or authorise it.")
    elif not mailboxes.reached_alike(before, new):
        raise CallerError(
            "The password that is kept was given for another server, port or protection. Enter it again, or authorise"
            " the mailbox again, so that it goes nowhere you did not mean."
        )
    else:
        login = service.logins.of(new)
    return try_servers(new, login, service.watchers.trust)


@router.post("/mailboxes/find")
def find_servers(service: ServiceDep, wanted: FindIn) -> ServersFoundOut:
    """Find the mail servers of an address. No password goes anywhere, and nothing but the domain is asked for."""
    found = service.finder.find(wanted.address)

    def named(one: Named | None) -> NamedOut | None:
        if one is None:
            return None
        return NamedOut(host=one.server.host, port=one.server.port, security=one.server.security, how=one.how)

    tried = [AttemptOut(what=one.what, why=one.why) for one in found.tried]
    return ServersFoundOut(
        imap=named(found.imap), smtp=named(found.smtp), user=found.user, foreign=found.foreign, tried=tried
    )


@router.post("/mailboxes/probe")
def probe_mailbox(service: ServiceDep, wanted: ServersIn) -> ProbeOut:
    """Try the servers described, and tell what is there. Nothing is kept."""
    before = mailboxes.known(service.room, wanted.address)
    told = _tried(service, *_described(service, wanted, before), before)
    found = [
        ListedOut(
            name=one.name,
            role=one.role,
            bucket=bucket_of(one.name, told.prefix, one.delimiter),
            messages=one.status.messages if one.status else 0,
        )
        for one in told.listed
    ]
    return ProbeOut(folders=found, abilities=told.abilities)


@router.post("/mailboxes", status_code=201)
def add_mailbox(service: ServiceDep, wanted: ServersIn) -> MailboxOut:
    """Connect a mailbox: its history is read from now on, and nothing is moved until routing is turned on."""
    new, secret = _described(service, wanted)
    if not secret:
        raise CallerError("Enter the password or token of this mailbox, or authorise it.")
    told = _tried(service, new, secret)
    service.vault.put(new.address, secret, wanted.kept)
    try:
        account = mailboxes.add(service.room, replace(new, prefix=told.prefix), told.listed)
    except CallerError:
        if mailboxes.known(service.room, new.address) is None:
            service.vault.forget(new.address)
        raise
    service.authorisations.done(wanted.authorisation)
    service.watchers.watch(account.id)
    return mailbox_out(service, account)


@router.put("/mailboxes/{number}")
def change_mailbox(service: ServiceDep, number: Id, wanted: ServersIn) -> MailboxOut:
    """Change how a mailbox is reached; it is tried first."""
    account = mailboxes.get(service.room, number)
    if account.address != wanted.address.strip().lower():
        raise CallerError("The address of a mailbox stays. Connect the other one beside it.")
    new, secret = _described(service, wanted, account)
    told = _tried(service, new, secret, account)
    if secret:
        service.vault.put(account.address, secret, wanted.kept)
        service.logins.forget(account.address)
    account = mailboxes.change(service.room, number, replace(new, prefix=told.prefix))
    service.authorisations.done(wanted.authorisation)
    service.watchers.watch(number)
    return mailbox_out(service, account)


def _authorisation_out(one: Authorisation) -> AuthorisationOut:
    return AuthorisationOut(id=one.begun.state, url=one.begun.url, state=one.state, error=one.error)


@router.post("/authorisations", status_code=201)
def begin_authorisation(request: Request, service: ServiceDep, wanted: AuthoriseIn) -> AuthorisationOut:
    """Begin to authorise a mailbox: the address to open in a browser. It comes back to this machine."""
    secret = wanted.client_secret.get_secret_value() if wanted.client_secret else ""
    provider = Provider(wanted.authorise_url, wanted.token_url, wanted.client_id, wanted.scope.strip(), secret)
    host = "[::1]" if request.url.hostname == "::1" else "127.0.0.1"
    begun = service.authorisations.begin(provider, f"http://{host}:{request.url.port or 80}/authorised")
    return _authorisation_out(service.authorisations.get(begun.state))


@router.get("/authorisations/{state}")
def show_authorisation(service: ServiceDep, state: str) -> AuthorisationOut:
    """How far an authorisation is."""
    return _authorisation_out(service.authorisations.get(state))


@router.post("/authorisations/finish")
def finish_authorisation(service: ServiceDep, wanted: AuthorisedIn) -> AuthorisationOut:
    """Take the address the browser came back to, and get the tokens."""
    return _authorisation_out(service.authorisations.finish(wanted.returned))
