"""What the demo's owner does with her mail."""

from __future__ import annotations

from collections.abc import Sequence

from hieranome.app import arranging, searching, shaping_tags, tagging, trays
from hieranome.app.away import keeping as away
from hieranome.app.following import due, parking
from hieranome.app.queues import keeping as queueing
from hieranome.app.queues import working as queueing_on
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.routines import keeping as doing
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.correct import correct, pull
from hieranome.app.topics import answering
from hieranome.app.topics.telling import tell
from hieranome.app.writing import phrasing
from hieranome.core import routines
from hieranome.core.away import Away, Circle
from hieranome.core.buckets import ARCHIVE, DESK
from hieranome.core.queues import Queue, State
from hieranome.core.rules import Action, Rule, Verb, When
from hieranome.core.times import DAY
from hieranome.core.trays import SHIPPED, Tray
from hieranome.demo.world import TAGS
from hieranome.store import messages, queues, tags

RULES: tuple[tuple[str, str, str, tuple[tuple[Verb, str], ...], int], ...] = (
    (
        "Carnets and crates",
        "from:@tollgatefreight.example",
        'subject:"*held*"',
        (("folder", ""), ("tag", "Carnets"), ("flag", "")),
        0,
    ),
    ("Visas are urgent", 'subject:"*visa*" or subject:"*permit*"', "", (("bucket", "desk"), ("tag", "Visas")), 0),
    (
        "One report a day is enough",
        'from:turnstile subject:"hourly report"',
        "subject:cancelled",
        (("trash", ""), ("no-edition", "")),
        7,
    ),
)
"""Her rules: name, which mail, except, what is done, and after how many days (0: as it arrives)."""
TOPICS = (
    ("Hotels", "hotel blocks, double rooms and beds for the players on tour", 'from:hotel or "double rooms"'),
    ("Visas", "whatever is about visas and permits for the tour", "from:visa or subject:visa* or subject:permit*"),
)
"""Tags that find their mail: what she said of each, and a line that finds what she means."""
PAGES = 2
"""How many pages of questions about each she answers."""


def keep_tags(room: Mailroom) -> None:
    """The tags she keeps, on what a search for each finds by now."""
    parents = {one.name: one.id for one in tags.every(room.reader())}
    for name, parent, line in TAGS:
        if name not in parents:
            parents[name] = shaping_tags.make(room, name, parent=parents.get(parent, 0)).id
        found = searching.matching(room, line, 400) if line else []
        if found:
            tagging.put_on(room, found, parents[name])


def say_rules(room: Mailroom) -> None:
    """The rules she keeps; the carnets' is run on what is here."""
    known = {tag.name: str(tag.id) for tag in tags.every(room.reader())}
    folder = arranging.add_folder(room, "Freight").name
    for name, line, excepted, given, ages in RULES:
        done = tuple(Action(verb, folder if verb == "folder" else known.get(target, target)) for verb, target in given)
        when: When = "ages" if ages else "arrives"
        rule = Rule(0, name, True, when, ages, "came", bool(ages), line, excepted, done)
        kept = keeping.put(room, rule)
        if not ages:
            running.run_here(room, kept.rule.id)


def say_topics(room: Mailroom) -> None:
    """What her tags find by themselves, from what she said, what each tag is on, and the questions she answered."""
    known = {tag.name: tag.id for tag in tags.every(room.reader())}
    for name, sentence, line in TOPICS:
        topic = answering.describe(room, sentence, tag=known[name])
        meant = set(searching.matching(room, line, 2_000))
        for _ in range(PAGES):
            asked = [one.message.id for one in tell(room, topic.id).asks]
            for belongs in (True, False):
                those = [number for number in asked if (number in meant) == belongs]
                if those:
                    answering.answer(room, topic.id, those, belongs)
        answering.turn(room, topic.id, True, "")


def arrange_desk(room: Mailroom) -> None:
    """Her Desk: what came since, then what waits for her answer, then visas, then the rest."""
    heads, came, rest, dealt = SHIPPED
    visas = Tray("line", "Visas", line="tag:visas", rows=5, beside=True)
    trays.put(room, [heads, came, Tray("waits", "Waits for your answer", rows=8), visas, rest, dealt])


FOLLOWED = (
    ('subject:"we are 640 apart"', "due", "in 20 minutes"),
    ('subject:"touring numbers"', "due", "in 2 days at 17:00"),
    ('subject:"room block lapses"', "due", "tomorrow 11:00"),
    ('subject:"il manque votre signature"', "due", "in 4 days"),
    ('subject:"Work experience in spring"', "park", "in 4 days at 9:00"),
    ('subject:"rehearsal clause"', "park", "in 2 days"),
    ('subject:"the cello fund"', "park", "in 6 days"),
    ('subject:"one file incomplete" from:visadesk', "park", ""),
)
"""What she follows through: a line that finds the message, what she does with it, until when."""


def follow_through(room: Mailroom) -> None:
    """The days she gives mail, and what she parks."""
    for line, what, said in FOLLOWED:
        found = searching.matching(room, f"{line} (bucket:desk or bucket:shelf)", 1)
        if found and what == "due":
            due.set_due(room, found, said)
        elif found:
            parking.park(room, found, said)


PHRASES = (
    ("sign-off", "With best wishes from the road,\nMaren"),
    ("rider", "Dear {first name|all},\n\nthank you for the rider. I answer by {date in 3 days}.\n\n{phrase sign-off}"),
    ("dates", "Dear {first name|all},\n\nwe can play {choose on the Friday|on the Saturday}; the fee is {ask the fee}."
              "\n\n{phrase sign-off}"),
)  # fmt: skip
"""What she says often."""


def say_often(room: Mailroom) -> None:
    """Her phrasebook, and what she does in a row."""
    said = {short: phrasing.keep(room, short, text).id for short, text in PHRASES}
    tag = str(next(one.id for one in tags.every(room.reader()) if one.name == "Visas"))
    rider: tuple[routines.Action, ...] = (
        routines.Action("reply", str(said["rider"])), routines.Action("due", "in 3 days"), routines.Action("read"),
    )  # fmt: skip
    visa = (routines.Action("tag", tag), routines.Action("flag"), routines.Action("bucket", DESK))
    for name, key, actions in (("Rider came", "1", rider), ("Visa case", "2", visa)):
        doing.keep(room, routines.Routine(0, name, key, actions))


STATES = ("New", "Papers asked for", "At the consulate", "Granted")


def work_queue(room: Mailroom) -> None:
    """The visas pass through states; each day she brings the oldest of each state on."""
    there = queues.every(room.reader())
    if there:
        queue = there[0]
    else:
        tag = str(next(one.id for one in tags.every(room.reader()) if one.name == "Visas"))
        queue = queueing.keep(room, Queue(0, "Visa cases", "tag", tag, tuple(State(name) for name in STATES)))
    columns = queueing_on.show(room, queue.id).columns
    for at, column in reversed(list(enumerate(columns[:-1]))):
        oldest = [row.message.id for row in column.rows[: 3 - at]]
        if oldest:
            queueing_on.bring(room, queue.id, oldest, at + 1)


AWAY = (
    Circle("Colleagues", "line", "from:@quillmark.example", {}),
    Circle("People I know", "written", "", {
        "": "I am on tour and read no mail. For anything urgent write to tours@quillmark.example.",
        "de": "Ich bin auf Tournee und lese keine Mail. Eiliges bitte an tours@quillmark.example.",
    }),
    Circle("Everybody else", "all", "", {}),
)  # fmt: skip
"""What she wrote for when she is away; it is not on."""


def plan_to_be_away(room: Mailroom) -> None:
    """A notice for next week, kept and not sent."""
    begins = room.clock() + 5 * DAY
    away.set_away(room, Away(False, begins, begins + 7 * DAY, 7, AWAY))


class Maren:
    """She corrects what stands wrong, answers what she is asked, and lets those kin follow that are right."""

    def __init__(self, room: Mailroom, truth: dict[str, str]) -> None:
        self._room = room
        rows = messages.by_message_id(room.reader())
        self._truth = {number: truth[message_id] for number, message_id in rows if message_id in truth}

    def corrects(self, numbers: Sequence[int], most: int) -> int:
        """Look through messages and give at most so many lessons; returns how many."""
        given = 0
        for number in numbers:
            wanted = self._truth.get(number)
            stands = messages.get(self._room.reader(), number).place
            if wanted is None or stands in (wanted, ARCHIVE) or given >= most:
                continue
            outcome = correct(self._room, [number], wanted)
            right = [one.message.id for one in outcome.kin if self._truth.get(one.message.id) == one.target]
            if right:
                pull(self._room, outcome.step, right)
            given += 1
        return given
