"""Address headers: kindly read, and strictly where it is asked who wrote."""

from __future__ import annotations

import unittest

from hieranome.mail.people import SENDER_MISSING, SEVERAL_SENDERS, addresses, sender_of

ONE = "a@b.example"

LISTS: tuple[tuple[str, list[tuple[str, str]]], ...] = (
    ("a@b.example, c@d.example", [("", ONE), ("", "c@d.example")]),
    ("A <a@b.example>; C <c@d.example>", [("A", ONE), ("C", "c@d.example")]),
    ('"Doe, Jane" <A@B.example>', [("Doe, Jane", ONE)]),
    ("a@b.example (Jane)", [("Jane", ONE)]),
    ("Friends: a@b.example, c@d.example;", [("", ONE), ("", "c@d.example")]),
    ("undisclosed-recipients:;", []),
    ("Jane a@b.example", [("Jane", ONE)]),
    ("Jane <a@b.example", [("Jane", ONE)]),
    ('"quoted local"@b.example', [("", '"quoted local"@b.example')]),
    ("<@relay.example:a@b.example>", [("", ONE)]),
    ("a@[127.0.0.1]", [("", "a@[127.0.0.1]")]),
    ("root", [("", "root")]),
    ("Jane", [("", "jane")]),
    ("Jane Doe", [("Jane Doe", "")]),
    ("=?utf-8?q?Doe,_Jane?= <a@b.example>", [("=?utf-8?q?Doe,_Jane?=", ONE)]),
    ("=?utf-8?q?(Jane)?= <a@b.example>", [("=?utf-8?q?(Jane)?=", ONE)]),
    ("müller@b.example", [("", "müller@b.example")]),
    ("<>", []),
    ("", []),
    (",,;;", []),
)


class ListTest(unittest.TestCase):
    def test_lists_are_read_kindly(self) -> None:
        """What real mail writes is understood, in order."""
        for value, wanted in LISTS:
            with self.subTest(value):
                self.assertEqual([(one.name, one.address) for one in addresses(value)], wanted)


NOBODY: tuple[str, ...] = (
    "a@b.example, c@d.example", "<a@b.example> <c@d.example>", "a@b.example;c@d.example", "a@b.example <c@d.example>, x@y.example",
    "Friends: a@b.example;", "Friends: a@b.example, c@d.example;", "<@relay.example:a@b.example>", "a@b.example (", "a@b.example c@d.example",
    "<a@b.example> c@d.example", "a@b.example@d.example", '"a@b.example" "<c@d.example>"@x.example <c@d.example> <e@f.example>',
    "<a@b.example", "a@b.example>", "a@b.example:c@d.example", "x:y:a@b.example",
)  # fmt: skip


class SenderTest(unittest.TestCase):
    def test_one_mailbox_is_the_sender(self) -> None:
        """Exactly one, with whatever name; an unquoted comma in a name is none of another's."""
        for value, name in (
            ("a@b.example", ""),
            ("Jane <a@b.example>", "Jane"),
            ("a@b.example (Jane)", "Jane"),
            ("Doe, Jane <a@b.example>", "Doe, Jane"),
            ('"c@d.example" <a@b.example>', "c@d.example"),
            ("c@d.example <a@b.example>", "c@d.example"),
            ("(c@d.example) a@b.example", "c@d.example"),
        ):
            with self.subTest(value):
                sender, fault = sender_of([value])
                self.assertEqual((sender.address, sender.name, fault), (ONE, name, ""))

    def test_all_else_is_nobody_s(self) -> None:
        """What two readers could read differently names nobody, and is shown as it stands."""
        for value in NOBODY:
            with self.subTest(value):
                sender, fault = sender_of([value])
                self.assertEqual((sender.address, fault), ("", SEVERAL_SENDERS))
                self.assertIn("example", sender.name)

    def test_headers_count(self) -> None:
        """Two headers name nobody; none, and one without an address, no sender."""
        self.assertEqual(sender_of([ONE, ONE])[1], SEVERAL_SENDERS)
        self.assertEqual(sender_of([])[1], SENDER_MISSING)
        self.assertEqual(sender_of(["Jane Doe"])[1], SENDER_MISSING)
