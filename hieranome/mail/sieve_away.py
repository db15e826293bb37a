"""The away notice as Sieve vacation (RFC 5230), as far as a server can know what it asks.

Vacation itself keeps who was told and never answers lists, machines and the owner; what else RFC 3834 forbids, and the
time away, stand as conditions before it (currentdate, RFC 5260; envelope, RFC 5228).
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from hieranome.core.away import LIST_HEADERS, Away, Circle
from hieranome.core.conditions import Node
from hieranome.core.recurring import NOT_PERSONAL
from hieranome.mail.sieve_writing import CannotSay, OnServer, quoted, test_of

HANDLE = "hieranome-away"
"""By what a server knows whom it told, whatever the text becomes (RFC 5230, section 4.2)."""
_NOBODY = (
    "mailer-daemon", "postmaster", "listserv", "majordomo", "noreply*", "no-reply*", "donotreply*", "do-not-reply*",
    "*-noreply", "*-bounce", "*-bounces", "*-bounce+*", "*-bounces+*", "*-bounces=*", "bounce", "bounces", "bounce-*",
    "bounces-*", "bounce+*", "bounces+*", "owner-*", "*-owner", "*-request", "*-relay",
)  # fmt: skip
"""As ``:matches`` finds them: what stands before the @ of addresses nobody reads."""


def vacation_of(
    away: Away, nodes: Sequence[Node | None], names: OnServer, addresses: Sequence[str], sender: str
) -> tuple[str, list[tuple[Circle, str]]]:
    """The blocks that send the notice, and what of each circle a server cannot do (empty: it can all). ``nodes`` are
    the lines of the circles, ``addresses`` those of the owner. Empty where no circle can be said."""
    left: list[tuple[Circle, str]] = []
    blocks: list[str] = []
    for one, node in zip(away.circles, nodes, strict=True):
        try:
            blocks.append(
                f"{'elsif' if blocks else 'if'} {_holds(one, node, names)} {{ {_told(one, away, addresses, sender)} }}"
            )
        except CannotSay as exc:
            left.append((one, f"left out there: {exc}"))
            continue
        if len(one.texts) > 1:
            left.append((one, "they get the text for every language: a server does not know the language of a message"))
    if "vacation " not in "".join(blocks):
        return "", left
    chain = " ".join(blocks)
    return f"if allof ({', '.join((*_within(away), *_MAY, _names(addresses)))}) {{ {chain} }}", left


def _holds(one: Circle, node: Node | None, names: OnServer) -> str:
    if one.who == "all":
        return "true"
    if node is None:
        raise CannotSay("whom you ever wrote to is known here alone")
    return test_of(node, names)


def _told(one: Circle, away: Away, addresses: Sequence[str], sender: str) -> str:
    if not one.texts:
        return "if false { stop; }"  # a block has to say something; nobody is told anything
    listed = ", ".join(quoted(address) for address in addresses)
    text = one.texts[""].replace("\r\n", "\n").replace("\\", "\\\\").replace('"', '\\"')
    return f'vacation :days {away.days} :from {quoted(sender)} :addresses [{listed}] :handle {quoted(HANDLE)} "{text}";'


def _within(away: Away) -> tuple[str, str]:
    """That it is not before the one time nor after the other, in UTC."""
    return f"not {_before(away.begins)}", _before(away.ends)


def _before(at: int) -> str:
    moment = datetime.fromtimestamp(at, UTC)
    day, hour = f"{moment:%Y-%m-%d}", f"{moment:%H:%M:%S}"
    same = f'currentdate :zone "+0000" :value "eq" "date" "{day}"'
    return (
        f'anyof (currentdate :zone "+0000" :value "lt" "date" "{day}", '
        f'allof ({same}, currentdate :zone "+0000" :value "lt" "time" "{hour}"))'
    )


_MAY = (
    *(f"not exists {quoted(name)}" for name in LIST_HEADERS),
    f'not header :is "precedence" [{", ".join(quoted(one) for one in sorted(NOT_PERSONAL))}]',
    'not header :contains "x-auto-response-suppress" ["all", "oof", "autoreply"]',
    'anyof (not exists "auto-submitted", header :matches "auto-submitted" ["no", "no;*", "no (*"])',
    *(f"not exists {quoted(name)}" for name in ("x-autoreply", "x-autorespond", "x-autoresponder")),
    'not header :contains "content-type" "multipart/report"',
    f'not envelope :localpart :matches "from" [{", ".join(quoted(one) for one in _NOBODY)}]',
    f'not address :localpart :matches "from" [{", ".join(quoted(one) for one in _NOBODY)}]',
)
"""What RFC 3834 (section 2) asks of a message before it is answered, beyond what vacation looks at itself."""


def _names(addresses: Sequence[str]) -> str:
    """That the owner did not write it."""
    return f'not address :is "from" [{", ".join(quoted(one) for one in addresses)}]'
