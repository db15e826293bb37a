"""Edition plans made, changed and removed; what stands in no edition; editions opened and written out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from hieranome.app.bulk import printing
from hieranome.app.bulk.compiling import BEFORE
from hieranome.app.bulk.content import Content
from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import set_marks
from hieranome.app.room.zones import zone_of
from hieranome.app.searching import understand
from hieranome.core.actors import Actor
from hieranome.core.arranged import Thing
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.plans import Plan
from hieranome.core.steps import StepKind
from hieranome.store import editions, journal, places, plans, sources, subscriptions
from hieranome.store.editions import Edition as Edition
from hieranome.store.plans import KeptPlan as KeptPlan

MOST_PLANS = 30
Form = Literal["html", "markdown", "text"]
FORMS: dict[Form, tuple[str, str]] = {
    "html": ("text/html; charset=utf-8", "html"),
    "markdown": ("text/markdown; charset=utf-8", "md"),
    "text": ("text/plain; charset=utf-8", "txt"),
}
"""The forms an edition is kept in: media type, and the ending of a file."""


def every(room: Mailroom) -> list[KeptPlan]:
    """All plans."""
    return plans.every(room.reader())


def left_out(room: Mailroom) -> list[str]:
    """The keys of the lists and senders that stand in no edition."""
    return sorted(plans.left_out(room.reader()))


def names(room: Mailroom, keys: Sequence[str]) -> list[str]:
    """What sources are called; the key where no mail of one is here."""
    db = room.reader()
    newest = subscriptions.newest(db, list(keys))
    return [sources.name_of(db, key, newest[key]) if key in newest else key.partition(":")[2] for key in keys]


def recent(room: Mailroom, before: int, limit: int) -> tuple[list[Edition], bool]:
    """Editions before one (0: from the newest), newest first, and whether there are more."""
    found = editions.recent(room.reader(), before, limit + 1)
    return found[:limit], len(found) > limit


def unread(room: Mailroom) -> int:
    """How many editions were not read yet."""
    return editions.unread(room.reader())


def standing(room: Mailroom, content: Content) -> dict[int, tuple[str, bool]]:
    """Where the messages of an edition stand now, and whether they were read."""
    return editions.standing(room.reader(), (one.message for one in content.entries))


def make(room: Mailroom, plan: Plan) -> KeptPlan:
    """Make a plan; its first edition takes mail of the week before. Raises :class:`CallerError` for what cannot be
    carried out."""
    with arranging(room, Thing.PLAN, f"Plan “{plan.name.strip()}” added") as it:
        if len(plans.every(it.db)) >= MOST_PLANS:
            raise CallerError(f"There are {MOST_PLANS} plans already. Remove one first.")
        _check(room, plan, 0)
        now = room.clock()
        number = plans.add(it.db, plan, now - BEFORE, now)
        it.made.append(number)
        return plans.get(it.db, number)


def change(room: Mailroom, number: int, plan: Plan) -> KeptPlan:
    """Describe a plan anew, from the next time it is due. Raises :class:`CallerError`, :class:`NotFound`."""
    with arranging(room, Thing.PLAN, f"Plan “{plan.name.strip()}” changed", [number]) as it:
        plans.get(it.db, number)
        _check(room, plan, number)
        plans.change(it.db, number, plan, room.clock())
        return plans.get(it.db, number)


def remove(room: Mailroom, number: int) -> None:
    """Compile no more editions of a plan; those there are stay. Raises :class:`NotFound`."""
    name = plans.get(room.reader(), number).plan.name
    with arranging(room, Thing.PLAN, f"Plan “{name}” removed", [number]) as it:
        plans.get(it.db, number)
        plans.remove(it.db, number)


def _check(room: Mailroom, plan: Plan, number: int) -> None:
    plan.check()
    zone_of(plan.zone)
    db = room.reader()
    known = {bucket.name for bucket in places.buckets(db)}
    for name in plan.buckets:
        if name not in known:
            raise CallerError(f"There is no bucket called {name!r}. There are: {', '.join(sorted(known))}.")
    for source in plan.sources:
        if not source.startswith(("list:", "address:")):
            raise CallerError(f"“{source[:80]}” names neither a list nor a sender.")
    if plan.search.strip():
        understand(room, plan.search)
    if any(one.id != number and one.plan.name.strip() == plan.name.strip() for one in plans.every(db)):
        raise Conflict(f"There is a plan called “{plan.name.strip()}” already. Choose another name.")


def leave_out(room: Mailroom, wanted: Sequence[str]) -> journal.Step:
    """Let lists and senders stand in no edition from now on, as a step. Raises :class:`NotFound`."""
    keys = list(dict.fromkeys(wanted))
    with room.change() as db:
        what = sources.named(db, subscriptions.newest_of_all(db, keys), "senders and lists")
        step = journal.begin(db, room.clock(), StepKind.LEFT_OUT, f"{what}: in no edition")
        plans.leave_out(db, keys, step)
        room.tell_moved(step, [])
        return journal.get(db, step)


def leave_in(room: Mailroom, source: str) -> None:
    """Let a list or sender stand in editions again. Raises :class:`NotFound`."""
    with room.change() as db:
        if not plans.leave_in(db, source):
            raise NotFound("This sender or list is left out of no edition. Load the list again.")
        room.tell("editions")


def opened(room: Mailroom, number: int) -> tuple[Edition, Content]:
    """An edition to be read. Raises :class:`NotFound`."""
    edition, kept = editions.get(room.reader(), number)
    return edition, Content.read(kept)


def read(room: Mailroom, number: int) -> None:
    """Note that an edition was read, and mark the message that stands for it. Raises :class:`NotFound`."""
    with room.change() as db:
        edition, _ = editions.get(db, number)
        editions.mark_read(db, number, room.clock())
        if edition.message is not None and set_marks(room, db, [edition.message], "seen", True, Actor.OWNER):
            room.tell("seen", message=edition.message, seen=True)
            room.tell_counts()
        room.tell("editions")


def written_out(room: Mailroom, number: int, form: Form) -> tuple[str, str]:
    """An edition in a form, and the name of a file for it. Raises :class:`NotFound`."""
    _, content = opened(room, number)
    write = {"html": printing.html, "markdown": printing.markdown, "text": printing.plain}[form]
    name = "".join(c if c.isalnum() or c in " -" else "-" for c in printing.title(content).replace(":", ""))
    return write(content), f"{name}.{FORMS[form][1]}"
