"""What each group looks at: one promise a group, on a message made for it."""

import unittest
import zlib
from dataclasses import replace
from typing import Any

import numpy as np

from hieranome.core.facts import AttachmentFacts, Correspondent, MessageFacts, Owner
from hieranome.core.features import FEATURE_VERSION, SLOTS, extract, feature, groups_of, slot_of, slots_of, values_of
from hieranome.core.groups import GROUPS, Context, Seen
from hieranome.core.relations import Relations, Sums

ME = Correspondent("maren@quillmark.example")
ILSE = Correspondent("ilse@box.hall.example", "Ilse Brandt")
PLAIN = MessageFacts(message_id="<1@hall.example>", sender=ILSE, to=(ME,), subject="Rider", text="Good morning.")


def found(group: str, context: Context | None = None, **changed: Any) -> set[str]:
    """The texts of one group's features for a plain message with something changed."""
    look = next(one.extract for one in GROUPS if one.name == group)
    facts = replace(PLAIN, **changed)
    return set(look(Seen(facts, context or Context(Owner.of(ME.address), Relations()))))


def known(**sums: int) -> Context:
    """A context in which the sender has these sums."""
    relations = Relations()
    relations.add(f"address:{ILSE.address}", Sums(**sums))
    return Context(Owner.of(ME.address), relations)


class WhoTest(unittest.TestCase):
    def test_sender(self) -> None:
        """Address, or the name where there is none; domains from narrow to wide; words of the name."""
        self.assertEqual(found("address"), {"ilse@box.hall.example"})
        self.assertEqual(found("address", sender=Correspondent("", "Ilse")), {"name Ilse"})
        self.assertEqual(found("domain"), {"box.hall.example", "hall.example"})
        self.assertEqual(found("name"), {"ilse", "brandt"})

    def test_list(self) -> None:
        """Nothing without a list; with one, the list, and this sender on it."""
        self.assertEqual(found("list") | found("list_sender"), set())
        self.assertEqual(found("list", list_id="players.hall.example"), {"players.hall.example"})
        self.assertEqual(found("list_sender", list_id="p.example"), {"p.example ilse@box.hall.example"})

    def test_relation(self) -> None:
        """What was done with the sender's mail, in bins; a stranger has none of it."""
        self.assertEqual(found("relation"), {"answered 0", "written 0", "seen 0"})
        often = found("relation", known(received=40, read=40, answered=40, written=5, timed=40, waited=40 * 30))
        self.assertLessEqual({"answered many", "written 9", "seen many", "read 4", "answers 4"}, often)
        self.assertIn("answered within an hour", often)
        self.assertIn("read 0", found("relation", known(received=50)))
        mine = Context(Owner.of(ME.address), Relations(), thread_has_mine=True)
        self.assertIn("my thread", found("relation", mine))


class ToWhomTest(unittest.TestCase):
    def test_my_part_among_the_recipients(self) -> None:
        """Alone, one of some, a copy, or not named at all."""
        other = Correspondent("x@y.example")
        for part, to, cc in (
            ("to me alone", (ME,), ()),
            ("to me", (ME, other), ()),
            ("copy", (other,), (ME,)),
            ("not named", (other,), ()),
        ):
            self.assertIn(part, found("to_whom", to=to, cc=cc))
        unknown = Context(Owner(), Relations())
        self.assertNotIn("not named", found("to_whom", unknown, to=(other,)))

    def test_addresses_it_went_to(self) -> None:
        """At most five recipients, and the address it was delivered to."""
        many = tuple(Correspondent(f"p{n}@y.example") for n in range(30))
        self.assertEqual(len(found("addressed", to=many, delivered_to="tour@quillmark.example")), 6)


class HowTest(unittest.TestCase):
    def test_how_it_was_sent(self) -> None:
        """Each mark of lists, machines, replies and senders who want no reply."""
        for change, mark in (
            ({"list_id": "a.example", "list_post": True}, "discussion list"),
            ({"list_id": "a.example"}, "announcements"),
            ({"list_unsubscribe": True}, "unsubscribe"),
            ({"precedence": "bulk"}, "precedence bulk"),
            ({"auto_submitted": True}, "automatic"),
            ({"html_only": True}, "html only"),
            ({"invitation": True}, "invitation"),
            ({"in_reply_to": "<0@x.example>"}, "reply"),
            ({"sender_priority": 1}, "priority 1"),
            ({"reply_to": Correspondent("a@other.example")}, "replies elsewhere"),
            ({"sender": Correspondent("no-reply@hall.example")}, "no reply wanted"),
        ):
            self.assertIn(mark, found("how", **change))
            self.assertNotIn(mark, found("how"))

    def test_what_it_was_made_with(self) -> None:
        """Mailer, first host and attachments by kind; digits of a version do not tell mailers apart."""
        made = found(
            "made",
            mailer="Post 3.1",
            first_host="a.b.hall.example",
            attachments=(AttachmentFacts("application/pdf", "Plan.PDF", 9),),
        )
        self.assertLessEqual({"host hall.example", "attached application/pdf", "attached .pdf"}, made)
        self.assertEqual(found("made", mailer="Post 3"), found("made", mailer="Post 4"))

    def test_what_is_odd(self) -> None:
        """Defects, loudness, and a sender who is not who it says."""
        self.assertEqual(found("damage"), set())
        odd = Context(Owner(), Relations(), forged=True, alike=True)
        self.assertEqual(
            found("damage", odd, defects=("date off",)), {"date off", "proven forged", "looks like another"}
        )
        self.assertIn("shouting subject", found("damage", subject="WIN A PRIZE NOW"))
        self.assertIn("loud subject", found("damage", subject="Win $100"))
        self.assertIn("padded subject", found("damage", subject="Win   now"))

    def test_headers_their_order_and_the_markup(self) -> None:
        """Names and neighbours of headers; an id from elsewhere; tags, capitals, money and foreign letters."""
        carried = found("headers", header_names=("received", "from", "x-tag"))
        self.assertIn("x-tag", carried)
        self.assertLessEqual(
            carried, {"x-tag", "charset ", "id of the sender's domain"}
        )  # no header that all mail carries
        self.assertIn("id of another domain", found("headers", message_id="<1@win7.example>"))
        self.assertNotEqual(
            found("header_order", header_names=("from", "to", "date")),
            found("header_order", header_names=("date", "to", "from")),
        )
        self.assertIn("blink", found("markup", html_tags=("blink",)))
        self.assertNotEqual(found("markup", text="quiet words"), found("markup", text="LOUD WORDS"))
        self.assertNotEqual(found("markup", text="costs nothing"), found("markup", text="costs € 9"))
        self.assertNotEqual(found("markup", text="привет мир"), found("markup", text="hello world"))


class WhatTest(unittest.TestCase):
    def test_cues_in_four_languages(self) -> None:
        """A request is a request in English, German, French and Spanish; so are trouble and an offer."""
        for cue, texts in (
            ("request", ("please confirm", "bitte bestätigen", "veuillez confirmer", "necesito firmar")),
            ("trouble", ("she is ill", "er ist krank", "il est malade", "está enfermo")),
            ("offer", ("a discount", "ein rabatt", "une remise", "una oferta")),
        ):
            for text in texts:
                self.assertIn(cue, found("cues", text=text), text)
        self.assertIn("question", found("cues", text="Is it so?"))
        self.assertEqual(found("cues"), set())

    def test_words_and_their_neighbours(self) -> None:
        """Subject words, pairs of them, each with its sender; numbers are all alike."""
        self.assertEqual(found("subject", subject="Invoice 17"), found("subject", subject="Invoice 2203"))
        self.assertEqual(len(found("subject_pairs", subject="stage plan for hall")), 3)
        with_sender = found("sender_subject", subject="stage plan")
        self.assertEqual(with_sender, {"ilse@box.hall.example stage", "ilse@box.hall.example plan"})
        listed = found("sender_subject", subject="stage", list_id="players.example")
        self.assertEqual(listed, {"players.example stage"})

    def test_common_words_are_left_out_of_the_text(self) -> None:
        """The commonest words of four languages say nothing; others stay."""
        for text in ("the and with", "und der mit", "les avec pour", "los para con"):
            self.assertEqual(found("text", text=text), set(), text)
        self.assertEqual(found("text", text="the rosin and the viola"), {"rosin", "viola"})

    def test_links_count_by_domain(self) -> None:
        """Hosts of one domain are one; no more than twelve are looked at."""
        self.assertEqual(found("links", links=("a.shop.example", "b.shop.example")), {"shop.example"})
        self.assertEqual(len(found("links", links=tuple(f"s{n}.example" for n in range(40)))), 12)


class VectorTest(unittest.TestCase):
    def test_a_feature_knows_its_group_and_slot(self) -> None:
        """The number of every feature gives back its group and its slot."""
        for number, group in enumerate(GROUPS):
            vector = np.array([feature(group.name, "rosin")], dtype=np.uint32)
            self.assertEqual((groups_of(vector)[0], slots_of(vector)[0]), (number, slot_of(group.name, "rosin")))
            self.assertLess(slots_of(vector)[0], SLOTS)

    def test_a_long_text_weighs_no_more_than_a_short_one(self) -> None:
        """Each group's part of a vector has the length of its table entry, whatever the text's."""
        context = Context(Owner.of(ME.address), Relations())
        for text in ("rosin", " ".join(f"w{chr(97 + n % 26)}{chr(97 + n // 26)}" for n in range(390))):
            groups = groups_of(extract(replace(PLAIN, text=text), context))
            values = values_of(groups)
            for number, group in enumerate(GROUPS):
                part = values[groups == number]
                if part.size:
                    self.assertAlmostEqual(float(np.sqrt(part @ part)), group.mass, places=12)

    def test_hostile_sizes_are_bounded(self) -> None:
        """A hundred thousand words, recipients and links make a vector of at most some hundreds of features."""
        facts = replace(
            PLAIN,
            subject="word " * 100_000,
            text=" ".join(f"w{n}x{chr(97 + n % 26)}" for n in range(100_000)),
            to=tuple(Correspondent(f"p{n}@y.example") for n in range(10_000)),
            links=tuple(f"s{n}.example" for n in range(10_000)),
        )
        self.assertLess(len(extract(facts, Context(Owner(), Relations()))), 1000)


class LayoutTest(unittest.TestCase):
    def test_what_stored_vectors_mean_is_pinned(self) -> None:
        """Stored vectors say their groups by number: who moves, adds or removes a group, or changes the hash raises the
        version and pins the new layout here."""
        layout = zlib.crc32(
            " ".join([*(one.name for one in GROUPS), str(SLOTS), str(feature("address", "a@b"))]).encode()
        )
        self.assertEqual((FEATURE_VERSION, layout), (4, 2706594056), "raise FEATURE_VERSION and pin the layout anew")
