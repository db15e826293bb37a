"""Whatever statement of a change to what is followed through fails, memory and store are as they were."""

from __future__ import annotations

from hieranome.app.arrival.arrive import receive
from hieranome.app.following import due, feed, owing, parking
from hieranome.app.following.returning import deliver
from hieranome.app.teaching.undoing import undo
from tests.app.room.failing import FailingCase
from tests.support import letter


class FollowingTest(FailingCase):
    """Due, parked, waited for, let go; each undone."""

    def test_due_dates(self) -> None:
        self.try_every_failure(lambda: due.set_due(self.room, self.letters[:2], "in 3 days"))
        self.try_every_failure(lambda: due.set_due(self.room, self.letters[:1], "tomorrow"))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: due.clear_due(self.room, self.letters[:2]))
        self.try_every_failure(lambda: undo(self.room))

    def test_parked_mail(self) -> None:
        """Parked, brought back by its time and by an answer, or neither."""
        self.try_every_failure(lambda: parking.park(self.room, self.letters[:2], "in 2 hours"))
        self.try_every_failure(lambda: undo(self.room))
        parking.park(self.room, self.letters[:1], "in 2 hours")
        self.clock.now += 3 * 3_600
        self.try_every_failure(lambda: deliver(self.room))
        first = self.take(letter("Trucks", message_id="<trucks@hall.example>"))
        parking.park(self.room, [first], "", True)
        self.try_every_failure(
            lambda: receive(self.room, letter("Re: Trucks", body="Yes.", In_Reply_To="<trucks@hall.example>"))
        )

    def test_what_is_owed(self) -> None:
        self.try_every_failure(lambda: owing.await_answer(self.room, self.letters[:1], "in 2 hours"))
        self.clock.now += 3 * 3_600
        self.try_every_failure(lambda: deliver(self.room))
        self.try_every_failure(lambda: owing.let_go(self.room, self.letters[:1]))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: feed.open_feed(self.room))
