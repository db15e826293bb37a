"""Copies that rules send on."""

from __future__ import annotations

from dataclasses import replace
from unittest import mock

from hieranome.app.rules import forwarding, keeping
from hieranome.core.errors import CallerError
from hieranome.store import accounts, drafts, rules
from hieranome.store.accounts import NewAccount
from tests.app.arrival.test_poison import odd_messages
from tests.app.rules.case import RulesCase, rule
from tests.support import NOON, letter

DAY = 86_400


class ForwardingTest(RulesCase):
    """Copies sent on."""

    def setUp(self) -> None:
        super().setUp()
        at = NewAccount("maren@quillmark.example", "", "m", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain")
        with self.room.change() as db:
            account = accounts.add(db, at, NOON)
            drafts.put_identity(db, drafts.Identity("maren@quillmark.example", account, "Maren", ""))

    def waiting(self) -> list[str]:
        """Whom copies that wait in the outbox go to."""
        return [one.recipients for one in drafts.in_state(self.room.reader(), "waiting")]

    def test_a_copy_goes_once_confirmed_and_never_round(self) -> None:
        """Asked at making; sent through the outbox with a mark; what bears one, and the forged, stays."""
        wanted = rule("subject:carnet", ("forward", "freight@office.example"))
        with self.assertRaisesRegex(CallerError, "without asking again"):
            keeping.put(self.room, wanted)
        keeping.put(self.room, wanted, confirmed=True)
        self.take(letter("Carnet 12"))
        (one,) = drafts.in_state(self.room.reader(), "waiting")
        raw = drafts.raw(self.room.reader(), one.id)
        self.assertEqual(drafts.envelope(self.room.reader(), one.id), ["freight@office.example"])
        self.assertIn(b"Hieranome-Loop: maren@quillmark.example", raw)
        self.assertIn(b"Subject: Fwd: Carnet 12", raw)
        self.take(letter("Carnet 13", Hieranome_Loop="somebody@else.example"))
        self.room.confirmed = frozenset({"mx.quillmark.example"})
        failed = "mx.quillmark.example; dmarc=fail header.from=salthall.example"
        self.take(letter("Carnet 14", Authentication_Results=failed))
        self.assertEqual(self.waiting(), ["freight@office.example"])
        with self.assertRaisesRegex(CallerError, "yours"):
            keeping.put(self.room, rule("subject:x", ("forward", "maren@quillmark.example")), confirmed=True)

    def test_a_mark_behind_many_headers_is_seen(self) -> None:
        """Behind seventy names, and where not all headers are read: no copy goes."""
        keeping.put(self.room, rule("subject:carnet", ("forward", "freight@office.example")), confirmed=True)
        many = {f"X_{number}": "y" for number in range(70)}
        self.take(letter("Carnet 1", **many, Hieranome_Loop="somebody@else.example"))
        self.take(b"X: y\r\n" * 1_001 + letter("Carnet 2"))
        self.take(letter("Carnet 3").replace(b"Date:", b"no header\nDate:"))
        self.assertEqual(self.waiting(), [])
        self.take(letter("Carnet 4", **many))
        self.assertEqual(self.waiting(), ["freight@office.example"])

    def test_an_address_holds_nothing_unseen(self) -> None:
        """No control character, in it or at its end."""
        for address in (
            "a@b.example\x00",
            "a\x00@b.example",
            "a@b.exam\x7fple",
            "a@b.example\u202e",
            "a@b\u200b.example",
        ):
            with self.assertRaises(CallerError, msg=repr(address)):
                keeping.put(self.room, rule("subject:x", ("forward", address)), confirmed=True)

    def test_a_rule_that_rests_is_confirmed_before_it_sends(self) -> None:
        """Nothing is asked of one kept switched off; switched on, it is, either way; one that runs goes on."""
        wanted = rule("subject:carnet", ("forward", "freight@office.example"), enabled=False)
        kept = keeping.put(self.room, wanted).rule
        for switch in (
            lambda: keeping.switch(self.room, kept.id, on=True),
            lambda: keeping.put(self.room, replace(kept, enabled=True)),
        ):
            with self.assertRaisesRegex(CallerError, "without asking again"):
                switch()
        self.take(letter("Carnet 12"))
        self.assertEqual(self.waiting(), [])
        keeping.switch(self.room, kept.id, on=True, confirmed=True)
        keeping.put(self.room, replace(kept, enabled=True, line="subject:carnets"))
        self.take(letter("Carnets 13"))
        self.assertEqual(self.waiting(), ["freight@office.example"])

    def test_no_message_keeps_itself_from_arriving_by_what_its_copy_would_hold(self) -> None:
        """Messages made to break their reader arrive as they would without the rule; a copy that cannot be made is told
        beside it."""
        number = keeping.put(
            self.room, rule("larger:1B", ("forward", "freight@office.example")), confirmed=True
        ).rule.id
        for raw in odd_messages(60):
            self.take(raw)
        self.assertGreater(len(self.waiting()), 20)
        with mock.patch.object(forwarding, "message_of", side_effect=ValueError("no header")):
            one = self.take(letter("Carnet 12"))
        ((_, hit),) = rules.of_message(self.room.reader(), one)
        self.assertEqual((hit.rule, hit.lost_to), (number, "unsent"))
        self.assertEqual(self.row(one).decided_by, "model")

    def test_a_day_has_its_bound(self) -> None:
        """No more than so many copies within a day, by all rules together."""
        keeping.put(self.room, rule("subject:carnet", ("forward", "freight@office.example")), confirmed=True)
        with mock.patch.object(forwarding, "A_DAY", 2):
            for number in range(4):
                self.take(letter(f"Carnet {number}", at=NOON + number))
            self.assertEqual(len(self.waiting()), 2)
            self.clock.now += DAY + 1
            self.take(letter("Carnet 9", at=NOON + 9))
            self.assertEqual(len(self.waiting()), 3)
