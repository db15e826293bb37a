"""The demo's mail, day by day: three years of it, sixty days in full, and what is still to come."""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import datetime, timedelta
from importlib import resources

from hieranome.core.buckets import SENT
from hieranome.demo import mailgen
from hieranome.demo.mailgen import Made
from hieranome.demo.render import Draft, local, received
from hieranome.demo.world import SENDERS

DAYS = 60
PER_DAY = 28
PAST = 3 * 365
"""Days before those of which a message each is still there: old mail."""
OPENING = (10, 35)
"""The time of day, hour and minute, at which the demo opens: what was written for later goes on arriving, dated as it
arrives. Before that time of today the demo is of yesterday, so that nothing bears a time that has not come."""
EXCHANGE_DAYS, EXCHANGES = 12, 2
"""For how many days there are threads that Maren began, and how many of them a day."""
TELL_THE_TIME = frozenset({"ticketing", "show cancelled", "carrier status", "carrier trouble"})
"""Kinds of mail whose text says at what time it was written: none of them arrives later than that."""
WEEK = 7
"""Days Maren has worked with it."""


@dataclass(frozen=True, slots=True)
class World:
    """The demo's mail, oldest first: what Maren brings in, what came in the week she worked with, what came since last
    night, what is to come today."""

    history: list[Made]
    week: list[Made]
    last_night: list[Made]
    to_come: list[Made]

    @property
    def truth(self) -> dict[str, str]:
        """Where every received message belongs, by Message-ID."""
        return {
            one.message_id: one.belongs
            for one in (*self.history, *self.week, *self.last_night, *self.to_come)
            if one.belongs != SENT
        }


def letters(today: datetime, name: str = "letter") -> list[Made]:
    """The letters written by hand (or what else is in the file called ``name``), dated relative to ``today``, with
    Maren's answers."""
    text = resources.files("hieranome.demo").joinpath(f"{name}s.txt").read_text(encoding="utf-8")
    rng = random.Random(7)
    made: list[Made] = []
    ids: dict[str, str] = {}
    blocks = [block.strip("\n") for block in text.split("\n====\n")]
    for number, block in enumerate(filter(None, blocks)):
        head, _, body = block.partition("\n\n")
        fields = dict(line.split(": ", 1) for line in head.splitlines() if not line.startswith("#"))
        sender = SENDERS[fields["from"]]
        at = local(today - timedelta(days=int(fields["day"])), fields["at"])
        draft = Draft(
            sender, at, fields["subject"], body, 2 * number, world=name, reply_to_id=ids.get(fields.get("re", ""), ""),
            attachment=fields.get("attach", ""), invite=fields.get("invite", ""),
            genuine=fields["from"] not in ("phish", "phish2", "spam", "spam2"),
        )  # fmt: skip
        ids[fields["key"]] = draft.message_id
        state = fields["state"]
        made.append(
            Made(
                received(draft),
                draft.message_id,
                sender.address,
                at,
                fields["belongs"],
                state != "new",
                state == "answered",
            )
        )
        if state == "answered":
            made.append(mailgen.reply_to(draft, at + timedelta(minutes=rng.randrange(8, 140)), 2 * number + 1, rng))
    return made


def world(today: datetime) -> World:
    """All the demo's mail around ``today`` (aware; its time of day does not matter)."""
    midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
    opening = midnight.replace(hour=OPENING[0], minute=OPENING[1])
    many = list(mailgen.generate(DAYS * PER_DAY, 11, midnight + timedelta(days=1), PER_DAY))
    many += mailgen.generate(PAST, 12, midnight - timedelta(days=DAYS - 1), 1)
    fresh = opening - timedelta(hours=16)
    threads = mailgen.exchanged(EXCHANGE_DAYS, 11, midnight, EXCHANGES)
    mail = sorted((*many, *threads, *letters(midnight), *letters(midnight, "bulletin")), key=lambda one: one.at)
    begun = midnight - timedelta(days=WEEK)
    history = [one for one in mail if one.at <= begun]
    week = [one for one in mail if begun < one.at <= fresh]
    last_night = [one for one in mail if fresh < one.at <= opening]
    to_come = [one for one in mail if one.at > opening and one.belongs != SENT and one.kind not in TELL_THE_TIME]
    return World(history, week, last_night, to_come)


def opened(now: datetime) -> datetime:
    """The day the demo is of when it is opened at ``now`` (aware), as its midnight."""
    day = now.replace(hour=0, minute=0, second=0, microsecond=0)
    return day if (now.hour, now.minute) >= OPENING else day - timedelta(days=1)
