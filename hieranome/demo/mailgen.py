"""Any amount of the demo's world, from a seed: the mail, what was done with it, where it belongs."""

from __future__ import annotations

import csv
import random
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cache
from heapq import merge
from itertools import accumulate
from pathlib import Path

from hieranome.core.buckets import SENT
from hieranome.core.errors import Unreadable
from hieranome.demo.exchanges import PER_DAY as THREADS
from hieranome.demo.exchanges import Awaits, Exchanges, Written, belongs, raw_of
from hieranome.demo.grammar import expand, sentences
from hieranome.demo.kinds import KINDS, Kind
from hieranome.demo.matters import MATTERS, OWN
from hieranome.demo.render import Draft, received, sent
from hieranome.demo.world import BULK, OWNER, SENDERS, Sender
from hieranome.mail.mbox import write_message

LAST_DAY = datetime(2026, 1, 1, tzinfo=UTC)
"""The day before which generated mail ends, so that the same seed always writes the same bytes."""
PER_DAY = 60


@dataclass(frozen=True, slots=True)
class Made:
    """One generated message, in order of time. ``belongs`` is ``sent`` for the owner's own; ``kind`` is the kind it was
    written as, see :mod:`hieranome.demo.kinds`, and ``source`` who it was meant to come from (the name of a sender or
    list in this generator, whatever stands in its headers); both are empty for the owner's own. ``awaits`` says whose
    answer it was written to want (see :data:`hieranome.demo.exchanges.Awaits`), ``settled_by`` is the Message-ID of the
    message that gave it (empty: none did)."""

    raw: bytes
    message_id: str
    sender: str
    at: datetime
    belongs: str
    read: bool
    answered: bool
    kind: str = ""
    source: str = ""
    awaits: Awaits = ""
    settled_by: str = ""


_POOLS: dict[str, tuple[str, int, bool]] = {
    # domain pattern, how many correspondents per thousand messages, bulk or not
    "halls": ("house{n}.example", 6, False),
    "players": ("quillmark.example", 4, False),
    "travel": ("travel{n}.example", 5, False),
    "friends": ("freemail.example", 8, False),
    "agents": ("artists{n}.example", 8, False),
    "sellers": ("leads{n}.example", 14, False),
    "crooks": ("win{n}.example", 20, False),
    "shops": ("shop{n}.example", 4, True),
    "shops_o": ("orders{n}.example", 3, False),
    "papers": ("paper{n}.example", 4, True),
}


def writes_to_many(source: str) -> bool:
    """Whether a source is meant as a list or another who writes to many."""
    pool, _, number = source.partition(" ")
    return _POOLS[pool][2] if number else source in BULK


@cache
def pool_sender(pool: str, number: int) -> Sender:
    """The ``number``-th made-up correspondent of a pool; always the same one."""
    rng = random.Random(f"{pool} {number}")
    pattern, _, bulk = _POOLS[pool]
    domain = pattern.format(n=number)
    first, last = expand("<first>", rng), expand("<last>", rng)
    if bulk:
        name = expand("[<last> & <last>|<town> <good>|<adj> <good>|The <town> Letter]", rng).title()
        return Sender(name, f"news@{domain}", list_id=f"news.{domain}", unsubscribe=True, html=True)
    local = f"{first}.{last}{number if 'quillmark' in domain or 'freemail' in domain else ''}".lower()
    return Sender(f"{first} {last}", f"{local}@{domain}", html=pool == "crooks", to=OWNER)


_WANTS_ANSWER = frozenset({"hall asks", "player asks", "travel asks", "around", "union vote"})
"""The kinds that are written to be answered."""


def generate(
    count: int, seed: int, end: datetime = LAST_DAY, per_day: int = PER_DAY, *, exchanges: bool = False
) -> Iterator[Made]:
    """``count`` messages before ``end``, oldest first, the owner's answers among them. With ``exchanges`` also, beyond
    that number, threads that the owner began, and promises (:mod:`hieranome.demo.exchanges`)."""
    mail = _generate(count, seed, end, per_day)
    return (
        merge(mail, exchanged(max(1, -(-count // per_day)), seed, end), key=lambda one: one.at) if exchanges else mail
    )


def exchanged(days: int, seed: int, end: datetime, threads: int = THREADS) -> Iterator[Made]:
    """The messages of threads the owner began, or promised something in, so many a day, oldest first."""
    world = Exchanges(seed, end)
    waiting: list[Written] = []
    for day in range(days, 0, -1):
        start = end - timedelta(days=day)
        waiting += world.day(start, threads)
        waiting.sort(key=lambda one: one.draft.at)
        while waiting and (day == 1 or waiting[0].draft.at < start + timedelta(days=1)):
            one = waiting.pop(0)
            address = one.draft.sender.address
            yield Made(
                raw_of(one), one.draft.message_id, address, one.draft.at, belongs(one), True, bool(one.settled_by)
                and one.awaits == "owner", "", one.source, one.awaits, one.settled_by,
            )  # fmt: skip


def _generate(count: int, seed: int, end: datetime, per_day: int) -> Iterator[Made]:
    rng = random.Random(seed)
    bounds = list(accumulate(kind.weight for kind in KINDS))
    sizes = {pool: max(3, round(per * min(count, 100_000) / 1000)) for pool, (_, per, _) in _POOLS.items()}
    days = max(1, -(-count // per_day))
    made = 0
    waiting: list[Made] = []
    for day in range(days):
        start = end - timedelta(days=days - day)
        today = min(per_day, count - made)
        batch = waiting
        waiting = []
        for _ in range(today):
            kind = rng.choices(KINDS, cum_weights=bounds)[0]
            for one in _make(kind, start, made, rng, sizes, seed):
                (batch if one.at < start + timedelta(days=1) else waiting).append(one)
                made += 1
        batch.sort(key=lambda one: (one.at, one.message_id))
        yield from batch
        if made >= count:
            break
    yield from sorted(waiting, key=lambda one: one.at)


def _make(
    kind: Kind, day: datetime, number: int, rng: random.Random, sizes: dict[str, int], seed: int
) -> Iterator[Made]:
    key = rng.choice(kind.senders.split())
    source, sender = key, SENDERS.get(key)
    if sender is None:
        member = int(sizes[key[1:]] * rng.random() ** 1.6)
        source, sender = f"{key[1:]} {member}", pool_sender(key[1:], member)
    first, last = kind.hours
    at = day + timedelta(hours=rng.randint(first, last), minutes=rng.randrange(60), seconds=rng.randrange(60))
    subject, body = rng.choice(kind.letters[_matter(source) if "" not in kind.letters else ""])
    said = {**_own(source, sender), "stamp": f"{at:%H}:00"}
    draft = Draft(
        sender=sender,
        at=at,
        subject=_sentence(subject, rng, said),
        body=_sentence(body, rng, said),
        number=number,
        world=f"s{seed}",
        attachment=kind.attachment if rng.random() < 0.4 else "",
        invite="Meeting" if kind.name == "invitations" else "",
        genuine=kind.name not in ("phishing", "spam"),
    )
    answered = rng.random() < kind.answered
    read = answered or rng.random() < kind.read
    reply = reply_to(draft, at + timedelta(minutes=rng.randrange(5, 300)), number + 1, rng) if answered else None
    awaits: Awaits = "owner" if kind.name in _WANTS_ANSWER else ""
    yield Made(
        received(draft), draft.message_id, sender.address, at, kind.belongs, read, answered, kind.name, source,
        awaits, reply.message_id if reply and awaits else "",
    )  # fmt: skip
    if reply:
        yield reply


def reply_to(draft: Draft, at: datetime, number: int, rng: random.Random) -> Made:
    """The owner's short answer to a message."""
    body = expand(
        "[Yes, please do.|No, leave it as it is.|I will call you at <hour>.|Yes, and thank you for asking.|"
        "That is fine with me.|Good, go ahead.|Please wait until <day>, I have to ask <first>.]\n\nMaren\n",
        rng,
    )
    subject = draft.subject if draft.subject.startswith("Re:") else f"Re: {draft.subject}"
    me = Sender("Maren Aldous", OWNER)
    answer = Draft(
        me, at, subject, body, number, world=draft.world, reply_to_id=draft.message_id, to=draft.sender.address
    )
    awaits: Awaits = "promise" if body.startswith("I will") else ""
    return Made(sent(answer), answer.message_id, OWNER, at, SENT, True, False, awaits=awaits)


def _matter(source: str) -> str:
    """What a correspondent writes about."""
    pool, _, number = source.partition(" ")
    own = MATTERS[f"*{pool}" if number else pool]
    return own[int(number or 0) % len(own)]


@cache
def _own(source: str, sender: Sender) -> Mapping[str, str]:
    """What a correspondent's mail always says alike: how they sign, their hall, instrument, wares and town."""
    rng = random.Random(f"own {source}")
    said: dict[str, str] = {}
    own = {
        "me": sender.sign or sender.name.split()[0],
        "house": "<hall>",
        "own": "<instrument>",
        "ware": "<good>",
        "home": "<town>",
    }
    own |= OWN.get(source, {})
    return {name: expand(rule, rng, said) for name, rule in own.items()}


def _sentence(rule: str, rng: random.Random, said: dict[str, str]) -> str:
    """Pick one of the alternatives at the top level, then expand it; ``said`` is what the letter says already."""
    depth, options, start = 0, [], 0
    for at, char in enumerate(rule):
        depth += (char == "[") - (char == "]")
        if char == "|" and depth == 0:
            options.append(rule[start:at])
            start = at + 1
    return sentences(expand(rng.choice([*options, rule[start:]]), rng, said))


def with_status(one: Made) -> bytes:
    """The bytes with the Status headers by which an mbox tells what was read and answered."""
    if one.belongs == SENT:
        return one.raw
    letters = b"Status: RO\r\n" if one.read else b"Status: O\r\n"
    return letters + (b"X-Status: A\r\n" if one.answered else b"") + one.raw


def write(count: int, seed: int, out: Path, truth: Path | None, *, exchanges: bool = False) -> int:
    """Write an mbox and, if asked, the CSV of what belongs where; returns the number of messages."""
    written = 0
    try:
        with out.open("wb") as file, _truth_file(truth) as table:
            for one in generate(count, seed, exchanges=exchanges):
                raw = with_status(one).replace(b"\r\n", b"\n")
                write_message(file, raw, one.sender, one.at.astimezone(UTC).strftime("%a %b %e %H:%M:%S %Y"))
                table.row(one)
                written += 1
    except OSError as exc:
        raise Unreadable(f"{exc.filename or out} cannot be written ({exc.strerror}). Choose another place.") from exc
    return written


class _truth_file:  # noqa: N801 - used like a function
    """A CSV of message_id, bucket, the kind each was written as, who it was meant to come from, whether that is one who
    writes to many, whose answer it awaits and what settled that; or nothing at all."""

    def __init__(self, path: Path | None) -> None:
        self._file = path.open("w", newline="", encoding="utf-8") if path else None
        self._writer = csv.writer(self._file) if self._file else None

    def __enter__(self) -> _truth_file:
        if self._writer:
            self._writer.writerow(("message_id", "bucket", "kind", "source", "bulk", "awaits", "settled_by"))
        return self

    def row(self, one: Made) -> None:
        if self._writer:
            bulk = int(writes_to_many(one.source))
            told = (one.message_id, one.belongs, one.kind, one.source, bulk, one.awaits, one.settled_by)
            self._writer.writerow(told)

    def __exit__(self, *exc: object) -> None:
        if self._file:
            self._file.close()
