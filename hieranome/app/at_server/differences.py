"""The away notice sent by the server of a mailbox: what it does there otherwise than here."""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.app.at_server.scripting import script_for
from hieranome.app.room.mailroom import Mailroom


@dataclass(frozen=True, slots=True)
class Difference:
    """What a server does otherwise: of which circle or mail, and how."""

    what: str
    why: str


_ALWAYS = (
    Difference("Mail in Junk, the Trash or the Drain", "is answered there, for where it stands here is not known"),
    Difference("Mail that proves forged", "is answered there, for what other servers found is not looked at"),
    Difference("Who got a notice", "is not shown, and who got one from here can get another from there"),
    Difference("Mail that says in many words that no machine wrote it", "may be left unanswered there"),
    Difference("Mail to an address with a tag", "is answered there only where the server knows the address as yours"),
)
"""Whatever the circles."""


def differences(room: Mailroom, account: int) -> list[Difference]:
    """What the server of a mailbox does otherwise than Hieranome with the notice as it is set. Raises
    :class:`hieranome.core.errors.CallerError` where it can send no part of it."""
    script = script_for(room, account, frozenset(), with_away=True)
    return [*(Difference(circle.name, why) for circle, why in script.away_left), *_ALWAYS]
