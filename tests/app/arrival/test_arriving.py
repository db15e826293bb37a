"""Mail arrives: threads, sums, routing, events."""

import hashlib

from hieranome.app import viewing
from hieranome.app.arrival.arrive import receive
from hieranome.app.room import marks
from hieranome.store import messages, places
from hieranome.web.models.mail import MessageOut
from tests.mail.nasty import NASTY
from tests.mail.test_reading import library_samples
from tests.support import NOON, OWNER, RoomCase, letter, offer


class ArrivalTest(RoomCase):
    def test_every_byte_is_kept(self) -> None:
        """Whatever arrives can be had again byte for byte, read, and opened."""
        samples = {path.name: path.read_bytes() for path in library_samples()} | NASTY
        for name, raw in samples.items():
            with self.subTest(name):
                number = receive(self.room, raw)
                assert number is not None
                self.assertEqual(messages.raw(self.room.reader(), number), raw)
                opened = viewing.open_message(self.room, number)
                self.assertAlmostEqual(
                    sum(line.value for line, _ in opened.evidence), opened.judgement.log_odds, delta=1e-9
                )

    def test_the_same_bytes_arrive_once(self) -> None:
        """A message that is here already is not taken twice."""
        self.take(letter())
        self.assertIsNone(receive(self.room, letter()))

    def test_one_id_on_two_messages_keeps_both(self) -> None:
        """A duplicate Message-ID loses nothing."""
        first = self.take(letter("one", message_id="<same@x.example>"))
        second = self.take(letter("two", message_id="<same@x.example>"))
        self.assertNotEqual(first, second)

    def test_headerless_mail_stands_on_the_desk(self) -> None:
        """What cannot be read is kept whole and shown, not routed away."""
        row = self.row(self.take(NASTY["no header at all"]))
        self.assertEqual((row.place, row.decided_by, row.readable), ("desk", "unreadable", False))

    def test_own_mail_goes_to_sent(self) -> None:
        """What the owner wrote is not weighed."""
        row = self.row(self.take_sent(letter(sender=OWNER, to="jess@hall.example")))
        self.assertEqual((row.place, row.seen), ("sent", True))

    def test_arrival_is_told(self) -> None:
        """Listeners hear of the message and of the counts."""
        last = self.room.events.latest
        number = self.take(letter())
        told = self.room.events.since(last) or []
        self.assertEqual([event.kind for event in told], ["arrived", "counts"])
        self.assertEqual(set(told[0].data["message"]), set(MessageOut.model_fields), "a row as lists have it")
        self.assertEqual(told[0].data["message"]["id"], number)

    def test_digest_is_of_the_raw_bytes(self) -> None:
        """Identity is the SHA-256 of what came."""
        self.take(letter())
        stored = self.room.reader().execute("SELECT digest FROM messages").fetchone()[0]
        self.assertEqual(stored, hashlib.sha256(letter()).digest())


class ThreadTest(RoomCase):
    def thread(self, number: int) -> int:
        return self.row(number).thread

    def test_references_join(self) -> None:
        """An answer joins what it answers, whatever its subject says."""
        first = self.take(letter("Rider", message_id="<1@x.example>"))
        second = self.take(letter("Something else", message_id="<2@x.example>", In_Reply_To="<1@x.example>"))
        third = self.take(letter("And more", message_id="<3@x.example>", References="<1@x.example> <2@x.example>"))
        self.assertEqual({self.thread(first)}, {self.thread(second), self.thread(third)})

    def test_a_late_parent_joins_its_children(self) -> None:
        """A message that arrives after its answer is put in the same thread."""
        answer = self.take(letter("Re: Rider", message_id="<2@x.example>", In_Reply_To="<1@x.example>"))
        parent = self.take(letter("Rider", message_id="<1@x.example>", sender="other@y.example"))
        self.assertEqual(self.thread(answer), self.thread(parent))

    def test_subject_and_participant_join_a_reply(self) -> None:
        """A reply without references joins by subject and participant; a stranger's does not."""
        first = self.take(letter("Rider for the 19th", at=NOON))
        reply = self.take(letter("Re: Rider for the 19th", at=NOON + 60, body="again"))
        stranger = self.take(letter("Re: Rider for the 19th", at=NOON + 60, sender="x@strange.example"))
        fresh = self.take(letter("Rider for the 19th", at=NOON + 90, body="a new one"))
        self.assertEqual(self.thread(first), self.thread(reply))
        self.assertNotEqual(self.thread(first), self.thread(stranger))
        self.assertNotEqual(self.thread(first), self.thread(fresh))

    def test_an_old_subject_does_not_join(self) -> None:
        """Months apart, the same subject is another thread."""
        first = self.take(letter("Rider", at=NOON))
        later = self.take(letter("Re: Rider", at=NOON + 90 * 86_400, body="again"))
        self.assertNotEqual(self.thread(first), self.thread(later))


class HistoryTest(RoomCase):
    def sums(self, key: str) -> tuple[int, int, int, int]:
        s = self.room.relations.of(key)
        return s.received, s.read, s.answered, s.written

    def test_an_answer_counts_for_its_sender(self) -> None:
        """Answering marks the message and counts for its sender, before or after it arrives."""
        self.take(letter("Q", message_id="<q@x.example>"))
        self.take_sent(letter("Re: Q", sender=OWNER, to="brandel@salthall.example", In_Reply_To="<q@x.example>"))
        self.assertEqual(self.sums("address:brandel@salthall.example")[2:], (1, 1))
        self.take_sent(letter("Re: P", sender=OWNER, to="a@b.example", In_Reply_To="<p@x.example>"))
        late = self.take(letter("P", sender="a@b.example", message_id="<p@x.example>"))
        self.assertTrue(self.row(late).answered)

    def test_sums_survive_a_restart(self) -> None:
        """Sums in memory and in the store are the same."""
        self.take(letter())
        self.take_sent(letter("mine", sender=OWNER, to="jess@hall.example"))
        before = dict(self.room.relations.items())
        self.reopen()
        self.assertEqual(dict(self.room.relations.items()), before)

    def test_reading_counts_and_unreading_takes_it_back(self) -> None:
        """Opening a message counts as read for its sender; marking it unread takes that back."""
        number = self.take(letter())
        marks.mark_opened(self.room, number)
        read = self.sums("address:brandel@salthall.example")
        marks.mark_opened(self.room, number)
        self.assertEqual(self.sums("address:brandel@salthall.example"), read)
        self.assertEqual(read[:2], (1, 1))
        marks.mark(self.room, [number], "unread")
        self.assertEqual(self.sums("address:brandel@salthall.example")[1], 0)

    def test_unread_bulk_put_away_is_not_counted_as_ignored(self) -> None:
        """Mail is unread in a low bucket because it was put there, so it says nothing of its sender."""
        for number in range(4):
            self.take(offer(number))
        self.assertNotEqual(places.every(self.room.reader())[0].total, 4)
        put_away = [n for n in range(1, 5) if self.row(n).place not in ("desk", "undecided")]
        self.assertEqual(self.sums("address:news@birchbow.example")[0], 4 - len(put_away))
        self.assertTrue(put_away)
