"""Whom a message is shown as, whether what was said of that sender counts, and what the page says: a table."""

from __future__ import annotations

from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.viewing import open_message
from hieranome.core.sure import Reach
from hieranome.store import settings
from tests.support import OWNER, RoomCase, letter

FRIEND, CROOK = "friend@good.example", "attacker@evil.example"
SERVER = "mx.quillmark.example"

ABSENT = ""
PASSED_FOR_CROOK = (
    f"{SERVER}; spf=pass smtp.mailfrom={CROOK}; dkim=pass header.d=evil.example; dmarc=pass header.from=evil.example"
)
FAILED = f"{SERVER}; spf=fail smtp.mailfrom=good.example; dkim=fail header.d=good.example; dmarc=fail header.from=good.example"
PASSED_FOR_FRIEND = f"{SERVER}; spf=pass smtp.mailfrom=bounce@mail.good.example; dkim=pass header.d=good.example; dmarc=pass header.from=good.example"

F, C, N = FRIEND, CROOK, ""
"""Shown as the friend, as the crook, as nobody."""

FROM: tuple[tuple[str, str, str], ...] = (
    # what stands in From; whom it is shown as; a word the page says of it
    (f"Friend <{F}>", F, ""),
    (F, F, ""),
    (f"{F} (Friend)", F, ""),
    (f"({C}) {F}", F, "name shown is an address"),
    (f"{F} <{C}>", C, "name shown is an address"),
    (f'"{F}" <{C}>', C, "name shown is an address"),
    (f"=?utf-8?q?friend=40good.example?= <{C}>", C, "name shown is an address"),
    (f"=?utf-8?b?ZnJpZW5kQGdvb2QuZXhhbXBsZQ==?= <{C}>", C, "name shown is an address"),
    (f"{C} ({F})", C, "name shown is an address"),
    (f'"Friend ({F})" <{C}>', C, "name shown is an address"),
    (f'"friend＠good.example" <{C}>', C, "name shown is an address"),
    (f"{F}, {C}", N, "exactly one sender"),
    (f"{C}, {F}", N, "exactly one sender"),
    (f"Friend <{F}>, <{C}>", N, "exactly one sender"),
    (f"<{F}> <{C}>", N, "exactly one sender"),
    (f"<{C}> <{F}>", N, "exactly one sender"),
    (f"{F};{C}", N, "exactly one sender"),
    (f"{F} {C}", N, "exactly one sender"),
    (f"Friends: {F};", N, "exactly one sender"),
    (f"Friends: {F}, {C};", N, "exactly one sender"),
    (f"{F}: {C};", N, "exactly one sender"),
    (f"{F}:{C}", N, "exactly one sender"),
    (f"a:b:c:{F}", N, "exactly one sender"),
    (f"<@good.example:{C}>", N, "exactly one sender"),
    (f"<@evil.example,@x.example:{F}>", N, "exactly one sender"),
    (f"{F}\x00 <{C}>", C, "name shown is an address"),
    (f"<{F}\x00{C}>", N, "exactly one sender"),
    (f"{F}@evil.example", N, "exactly one sender"),
    (f"<{F}> {C}", N, "exactly one sender"),
    (f"{F} (", N, "exactly one sender"),
    (f"({F}", N, ""),
    (f"<{F}", N, "exactly one sender"),
    (f'"Friend" <{F}', N, "exactly one sender"),
    (f"{F}\nFrom: {C}", N, "exactly one sender"),
    (f"{C}\nFrom: {F}", N, "exactly one sender"),
    (f"{C}\nSender: {F}", C, ""),
    ("Friend", "friend", ""),
    ("", N, ""),
    (f"Good, Friend <{F}>", F, ""),
)  # fmt: skip

RESULTS: tuple[tuple[str, str, bool], ...] = (
    # the case; what the believed server wrote; whether the friend's own mail stays vouched for
    ("absent", ABSENT, True),
    ("passed for the crook", PASSED_FOR_CROOK, False),
    ("failed", FAILED, False),
    ("passed for the friend", PASSED_FOR_FRIEND, True),
)


class SenderTable(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        vouching.vouch(self.room, "address", FRIEND)
        vouching.set_names(self.room, settings.CONFIRMED, [SERVER])

    def arrive(self, from_: str, results: str, more: str = "") -> int:
        """A message with this From and these results; its id."""
        self.count = getattr(self, "count", 0) + 1
        head = f"Authentication-Results: {results}\n" if results else ""
        head += f"From: {from_}\n" if from_ else ""
        return self.take(f"{head}{more}To: {OWNER}\nSubject: {self.count}\n\nPlease pay.\n".encode())

    def test_the_table(self) -> None:
        """Each From with each result: whom it is shown as, whether vouched, on the Desk for that, what is said."""
        for from_, shown, word in FROM:
            for case, results, holds in RESULTS:
                with self.subTest(from_=from_, results=case):
                    number = self.arrive(from_, results)
                    opened = open_message(self.room, number)
                    self.assertEqual(opened.facts.sender.address, shown)
                    self.assertEqual(opened.row.sender_address, shown)
                    vouched = shown == FRIEND and holds
                    self.assertEqual(opened.vouched, vouched)
                    self.assertEqual(opened.row.decided_by == "vouched", vouched)
                    self.assertIn(word, " ".join(opened.warnings))
                    if shown == CROOK:
                        self.assertNotIn("good.example", opened.row.sender_name)

    def test_sender_never_stands_for_from(self) -> None:
        """Without a From it is nobody's, whatever Sender says."""
        opened = open_message(self.room, self.arrive("", ABSENT, more=f"Sender: {FRIEND}\n"))
        self.assertEqual((opened.facts.sender.address, opened.vouched), ("", False))

    def test_what_is_said_of_unproven_mail(self) -> None:
        """A vouched sender without an aligned pass: the page says why that does not count."""
        opened = open_message(self.room, self.arrive(FRIEND, PASSED_FOR_CROOK.replace("dmarc=pass", "dmarc=none")))
        self.assertIn("nothing that shows", " ".join(opened.warnings))

    def test_quoted_results_cancel_nothing(self) -> None:
        """Results hidden in a quoted value, an encoded word or a comment are none."""
        for hidden in (
            'smtp.mailfrom="x; dkim=pass header.d=good.example"@evil.example',
            'smtp.mailfrom="x\\"; dkim=pass header.d=good.example; \\""@evil.example',
            "smtp.mailfrom=x (; dkim=pass header.d=good.example)",
            "smtp.mailfrom=x ((); dkim=pass header.d=good.example)",
            "smtp.mailfrom==?utf-8?q?x;_dkim=3Dpass_header.d=3Dgood.example?=@evil.example",
        ):
            with self.subTest(hidden):
                results = (
                    f"{SERVER}; spf=fail {hidden}; dkim=fail header.d=good.example; dmarc=fail header.from=good.example"
                )
                opened = open_message(self.room, self.arrive(FRIEND, results))
                self.assertFalse(opened.vouched)
                self.assertIn("Forged", opened.warnings[0])

    def test_headers_that_were_not_all_read(self) -> None:
        """Another sender may stand behind them: what was said of this one does not count, and the owner is told."""
        vouching.vouch(self.room, "address", "ilse@hall.example")
        head, _, body = letter("Rider", sender="ilse@hall.example").partition(b"\n\n")
        number = self.take(head + b"\nX: y" * 1_001 + b"\n\n" + body)
        plain = self.take(letter("Rider 2", sender="ilse@hall.example"))
        (warning,) = open_message(self.room, number).warnings
        self.assertIn("Not all headers", warning)
        self.assertEqual((self.row(plain).decided_by, open_message(self.room, plain).warnings), ("vouched", []))
        self.assertNotEqual(self.row(number).decided_by, "vouched")

    def test_siblings_of_an_organisation_are_aligned(self) -> None:
        """A pass for another host of the same organisation counts, one of a public suffix does not."""
        for passed, holds in (("news.good.example", True), ("example", False), ("notgood.example", False)):
            results = f"{SERVER}; dkim=pass header.d={passed}"
            with self.subTest(passed):
                self.assertEqual(open_message(self.room, self.arrive(FRIEND, results)).vouched, holds)

    def test_a_list_the_sender_uses_explains_an_unaligned_pass(self) -> None:
        """Through a list known for this sender, a pass for the list alone counts as absent; through another, not."""
        through = "List-Id: <players.lists.example>\n"
        results = f"{SERVER}; dkim=pass header.d=lists.example"
        self.assertFalse(open_message(self.room, self.arrive(FRIEND, results, through)).vouched)
        self.arrive(FRIEND, ABSENT, through)
        self.assertTrue(open_message(self.room, self.arrive(FRIEND, results, through)).vouched)

    def test_always_lessons_need_the_same(self) -> None:
        """What was said for always of a sender keeps unproven mail on the Desk no more than vouching does."""
        self.teach(self.arrive("boss@firm.example", ABSENT))
        self.assertEqual(self.row(self.arrive("boss@firm.example", ABSENT)).decided_by, "address")
        self.assertNotEqual(self.row(self.arrive("boss@firm.example", PASSED_FOR_CROOK)).decided_by, "address")

    def teach(self, number: int) -> None:
        correct(self.room, [number], "desk", Reach.ADDRESS)


class OwnMail(RoomCase):
    """Mail that bears the owner's address."""

    def setUp(self) -> None:
        super().setUp()
        vouching.set_names(self.room, settings.CONFIRMED, [SERVER])

    def mine(self, results: str = "", more: str = "") -> bytes:
        head = f"Authentication-Results: {results}\n" if results else ""
        return f"{head}From: Maren <{OWNER}>\nTo: crook@evil.example\n{more}Subject: x\n\nx\n".encode()

    def test_forged_as_the_owner_s_own(self) -> None:
        """In the inbox, without an aligned pass, it is not own: not in Sent, nothing answered, nobody's sums raised."""
        asked = self.take(b"From: ilse@hall.example\nMessage-ID: <q@hall.example>\nSubject: q\n\nx\n")
        for results in (ABSENT, PASSED_FOR_CROOK):
            with self.subTest(results=results):
                number = self.take(self.mine(results, "In-Reply-To: <q@hall.example>\n"))
                self.assertNotEqual(self.row(number).place, "sent")
                self.assertIn("your own address", " ".join(open_message(self.room, number).warnings))
        self.assertFalse(self.row(asked).answered)
        self.assertFalse(self.row(asked).seen)
        self.assertNotIn("address:crook@evil.example", dict(self.room.relations.items()))

    def test_an_aligned_pass_makes_it_own(self) -> None:
        """What the believed server found to come from the owner's own domain stands in Sent."""
        number = self.take(self.mine(f"{SERVER}; dkim=pass header.d=quillmark.example"))
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("sent", "own"))
