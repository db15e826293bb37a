"""What the connections to one simulated IMAP server share."""

from __future__ import annotations

import ssl
from collections.abc import Container, Mapping
from dataclasses import dataclass, field

from hieranome.standin.imap_wire import Faults
from hieranome.standin.postbox import Postbox

CAPABILITIES = (
    "IMAP4rev1 LITERAL+ SASL-IR AUTH=PLAIN AUTH=OAUTHBEARER AUTH=XOAUTH2 ENABLE ID IDLE NAMESPACE UNSELECT UIDPLUS "
    "MOVE CONDSTORE QRESYNC SPECIAL-USE CREATE-SPECIAL-USE LIST-EXTENDED LIST-STATUS STATUS=SIZE OBJECTID"
)
"""All it can do; any of them but the first can be left out."""


@dataclass(slots=True)
class Account:
    """Who may sign in: the secret, the bearer tokens that are good now, and the postbox."""

    box: Postbox
    secret: str
    tokens: Container[str] = ()


@dataclass
class Site:
    """Who may sign in, what is offered, what goes wrong, which commands came, which folders may only be looked at,
    and whether keywords are refused."""

    accounts: Mapping[str, Account]
    start_tls: ssl.SSLContext | None = None
    capabilities: set[str] = field(default_factory=lambda: set(CAPABILITIES.split()))
    faults: Faults = field(default_factory=Faults)
    commands: list[str] = field(default_factory=list)
    read_only: set[str] = field(default_factory=set)
    fixed_flags: bool = False
