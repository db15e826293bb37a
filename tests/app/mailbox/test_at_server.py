"""Rules at a server, at Dovecot with Pigeonhole: put there, compared, beside a script of the owner's, taken away; and
the mail they file there."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from fastapi.testclient import TestClient

from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.at_server.placing import BOTH, MARK, OURS, AtServer, Standing
from hieranome.app.away import keeping as away
from hieranome.app.room.schedule import Schedule
from hieranome.app.rules import keeping
from hieranome.app.service import Service
from hieranome.app.teaching import vouching
from hieranome.core.away import Away, Circle
from hieranome.core.errors import (
    CallerError,
    Conflict,
    ConnectionBroken,
    SecretRefused,
    ServerRefused,
    ServerUnreachable,
)
from hieranome.core.rules import Action, Rule
from hieranome.core.steps import StepKind
from hieranome.core.times import DAY
from hieranome.mail.managesieve import Scripts, visit
from hieranome.mail.servers import Login, Server
from hieranome.store import drafts, journal, rules, scripts
from hieranome.web.application import build
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import LOGIN, SECRET, Dovecot
from tests.support import MARK as MARKED
from tests.support import NOON, OWNER, crlf, letter

FREIGHT = "Counter 4 <counter4@freight.example>"
THEIRS = 'require "fileinto";\nif header :contains "subject" "choir" {\n    fileinto "Archive";\n}\n'


class AtServerTest(MailboxCase):
    def start_server(self) -> Dovecot:
        self.dovecot = Dovecot()
        return self.dovecot

    def setUp(self) -> None:
        super().setUp()
        vault = Vault(self.folder / "data")
        vault.put(OWNER, SECRET, "file")
        self.logins = Logins(vault)
        self.at = AtServer(self.room, self.logins, Schedule())
        self.freight = self.keep("from:@freight.example", Action("bucket", "shelf"))

    def keep(self, line: str, *actions: Action) -> int:
        """Keep a rule; its id."""
        return keeping.put(self.room, Rule(0, line, True, "arrives", 0, "came", False, line, "", actions)).rule.id

    def put_there(self, *chosen: int) -> Standing:
        return self.at.put(self.account, chosen or (self.freight,), self.dovecot.scripts)

    def state(self) -> str:
        """What is found now."""
        placed = self.at.look(self.account).placed
        assert placed is not None
        return placed.state

    def there(self) -> tuple[str, frozenset[str]]:
        """The script that runs, and all that are there, as another program sees them."""
        with visit(self.dovecot.scripts, LOGIN) as found:
            listing = found.listing()
            return listing.active, listing.names

    def change(self, work: Callable[[Scripts], Any]) -> Any:
        """Another program works at the scripts."""
        with visit(self.dovecot.scripts, LOGIN) as found:
            return work(found)

    def come(self, subject: str, sender: str = FREIGHT, **headers: str) -> int:
        """Mail comes to the server, and is looked at; its id."""
        self.dovecot.deliver(crlf(letter(subject, sender=sender, at=NOON + int(time.monotonic()) % 999, **headers)))
        self.settle()
        return int(self.room.reader().execute("SELECT max(id) FROM messages").fetchone()[0])

    def test_put_there_it_files_mail_and_that_is_no_lesson(self) -> None:
        """The server files what comes; here the rule explains it, hit and all, and nothing is learned."""
        standing = self.at.standing(self.account)
        self.assertEqual((standing.placed, standing.can), (None, [(self.freight, "from:@freight.example")]))
        standing = self.put_there()
        self.assertTrue(standing.current and standing.placed and standing.placed.state == "there")
        self.assertEqual(self.there(), (OURS, {OURS}))
        self.assertTrue(self.change(lambda one: one.get(OURS)).startswith(MARK.strip()))
        number = self.come("Carnet 12")
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("shelf", "rule"))
        self.assertEqual(self.folder_of(number), [self.bucket("shelf")])
        self.assertEqual([rule.id for rule, _ in rules.of_message(self.room.reader(), number)], [self.freight])
        self.assertEqual(self.lessons(), [])
        self.assertEqual(self.state(), "there")

    def test_what_a_server_cannot_know_puts_mail_back(self) -> None:
        """It files mail of somebody vouched for; at the next look it stands on the Desk again, there too, told in the
        journal. What was filed there by hand is left alone."""
        self.put_there()
        vouching.vouch(self.room, "address", "counter4@freight.example")
        number = self.come("Carnet 13")
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("desk", "vouched"))
        self.assertEqual(self.folder_of(number), ["INBOX"])
        (step,) = [one for one in journal.recent(self.room.reader(), 0, 5) if one.kind == StepKind.SERVED]
        self.assertIn("put back", step.title)
        self.assertEqual(self.lessons(), [])
        by_hand = self.arrive(letter("Poster", sender="A <a@print.example>"), self.bucket("shelf"))
        self.assertEqual(self.row(by_hand).decided_by, "elsewhere")

    def test_the_away_notice_is_sent_by_one_of_the_two(self) -> None:
        """By the server, with and without rules beside it, and then not from here; from here again once it is taken
        away or does not stand there any more."""
        with self.room.change() as db:
            drafts.put_identity(db, drafts.Identity(OWNER, self.account, "Maren", ""))
        now = self.room.clock()
        everybody = Circle("Everybody", "all", "", {"": "I am away."})
        away.set_away(self.room, Away(True, now - 60, now + DAY, 7, (everybody,)))
        standing = self.at.answer_at(self.account, True, self.dovecot.scripts)
        self.assertTrue(standing.current)
        self.assertIn("vacation", self.change(lambda one: one.get(OURS)))
        self.assertTrue(away.answered_by_server(self.room, OWNER))
        self.put_there()
        self.assertIn("vacation", self.change(lambda one: one.get(OURS)))
        away.set_away(self.room, Away(True, now - 60, now + DAY, 3, (everybody,)))
        self.assertFalse(self.at.standing(self.account).current)
        self.assertTrue(self.at.answer_at(self.account, True).current)
        self.come("Carnet 12", Return_Path="<counter4@freight.example>")
        self.assertEqual(drafts.in_state(self.room.reader(), "waiting"), [])
        self.change(lambda one: one.put(OURS, one.get(OURS) + "# mine now\n"))
        self.assertEqual(self.state(), "changed")
        self.assertTrue(away.answered_by_server(self.room, OWNER), "it may well answer still")
        self.change(lambda one: one.choose(""))
        self.assertEqual(self.state(), "resting")
        self.assertFalse(away.answered_by_server(self.room, OWNER))
        self.at.answer_at(self.account, False)
        self.assertNotIn("vacation", self.change(lambda one: one.get(OURS)))
        self.assertEqual(scripts.every(self.room.reader())[0].rules, {self.freight})

    def test_a_notice_that_is_undone_is_no_more_sent_by_the_server(self) -> None:
        """Undone is every change of it there too; a server that cannot be told is named, and the step is undone."""
        with self.room.change() as db:
            drafts.put_identity(db, drafts.Identity(OWNER, self.account, "Maren", ""))
        service = Service.of(self.room)
        now = self.room.clock()
        one = Away(True, now - 60, now + DAY, 7, (Circle("Everybody", "all", "", {"": "I am away."}),))
        away.set_away(self.room, one)
        self.at.answer_at(self.account, True, self.dovecot.scripts)
        away.set_away(self.room, replace(one, days=3))
        self.at.answer_anew(True)
        self.assertIn(":days 3", self.change(lambda one: one.get(OURS)))
        self.assertEqual(service.undo()[1], [])
        self.assertIn(":days 7", self.change(lambda one: one.get(OURS)))
        service.vault.put(OWNER, "no more", "file")
        undone, (problem,) = service.undo()
        self.assertIn(OWNER, problem)
        self.assertFalse(away.notice(self.room).on)
        self.assertIsNotNone(undone.undone_at)
        self.assertTrue(away.answered_by_server(self.room, OWNER), "it was told nothing, so it answers still")
        service.vault.put(OWNER, SECRET, "file")
        self.assertEqual(self.at.answer_anew(False), {})
        self.assertEqual(self.there(), ("", frozenset()))

    def test_rules_that_change_are_told_and_put_there_again(self) -> None:
        self.put_there()
        number = self.keep("subject:*visa*", Action("flag"))
        self.assertTrue(self.at.standing(self.account).current)
        keeping.switch(self.room, self.freight, on=False)
        self.assertFalse(self.at.standing(self.account).current)
        self.assertTrue(self.put_there(number).current)
        keeping.switch(self.room, self.freight, on=True)
        self.assertTrue(self.at.standing(self.account).current)

    def test_what_another_program_does_to_it_is_found(self) -> None:
        """Changed, stopped, removed: each is told, and put right by putting it there again."""
        self.put_there()
        self.change(lambda one: one.put(OURS, one.get(OURS) + "# mine now\n"))
        self.assertEqual(self.state(), "changed")
        self.put_there()
        self.change(lambda one: one.choose(""))
        self.assertEqual(self.state(), "resting")
        self.change(lambda one: one.remove(OURS))
        self.assertEqual(self.state(), "gone")
        self.put_there()
        self.assertEqual((self.state(), self.there()), ("there", (OURS, {OURS})))
        self.at._round()
        self.assertEqual(scripts.every(self.room.reader())[0].state, "there")

    def test_a_script_of_the_owners_runs_beside_it_and_alone_again(self) -> None:
        """Theirs is never written over; both run; what is taken away is ours."""
        self.change(lambda one: (one.put("choir", THEIRS), one.choose("choir")))
        standing = self.put_there()
        assert standing.placed is not None
        self.assertEqual(standing.placed.beside, "choir")
        self.assertEqual(self.there(), (BOTH, {"choir", OURS, BOTH}))
        archived, filed = self.come("The choir sings", "B <b@choir.example>"), self.come("Carnet 14")
        self.assertEqual([self.row(n).place for n in (archived, filed)], ["archive", "shelf"])
        self.assertEqual(self.put_there().placed, self.at.standing(self.account).placed)
        self.assertEqual(self.state(), "there")
        self.assertEqual(self.change(lambda one: one.get("choir")).split(), THEIRS.split())
        self.assertIsNone(self.at.take_away(self.account).placed)
        self.assertEqual(self.there(), ("choir", {"choir"}))
        with self.assertRaises(Conflict):
            self.at.look(self.account)

    def test_what_cannot_be_is_refused_and_changes_nothing(self) -> None:
        """No rule, one that has to stay here, one that sends copies, a wrong password, no server, a server that is
        none, a script of our name that is not ours: it is neither written over nor taken away."""
        stays = self.keep("visa", Action("flag"))
        copies = Rule(
            0, "On", True, "arrives", 0, "came", False, "list:x.example", "", (Action("forward", "a@b.example"),)
        )
        sends = keeping.put(self.room, copies, confirmed=True).rule.id
        for chosen in ((), (stays,), (sends,), (999,)):
            with self.assertRaises(CallerError):
                self.at.put(self.account, chosen, self.dovecot.scripts)
        with self.assertRaises(ServerUnreachable):
            self.at.put(self.account, (self.freight,), Server("127.0.0.1", 1, "plain"))
        with self.assertRaises(ConnectionBroken):
            self.at.put(self.account, (self.freight,), self.dovecot.server)
        with self.assertRaises(SecretRefused) as refused, visit(self.dovecot.scripts, Login("maren", "wrong")):
            pass
        self.assertNotIn("wrong", str(refused.exception))
        with self.assertRaises(ServerRefused), visit(self.dovecot.scripts, LOGIN) as found:
            found.put("broken", "this is { no script")
        self.assertEqual(self.there(), ("", frozenset()))
        self.change(lambda one: one.put(OURS, THEIRS))
        with self.assertRaisesRegex(Conflict, "did not put there"):
            self.put_there()
        self.assertIsNone(self.at.standing(self.account).placed)
        self.assertEqual(self.change(lambda one: one.get(OURS)).split(), THEIRS.split())

    def test_a_mailbox_that_is_left_is_left_without_it(self) -> None:
        """Our script goes with us; where it cannot be taken away, that is told."""
        self.put_there()
        self.assertEqual(self.at.leave(self.account), "")
        self.assertEqual(self.there(), ("", frozenset()))
        self.assertEqual(self.at.leave(self.account), "")
        self.put_there()
        with self.room.change() as db:
            db.execute("UPDATE scripts SET port = 1")
        self.assertIn("still run at its server", self.at.leave(self.account))

    def test_by_the_api(self) -> None:
        """Put there, looked at, shown beside the rule, taken away; what fails says why."""
        service = Service.of(self.room, open_to_all=True)
        at = self.dovecot.scripts
        body = {"account": self.account, "rules": [self.freight], "host": at.host, "port": at.port, "security": "plain"}
        # Not entered: what works behind the page stays still.
        client = TestClient(build(service, hosts=("testserver",)), headers=MARKED)
        where = f"/api/server-rules?account={self.account}"
        self.assertEqual(client.get(where).json()["rules"], [])
        self.assertEqual(client.delete(where).status_code, 409)
        self.assertEqual(client.put("/api/server-rules", json=body | {"port": 1}).status_code, 502)
        told = client.put("/api/server-rules", json=body).json()
        self.assertEqual((told["state"], told["rules"], told["current"]), ("there", [self.freight], True))
        self.assertTrue(client.get("/api/rules").json()["rules"][0]["served"])
        self.change(lambda one: one.choose(""))
        look = client.post(f"/api/server-rules/look?account={self.account}").json()
        self.assertEqual(look["state"], "resting")
        self.assertEqual(client.delete(where).json()["rules"], [])
        self.assertEqual(self.there(), ("", frozenset()))
