"""Letters as messages: strict RFC 5322 and MIME out of what the owner typed, and what a reply begins with."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime

from icalendar import Calendar, Event, vCalAddress

from hieranome.core.errors import CallerError
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.threads import is_reply_subject
from hieranome.mail.headers import addresses

_LOCAL = re.compile(r"[A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+(\.[A-Za-z0-9!#$%&'*+/=?^_`{|}~-]+)*")
_QUOTED = re.compile(r'"(?:[^"\\]|\\.)*"')
_LABEL = re.compile(r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?")
MAX_RECIPIENTS = 200
MAX_MENTIONS = 30
"""Ids kept in References; the first and the latest count."""


@dataclass(frozen=True, slots=True)
class Written:
    """A letter ready to become a message. Ids stand in their angle brackets; ``mentions`` are those for References,
    oldest first; ``files`` are name, media type and bytes; ``calendar`` is an answer to an invitation (RFC 5546)."""

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


def recipients(typed: str) -> tuple[Correspondent, ...]:
    """The people named in a line of recipients. Raises :class:`CallerError` naming the first that is no address."""
    found: list[Correspondent] = []
    for part in _split(typed):
        people = addresses(part)
        if len(people) != 1 or not people[0].address or ":" in _QUOTED.sub("", part):
            raise CallerError(f"“{part.strip()[:80]}” is no address. Write name@domain, or Name <name@domain>.")
        found.append(Correspondent(_checked(people[0].address), people[0].name))
    if len(found) > MAX_RECIPIENTS:
        raise CallerError(f"A letter goes to {MAX_RECIPIENTS} people at most; {len(found)} are named.")
    return tuple(found)


def _split(typed: str) -> list[str]:
    """The parts between commas and semicolons that are not within quotes or brackets."""
    parts = re.findall(r'(?:"(?:[^"\\]|\\.)*"|<[^>]*>|[^,;])+', typed.replace("\n", ","))
    return [part for part in parts if part.strip()]


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
    """The letter as bytes with CRLF ends, lines of at most 998 bytes. Without ``with_bcc`` no hidden recipient is named
    (RFC 5322, section 3.6.3)."""
    message = EmailMessage(policy=SMTP.clone(max_line_length=78))
    message["From"] = _address(written.sender)
    for name, people in (("To", written.to), ("Cc", written.cc), ("Bcc", written.bcc if with_bcc else ())):
        if people:
            message[name] = tuple(map(_address, people))
    if not (written.to or written.cc):
        message["To"] = "undisclosed-recipients:;"
    message["Subject"] = " ".join(written.subject.split())
    message["Date"] = format_datetime(at)
    message["Message-ID"] = message_id
    if written.in_reply_to:
        message["In-Reply-To"] = written.in_reply_to
    mentions = _bounded(written.mentions)
    if mentions:
        message["References"] = " ".join(mentions)
    message.set_content(_ended(written.body), charset="utf-8", cte=_encoding(written.body))
    if written.calendar:
        message.add_alternative(written.calendar, subtype="calendar", charset="utf-8", cte="base64")
        message.get_payload()[-1].set_param("method", "REPLY")  # type: ignore[union-attr, index]
    for name, media_type, content in written.files:
        kind, _, sub = media_type.partition("/")
        if kind in ("multipart", "message") or not sub:
            kind, sub = "application", "octet-stream"
        message.add_attachment(content, maintype=kind, subtype=sub, filename=name)
    return message.as_bytes()


def _address(one: Correspondent) -> Address:
    return Address(" ".join(one.name.split()), addr_spec=one.address)


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
    facts: MessageFacts, owner: Owner, *, everybody: bool
) -> tuple[tuple[Correspondent, ...], tuple[Correspondent, ...]]:
    """Whom a reply goes to, and who gets a copy. An own message is answered to those it went to."""
    answer_to = facts.reply_to if facts.reply_to.address else facts.sender
    first = facts.to if owner.owns(facts.sender) else (answer_to,)
    others = (*facts.to, *facts.cc) if everybody else ()
    named = {one.address for one in first}
    rest = {one.address: one for one in others if one.address and one.address not in named and not owner.owns(one)}
    return tuple(one for one in first if one.address), tuple(rest.values())


def reply_mentions(facts: MessageFacts) -> tuple[str, ...]:
    """References of a reply (RFC 5322, section 3.6.4)."""
    before = facts.references or ((facts.in_reply_to,) if facts.in_reply_to else ())
    return tuple(filter(None, (*before, facts.message_id)))


def typed(people: Sequence[Correspondent]) -> str:
    """People as a line of recipients."""
    return ", ".join(str(_address(one)) for one in people)


def quoted(facts: MessageFacts, text: str, when: str) -> str:
    """A message as it is quoted in a reply: who wrote it when, its lines marked (RFC 3676)."""
    who = facts.sender.name or facts.sender.address or "Somebody"
    lines = [f">{line}" if line.startswith(">") else f"> {line}".rstrip() for line in text.rstrip().splitlines()]
    return "\n".join((f"{who} wrote on {when}:", *lines))


def forwarded(facts: MessageFacts, text: str, when: str) -> str:
    """A message as it is passed on within a letter."""
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
    address = re.sub(r"^mailto:", "", str(organiser), flags=re.IGNORECASE)
    return made.to_ical().decode("utf-8"), address, str(event.get("SUMMARY", "") or "(no title)")
