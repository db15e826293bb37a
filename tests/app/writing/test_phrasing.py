"""The phrasebook: phrases kept, put into drafts and replies, offered by use, never sent with a hole."""

from __future__ import annotations

import random
from typing import Any

from hieranome.app.writing import beginning, phrasing
from hieranome.app.writing import drafts as writing
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.phrases import holes
from hieranome.store import accounts, drafts, phrases
from hieranome.store.accounts import NewAccount
from tests.app.room.failing import FailingCase
from tests.support import NOON, OWNER, ApiCase, RoomCase, letter


def with_identity(case: RoomCase) -> None:
    """Let the owner write."""
    with case.room.change() as db:
        account = accounts.add(db, NewAccount(OWNER, "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
        drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))


class PhrasingTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        with_identity(self)
        self.number = self.take(letter("Rider", sender="Oskar Brandel <brandel@salthall.example>"))

    def test_a_reply_says_a_phrase(self) -> None:
        """Filled in from the message, before what is quoted; its files go along; it is a draft."""
        ack = phrasing.keep(self.room, "ack", "Dear {first name|all},\n\nthank you for “{subject}”.\n")
        phrasing.attach(self.room, ack.id, "map.txt", "text/plain", b"here")
        draft = phrasing.begin_with(self.room, "reply", self.number, "ACK")
        self.assertTrue(draft.body.startswith("Dear Oskar,\n\nthank you for “Rider”.\n"), draft.body)
        self.assertIn("> Can you confirm", draft.body)
        self.assertEqual([one.name for one in drafts.attachments(self.room.reader(), draft.id)], ["map.txt"])
        self.assertEqual(draft.state, "draft")
        self.assertEqual(phrases.get(self.room.reader(), ack.id).uses, 1)

    def test_nothing_is_sent_with_a_hole(self) -> None:
        """Refused with what is left, and sent once it is filled; braces nobody put there by a phrase are text."""
        phrasing.keep(self.room, "price", "It is {ask the price}.")
        draft = phrasing.begin_with(self.room, "reply", self.number, "price")
        with self.assertRaisesRegex(CallerError, r"still says \{ask the price\}"):
            writing.send(self.room, draft.id)
        self.assertEqual(drafts.get(self.room.reader(), draft.id).state, "draft")
        fields = {name: getattr(draft, name) for name in ("sender", "recipients", "cc", "bcc", "subject")}
        writing.change(self.room, draft.id, writing.Changed(**fields, body="It is 40.\n\n> {name} wrote"))
        self.assertEqual(writing.send(self.room, draft.id).state, "waiting")
        plain = beginning.begin(self.room, "reply", self.number)
        writing.change(self.room, plain.id, writing.Changed(**fields, body="Write {name} there."))
        self.assertEqual(writing.send(self.room, plain.id).state, "waiting")

    def test_the_one_used_for_such_mail_comes_first(self) -> None:
        """By likeness to what each was used for; else by how often."""
        for name in ("aaa", "offers", "riders"):
            phrasing.keep(self.room, name, "So.")
        offer = self.take(
            letter("Offer for strings", sender="Kestrel <sales@kestrel.example>", body="Strings on sale.")
        )
        phrasing.begin_with(self.room, "reply", self.number, "riders")
        phrasing.begin_with(self.room, "reply", offer, "offers")
        again = self.take(letter("Rider, again", sender="Oskar Brandel <brandel@salthall.example>"))
        another = self.take(letter("Offer for bows", sender="Kestrel <sales@kestrel.example>", body="Bows on sale."))
        self.assertEqual(phrasing.ordered(self.room, again)[0].short, "riders")
        self.assertEqual(phrasing.ordered(self.room, another)[0].short, "offers")

    def test_what_others_need_stays(self) -> None:
        """Neither taken out nor called otherwise while another says it; no name twice; all or none is taken in."""
        bye = phrasing.keep(self.room, "bye", "Best")
        phrasing.keep(self.room, "ack", "Thanks. {phrase bye}")
        for change in (
            lambda: phrasing.remove(self.room, bye.id),
            lambda: phrasing.keep(self.room, "ciao", "Best", bye.id),
            lambda: phrasing.keep(self.room, "bye", "See {phrase ack}", bye.id),
            lambda: phrasing.take_in_book(self.room, 1, [("new", "So."), ("bad", "{x}")]),
            lambda: phrasing.take_in_book(self.room, 2, [("new", "So.")]),
        ):
            with self.assertRaises(CallerError):
                change()
        with self.assertRaises(Conflict):
            phrasing.keep(self.room, "BYE", "Other")
        with self.assertRaises(NotFound):
            phrasing.remove(self.room, 99)
        self.assertEqual(phrasing.book(self.room.reader()), {"bye": "Best", "ack": "Thanks. {phrase bye}"})
        self.assertEqual(phrasing.take_in_book(self.room, 1, [("bye", "Yours"), ("new", "So.")]), 2)
        self.assertEqual(phrasing.book(self.room.reader())["bye"], "Yours")


class PropertyTest(ApiCase):
    def test_two_hundred_templates_are_never_sent_with_a_hole(self) -> None:
        """Missing names, quotes, nested parts, text from right to left: what goes out has no placeholder, what has one
        does not go out."""
        with_identity(self)
        rng = random.Random(20)
        names = ("Oskar Brandel", "", "O. B.", "{name}", '"x" {ask y}', "שלום עולם", "Box Office", "Vann, Ilse")
        pieces = ("{first name|there}", "{first name}", "{name}", "{subject}", "{date in 3 days}", "{choose a|“b”}",
                  "{ask the sum}", "{phrase part}", "{{x}}", "> quoted", "مرحبا {first name}",
                  *("plain", "\n", " ") * 3)  # fmt: skip
        gone = kept = 0
        self.client.post("/api/phrases", json={"short": "part", "text": "Yours, {first name|you} {ask when}"})
        for number in range(200):
            subject = rng.choice(("Rider", "{first name}", "Re: {ask x}", "עברית {subject}"))
            sender = f"{rng.choice(names)} <s{number}@hall.example>"
            raw = letter(subject, at=NOON + number).replace(
                b"Oskar Brandel <brandel@salthall.example>", sender.encode()
            )
            message = self.take(raw)
            text = "".join(rng.choice(pieces) for _ in range(rng.randint(1, 8))) + "."
            made = self.client.post("/api/phrases", json={"short": f"t{number}", "text": text})
            self.assertEqual(made.status_code, 201, text)
            draft: dict[str, Any] = self.client.post(
                f"/api/messages/{message}/phrase", json={"phrase": f"t{number}"}
            ).json()
            own = "\n".join(line for line in draft["body"].split("\n") if not line.startswith(">"))
            sent = self.client.post(f"/api/drafts/{draft['id']}/send")
            if sent.status_code == 200:
                gone += 1
                self.assertEqual(holes(own), (), text)
            else:
                kept += 1
                self.assertIn("still says", sent.json()["detail"])
                self.assertNotEqual(holes(own), (), text)
        self.assertGreater(gone, 20)
        self.assertGreater(kept, 20)


class FailingPhrasesTest(FailingCase):
    def test_whatever_fails_leaves_all_as_it_was(self) -> None:
        """Kept, put into a reply, taken in and out, or none of it."""
        with_identity(self)
        self.try_every_failure(lambda: phrasing.keep(self.room, "ack", "Thanks, {first name|all}."))
        self.try_every_failure(lambda: phrasing.attach(self.room, 1, "a.txt", "text/plain", b"x"))
        self.try_every_failure(lambda: phrasing.begin_with(self.room, "reply", self.letters[0], "ack"))
        self.try_every_failure(lambda: phrasing.take_in_book(self.room, 1, [("new", "So."), ("ack", "Yes.")]))
        self.try_every_failure(lambda: phrasing.remove(self.room, 1))
