"""The away notice at a mailbox's server: Pigeonhole answers whom we answer, as far as a server can know it."""

from __future__ import annotations

import tempfile
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from hieranome.app.at_server import differences as serving
from hieranome.app.at_server.scripting import script_for
from hieranome.app.away import keeping
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.away import Away, Circle
from hieranome.core.errors import CallerError
from hieranome.core.times import DAY
from hieranome.store import accounts
from tests.app.away.test_away import write_as
from tests.app.away.world import ME, OWN, Case, world
from tests.mail.pigeonhole import PigeonholeCase

CASES = 260


class AtServerTest(PigeonholeCase):
    def setUp(self) -> None:
        super().setUp()
        data = tempfile.TemporaryDirectory()
        self.addCleanup(data.cleanup)
        self.room = Mailroom(Path(data.name))
        self.addCleanup(self.room.close)
        self.room.zone = ZoneInfo("Europe/Berlin")
        write_as(self.room, *OWN)
        (self.account,) = [one.id for one in accounts.every(self.room.reader())]

    def script(self, *circles: Circle, begins: int = -DAY, ends: int = DAY) -> str:
        """The script of a notice that holds from and until so many seconds from now."""
        now = self.room.clock()
        keeping.set_away(self.room, Away(True, now + begins, now + ends, 7, circles))
        return script_for(self.room, self.account, frozenset(), with_away=True).text

    def answered(self, script: str, case: Case) -> bool:
        """Whether the sender of a message is told."""
        return "Auto-Submitted: auto-replied" in self.carried_out(script, case.raw, "-e", me=ME)

    def test_the_server_answers_whom_we_answer(self) -> None:
        """All but what is known here alone: what proves forged, and where a message says nothing of its way."""
        now = self.room.clock()
        colleagues = Circle("Colleagues", "line", "from:@posthorn.example", {})
        script = self.script(colleagues, Circle("All", "all", "", {"": 'Gone, "really".\nBack soon \\ Maren'}))
        compared = 0
        for case in world(CASES, 11, now - DAY, now):
            if case.here_alone or not case.envelope:  # the tester takes From where the envelope names nobody
                continue
            wanted = not case.why and not case.sender.endswith("@posthorn.example")
            self.assertEqual(self.answered(script, case), wanted, (case.why, case.raw.decode()))
            compared += wanted
        self.assertGreater(compared, 60)

    def test_it_ends_by_itself(self) -> None:
        """Nobody is told before the time, nor after it, at whatever hour."""
        now = self.room.clock()
        case = next(one for one in world(50, 3, now - DAY, now) if not one.why)
        everybody = Circle("All", "all", "", {"": "Gone."})
        for begins, ends, told in (
            (-60, 3_600, True),
            (120, DAY, False),
            (-DAY, 120, True),
            (-40 * DAY, 40 * DAY, True),
        ):
            script = self.script(everybody, begins=begins, ends=ends)
            self.assertEqual(self.answered(script, case), told, (begins, ends, datetime.now()))
        past = script.replace(f"{datetime.fromtimestamp(now + 40 * DAY):%Y-%m-%d}", "2020-01-01")
        self.assertFalse(self.answered(past, case))

    def test_what_a_server_cannot_do_is_named(self) -> None:
        """A circle that is known here alone, languages, and what our scores say; a notice of which nothing is left."""
        written = Circle("Known", "written", "", {"": "Call."})
        rest = Circle("All", "all", "", {"": "Gone.", "de": "Weg."})
        self.script(written, rest)
        said = {one.what: one.why for one in serving.differences(self.room, self.account)}
        self.assertIn("known here alone", said["Known"])
        self.assertIn("every language", said["All"])
        self.assertTrue(any("Drain" in what for what in said))
        with self.assertRaisesRegex(CallerError, "no part of this notice"):
            self.script(written)
