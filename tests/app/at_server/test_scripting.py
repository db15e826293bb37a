"""Rules written as Sieve, and taken over from it."""

from __future__ import annotations

from hieranome.app.at_server import scripting
from hieranome.core.errors import CallerError
from hieranome.core.rules import Action
from hieranome.store import accounts, rules
from hieranome.store.accounts import NewAccount
from tests.app.rules.case import RulesCase
from tests.support import NOON


class ScriptTest(RulesCase):
    """Rules as a script for a mailbox, and a script taken over."""

    def setUp(self) -> None:
        super().setUp()
        at = NewAccount("maren@quillmark.example", "", "m", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain")
        with self.room.change() as db:
            self.account = accounts.add(db, at, NOON)
            for name, role, place in (
                ("INBOX", "inbox", "desk"), ("Hieranome/Shelf", "bucket", "shelf"),
                ("Freight", "folder", self.folder_name),
                ("Old mail", "archive", "archive"), ("Sent", "sent", "sent"),
            ):  # fmt: skip
                accounts.add_folder(db, self.account, name, role, place)

    def test_out_and_in_again(self) -> None:
        """What can be said is, with the folders' names there; taken over it is the same rule, switched off."""
        self.keep("from:@freight.example", ("folder", self.folder_name), ("tag", str(self.tag)))
        self.keep("subject:visa", ("archive", ""))
        self.keep("from:@off.example", ("archive", ""), enabled=False)
        made = scripting.script_for(self.room, self.account)
        self.assertIn('fileinto :create "Freight";', made.text)
        self.assertNotIn("off.example", made.text)
        self.assertEqual([(one.rule.line, "whole words" in one.why) for one in made.left], [("subject:visa", True)])
        taken = scripting.take_over(self.room, self.account, made.text)
        self.assertEqual({one.rule.enabled for one in taken}, {False})
        said = [(one.rule.line, one.rule.actions) for one in taken]
        self.assertEqual(
            said,
            [
                ("from:@freight.example", (Action("tag", str(self.tag)),)),
                ("from:@freight.example", (Action("folder", self.folder_name),)),
            ],
        )

    def test_a_script_that_cannot_be_rules_leaves_nothing(self) -> None:
        """One folder that is not there, and not even the rule before it is kept."""
        script = """require "fileinto";
            if address :is "from" "a@b.example" { fileinto "Old mail"; stop; }
            if address :is "from" "c@d.example" { fileinto "Nowhere"; stop; }"""
        with self.assertRaisesRegex(CallerError, "Line 3.*Nowhere.*Nothing was taken over"):
            scripting.take_over(self.room, self.account, script)
        self.assertEqual(rules.every(self.room.reader()), [])
        with self.assertRaisesRegex(CallerError, "nothing that is a rule"):
            scripting.take_over(self.room, self.account, "")
