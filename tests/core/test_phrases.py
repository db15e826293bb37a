"""Phrases filled in: what is known, what stands in, what is left, and what can never be."""

from __future__ import annotations

import re
import unittest
from datetime import UTC, datetime
from pathlib import Path

from hieranome.core.errors import CallerError
from hieranome.core.phrases import KINDS, KNOWN, Values, check, check_all, check_name, fill, first_name, holes
from tests.generated import given, st

NOW = datetime(2026, 11, 25, 10, 30, tzinfo=UTC)
BOOK = {"bye": "Best,\n{ask who signs}", "ack": "Dear {first name|all},\n\nthank you.\n\n{phrase bye}", "plain": "So."}


def said(text: str, **values: str) -> str:
    """A phrase filled in."""
    return fill(text, BOOK, Values(**values), NOW).text  # type: ignore[arg-type]


class FillTest(unittest.TestCase):
    def test_what_is_known_is_filled_in(self) -> None:
        """Names, the subject, dates told from the day; braces that are doubled stay braces."""
        self.assertEqual(said("Hi {first name},", first_name="Ilse"), "Hi Ilse,")
        self.assertEqual(
            said("{ First  Name } {name} {address}", first_name="I", name="I V", address="i@h.example"),
            "I I V i@h.example",
        )
        self.assertEqual(said("About {subject}", subject="Rider"), "About Rider")
        self.assertEqual(said("On {date}, {date in 3 days}, {date next friday}."),
                         "On Wednesday 25 November, Saturday 28 November, Friday 4 December.")  # fmt: skip
        self.assertEqual(said("{{subject}} }}", subject="x"), "{subject} }")

    def test_what_is_not_known_falls_back_or_stays(self) -> None:
        """What stands in is used; without it the hole stays as it is, and is told."""
        self.assertEqual(said("Hi {first name|there},"), "Hi there,")
        self.assertEqual(said("Hi{first name|},"), "Hi,")
        filled = fill("Hi {first name}, {choose Monday|Tuesday} {ask the price}", BOOK, Values(), NOW)
        self.assertEqual(filled.holes, ("{first name}", "{choose Monday|Tuesday}", "{ask the price}"))

    def test_phrases_within_phrases(self) -> None:
        """They are filled in too, and what they ask stays open."""
        self.assertEqual(
            said("{phrase ack}\nPS", first_name="Ilse"), "Dear Ilse,\n\nthank you.\n\nBest,\n{ask who signs}\nPS"
        )

    def test_phrases_that_grow_without_end(self) -> None:
        """Each holding the one before twice, or a few hundred dates: refused, and where they are there all the same,
        filled only so far."""
        book = {"p0": "word"} | {f"p{n}": f"{{phrase p{n - 1}}}" * 80 for n in range(1, 7)}
        with self.assertRaisesRegex(CallerError, "100,000"):
            check("{phrase p6}", "big", book)
        with self.assertRaisesRegex(CallerError, "“p3”.*100,000"):
            check_all(book)
        self.assertLessEqual(len(fill("{phrase p6}", book, Values(), NOW).text), 100_000)
        long = Values(subject="x" * 2_000)
        self.assertLessEqual(len(fill("{subject}" * 2_000, {}, long, NOW).text), 100_000)
        chain = {f"c{n}": f"{{phrase c{n + 1}}}" for n in range(499)} | {"c499": "end"}
        with self.assertRaisesRegex(CallerError, "8 deep"):
            check_all(chain)
        with self.assertRaisesRegex(CallerError, "8 deep"):
            check("{phrase c0}", "first", chain)
        check("{phrase c493}", "last", chain)
        wide = {f"w{n}": "{phrase w0}" * 1_000 for n in range(1, 500)} | {"w0": "a"}
        check_all(wide)

    def test_what_strangers_wrote_is_no_phrase(self) -> None:
        """A subject or a name with braces is put in without becoming a placeholder."""
        self.assertEqual(said("{subject}", subject="{phrase ack} {ask x}\nBcc: y"), "(phrase ack) (ask x) Bcc: y")
        self.assertEqual(fill("{name}", BOOK, Values(name="{name}"), NOW).holes, ())

    def test_what_can_never_be_filled_is_refused(self) -> None:
        """Said with the reason, when it is kept."""
        for text, why in {
            "": "nothing yet",
            "{first nam}": "no placeholder",
            "{": "stands alone",
            "a } b": "stands alone",
            "{name\n}": "stands alone",
            "{phrase gone}": "no phrase",
            "{phrase me}": "within itself",
            "{choose}": "what to choose",
            "{ask}": "what to ask",
            "{date soonish}": "no time that is understood",
            "x" * 20_001: "20,000 characters",
        }.items():
            with self.subTest(text[:20]), self.assertRaisesRegex(CallerError, why):
                check(text, "me", BOOK)
        with self.assertRaisesRegex(CallerError, "within itself"):
            check("{phrase two}", "one", {"two": "{phrase one}"})
        check("{{x}} {name|} {phrase ack} {date in 3 days}", "me", BOOK)
        for name in ("", "two words", "x" * 41, "{a}"):
            with self.assertRaises(CallerError):
                check_name(name)

    @given(st.text(max_size=80), st.text(max_size=40), st.text(max_size=40))
    def test_any_text_is_filled_or_has_holes(self, text: str, name: str, subject: str) -> None:
        """Whatever a phrase and a message hold: what is left open is told, and nothing raises."""
        filled = fill(text, BOOK, Values(first_name=name, name=name, subject=subject), NOW)
        self.assertEqual(filled.holes, holes(filled.text))


class FirstNameTest(unittest.TestCase):
    def test_first_names_by_stated_rules(self) -> None:
        """Of persons, whatever the order or the title; none of firms, offices, initials and addresses."""
        for display, name in {
            "Ilse Vann": "Ilse",
            "Vann, Ilse": "Ilse",
            "Dr. Ilse Vann": "Ilse",
            "Prof. Dr. Jean-Luc Abelard": "Jean-Luc",
            "ILSE VANN": "Ilse",
            '"Ilse Vann"': "Ilse",
            "Øyvind Åsen": "Øyvind",
            "Ilse": "",
            "I. Vann": "",
            "ilse.vann@hall.example": "",
            "Salt Hall Box Office": "",
            "Vann & Sons": "",
            "The Lockweir Letter": "",
            "Tollgate Freight, counter 4": "",
            "Vann, Ilse, PhD": "",
            "": "",
        }.items():
            with self.subTest(display):
                self.assertEqual(first_name(display), name)


class PageTest(unittest.TestCase):
    def test_the_page_knows_the_same_placeholders(self) -> None:
        """The page finds what is left open in a draft by the same words as the outbox refuses it by."""
        page = Path(__file__).parents[2].joinpath("frontend/src/lib/phrases.ts").read_text("utf-8")
        found = re.search(r"const HOLE = .*?\(\?:([^)]*)\)", page)
        assert found is not None
        self.assertEqual(found[1].split("|"), [*KNOWN, *KINDS])
