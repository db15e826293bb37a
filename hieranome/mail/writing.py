"""Letters as messages: strict RFC 5322 and MIME out of what the owner typed, and what a reply begins with."""

from __future__ import annotations

import base64
import re
import secrets
import textwrap
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from email import message_from_bytes
from email.headerregistry import AddressHeader
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime

from icalendar import Calendar, Event, vCalAddress

from hieranome.core.errors import CallerError
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.threads import is_reply_subject
from hieranome.core.vouched import shown_name
from hieranome.mail.mime import parse
from hieranome.mail.people import mailboxes

_LOCAL = re.compile(r"[A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+(\.[A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+)*")
_PLAIN_NAME = re.compile(r"[A-Za-z0-9!#$%&'*+/=?^_`{|}~ -]*")
_LABEL = re.compile(r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?")
_ID = re.compile(r"<[!-;=?-~]+>")
MAX_ID = 900
"""Characters of a message id that is answered to."""
MAX_RECIPIENTS = 200
MAX_MENTIONS = 30
"""Ids kept in References; the first and the latest count."""


@dataclass(frozen=True, slots=True)
class Written:
    """What was written, ready to become a message. Ids stand in their angle brackets; ``mentions`` are those for
    References, oldest first; ``files`` are name, media type and bytes; ``calendar`` is an answer to an
    invitation (RFC 5546)."""

    sender: Correspondent
    to: tuple[Correspondent, ...]
    cc: tuple[Correspondent, ...] = ()
    bcc: tuple[Correspondent, ...] = ()
    subject: str = ""
    body: str = ""
    in_reply_to: str = ""
    mentions: tuple[str, ...] = ()
    files: tuple[tuple[str, str, bytes], ...] = field(default=())
    calendar: str = ""

    @property
    def recipients(self) -> list[str]:
        """Every address it goes to, each once."""
        return list(dict.fromkeys(one.address for one in (*self.to, *self.cc, *self.bcc)))


def new_id(sender: str) -> str:
    """A new Message-ID (RFC 5322, section 3.6.4) for what is written from an address."""
    return f"<{secrets.token_hex(12)}@{sender.rpartition('@')[2]}>"


def recipients(typed: str) -> tuple[Correspondent, ...]:
    """The people named in a line of recipients. Raises :class:`CallerError` naming the first that is no address."""
    found: list[Correspondent] = []
    for one in mailboxes(typed.replace("\n", ",")):
        if not one.address or not one.sound:
            shown = one.name if not one.address else f"{one.name} {one.address}".strip()
            raise CallerError(f"“{shown[:80]}” is no address. Write name@domain, or Name <name@domain>.")
        found.append(Correspondent(_checked(one.address), one.name))
    if len(found) > MAX_RECIPIENTS:
        raise CallerError(f"A message goes to {MAX_RECIPIENTS} people at most; {len(found)} are named.")
    return tuple(found)


def _checked(address: str) -> str:
    local, _, domain = address.rpartition("@")
    try:
        wire = domain.encode("idna").decode("ascii").lower()
    except UnicodeError:
        wire = ""
    labels = wire.split(".")
    well_formed = len(labels) > 1 and all(_LABEL.fullmatch(label) for label in labels)
    if not _LOCAL.fullmatch(local) or len(local) > 64 or not well_formed:
        raise CallerError(f"“{address[:80]}” is no address mail can be sent to. Check how it is spelt.")
    return f"{local}@{wire}"


def message_of(written: Written, message_id: str, at: datetime, *, with_bcc: bool) -> bytes:
    """The message as bytes with CRLF ends, lines of at most 998 bytes. Without ``with_bcc`` nobody in Bcc is
    named (RFC 5322, section 3.6.3). Raises :class:`CallerError` when what was made names others than it should."""
    named = {"To": written.to, "Cc": written.cc, "Bcc": written.bcc if with_bcc else ()}
    head = [("From", _people([written.sender]))]
    head += [(name, _people(people)) for name, people in named.items() if people]
    if not (written.to or written.cc):
        head.append(("To", "undisclosed-recipients:;"))
    head += [("Subject", _unstructured(written.subject)), ("Date", format_datetime(at)), ("Message-ID", message_id)]
    if _is_id(written.in_reply_to):
        head.append(("In-Reply-To", written.in_reply_to))
    mentions = _bounded(list(filter(_is_id, written.mentions)))
    if mentions:
        head.append(("References", "\r\n ".join(mentions)))
    lines = "".join(f"{name}: {value}\r\n" for name, value in head)
    raw = lines.encode("ascii") + _content(written).as_bytes()
    for name, people in named.items():
        wanted = {one.address for one in people}
        if any(found != wanted for found in _named_in(raw, name)):
            raise CallerError(
                f"The names of the recipients in {name} cannot be written so that every program reads the same "
                "addresses. Leave the names away, and only the addresses."
            )
    return raw


def _content(written: Written) -> EmailMessage:
    """The text and the files of a message, with the headers that tell of them alone."""
    message = EmailMessage(policy=SMTP.clone(max_line_length=78))
    message.set_content(_ended(written.body), charset="utf-8", cte=_encoding(written.body))
    if written.calendar:
        message.add_alternative(written.calendar, subtype="calendar", charset="utf-8", cte="base64")
        message.get_payload()[-1].set_param("method", "REPLY")  # type: ignore[union-attr, index]
    for name, media_type, content in written.files:
        kind, _, sub = media_type.partition("/")
        if kind in ("multipart", "message") or not sub:
            kind, sub = "application", "octet-stream"
        message.add_attachment(content, maintype=kind, subtype=sub, filename=" ".join(name.split()))
    return message


def _named_in(raw: bytes, header: str) -> Iterator[set[str]]:
    """The addresses a header of a finished message names, as two readers find them: ours and the standard library's."""
    yield {one.address for value in parse(raw).headers.every(header.lower()) for one in mailboxes(value)}
    told = message_from_bytes(raw, policy=SMTP).get_all(header, [])
    yield {one.addr_spec.lower() for value in told if isinstance(value, AddressHeader) for one in value.addresses}


def _people(people: Sequence[Correspondent]) -> str:
    """A list of people, one a line; no name can become an address."""
    return ",\r\n ".join(_mailbox(one) for one in people)


def _mailbox(one: Correspondent) -> str:
    name = " ".join(one.name.split())
    if not name:
        return one.address
    if _PLAIN_NAME.fullmatch(name) and len(name) <= 40 and "=?" not in name:
        return f"{name} <{one.address}>"
    return f"{_encoded(name)}\r\n <{one.address}>"


def _encoded(text: str) -> str:
    """Text as encoded words (RFC 2047) of at most 75 characters, a line each; they hold no character that means
    anything in a header."""
    words, pending = [], b""
    for character in text:
        raw = character.encode("utf-8", "replace")
        if len(pending) + len(raw) > 42:
            words.append(pending)
            pending = b""
        pending += raw
    words.append(pending)
    return "\r\n ".join(f"=?utf-8?b?{base64.b64encode(word).decode('ascii')}?=" for word in words)


def _unstructured(text: str) -> str:
    """A subject: folded where it is plain, as encoded words where it is not (RFC 5322, section 2.2.3; RFC 2047)."""
    line = " ".join(text.split())
    if line.isascii() and line.isprintable() and "=?" not in line and all(len(word) < 70 for word in line.split(" ")):
        return "\r\n ".join(textwrap.wrap(line, 68, break_long_words=False, break_on_hyphens=False))
    return _encoded(line)


def _is_id(said: str) -> bool:
    """Whether something that stands for a message id can be written as one: in brackets, of ASCII that can be seen, and
    short enough for a line (RFC 5322, sections 2.1.1 and 3.6.4). Another program's can be anything."""
    return len(said) <= MAX_ID and _ID.fullmatch(said) is not None


def _bounded(mentions: Sequence[str]) -> list[str]:
    every = list(dict.fromkeys(filter(None, mentions)))
    return every if len(every) <= MAX_MENTIONS else [every[0], *every[-MAX_MENTIONS + 1 :]]


def _ended(body: str) -> str:
    text = body.replace("\r\n", "\n").replace("\r", "\n").replace("\x00", "")
    return text if text.endswith("\n") else f"{text}\n"


def _encoding(body: str) -> str:
    plain = body.isascii() and all(len(line) <= 76 for line in body.splitlines())
    return "7bit" if plain else "quoted-printable"


# --- what a reply begins with -------------------------------------------------------------


def reply_subject(subject: str, mark: str) -> str:
    """The subject of a reply (``Re``) or a forward (``Fwd``), marked once."""
    clean = " ".join(subject.split())
    return clean if mark == "Re" and is_reply_subject(clean) else f"{mark}: {clean}"


def reply_people(
    facts: MessageFacts, owner: Owner, *, mine: bool, everybody: bool
) -> tuple[tuple[Correspondent, ...], tuple[Correspondent, ...]]:
    """Whom a reply goes to, and who gets a copy. A message of the owner's (``mine``) is answered to those it went
    to."""
    answer_to = facts.reply_to if facts.reply_to.address else facts.sender
    first = facts.to if mine else (answer_to,)
    others = (*facts.to, *facts.cc) if everybody else ()
    named = {one.address for one in first}
    rest = {one.address: one for one in others if one.address and one.address not in named and not owner.owns(one)}
    return tuple(one for one in first if one.address), tuple(rest.values())


def reply_mentions(facts: MessageFacts) -> tuple[str, ...]:
    """References of a reply (RFC 5322, section 3.6.4)."""
    before = facts.references or ((facts.in_reply_to,) if facts.in_reply_to else ())
    return tuple(filter(None, (*before, facts.message_id)))


def typed(people: Sequence[Correspondent]) -> str:
    """People as a line of recipients; a name that poses as another address is left away."""
    return ", ".join(_typed(one) for one in people if one.address)


def _typed(one: Correspondent) -> str:
    name = shown_name(one)
    if not name:
        return one.address
    if not _PLAIN_NAME.fullmatch(name):
        name = '"' + name.replace("\\", "\\\\").replace('"', '\\"') + '"'
    return f"{name} <{one.address}>"


def quoted(facts: MessageFacts, text: str, when: str) -> str:
    """A message as it is quoted in a reply: who wrote it when, its lines marked (RFC 3676)."""
    who = facts.sender.name or facts.sender.address or "Somebody"
    lines = [f">{line}" if line.startswith(">") else f"> {line}".rstrip() for line in text.rstrip().splitlines()]
    return "\n".join((f"{who} wrote on {when}:", *lines))


def forwarded(facts: MessageFacts, text: str, when: str) -> str:
    """A message as it is passed on within a message."""
    head = [
        ("From", typed((facts.sender,)) if facts.sender.address else ""),
        ("Date", when),
        ("To", typed(facts.to)),
        ("Cc", typed(facts.cc)),
        ("Subject", facts.subject),
    ]
    lines = "\n".join(f"{name}: {value}" for name, value in head if value)
    return f"Passed on:\n\n{textwrap.dedent(lines)}\n\n{text.rstrip()}\n"


# --- answers to invitations ---------------------------------------------------------------

PARTICIPATION = {"accepted": "ACCEPTED", "tentative": "TENTATIVE", "declined": "DECLINED"}


def invitation_answer(invitation: bytes, who: Correspondent, answer: str, at: datetime) -> tuple[str, str, str]:
    """An answer to an invitation (RFC 5546, section 3.2.3): the calendar text, the organiser's address, the title.

    Raises :class:`CallerError` when the invitation asks for none.
    """
    try:
        asked = Calendar.from_ical(invitation)
        event = next(iter(asked.walk("VEVENT")))
        organiser = event["ORGANIZER"]
        uid = event["UID"]
    except (ValueError, KeyError, StopIteration, IndexError) as exc:
        raise CallerError("This invitation names nobody to answer to.") from exc
    address = re.sub(r"^mailto:", "", str(organiser), flags=re.IGNORECASE)
    named = mailboxes(address)
    if isinstance(organiser, list) or len(named) != 1 or not named[0].sound or "@" not in named[0].address:
        raise CallerError("This invitation does not name exactly one organiser, so there is nobody to answer to.")
    made = Calendar()
    made.add("PRODID", "-//Hieranome//EN")
    made.add("VERSION", "2.0")
    made.add("METHOD", "REPLY")
    reply = Event()
    reply["UID"] = uid
    reply["ORGANIZER"] = organiser
    for name in ("SEQUENCE", "DTSTART", "DTEND", "RECURRENCE-ID", "SUMMARY"):
        if name in event:
            reply[name] = event[name]
    reply.add("DTSTAMP", at)
    attendee = vCalAddress(f"mailto:{who.address}")
    attendee.params["PARTSTAT"] = PARTICIPATION[answer]
    if who.name:
        attendee.params["CN"] = who.name
    reply.add("ATTENDEE", attendee, encode=False)
    made.add_component(reply)
    return made.to_ical().decode("utf-8"), named[0].address, str(event.get("SUMMARY", "") or "(no title)")
