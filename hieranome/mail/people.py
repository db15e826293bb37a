"""Address headers (RFC 5322, section 3.4, with the obsolete forms of 4.4) read in linear time, and who wrote a message.

Two questions are kept apart. Whom a header names is answered kindly: what real mail breaks is put right where it can
be. Who sent a message is answered strictly: a header that does not name exactly one mailbox names nobody, because
others may read it as naming somebody else.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from hieranome.core.facts import NOBODY, Correspondent

MAX_ADDRESS = 320
"""Characters of an address (RFC 5321, section 4.5.3.1: 64 for the local part, 255 for the domain)."""
MAX_NAME = 1_000

_TOKEN = re.compile(
    r"=\?[^?\s]{1,60}\?[bq]\?[^?\s]*\?="  # an encoded word is one word, whatever it holds
    r'|"[^"\\]*(?:\\.[^"\\]*)*("?)'
    r"|\[[^\[\]\s]*\]|[()<>,;:\[\]]|[^\s\"()<>,;:\[\]]+|\s+",
    re.DOTALL | re.IGNORECASE,
)
_ANGLE = re.compile(r'<((?:"[^"\\]*(?:\\.[^"\\]*)*"|[^<>"])*)>')
_STOP = re.compile(r"[<,;]")
_IN_COMMENT = re.compile(r"[()\\]")
_ESCAPED = re.compile(r"\\(.)", re.DOTALL)
_ADDRESS = re.compile(r"""(?:[^\s"(),:;<>@\[\]\\]+|"(?:[^"\\]|\\.)*")@(?:[^\s"(),:;<>@\[\]\\/?#%]+|\[[^\s\[\]\\]*\])""")


@dataclass(slots=True)
class Mailbox:
    """One mailbox a header names; ``sound`` says that nothing about it had to be guessed."""

    address: str
    name: str
    sound: bool = True


@dataclass(slots=True)
class _Entry:
    """What stands between two separators of a list."""

    words: list[str] = field(default_factory=list)
    comments: list[str] = field(default_factory=list)
    angle: str | None = None
    glued: bool = False
    """Whether the last word goes on in the next token: no white space stood between."""
    sound: bool = True

    def add(self, word: str) -> None:
        if self.angle is not None:
            self.sound = False
        if self.glued and self.words:
            self.words[-1] += word
        else:
            self.words.append(word)
        self.glued = True


def mailboxes(value: str) -> list[Mailbox]:
    """Every mailbox of an address header's value, in order, groups opened; names are not decoded yet. Entries that
    name no address come with an empty one."""
    found: list[Mailbox] = []
    entry = _Entry()
    in_group = False
    at = 0
    while at < len(value):
        match = _TOKEN.match(value, at)
        if match is None:  # a lone quote or bracket cannot happen: every character begins some token
            break
        token = match.group()
        at = match.end()
        if token == "(":
            text, at, closed = _comment(value, at)
            entry.comments.append(text)
            entry.sound &= closed
            entry.glued = False
        elif token == "<":
            if entry.angle is not None:
                entry.sound = False
                found += _finished(entry)
                entry = _Entry(sound=False)
            entry.angle, at, closed = _angle(value, at - 1)
            entry.sound &= closed
            entry.glued = False
        elif token == "," or token == ";":
            found += _finished(entry)
            in_group = in_group and token != ";"
            entry = _Entry(sound=not in_group)
        elif token == ":":
            in_group = True
            entry = _Entry(sound=False)  # a group names no one mailbox, however few are in it
        elif token.isspace():
            entry.glued = False
        else:
            entry.sound &= token not in (")", ">", "[", "]") and match.group(1) != ""
            entry.add(token)
    return found + _finished(entry)


def _comment(value: str, at: int) -> tuple[str, int, bool]:
    """The text of a comment (they nest, RFC 5322, section 3.2.2), the place behind it, and whether it was closed."""
    depth = 1
    begin = at
    while (match := _IN_COMMENT.search(value, at)) is not None:
        at = match.end()
        if match.group() == "\\":
            at += 1
        else:
            depth += 1 if match.group() == "(" else -1
        if depth == 0:
            return _ESCAPED.sub(r"\1", value[begin : match.start()]).strip(), at, True
    return value[begin:].strip(), len(value), False


def _angle(value: str, at: int) -> tuple[str, int, bool]:
    """What stands in angle brackets from ``at`` on, the place behind, and whether they were closed; one that is not
    ends at the next comma."""
    match = _ANGLE.match(value, at, at + 4 * MAX_ADDRESS)
    if match is not None:
        return match.group(1).strip(), match.end(), True
    stop = _STOP.search(value, at + 1)
    end = stop.start() if stop else len(value)
    return value[at + 1 : end].strip(" \t>"), end, False


def _finished(entry: _Entry) -> list[Mailbox]:
    """What an entry comes to: mostly one mailbox, none, or several that stand side by side."""
    if entry.angle is not None:
        address, routed = _without_route(entry.angle)
        name = _phrase(entry.words) or " ".join(entry.comments)
        if not address and not name:
            return []
        good = _good(address)
        return [Mailbox(address.lower() if good else "", name if good else f"{name} {address}".strip(),
                        entry.sound and good and not routed)]  # fmt: skip
    comments = " ".join(entry.comments)
    named = [word for word in entry.words if _good(word)]
    if not named:
        if len(entry.words) == 1 and "@" not in entry.words[0] and entry.words[0][0] != '"':
            # A local name, as machines write to themselves.
            return [Mailbox(entry.words[0].lower()[:MAX_ADDRESS], comments, entry.sound)]
        name = _phrase(entry.words) or comments
        return [Mailbox("", name, "@" not in name)] if name else []
    alone = len(entry.words) == 1
    rest = _phrase([word for word in entry.words if word not in named])
    return [Mailbox(word.lower(), rest or comments, entry.sound and alone) for word in named]


def _without_route(address: str) -> tuple[str, bool]:
    """An address without its source route (RFC 5322, section 4.4), and whether it had one."""
    if not address.startswith("@"):
        return address, False
    return address.rpartition(":")[2].strip(), True


def _good(address: str) -> bool:
    return len(address) <= MAX_ADDRESS and _ADDRESS.fullmatch(address) is not None


def _phrase(words: Sequence[str]) -> str:
    """Words of a display name, the quotes of quoted ones undone."""
    return " ".join(_unquoted(word) for word in words).strip()[:MAX_NAME]


def _unquoted(word: str) -> str:
    if not word.startswith('"'):
        return word
    inner = word[1:-1] if len(word) > 1 and word.endswith('"') else word[1:]
    return _ESCAPED.sub(r"\1", inner).strip()


def addresses(value: str) -> tuple[Correspondent, ...]:
    """The correspondents of an address header, in order; names as they stand, encoded words not decoded."""
    return tuple(Correspondent(one.address, one.name) for one in mailboxes(value))


SEVERAL_SENDERS = "several senders"
SENDER_MISSING = "sender missing"


def sender_of(values: Sequence[str]) -> tuple[Correspondent, str]:
    """Who a message's From headers say wrote it, and what is wrong with them (an empty string where nothing is).

    Exactly one mailbox in exactly one header, with nothing about it that two readers could read differently: else it
    is nobody's, named by what stands there, and the fault is :data:`SEVERAL_SENDERS`, or :data:`SENDER_MISSING` where
    no address stands at all.
    """
    if not values:
        return NOBODY, SENDER_MISSING
    found = mailboxes(values[0])
    named = [one for one in found if "@" in one.address or (one.address and len(found) == 1)]
    shown = " ".join(values[0].split())[:MAX_NAME]
    if len(values) > 1 or len(named) > 1 or any("@" in one.name for one in found if not one.address):
        return Correspondent("", shown), SEVERAL_SENDERS
    if not named:
        return Correspondent("", shown), SENDER_MISSING
    one = named[0]
    if not one.sound:
        return Correspondent("", shown), SEVERAL_SENDERS
    # An unquoted comma in a name is common and harmless: no other address stands in the header.
    before = [_as_written(values[0], other) for other in found[: found.index(one)]]
    return Correspondent(one.address, ", ".join([*before, one.name]) if before else one.name), ""


def _as_written(value: str, one: Mailbox) -> str:
    """The part of a name that stands before an unquoted comma, its capitals kept."""
    word = one.name or one.address
    at = value.lower().find(word.lower())
    return value[at : at + len(word)] if at >= 0 else word
