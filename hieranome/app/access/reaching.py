"""How the servers of a mailbox are reached: signed in to watch it, or tried before anything is kept."""

from __future__ import annotations

import ssl
from dataclasses import dataclass

from hieranome.app.access.logins import Logins
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Listed
from hieranome.mail.servers import Login, Security, Server
from hieranome.mail.smtp import try_out
from hieranome.store.accounts import Account, NewAccount

ABILITIES = {
    "MOVE": "moves in one step",
    "UIDPLUS": "tells where moved mail stands",
    "CONDSTORE": "tells what changed",
    "QRESYNC": "tells what is gone",
    "IDLE": "tells of new mail at once",
    "SPECIAL-USE": "names its own folders",
    "OBJECTID": "knows messages by ids of their own",
}
"""What servers may offer, in words an owner can use."""


def imap_server(account: NewAccount) -> Server:
    """Where a mailbox is read."""
    return Server(account.imap_host, account.imap_port, _security(account.imap_security), account.imap_pin)


def smtp_server(account: NewAccount) -> Server:
    """Where its mail is handed in."""
    return Server(account.smtp_host, account.smtp_port, _security(account.smtp_security), account.smtp_pin)


def _security(value: str) -> Security:
    return "tls" if value == "tls" else "starttls" if value == "starttls" else "plain"


def connect(logins: Logins, account: Account, trust: ssl.SSLContext | None = None) -> Imap:
    """A connection signed in with a mailbox's secret. Raises what :meth:`Logins.of` and connecting raise."""
    return logins.enter(account, lambda login: Imap.connect(imap_server(account), login, trust=trust))


@dataclass(frozen=True, slots=True)
class Tried:
    """What servers told when they were tried: the folders, what they can do in words, what names of folders must begin
    with."""

    listed: list[Listed]
    abilities: list[str]
    prefix: str


def try_servers(account: NewAccount, login: Login, trust: ssl.SSLContext | None = None) -> Tried:
    """Sign in as described, for reading and for sending, and look around; nothing is kept, changed or sent. Raises what
    connecting raises."""
    imap = Imap.connect(imap_server(account), login, trust=trust)
    try:
        try_out(smtp_server(account), login, trust=trust)
        abilities = [words for name, words in ABILITIES.items() if imap.offers(name)]
        return Tried(imap.folders(), abilities, imap.personal())
    finally:
        imap.close()
