"""The demo's house: three years of Maren's mail in a data folder, sixty days of it in full, and what comes next."""

from __future__ import annotations

import json
import random
import shutil
import time
from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import replace
from datetime import datetime, timedelta
from itertools import groupby
from pathlib import Path

from hieranome.app import filing
from hieranome.app.access.vault import Vault
from hieranome.app.bulk import addresses, planning
from hieranome.app.bulk.compiling import compile_due, first_plan
from hieranome.app.bulk.draining import let_go
from hieranome.app.mailbox import history as reading_in
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.syncing import sync
from hieranome.app.room import marks
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Guest, Service
from hieranome.app.teaching import vouching
from hieranome.core.addresses import Purpose
from hieranome.core.buckets import ARCHIVE, DESK, SENT
from hieranome.demo import mailgen
from hieranome.demo.days import World, opened, world
from hieranome.demo.mailgen import Made
from hieranome.demo.owner import (
    Maren,
    arrange_desk,
    follow_through,
    keep_tags,
    plan_to_be_away,
    say_often,
    say_rules,
    say_topics,
    work_queue,
)
from hieranome.demo.post import SECRET, DemoPost
from hieranome.demo.render import dated
from hieranome.demo.world import (
    OLD,
    OWNER,
    OWNER_ADDRESSES,
    SERVER,
    SHARED,
    TAGGED,
    TAGGED_FOR,
    TOURS,
    VOUCHED,
)
from hieranome.mail.imap import Imap
from hieranome.standin.delivery import Delivery
from hieranome.store import accounts, editions, messages, settings

STALE_AFTER = 20 * 3600
FIRST_LESSONS, DAILY_LESSONS = 36, 10
"""How many lessons she gives at most on what she brought in, and each evening."""
GUEST_MAIL = 240
"""Messages in the second mailbox, which waits to be connected."""
STAMP = "demo.json"


def open_demo(
    folder: Path, *, interval: float = 6.0, say: Callable[[str], None] | None = None, now: datetime | None = None
) -> Service:
    """The demo in ``folder``, made anew when there is none of today; what is to come waits in the delivery."""
    now = now or datetime.now().astimezone()
    stamp = folder / STAMP
    day = _made_for(stamp)
    mail = world(day or opened(now))
    if day is None:
        if say is not None:
            say("Writing three years of demo mail ...")
        _clear(folder)
        stamp.write_text(json.dumps({"made": 0}), encoding="utf-8")
        _fill(folder, mail)
        made = {"made": time.time(), "day": opened(now).isoformat()}
        stamp.write_text(json.dumps(made), encoding="utf-8")
    room = Mailroom(folder)
    post = DemoPost(folder)
    with room.change() as db:
        for account in accounts.every(db):
            accounts.update(db, account.id, imap_port=post.imap.port, smtp_port=post.smtp.port)
    service = Service.of(room, demo_delivery(mail, post, interval), demo=True, open_to_all=True)
    service.beside.append(post)
    service.unsubscriber.dial = post.leaving.dial
    service.guest = Guest(TOURS, SECRET, post.imap.port, post.smtp.port)
    if say is not None:
        say(f"Any mail program can join in: IMAP 127.0.0.1:{post.imap.port}, SMTP :{post.smtp.port}, not encrypted,")
        say(f"user {OWNER}, password {SECRET}.")
    return service


def demo_delivery(mail: World, post: DemoPost, interval: float) -> Delivery:
    """What is still to come today and is not here yet: it arrives at the server."""
    coming = {one.raw: one.at for one in mail.to_come if not post.box.holds(one.message_id)}

    def deliver(raw: bytes) -> None:
        post.deliver(dated(raw, coming[raw], datetime.now().astimezone()))

    return Delivery(coming, deliver, interval, post.still_comes)


def _made_for(stamp: Path) -> datetime | None:
    """The day for which the demo in a folder was made; ``None`` where there is none, or an old one."""
    try:
        said = json.loads(stamp.read_text(encoding="utf-8"))
        return datetime.fromisoformat(said["day"]) if time.time() - float(said["made"]) < STALE_AFTER else None
    except (OSError, ValueError, KeyError, TypeError):
        return None


def _clear(folder: Path) -> None:
    """Remove an old demo, and nothing that is not one."""
    if (folder / STAMP).is_file():
        shutil.rmtree(folder)
    folder.mkdir(parents=True, exist_ok=True)


def _fill(folder: Path, mail: World) -> None:
    """Maren connects her mailbox, whose history is read, corrects some of what stands wrong, lets it route, and works
    through the week as it arrives; what came since last night she has not seen."""
    clock = _Calendar(mail.week[0].at if mail.week else mail.history[-1].at)
    room = Mailroom(folder, clock)
    post = DemoPost(folder)
    try:
        room.set_owner(OWNER_ADDRESSES)
        vouching.set_names(room, settings.CONFIRMED, [SERVER])
        vouching.set_names(room, settings.SHARED, SHARED)
        for kind, key, name in VOUCHED:
            vouching.vouch(room, kind, key, name)
        addresses.describe(room, OLD, Purpose.SHOPS, "")
        addresses.describe(room, TAGGED, Purpose.NOTHING_SAID, TAGGED_FOR)
        post.fill(mail.history)
        post.fill(mailgen.generate(GUEST_MAIL, 23, mail.history[-1].at, 12), TOURS)
        Vault(folder).put(OWNER, SECRET, "file")
        with closing(post.connect()) as imap:
            account = mailboxes.add(room, post.account(), imap.folders()).id
            reading_in.read_history(room, imap, account)
            Maren(room, mail.truth).corrects(_every(room), FIRST_LESSONS)
            mailboxes.route(room, account, on=True)
            first_plan(room)
            keep_tags(room)
            for day, arrived in groupby(mail.week, key=lambda one: one.at.date()):
                _day(room, mail, clock, list(arrived), post, imap, account)
                work_queue(room)
                clock.to(datetime.combine(day, datetime.max.time()).timestamp())
            post.fill(mail.last_night)
            clock.to(mail.last_night[-1].at.timestamp())
            keep_tags(room)
            say_rules(room)
            say_topics(room)
            arrange_desk(room)
            follow_through(room)
            say_often(room)
            plan_to_be_away(room)
            _look(room, imap, account)
            compile_due(room)
    finally:
        post.close()
        room.close()


def _look(room: Mailroom, imap: Imap, account: int) -> None:
    while sync(room, imap, account):
        pass


def _day(
    room: Mailroom, mail: World, clock: _Calendar, arrived: Sequence[Made], post: DemoPost, imap: Imap, account: int
) -> None:
    """She reads the edition of the day, and its mail arrives; in the evening she has read and answered what she did, corrects what stands wrong, and
    puts away what is done."""
    clock.to(arrived[0].at.replace(hour=9, minute=0).timestamp())
    for edition in compile_due(room):
        planning.read(room, edition)
        filing.file_away(room, [editions.get(room.reader(), edition)[0].message or 0], ARCHIVE)
    clock.to(arrived[-1].at.timestamp())
    post.fill([replace(one, read=False, answered=False) for one in arrived])
    _look(room, imap, account)
    by_id = {one.message_id: one for one in arrived}
    here = {number: by_id[one] for number, one in messages.by_message_id(room.reader()) if one in by_id}
    Maren(room, mail.truth).corrects([number for number, one in here.items() if one.belongs != SENT], DAILY_LESSONS)
    for number, one in here.items():
        if one.read and one.belongs != SENT:
            marks.mark_opened(room, number)
    old = arrived[-1].at.date() < (mail.week[-1].at - timedelta(days=1)).date()
    done = [
        number
        for number, one in here.items()
        if (one.answered or (one.read and old)) and messages.get(room.reader(), number).place == DESK
    ]
    if done:
        filing.file_away(room, done, ARCHIVE)
    _look(room, imap, account)
    let_go(room)


class _Calendar:
    """A clock that stands until it is put on."""

    def __init__(self, at: datetime) -> None:
        self._now = int(at.timestamp())

    def __call__(self) -> int:
        """Unix seconds, never earlier than before."""
        return self._now

    def to(self, stamp: float) -> None:
        """Put it on, never back."""
        self._now = max(self._now, int(stamp))


def _every(room: Mailroom) -> list[int]:
    """All received mail, in no particular order."""
    numbers = [number for number, _ in messages.by_message_id(room.reader(), received=True)]
    random.Random(5).shuffle(numbers)
    return numbers
