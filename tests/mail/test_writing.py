"""A reply goes to whom it should, whatever strangers call themselves."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime
from email import message_from_bytes
from email.policy import SMTP

from hieranome.core.errors import CallerError
from hieranome.core.facts import Correspondent, Owner
from hieranome.mail.mime import parse
from hieranome.mail.people import mailboxes
from hieranome.mail.reading import read
from hieranome.mail.writing import Written, invitation_answer, message_of, recipients, reply_people, typed
from tests.generated import given, settings, st

AT = datetime(2026, 1, 5, 9, tzinfo=UTC)
ME = Correspondent("maren@quillmark.example", "Maren Aldous")

NAMES = (
    "spy@evil.example, Customer support of a very long name that no line of a header could ever hold in one piece",
    '"spy@evil.example"', "<spy@evil.example>", "a" * 300, "word " * 80, "Doe, Jane", "Jörg \u202eexample.live@yps",
    "x\r\nBcc: spy@evil.example",
    "=?utf-8?q?spy=40evil.example?=", "(spy@evil.example", "Group: spy@evil.example;", "\\", '"',
    "漢字" * 60, "\x00", "a@b.example",
)  # fmt: skip


def written(name: str) -> Written:
    return Written(ME, (Correspondent("help@shop.example", name),), subject="Re: x", body="x")


class ReplyTest(unittest.TestCase):
    def check(self, name: str) -> None:
        """A letter to somebody of that name names that address alone, to us and to the standard library."""
        raw = message_of(written(name), "<1@quillmark.example>", AT, with_bcc=True)
        head = raw.partition(b"\r\n\r\n")[0]
        self.assertTrue(all(len(line) <= 998 for line in head.split(b"\r\n")))
        self.assertNotIn(b"\nBcc", head)
        found = [one.address for value in parse(raw).headers.every("to") for one in mailboxes(value)]
        self.assertEqual(found, ["help@shop.example"])
        told = message_from_bytes(raw, policy=SMTP)["To"].addresses
        self.assertEqual([one.addr_spec for one in told], ["help@shop.example"])

    def test_names_of_strangers(self) -> None:
        """Long, quoted, foreign, hostile: the address stays the one it is."""
        for name in NAMES:
            with self.subTest(name[:40]):
                self.check(name)

    @settings(max_examples=200)
    @given(st.text(max_size=200))
    def test_any_name(self, name: str) -> None:
        """Whatever the name is."""
        self.check(name)

    def test_what_is_typed_comes_back(self) -> None:
        """People put into the line of recipients are the people read out of it."""
        for name in NAMES:
            with self.subTest(name[:40]):
                line = typed([Correspondent("help@shop.example", " ".join(name.split()))])
                self.assertEqual([one.address for one in recipients(line)], ["help@shop.example"])
                self.assertNotIn("spy@evil.example", line)

    def test_a_reply_to_a_hidden_address(self) -> None:
        """From a quoted name that holds an address, the reply goes to the sender alone."""
        for value in (
            '"spy@evil.example, Customer support for all that you bought of us this year" <help@shop.example>',
            "spy@evil.example <help@shop.example>",
        ):
            facts = read(f"From: {value}\nSubject: x\n\nx".encode()).facts
            to, cc = reply_people(facts, Owner.of(ME.address), mine=False, everybody=True)
            self.assertEqual(([one.address for one in to], cc), (["help@shop.example"], ()))

    def test_mail_forged_as_one_s_own_is_not_answered_to_its_recipients(self) -> None:
        """Only what the owner wrote is answered to those it went to."""
        facts = read(f"From: {ME.address}\nTo: victim@else.example\n\nx".encode()).facts
        to, _ = reply_people(facts, Owner.of(ME.address), mine=False, everybody=False)
        self.assertEqual([one.address for one in to], [ME.address])

    def test_ids_that_are_none(self) -> None:
        """An id with letters beyond ASCII, marks of direction, blanks or a thousand characters is answered to without
        it: the letter is written, on lines that every server takes."""
        sound = "<a.1@shop.example>"
        for odd in (
            "<ü@shop.example>", "<\u202eab@shop.example>", f"<{'a' * 990}@b.example>", "no id", "<a b@c.example>", "<>",
            "<a\r\nBcc: x@y.example>", "\udcff", "<a\x00@b.example>",
        ):  # fmt: skip
            with self.subTest(odd[:20]):
                made = Written(ME, (ME,), subject="x", body="x", in_reply_to=odd, mentions=(sound, odd))
                raw = message_of(made, "<1@quillmark.example>", AT, with_bcc=False)
                head = message_from_bytes(raw, policy=SMTP)
                self.assertEqual((head["In-Reply-To"], head["References"]), (None, sound))
                self.assertTrue(all(len(line) <= 998 for line in raw.split(b"\r\n")))
        made = Written(ME, (ME,), body="x", in_reply_to=sound, mentions=("<odd>", sound))
        head = message_from_bytes(message_of(made, "<1@quillmark.example>", AT, with_bcc=False), policy=SMTP)
        self.assertEqual((head["In-Reply-To"], head["References"].split()), (sound, ["<odd>", sound]))

    def test_subjects_of_any_kind(self) -> None:
        """A subject is read back as it was written, on lines that every server takes."""
        for subject in (
            "Rider",
            "word " * 60,
            "Überlänge " * 30,
            "x" * 500,
            "=?utf-8?q?x?=",
            "a\r\nBcc: x@y.example",
            "",
        ):
            made = Written(ME, (ME,), subject=subject, body="x")
            raw = message_of(made, "<1@quillmark.example>", AT, with_bcc=False)
            self.assertEqual(read(raw).facts.subject, " ".join(subject.split()))
            self.assertTrue(all(len(line) <= 78 for line in raw.partition(b"\r\n\r\n")[0].split(b"\r\n")))


class InvitationTest(unittest.TestCase):
    @staticmethod
    def asked(*organisers: str) -> bytes:
        lines = "".join(f"ORGANIZER:{one}\r\n" for one in organisers)
        return (
            f"BEGIN:VCALENDAR\r\nMETHOD:REQUEST\r\nBEGIN:VEVENT\r\nUID:1\r\n{lines}END:VEVENT\r\nEND:VCALENDAR\r\n"
        ).encode()

    def test_an_invitation_answers_one_organiser(self) -> None:
        """One is answered; several, none, and what is no address are refused."""
        _, organiser, _ = invitation_answer(self.asked("mailto:ilse@hall.example"), ME, "accepted", AT)
        self.assertEqual(organiser, "ilse@hall.example")
        for organisers in (
            ("mailto:ilse@hall.example,spy@evil.example",), ("mailto:ilse@hall.example", "mailto:spy@evil.example"),
            ("mailto:<ilse@hall.example> <spy@evil.example>",), (), ("mailto:",), ("https://hall.example/",),
        ):  # fmt: skip
            with self.subTest(organisers), self.assertRaises(CallerError):
                invitation_answer(self.asked(*organisers), ME, "accepted", AT)
