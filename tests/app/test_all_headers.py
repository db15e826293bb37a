"""Whatever is done by itself because of headers is not done where a reader of all headers would refuse it."""

from __future__ import annotations

import random
import re
import unittest
from collections.abc import Callable

from hieranome.app.rules.forwarding import LOOP_MARK, may_be_sent_on
from hieranome.core.away import forbidden
from hieranome.core.facts import Owner
from hieranome.mail.answering import asked
from hieranome.mail.mime import MAX_HEADER_BLOCK, MAX_HEADERS
from hieranome.mail.reading import read
from hieranome.mail.unsubscribing import ways
from tests.support import QUICK, letter

ME = "maren@posthorn.example"
ARRANGEMENTS = 500 if QUICK else 3_000
_FIELD = re.compile(rb"([!-9;-~]+)[ \t]*:(.*)", re.DOTALL)
Pair = tuple[bytes, bytes]
FORBIDDING: tuple[Pair, ...] = (
    (b"Auto-Submitted", b"auto-replied"),
    (b"Precedence", b"bulk"),
    (b"precedence", b"List (news)"),
    (b"List-Unsubscribe", b"<https://evil.example/leave>"),
    (b"LIST-ID", b"<crew.lists.example>"),
    (b"X-Auto-Response-Suppress", b"OOF"),
    (b"X-Autoreply", b"yes"),
    (LOOP_MARK.encode(), b"oskar@salthall.example"),
    (b"hieranome-LOOP", b"somebody"),
)
HARMLESS: tuple[Pair, ...] = (
    (b"Auto-Submitted", b"no"),
    (b"Precedence", b"first-class"),
    (b"X-Auto-Response-Suppress", b"DR"),
    (b"List", b"of things"),
    (b"X-Mailer", b"Post"),
)
UNSUBSCRIBING: tuple[Pair, ...] = (
    (b"List-Unsubscribe", b"<https://salthall.example/leave>, <mailto:leave@salthall.example>"),
    (b"List-Unsubscribe-Post", b"List-Unsubscribe=One-Click"),
)


def all_headers(raw: bytes) -> list[tuple[str, str]]:
    """Every line before the first empty one that may be a header, by whomever, in lower case, without any bound."""
    head = re.split(rb"\r?\n\r?\n", raw, maxsplit=1)[0]
    lines = re.sub(rb"\r?\n[ \t]+", b" ", head).replace(b"\r\n", b"\n").split(b"\n")
    found = [match.groups() for line in lines if (match := _FIELD.fullmatch(line))]
    return [(name.decode().lower(), value.decode("latin-1").strip().lower()) for name, value in found]


def may_be_answered(headers: list[tuple[str, str]]) -> bool:
    """Whether nothing in all headers forbids an answer by a machine."""
    for name, value in headers:
        word = re.split(r"[;(\s]", value)[0]
        if name.startswith("list-") or name in ("x-autoreply", "x-autorespond", "x-autoresponder"):
            return False
        if (name == "auto-submitted" and word != "no") or (name == "precedence" and word in ("bulk", "list", "junk")):
            return False
        if name == "x-auto-response-suppress" and {"oof", "all", "autoreply"} & set(re.findall("[a-z]+", value)):
            return False
    return True


class ArrangementsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rng = random.Random(12)

    def folded(self, pair: Pair) -> bytes:
        """A field as it may be written: its name's case, blanks, folds."""
        name, value = pair
        if self.rng.random() < 0.3:
            name = self.rng.choice([name.lower(), name.upper()])
        colon = b":" if self.rng.random() < 0.9 else b" :"
        fold = self.rng.choice([b" ", b"", b"\t", b"\r\n ", b"\r\n\t", b"   "])
        return name + colon + fold + value + b"\r\n"

    def filling(self) -> list[bytes]:
        """What may stand between: nothing, some headers, more than are read, one that is too long, one with a name that
        is, or a line that is none."""
        other = [b"X-%d: y\r\n" % number for number in range(self.rng.choice([0, 3, 30, 59, 61, 100]))]
        odd: Callable[[], list[bytes]] = self.rng.choices(
            [
                lambda: [],
                lambda: [b"X: y\r\n" * (MAX_HEADERS - self.rng.randint(-20, 20))],
                lambda: [b"X: " + b"y" * (MAX_HEADER_BLOCK - self.rng.randint(-2_000, 2_000)) + b"\r\n"],
                lambda: [b"X" * 300 + b": y\r\n"],
                lambda: [b"no header at all\r\n"],
                lambda: [b"X: a\r\n" + b" \r\n" * self.rng.randint(1, 4)],
                lambda: [b"List-Unsubscribe: <https://a.example/" + b"a" * 60_001 + b">\r\n"],
            ],
            [76, 5, 1, 4, 6, 6, 2],
        )[0]
        return other + odd()

    def arranged(self, said: list[Pair]) -> bytes:
        """A letter whose headers stand anywhere."""
        plain = letter("Plan", sender="Oskar <oskar@salthall.example>", to=ME, Return_Path="<oskar@salthall.example>")
        head, _, body = plain.replace(b"\r\n", b"\n").partition(b"\n\n")
        own = [line + b"\r\n" for line in re.sub(rb"\n[ \t]+", b" ", head).split(b"\n")]
        rest = [self.folded(pair) for pair in said]
        self.rng.shuffle(rest)
        cut = self.rng.randint(0, len(rest))
        parts = [rest[:cut], self.filling(), rest[cut:]]
        parts.insert(self.rng.choice([0, 0, 0, len(parts)]), own)
        return b"".join(b"".join(part) for part in parts) + b"\r\n" + body

    def test_nothing_is_done_that_a_full_reading_refuses(self) -> None:
        """No request, no notice, no copy; and where nothing is odd, all three are done."""
        done = {"answered": 0, "sent on": 0, "asked": 0}
        for _ in range(ARRANGEMENTS):
            said = self.rng.choices(HARMLESS, k=self.rng.randint(0, 3))
            if self.rng.random() < 0.6:
                said += self.rng.choices(FORBIDDING, k=self.rng.randint(1, 2))
            if self.rng.random() < 0.5:
                said += UNSUBSCRIBING
            raw = self.arranged(said)
            full = all_headers(raw)
            facts = read(raw).facts
            why = forbidden(asked(raw), facts, Owner.of(ME), "desk", leads_back=lambda _: True)
            done["answered"] += not why
            self.assertTrue(why or may_be_answered(full), raw[:2_000])
            names = [name for name, _ in full]
            if may_be_sent_on(facts):
                done["sent on"] += 1
                self.assertNotIn(LOOP_MARK.lower(), names, raw[:2_000])
            found = ways(raw)
            if found.one_click or found.mailto:
                done["asked"] += 1
                self.assertEqual(names.count("list-unsubscribe"), 1, raw[:2_000])
                self.assertNotIn("evil", found.web, raw[:2_000])
            if found.one_click:
                self.assertEqual(names.count("list-unsubscribe-post"), 1, raw[:2_000])
        for what, count in done.items():
            self.assertGreater(count, ARRANGEMENTS / 10, what)
