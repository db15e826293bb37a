"""The short of a thread, and where things stand with somebody."""

from __future__ import annotations

from dataclasses import replace
from email.message import EmailMessage

from hieranome.app.arrival.arrive import take_in
from hieranome.app.following import owing
from hieranome.app.following.briefing import briefing
from hieranome.app.following.short import short_of
from hieranome.app.reading.incoming import Placed, prepare
from hieranome.core.errors import CallerError
from hieranome.core.times import DAY
from tests.app.following.case import FollowingCase
from tests.support import NOON, OWNER, ApiCase, letter

OSKAR = "Oskar Brandel <brandel@salthall.example>"


class BriefingTest(FollowingCase):
    """Oskar and the owner wrote to each other; somebody else wrote too."""

    def setUp(self) -> None:
        super().setUp()
        self.room.set_owner([OWNER])
        self.clock.now = NOON

    def wrote(self, subject: str, body: str, at: int, **headers: str) -> int:
        """The owner wrote to Oskar."""
        raw = letter(subject, sender=OWNER, to=OSKAR, at=at, body=body, **headers)
        with self.room.change() as db:
            return take_in(self.room, db, replace(prepare(raw, at), stands=Placed("sent", "own"))) or 0

    def test_where_things_stand(self) -> None:
        """Open questions both ways, with who asked what where; since the owner last wrote: promises, times, files."""
        asked = self.take(letter("Gate", sender=OSKAR, at=NOON - 6 * DAY, body="Which gate shall the trucks use?"))
        mine = self.wrote("Crates", "Could you confirm the crates by Friday?", NOON - 4 * DAY)
        message = EmailMessage()
        for name, value in (("From", OSKAR), ("To", OWNER), ("Subject", "Plan"), ("Message-ID", "<p@s.example>")):
            message[name] = value
        message["Date"] = "Wed, 08 Oct 2025 10:00:00 +0000"
        message.set_content("Here is the plan. I will send the list on Monday.")
        message.add_attachment(b"x" * 90, maintype="application", subtype="pdf", filename="plan.pdf")
        plan = self.take(message.as_bytes())
        self.take(letter("Other", sender="Ilse <ilse@hall.example>", at=NOON - DAY, body="May we come at nine?"))
        told = briefing(self.room, "Brandel@SaltHall.example")
        self.assertEqual((told.name, told.last.id if told.last else 0, told.since), ("Oskar Brandel", mine, 2))
        self.assertIn((asked, "Which gate shall the trucks use?"), [(one.message.id, one.sentence) for one in told.you])
        self.assertEqual(
            [(one.message.id, one.sentence) for one in told.they], [(mine, "Could you confirm the crates by Friday?")]
        )
        self.assertEqual(
            [(one.message.id, one.sentence) for one in told.promised], [(plan, "I will send the list on Monday.")]
        )
        self.assertIn((plan, "I will send the list on Monday."), [(one.message.id, one.sentence) for one in told.dates])
        self.assertEqual([(one.message.id, one.part.name) for one in told.files], [(plan, "plan.pdf")])

    def test_what_was_let_go_or_answered_is_not_open(self) -> None:
        asked = self.take(
            letter("Gate", sender=OSKAR, at=NOON - 6 * DAY, body="Which gate shall we use?", message_id="<g@s.example>")
        )
        self.assertIn(asked, [one.message.id for one in briefing(self.room, "brandel@salthall.example").you])
        self.wrote("Re: Gate", "The north gate.", NOON - 5 * DAY, In_Reply_To="<g@s.example>")
        self.assertNotIn(asked, [one.message.id for one in briefing(self.room, "brandel@salthall.example").you])
        mine = self.wrote("Crates", "Could you confirm the crates?", NOON - 4 * DAY)
        owing.let_go(self.room, [mine])
        self.assertEqual(briefing(self.room, "brandel@salthall.example").they, [])

    def test_what_declines_an_answer_awaits_none(self) -> None:
        """However much like a question; unless the owner said that they wait for it."""
        mine = self.wrote("Crates", "Could you tell Jo that the crates came? No need to answer.", NOON - 4 * DAY)
        self.assertEqual(briefing(self.room, "brandel@salthall.example").they, [])
        owing.await_answer(self.room, [mine], "in 3 days")
        self.assertEqual([one.message.id for one in briefing(self.room, "brandel@salthall.example").they], [mine])

    def test_nobody(self) -> None:
        """Somebody unknown is said to be; quotation marks and stars are no search of their own."""
        for address in ("nobody@nowhere.example", '"*" OR sender', "a" * 200):
            with self.assertRaisesRegex(CallerError, "Nobody with the address"):
                briefing(self.room, address)

    def test_the_short_of_a_thread(self) -> None:
        """Oldest first, each with its own words alone; of one message by itself."""
        first = self.take(
            letter("Gate", sender=OSKAR, at=NOON - 6 * DAY, body="Which gate shall we use?", message_id="<g@s.example>")
        )
        answer = self.wrote(
            "Re: Gate", "We use the north gate, where the crane stands.\n\n> Which gate?\n", NOON - 5 * DAY,
            In_Reply_To="<g@s.example>",
        )  # fmt: skip
        parts = short_of(self.room, first, thread=True)
        self.assertEqual([(one.message.id, one.own) for one in parts], [(first, False), (answer, True)])
        self.assertEqual([line.text for line in parts[1].lines], ["We use the north gate, where the crane stands."])
        self.assertEqual([one.message.id for one in short_of(self.room, first, thread=False)], [first])


class ShortApiTest(ApiCase):
    def test_over_http(self) -> None:
        """Both answer; what is not there is said."""
        number = self.take(letter("Gate", at=NOON, body="Which gate shall we use?"))
        (part,) = self.client.get(f"/api/messages/{number}/short").json()
        self.assertEqual((part["lines"][0]["text"], part["lines"][0]["asks"]), ("Which gate shall we use?", True))
        self.assertEqual(self.client.get("/api/messages/999/short").status_code, 404)
        told = self.client.get("/api/standing", params={"address": "brandel@salthall.example"}).json()
        self.assertEqual((told["name"], told["last"]), ("Oskar Brandel", None))
        self.assertEqual(self.client.get("/api/standing", params={"address": "x@y.example"}).status_code, 422)
