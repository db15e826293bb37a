"""Whatever statement of a change to what is arranged fails, memory and store are as they were."""

from __future__ import annotations

from dataclasses import replace
from email.message import EmailMessage

from hieranome.app import arranging, emptying, filing, searching, shaping_tags
from hieranome.app.bulk import addresses, draining, planning, readiness, subscriptions
from hieranome.app.bulk.compiling import compile_due
from hieranome.app.rules import keeping as ruling
from hieranome.app.teaching import vouching
from hieranome.app.teaching.looking import look_past
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import beginning
from hieranome.app.writing import drafts as writing
from hieranome.core.addresses import Purpose
from hieranome.core.plans import EVERY_DAY, Plan
from hieranome.store import accounts, drafts, messages, settings
from hieranome.store.accounts import NewAccount
from tests.app.room.failing import FailingCase
from tests.app.rules.case import rule
from tests.support import NOON, OWNER, letter

DAY = 86_400


class ArrangingTest(FailingCase):
    """What is arranged: buckets, bulk mail, settings, addresses, the Trash, drafts."""

    def test_buckets(self) -> None:
        self.try_every_failure(lambda: arranging.add_bucket(self.room, "Paperwork", True))
        self.try_every_failure(lambda: arranging.add_folder(self.room, "Spring"))

    def test_names_that_lines_ask_for(self) -> None:
        """A tag and a bucket renamed, with the rule and the search that name them."""
        tag = shaping_tags.make(self.room, "Visas").id
        ruling.put(self.room, rule("tag:visas bucket:shelf", ("read", ""), excepted="tag:visas"))
        searching.save(self.room, "Kept", "bucket:shelf or tag:visas")
        self.try_every_failure(lambda: shaping_tags.rename(self.room, tag, "Permits"))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(
            lambda: arranging.describe_place(self.room, "shelf", title="Later", notice=None, rhythm=None)
        )

    def test_a_bucket_switched_off_and_on(self) -> None:
        look_past(self.room, [(self.offers[5], self.row(self.offers[5]).place)])
        self.try_every_failure(lambda: arranging.switch_off(self.room, "digest", "shelf"))
        self.try_every_failure(lambda: arranging.switch_on(self.room, "digest"))

    def test_bulk_mail(self) -> None:
        """Subscriptions decided, editions compiled, read, left out of; plans; the Drain dated, let go and emptied."""
        key, plan = "list:news.birchbow.example", Plan("Daily", buckets=("digest",), days=EVERY_DAY)
        self.try_every_failure(lambda: subscriptions.decide(self.room, [key], "digest"))
        self.try_every_failure(lambda: planning.make(self.room, plan))
        self.clock.now += 2 * DAY
        self.try_every_failure(lambda: compile_due(self.room))
        self.try_every_failure(lambda: planning.read(self.room, 1))
        self.try_every_failure(lambda: planning.leave_out(self.room, [key]))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: planning.change(self.room, 1, replace(plan, times=("08:00",))))
        self.try_every_failure(lambda: subscriptions.decide(self.room, [key], "drain"))
        self.try_every_failure(lambda: draining.let_go(self.room))
        self.clock.now += 31 * DAY
        self.try_every_failure(lambda: draining.let_go(self.room))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: draining.empty(self.room, self.letters[-1]))
        self.try_every_failure(lambda: readiness.set_cost(self.room, 8.0))

    def test_settings(self) -> None:
        self.try_every_failure(lambda: self.room.set_owner(["new@quillmark.example"]))
        self.try_every_failure(lambda: vouching.vouch(self.room, "domain", "hall.example"))
        self.try_every_failure(lambda: vouching.remove(self.room, "domain", "hall.example"))
        self.try_every_failure(lambda: vouching.set_names(self.room, settings.CONFIRMED, ["mx.a.example"]))

    def test_the_trash_emptied(self) -> None:
        """Said and written down, or neither; taken out chunk by chunk, each whole."""
        filing.file_away(self.room, [self.take(letter(f"Old {n}")) for n in range(2)], "trash")
        self.try_every_failure(lambda: emptying.empty(self.room, emptying.look(self.room).messages))
        emptier = emptying.Emptier(self.room)
        self.addCleanup(emptier.close)
        self.try_every_failure(emptier.work)

    def test_addresses(self) -> None:
        """What is said of one is heeded by the model, or neither is so."""
        self.room.set_owner(["m.aldous@oldharbour.example", OWNER])
        self.try_every_failure(
            lambda: addresses.describe(self.room, "m.aldous@oldharbour.example", Purpose.SHOPS, "shops")
        )
        self.try_every_failure(lambda: addresses.make_one(self.room, OWNER, "Corvane"))
        self.try_every_failure(lambda: addresses.forget(self.room, "m.aldous@oldharbour.example"))

    def test_drafts(self) -> None:
        """A forward and what goes on from another program's draft have their files or are not there at all."""
        with self.room.change() as db:
            account = accounts.add(db, NewAccount(OWNER, "", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
            drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))
        made = EmailMessage()
        made["From"], made["To"], made["Subject"] = OWNER, "ilse@hall.example", "With a file"
        made.set_content("Here.")
        made.add_attachment(b"1,2", maintype="text", subtype="csv", filename="seats.csv")
        number = self.take(made.as_bytes())
        with self.room.change() as db:
            messages.move(db, number, "drafts", "elsewhere")
        self.try_every_failure(lambda: beginning.begin(self.room, "forward", number))
        self.try_every_failure(lambda: beginning.go_on(self.room, number))
        self.try_every_failure(lambda: writing.keep_on_server(self.room, True))
        found = beginning.go_on(self.room, number).id
        self.assertEqual([one.name for one in drafts.attachments(self.room.reader(), found)], ["seats.csv"])
        self.try_every_failure(lambda: writing.discard(self.room, found))
        self.try_every_failure(lambda: undo(self.room))
        self.assertEqual([one.name for one in drafts.attachments(self.room.reader(), found)], ["seats.csv"])
