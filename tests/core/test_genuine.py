"""Who wrote it: what a server found, who is vouched for, who only looks like it."""

import unittest

from hieranome.core.authentication import judge_sender, parse_results
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.vouched import Vouched, look_alike, skeleton

SERVER = "mx.quillmark.example"
ILSE = Vouched("address", "ilse@hall.example", "Ilse Brandt")


def from_(address: str, name: str = "", *, results: str = "", server: str = SERVER, list_id: str = "") -> MessageFacts:
    found = ((server, results),) if results else ()
    return MessageFacts(sender=Correspondent(address, name), authentication=found, list_id=list_id)


def forged(facts: MessageFacts, confirmed: list[str], *, uses_list: bool = False) -> str:
    """Why a message is proven forged, organisations being the last two labels."""
    return judge_sender(facts, confirmed, last_two, uses_list=uses_list).why


def last_two(domain: str) -> str:
    return ".".join(domain.split(".")[-2:])


class ForgedTest(unittest.TestCase):
    def test_only_a_confirmed_server_is_believed(self) -> None:
        """A failure stamped by another authserv-id proves nothing, and a pass stamped by one excuses nothing."""
        failed = from_("ilse@hall.example", results="dmarc=fail header.from=hall.example")
        self.assertIn("hall.example", forged(failed, [SERVER]))
        self.assertEqual(forged(failed, ["mx.other.example"]), "")
        self.assertEqual(forged(failed, []), "")
        both = MessageFacts(
            sender=Correspondent("ilse@hall.example"),
            authentication=(("mx.crook.example", "dmarc=pass"), (SERVER, "dmarc=fail header.from=hall.example")),
        )
        self.assertNotEqual(forged(both, [SERVER]), "")

    def test_what_proves_and_what_does_not(self) -> None:
        """Each combination of results, as RFC 8601 and RFC 7489 have it."""
        for results, proven in (
            ("spf=pass smtp.mailfrom=hall.example; dkim=pass header.d=hall.example", False),
            ("spf=fail smtp.mailfrom=hall.example; dkim=pass header.d=mail.hall.example; dmarc=fail", False),
            ("spf=fail smtp.mailfrom=hall.example; dkim=fail header.d=hall.example", True),
            ("spf=fail smtp.mailfrom=hall.example", False),
            ("spf=pass smtp.mailfrom=crook.example; dmarc=fail header.from=hall.example", True),
            ("spf=softfail smtp.mailfrom=hall.example; dkim=none", False),
            ("none", False),
            ("", False),
            ("dmarc=fail (p=reject (nested; comment)) header.from=hall.example", True),
            ("=;;= ; dkim", False),
        ):
            with self.subTest(results):
                self.assertEqual(bool(forged(from_("ilse@hall.example", results=results), [SERVER])), proven)

    def test_a_list_that_passed_explains_a_failure(self) -> None:
        """A failure through a list the sender uses counts for nothing when the list itself passed."""
        results = "dmarc=fail header.from=hall.example; dkim=pass header.d=lists.example"
        facts = from_("ilse@hall.example", results=results, list_id="players.lists.example")
        self.assertEqual(forged(facts, [SERVER], uses_list=True), "")
        self.assertNotEqual(forged(facts, [SERVER], uses_list=False), "")

    def test_quoted_values_and_properties_are_read(self) -> None:
        """Results come with their properties, quotes taken off."""
        (found,) = parse_results('dkim=pass (good) header.d="hall.example" header.s=k1')
        self.assertEqual((found.method, found.value, found.properties["header.d"]), ("dkim", "pass", "hall.example"))


class LookAlikeTest(unittest.TestCase):
    def test_look_alikes_are_told(self) -> None:
        """Homoglyphs, digits, punycode, a name that is the address, a borrowed name: all only look like her."""
        for address, name in (
            ("ilse@haII.example", ""),
            ("i1se@hall.example", ""),
            ("ilsе@hall.example", ""),
            ("ilse@xn--hll-6cd.example", ""),
            ("x9@crook.example", "ilse@hall.example"),
            ("x9@crook.example", "Ilse Brandt"),
            ("x9@crook.example", "ILSE  BRANDT".replace("  ", " ")),
            ("x9@crook.example", "Іlse Brаndt"),
        ):
            with self.subTest(address=address, name=name):
                self.assertEqual(look_alike(from_(address, name), [ILSE]), ILSE)

    def test_others_are_left_alone(self) -> None:
        """She herself, her colleagues and people of other names look like nobody."""
        for address, name in (
            ("ilse@hall.example", "Ilse Brandt"),
            ("ilse@hall.example", "Box Office"),
            ("oskar@hall.example", "Oskar Brandel"),
            ("ilse@studio.example", "Ilse"),
            ("x9@crook.example", ""),
        ):
            with self.subTest(address=address, name=name):
                self.assertIsNone(look_alike(from_(address, name), [ILSE]))

    def test_domains_are_compared_too(self) -> None:
        """A domain that reads like a vouched one is not it."""
        hall = Vouched("domain", "modernhall.example")
        self.assertEqual(look_alike(from_("x@modemhall.example"), [hall]), hall)
        self.assertIsNone(look_alike(from_("x@modernhall.example"), [hall]))

    def test_letters_of_other_scripts_are_seen_through(self) -> None:
        """Cyrillic, Armenian, Greek and phonetic letters that read as Latin ones pose in vain."""
        for posing, latin in zip("һӏԛԝѵүօհռցքզγσɑɪᴏᴄꜱ", "hlqwvyohngfqyoaiocs", strict=True):
            self.assertEqual(skeleton(posing), skeleton(latin), posing)
        for domain in ("һall.example", "haӏl.example", "hɑll.example"):
            self.assertEqual(look_alike(from_(f"ilse@{domain}"), [ILSE]), ILSE, domain)

    def test_skeleton_folds_what_a_hasty_eye_folds(self) -> None:
        """Accents, invisible letters and look-alikes are one."""
        self.assertEqual(skeleton("ＨＡＬＬ"), skeleton("hall"))
        self.assertEqual(skeleton("ha\u200bll"), skeleton("hall"))
        self.assertEqual(skeleton("hãll"), skeleton("ha11"))
