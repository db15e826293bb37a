"""What is vouched for stands on the Desk; what only pretends to be does not, and the evidence says why."""

from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.viewing import open_message
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.sure import Reach
from hieranome.mail.organisations import SHARED
from hieranome.store import settings
from tests.support import RoomCase, letter

ILSE = "Ilse Brandt <ilse@hall.example>"
SERVER = "mx.quillmark.example"
LURE = "You have won. Send the fee to release your prize. " * 20


def stamped(verdict: str, server: str = SERVER, domain: str = "hall.example") -> dict[str, str]:
    """The header a checking server writes."""
    return {
        "Authentication_Results": f"{server}; spf={verdict} smtp.mailfrom={domain};"
        f" dkim={verdict} header.d={domain}; dmarc={verdict} header.from={domain}"
    }


class VouchedCase(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        vouching.set_names(self.room, settings.CONFIRMED, [SERVER])
        vouching.vouch(self.room, "address", "ilse@hall.example", "Ilse Brandt")

    def placed(self, raw: bytes) -> tuple[str, str]:
        row = self.row(self.take(raw))
        return row.place, row.decided_by

    def said(self, raw: bytes) -> str:
        """The evidence of a message, in one string."""
        return " ".join(line.text for line, _ in open_message(self.room, self.take(raw)).evidence)


class VouchingTest(VouchedCase):
    def test_a_vouched_sender_stands_on_the_desk(self) -> None:
        """Even mail made like an offer, when its sender is vouched for."""
        self.assertEqual(self.placed(letter("WIN $$$!!", sender=ILSE, body=LURE)), ("desk", "vouched"))
        self.assertEqual(self.placed(letter("Again", sender=ILSE, body=LURE, **stamped("pass"))), ("desk", "vouched"))

    def test_a_verdict_of_the_owner_comes_first(self) -> None:
        """A message of a vouched sender put elsewhere stays there; so does what a lesson says always."""
        number = self.take(letter("Minutes", sender=ILSE))
        correct(self.room, [number], "shelf", Reach.MESSAGE)
        self.assertEqual(self.row(number).place, "shelf")

    def test_vouching_ends_when_removed(self) -> None:
        """Removed, the next message is the model's to place; removing twice says so."""
        vouching.remove(self.room, "address", "ilse@hall.example")
        self.assertEqual(self.placed(letter("WIN $$$!!", sender=ILSE, body=LURE))[1], "model")
        with self.assertRaises(NotFound):
            vouching.remove(self.room, "address", "ilse@hall.example")

    def test_from_a_message_by_address_or_domain(self) -> None:
        """The sender of a message, or its domain, is vouched for with the name it bears."""
        number = self.take(letter(sender="Oskar Brandel <brandel@salthall.example>"))
        self.assertEqual(vouching.vouch_for_sender(self.room, number, "address").key, "brandel@salthall.example")
        self.assertEqual(vouching.vouch_for_sender(self.room, number, "domain").key, "salthall.example")
        self.assertEqual(self.placed(letter("x", sender="new@salthall.example")), ("desk", "vouched"))

    def test_what_cannot_be_vouched_for(self) -> None:
        """Neither an address nor a domain, or a domain many share: refused in a sentence, nothing changed."""
        vouching.set_names(self.room, settings.SHARED, ["many.example"])
        listed = next(iter(SHARED))
        before = list(self.room.vouched)
        for kind, key in (
            ("address", "ilse"), ("address", "@hall.example"), ("domain", "ilse@hall.example"), ("domain", "hall"),
            ("domain", ""), ("domain", "many.example"), ("domain", listed),
        ):  # fmt: skip
            with self.subTest(kind=kind, key=key), self.assertRaises(CallerError):
                vouching.vouch(self.room, kind, key)
        self.assertEqual(list(self.room.vouched), before)

    def test_vouching_survives_a_restart(self) -> None:
        """Who is vouched for, whose checks are believed and what is shared is kept."""
        vouching.set_names(self.room, settings.SHARED, ["many.example"])
        vouching.set_kin_follow(self.room, True)
        before = (self.room.vouched, self.room.confirmed, self.room.shared, self.room.kin_follow)
        self.reopen()
        self.assertEqual((self.room.vouched, self.room.confirmed, self.room.shared, self.room.kin_follow), before)


class HostileTest(VouchedCase):
    def test_a_forged_vouched_sender_is_not_kept_on_the_desk(self) -> None:
        """Proven forged, her name is worth nothing, and the evidence says so."""
        raw = letter("WIN $$$!!", sender=ILSE, body=LURE, **stamped("fail"))
        place, by = self.placed(raw)
        self.assertEqual(by, "model")
        self.assertNotEqual(place, "desk")
        self.assertIn("Proven not to come from the sender", self.said(letter("Two", sender=ILSE, **stamped("fail"))))

    def test_a_header_of_another_server_excuses_nothing(self) -> None:
        """A pass stamped by the sender's own server, above or below the real failure, does not count."""
        fail, passed = stamped("fail")["Authentication_Results"], stamped("pass", "mx.crook.example")
        raw = letter("Fee", sender=ILSE, body=LURE, **passed)
        for both in (
            b"Authentication-Results: " + fail.encode() + b"\r\n" + raw,
            raw.replace(b"Authentication-Results:", b"Authentication-Results: " + fail.encode() + b"\nX-Old:", 1)
            + b"\n",
        ):
            self.assertEqual(self.placed(both)[1], "model")

    def test_a_failure_stamped_by_another_server_harms_nobody(self) -> None:
        """What a stranger's header says of her mail is not believed either."""
        raw = letter("Rider", sender=ILSE, **stamped("fail", "mx.crook.example"))
        self.assertEqual(self.placed(raw), ("desk", "vouched"))

    def test_look_alikes_are_named(self) -> None:
        """A homoglyph, a digit, a borrowed name or her address as a name: the model's to place, and told."""
        for sender in (
            "Ilse Brandt <ilse@ha11.example>",
            "Ilse Brandt <ilse.brandt@win7.example>",
            '"ilse@hall.example" <x@win7.example>',
            "Ilse <ilse@xn--hll-6cd.example>",
        ):
            with self.subTest(sender):
                self.assertNotEqual(self.placed(letter("Your prize $$$!!", sender=sender, body=LURE))[0], "desk")
                self.assertIn("looks like somebody you vouch for", self.said(letter(f"x {sender}", sender=sender)))

    def test_several_senders_are_no_sender(self) -> None:
        """Mail that names her beside another as its senders is not hers."""
        raw = letter("Fee", sender=f"crook@win7.example, {ILSE}", body=LURE)
        self.assertNotEqual(self.placed(raw)[1], "vouched")
        twice = b"From: " + ILSE.encode() + b"\n" + letter("Fee", sender="crook@win7.example", body=LURE)
        self.assertNotEqual(self.placed(twice)[1], "vouched")

    def test_naming_her_everywhere_else_lifts_nothing(self) -> None:
        """Her name and address in the text, thousands of times, in other headers, as recipient: not hers."""
        named = "Ilse Brandt ilse@hall.example " * 3000
        raw = letter(
            "Prize for Ilse Brandt", sender="a@win7.example", to="ilse@hall.example", body=f"{LURE}\n{named}",
            Reply_To=ILSE, Sender=ILSE, Return_Path="<ilse@hall.example>", X_Original_From=ILSE,
        )  # fmt: skip
        place, by = self.placed(raw)
        self.assertEqual(by, "model")
        self.assertNotEqual(place, "desk")

    def test_hidden_words_are_not_read(self) -> None:
        """Words that no reader sees do not lift mail; that they are there counts against it, and is told."""
        number = self.take(letter("Rider for the hall", body="rider risers stage plan hall confirm today please?"))
        correct(self.room, [number], "desk", Reach.LEARN)
        good = "rider risers stage plan hall confirm today please " * 2000
        hidden = letter(
            "Prize", sender="b@win7.example", body=f"<p>{LURE}</p><div style='display:none'>{good}</div>"
        ).replace(b"text/plain", b"text/html")
        self.assertNotEqual(self.placed(hidden)[0], "desk")
        self.assertIn("hidden text", self.said(hidden.replace(b"Prize", b"Prize 2")).lower())

    def test_always_this_sender_does_not_bind_forged_mail(self) -> None:
        """A lesson that keeps a sender on the Desk for always holds for what the sender sent alone."""
        number = self.take(letter("Hello", sender="kim@studio.example"))
        correct(self.room, [number], "desk", Reach.ADDRESS)
        genuine = letter("One", sender="kim@studio.example", **stamped("pass", domain="studio.example"))
        fake = letter("Two", sender="kim@studio.example", body=LURE, **stamped("fail", domain="studio.example"))
        self.assertEqual(self.placed(genuine), ("desk", "address"))
        self.assertEqual(self.placed(fake)[1], "model")
