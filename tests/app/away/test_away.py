"""The away notice: set, tried out, sent once a person, never to what may not be answered."""

from __future__ import annotations

import re
import tempfile
from collections import Counter
from dataclasses import replace
from email import message_from_bytes
from pathlib import Path

from hieranome.app import shaping_tags
from hieranome.app.arrival.arrive import receive
from hieranome.app.away import keeping, telling
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.waiting import STOPPED
from hieranome.app.rules import keeping as ruling
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing.drafts import take_back
from hieranome.core.addresses import untagged
from hieranome.core.away import Away, Circle, language_of, subject_of
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.relations import Sums
from hieranome.core.rules import Action, Rule
from hieranome.core.times import DAY
from hieranome.store import accounts, away, drafts, messages, settings
from hieranome.store.accounts import NewAccount
from tests.app.away.world import ME, OWN, TEXTS, world
from tests.app.room.failing import FailingCase
from tests.support import NOON, RoomCase, letter

ALL = Circle("Everybody", "all", "", {"": "I am away.", "de": "Ich bin nicht da."})


def write_as(room: Mailroom, *addresses: str) -> None:
    """Let the owner write as addresses."""
    room.set_owner(addresses)
    with room.change() as db:
        account = accounts.add(db, NewAccount(addresses[0], "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
        for one in addresses:
            drafts.put_identity(db, drafts.Identity(one, account, "Maren", ""))


class AwayCase(RoomCase):
    """An owner of three addresses, away for two weeks."""

    def setUp(self) -> None:
        super().setUp()
        write_as(self.room, *OWN)
        self.clock.now = NOON

    def away(self, *circles: Circle, days: int = 7) -> Away:
        wanted = Away(True, NOON - 60, NOON + 14 * DAY, days, circles or (ALL,))
        return keeping.set_away(self.room, wanted)

    def notices(self) -> list[drafts.Draft]:
        return [one for one in drafts.in_state(self.room.reader(), "waiting") if one.automatic]

    def come(self, sender: str = "Oskar <oskar@salthall.example>", path: str | None = None, **headers: str) -> int:
        """A message to the owner comes in; its id."""
        address = sender.rpartition("<")[2].rstrip(">")
        envelope = {} if path == "none" else {"Return_Path": f"<{address if path is None else path}>"}
        self.count = getattr(self, "count", 0) + 1
        raw = letter(f"Plan {self.count}", sender=sender, to=ME, at=self.clock.now, **envelope, **headers)
        number = receive(self.room, raw)
        assert number is not None
        return number


class SendingTest(AwayCase):
    def test_a_notice_says_what_it_is(self) -> None:
        """RFC 3834: to the Return-Path, from the address that was written to, as an answer that a machine wrote."""
        self.away()
        self.come(path="oskar.private@salthall.example", References="<a@b.example>")
        (one,) = self.notices()
        raw = message_from_bytes(drafts.raw(self.room.reader(), one.id))
        self.assertEqual(raw["To"], "oskar.private@salthall.example")
        self.assertEqual(raw["Auto-Submitted"], "auto-replied")
        self.assertIn(ME, raw["From"])
        self.assertEqual(raw["Subject"], "Auto: Plan 1")
        self.assertEqual(raw["References"].split()[0], "<a@b.example>")
        self.assertEqual(raw["In-Reply-To"], raw["References"].split()[-1])
        self.assertEqual(drafts.envelope(self.room.reader(), one.id), ["oskar.private@salthall.example"])
        self.assertEqual(away.told(self.room.reader(), 5)[0].circle, "Everybody")

    def test_once_a_person_in_some_days(self) -> None:
        """However the address is written; again when the days are over; not after the end."""
        self.away(days=3)
        for sender in ("oskar@salthall.example", "OSKAR@salthall.example", "oskar+plan@salthall.example"):
            self.come(sender)
        self.assertEqual(len(self.notices()), 1)
        self.clock.now += 3 * DAY + 60
        self.come("oskar@salthall.example")
        self.assertEqual(len(self.notices()), 2)
        self.clock.now += 14 * DAY
        self.come("ilse@salthall.example")
        self.assertEqual(len(self.notices()), 2)

    def test_circles_in_order_and_languages(self) -> None:
        """The first that holds it decides; one without a text is told nothing; the mail's language where there is a
        text in it."""
        with self.room.change() as db:
            self.room.count(db, [("address:ilse@harbour.example", Sums(written=1))])
        colleagues = Circle("Colleagues", "line", "from:@posthorn.example", {})
        known = Circle("Known", "written", "", {"": "Call my office.", "de": "Ruf im Büro an."})
        self.away(colleagues, known)
        self.come("jo@posthorn.example")
        self.come("oskar@salthall.example")
        self.assertEqual(self.notices(), [])
        for body in ("de", "en"):
            with self.subTest(body):
                raw = letter(f"Plan {body}", sender="ilse@harbour.example", to=ME, at=self.clock.now, body=TEXTS[body],
                             Return_Path="<ilse@harbour.example>")  # fmt: skip
                receive(self.room, raw)
                self.assertEqual(self.notices()[-1].body, known.texts["de" if body == "de" else ""])
                self.clock.now += 8 * DAY

    def test_a_circle_by_a_tag(self) -> None:
        """One that a rule puts on as the mail arrives."""
        tag = shaping_tags.make(self.room, "Visas").id
        line, actions = "from:@consulate.example", (Action("tag", str(tag)),)
        ruling.put(self.room, Rule(0, "Visas", True, "arrives", 0, "came", False, line, "", actions))
        self.away(Circle("Visas", "line", "tag:visas", {"": "Ask Jo about visas."}))
        self.come("desk@consulate.example")
        self.come("oskar@salthall.example")
        self.assertEqual([one.recipients for one in self.notices()], ["desk@consulate.example"])

    def test_old_mail_and_mail_out_of_sight_get_none(self) -> None:
        """What is dated days before it comes, and what stands in Junk or the Drain."""
        self.away()
        raw = letter(
            "Old", sender="oskar@salthall.example", to=ME, at=NOON - 3 * DAY, Return_Path="<oskar@salthall.example>"
        )
        receive(self.room, raw)
        self.assertEqual(self.notices(), [])
        number = self.come("ilse@salthall.example")
        for place in ("junk", "drain", "trash", "shelf"):
            with self.room.store.atomic() as db:
                db.execute("UPDATE messages SET place = ? WHERE id = ?", (place, number))
            would = telling.dry_run(self.room, self.away()).would
            self.assertEqual(
                [one.answer.person for one in would if one.message.id == number],
                ["ilse@salthall.example"] * (place == "shelf"),
            )

    def test_a_notice_is_no_answer_of_the_owner(self) -> None:
        """A copy of one that appears in Sent tells nothing of whom the owner writes to, nor is anything answered."""
        self.away()
        number = self.come()
        (one,) = self.notices()
        self.take(drafts.raw(self.room.reader(), one.id))
        self.assertEqual(self.room.relations.of("address:oskar@salthall.example").written, 0)
        self.assertFalse(messages.get(self.room.reader(), number).answered)

    def test_an_address_that_is_several_to_some_gets_none(self) -> None:
        """A quoted local part with blanks, or what is no address: nothing goes anywhere."""
        self.away()
        for path in ('"a victim@other.example b"@x.example', "a@b@c.example", "über@x.example", "a@localhost"):
            self.come(path=path)
        self.assertEqual(self.notices(), [])
        self.assertEqual(away.told(self.room.reader(), 5), [])
        self.assertEqual(telling.dry_run(self.room, away.get(self.room.reader())).would, [])

    def test_a_notice_goes_to_nobody_else(self) -> None:
        """A Return-Path that has nothing to do with From names a third person, unless a believed server found that it
        sent the message."""
        self.away()
        self.come(path="victim@harbour.example")
        self.assertEqual(self.notices(), [])
        with self.room.change() as db:
            settings.put(db, settings.CONFIRMED, ["mx.posthorn.example"])
            self.room.load_sure(db)
        results = "mx.posthorn.example; dkim=pass header.d=salthall.example; spf={} smtp.mailfrom=mailer.example"
        self.come(path="oskar=1@mailer.example", Authentication_Results=results.format("fail"))
        self.come(path="victim@harbour.example", Authentication_Results=results.format("pass"))
        self.assertEqual(self.notices(), [])
        self.come(path="oskar=1@mailer.example", Authentication_Results=results.format("pass"))
        self.assertEqual([one.recipients for one in self.notices()], ["oskar=1@mailer.example"])

    def test_headers_behind_many_others_are_read(self) -> None:
        """Behind seventy names, and said twice."""
        self.away()
        many = {f"X_{number}": "y" for number in range(70)}
        self.come(**many, List_Unsubscribe="<https://x.example/l>")
        self.come(**many, X_Autoreply="yes")
        self.assertEqual(self.notices(), [])
        self.come(**many)
        self.assertEqual(len(self.notices()), 1)

    def test_what_waits_is_not_the_owners_to_change(self) -> None:
        """It stands in no list of drafts, is not taken back, and goes no more once the notice is off."""
        self.away()
        self.come()
        (one,) = self.notices()
        self.assertEqual(drafts.unsent(self.room.reader()), [])
        with self.assertRaisesRegex(Conflict, "away notice"):
            take_back(self.room, one.id)
        keeping.switch_off(self.room)
        self.assertEqual(self.notices(), [])
        self.assertIn("turned off", away.told(self.room.reader(), 5)[0].failed)
        self.away()
        self.come("ilse@salthall.example")
        keeping.set_away(self.room, replace(away.get(self.room.reader()), on=False))
        self.assertEqual(self.notices(), [])

    def test_where_nothing_can_send_any_more_that_is_told(self) -> None:
        """The mailbox was left meanwhile: who would have got one is listed, with why they did not."""
        self.away()
        with self.room.change() as db:
            for one in OWN:
                drafts.remove_identity(db, one)
        self.come()
        self.assertEqual(self.notices(), [])
        self.assertIn("No mailbox", away.told(self.room.reader(), 5)[0].failed)


class WorldTest(AwayCase):
    def test_who_is_answered_in_a_world(self) -> None:
        """None that may not be answered, none twice, and everybody who may be."""
        cases = world(400, 7, NOON, NOON + 6 * DAY)
        self.room.set_owner(OWN)
        with self.room.change() as db:
            settings.put(db, settings.CONFIRMED, ["mx.posthorn.example"])
            self.room.load_sure(db)
        self.away()
        for case in cases:
            self.clock.now = max(self.clock.now, NOON)
            receive(self.room, case.raw)
        told = Counter(one.person for one in away.told(self.room.reader(), 5_000))
        may = {untagged(case.envelope) for case in cases if not case.why}
        self.assertEqual(set(told), may)
        self.assertEqual(set(told.values()), {1})
        self.assertGreater(len(may), 100)
        self.assertGreater(len({case.why for case in cases}), 9)

    def test_two_that_are_away_write_once_each(self) -> None:
        """The notice of one gets none from the other."""
        with tempfile.TemporaryDirectory() as folder:
            other = Mailroom(Path(folder), clock=self.clock)
            self.addCleanup(other.close)
            write_as(other, "oskar@salthall.example")
            keeping.set_away(other, Away(True, NOON - 60, NOON + DAY, 1, (ALL,)))
            self.away(days=1)
            self.come()
            sent, rooms, went = self.notices(), [other, self.room], 0
            while sent:
                room = rooms[went % 2]
                raw = drafts.raw(rooms[(went + 1) % 2].reader(), sent[0].id)
                path = f"Return-Path: <{sent[0].sender}>\r\n".encode()  # even where a server fills one in
                receive(room, path + raw)
                went += 1
                sent = [one for one in drafts.in_state(room.reader(), "waiting") if one.automatic][went // 2 :]
                self.assertLess(went, 5)
            self.assertEqual(went, 1)


class KeepingTest(AwayCase):
    def test_what_cannot_be_sent_is_refused(self) -> None:
        good = Away(True, NOON, NOON + DAY, 7, (ALL,))
        wrong = [
            (replace(good, ends=NOON), "ends before"),
            (replace(good, begins=NOON - 9 * DAY, ends=NOON - DAY), "over already"),
            (replace(good, ends=NOON + 400 * DAY), "a year"),
            (replace(good, days=0), "1 to 30"),
            (replace(good, circles=()), "circles"),
            (replace(good, circles=(Circle("A", "all"),)), "gets a reply"),
            (replace(good, circles=(ALL, ALL)), "same name"),
            (replace(good, circles=(replace(ALL, who="line"),)), "line is empty"),
            (replace(good, circles=(replace(ALL, who="line", line="larger:x"),)), "larger"),
            (replace(good, circles=(replace(ALL, texts={"de": "Weg"}),)), "other languages"),
            (replace(good, circles=(replace(ALL, texts={"": "A", "xx": "B"}),)), "no language"),
            (replace(good, circles=(replace(ALL, texts={"": " "}),)), "1 to 4,000"),
        ]
        for one, why in wrong:
            with self.assertRaisesRegex(CallerError, why):
                keeping.set_away(self.room, one)
        self.assertFalse(away.get(self.room.reader()).on)

    def test_switched_off_its_texts_stay(self) -> None:
        self.away()
        off = keeping.switch_off(self.room)
        self.assertEqual((off.on, off.circles), (False, (ALL,)))
        self.come()
        self.assertEqual(self.notices(), [])

    def test_undone_it_takes_back_what_waits(self) -> None:
        """A notice that waits to be sent does not go once the step that switched it on is undone; who would have got it
        is told."""
        self.away()
        self.come()
        self.assertEqual(len(self.notices()), 1)
        undo(self.room)
        self.assertFalse(away.get(self.room.reader()).on)
        self.assertEqual(self.notices(), [])
        self.assertEqual([one.failed for one in keeping.told(self.room)], [STOPPED])

    def test_a_dry_run_sends_nothing(self) -> None:
        """Who of last week would have got one, and why the others would not."""
        for sender in ("oskar@salthall.example", "oskar@salthall.example", "noreply@shop.example"):
            self.come(sender)
        self.come("crew@salthall.example", List_Id="<crew.lists.example>")
        run = telling.dry_run(self.room, Away(False, NOON, NOON + DAY, 7, (ALL,)))
        self.assertEqual([one.answer.person for one in run.would], ["oskar@salthall.example"])
        self.assertEqual(run.looked_at, 4)
        self.assertEqual({why: count for why, count, _ in run.others}, {
            telling.AGAIN: 1, "nobody reads what goes to its sender": 1, "it came through a list": 1,
        })  # fmt: skip
        self.assertEqual(self.notices(), [])

    def test_languages_and_subjects(self) -> None:
        for language, text in TEXTS.items():
            self.assertEqual(language_of(text), language)
        self.assertEqual(subject_of("a\r\n b"), "Auto: a b")

    def test_invitations_into_the_time(self) -> None:
        """Those that begin within it and are not over, each event once."""

        def invitation(uid: str, at: str) -> bytes:
            event = ("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x", "METHOD:REQUEST", "BEGIN:VEVENT", f"UID:{uid}",
                     "DTSTAMP:20251001T000000Z", f"DTSTART:{at}T090000Z", f"DTEND:{at}T100000Z", f"SUMMARY:{uid}",
                     "ORGANIZER:mailto:o@salthall.example", f"ATTENDEE:mailto:{ME}", "END:VEVENT",
                     "END:VCALENDAR")  # fmt: skip
            head = ("From: o@salthall.example", f"To: {ME}", f"Subject: {uid}", f"Message-ID: <{uid}{at}@s.example>",
                    "MIME-Version: 1.0", "Content-Type: text/calendar; method=REQUEST; charset=utf-8", "")  # fmt: skip
            return "\r\n".join((*head, *event, "")).encode()

        for uid, at in (("Within", "20251014"), ("Before", "20250901"), ("After", "20261014")):
            self.take(invitation(uid, at))
        found = telling.invitations(self.room, NOON, NOON + 14 * DAY)
        self.assertEqual([one.invitation.title for one in found], ["Within"])


class FailingAwayTest(FailingCase):
    """Whatever statement fails, memory and store are as they were."""

    def test_away(self) -> None:
        write_as(self.room, *OWN)
        wanted = Away(True, self.clock.now - 60, self.clock.now + DAY, 7, (ALL,))
        self.try_every_failure(lambda: keeping.set_away(self.room, wanted))
        raw = letter(
            "Plan", sender="oskar@salthall.example", to=ME, at=self.clock.now, Return_Path="<oskar@salthall.example>"
        )
        self.try_every_failure(lambda: receive(self.room, raw))
        self.assertEqual(len(re.findall("oskar", str(away.told(self.room.reader(), 5)))), 1)
        self.try_every_failure(lambda: keeping.switch_off(self.room))
