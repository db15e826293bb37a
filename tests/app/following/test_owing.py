"""What is owed, both ways, and when somebody usually answers."""

from __future__ import annotations

from hieranome.app.arrival.arrive import receive
from hieranome.app.following import owing
from hieranome.app.following.due import heads
from hieranome.app.following.hours import usual_hours
from hieranome.app.following.returning import deliver
from hieranome.app.teaching.undoing import undo
from hieranome.core.times import DAY
from hieranome.store import messages
from tests.app.following.case import HOUR, FollowingCase
from tests.support import NOON, OWNER, letter


class OwedTest(FollowingCase):
    def write(self, subject: str, body: str, to: str = "brandel@salthall.example", *, ago: int = 4 * DAY) -> int:
        """A message of the owner's own."""
        return self.take_sent(letter(subject, sender=OWNER, to=to, body=body, at=NOON - ago))

    def they(self) -> list[str]:
        return [one.message.subject for one in owing.owed(self.room)[0]]

    def you(self) -> list[str]:
        return [one.message.subject for one in owing.owed(self.room)[1]]

    def test_both_lists_without_any_history(self) -> None:
        """A question nobody answered, one to the owner, a promise; not what only tells, nor what was answered."""
        self.write("Trucks", "Could you send me the list of trucks by Monday?")
        self.write("Thanks", "The coach leaves at nine.")
        answered = self.write("Hotel", "Which of the two shall we take?")
        self.write("Crates", "I will send you the crates on Friday.")
        found = messages.get(self.room.reader(), answered)
        receive(
            self.room, letter("Re: Hotel", at=NOON, References=self.id_of(answered), In_Reply_To=self.id_of(answered))
        )
        self.assertEqual(found.subject, "Hotel")
        self.assertEqual(self.they(), ["Trucks"])
        self.assertEqual(sorted(self.you()), ["Crates", "Re: Hotel", "Rider for the 19th"])
        they, you = owing.owed(self.room)
        self.assertEqual(they[0].sentence, "Could you send me the list of trucks by Monday?")
        promised = next(one for one in you if one.promised)
        self.assertEqual(
            (promised.sentence, promised.proposed), ("I will send you the crates on Friday.", "2025-10-10")
        )

    def id_of(self, number: int) -> str:
        row = self.room.reader().execute("SELECT message_id FROM messages WHERE id = ?", (number,)).fetchone()
        return str(row[0])

    def test_machines_do_not_answer(self) -> None:
        """An answer a machine wrote leaves it owed; a person's takes it off."""
        number = self.write("Trucks", "Could you send me the list of trucks by Monday?")
        mine = self.id_of(number)
        receive(self.room, letter("Away: Trucks", at=NOON - DAY, In_Reply_To=mine, Auto_Submitted="auto-replied"))
        self.assertEqual(self.they(), ["Trucks"])
        for number, (who, more) in enumerate((
            ("MAILER-DAEMON@mx.example", {}), ("ilse@hall.example", {"X_Autoreply": "yes"}),
            ("ilse@hall.example", {"Precedence": "auto_reply"}),
        )):  # fmt: skip
            receive(self.room, letter("Trucks", sender=who, at=NOON - 9 + number, In_Reply_To=mine, **more))
        report = letter("Trucks", sender="mx@hall.example", at=NOON - 5, In_Reply_To=mine)
        head = report.partition(b"Content-Type")[0]
        parts = b"--x\r\nContent-Type: text/plain\r\n\r\nNot delivered.\r\n--x--\r\n"
        receive(self.room, head + b"Content-Type: multipart/report; boundary=x\r\n\r\n" + parts)
        self.assertEqual(self.they(), ["Trucks"])
        receive(self.room, letter("Re: Trucks", at=NOON, In_Reply_To=mine))
        self.assertEqual(self.they(), [])

    def test_letting_go_teaches(self) -> None:
        """What was let go, and the next like it, is not listed; undone, both are."""
        for n in range(6):
            self.write(f"Board {n}", "Shall we not praise the stewards? A fine evening it was.", ago=(9 - n) * DAY)
        self.write("Trucks", "Could you send me the list of trucks by Monday?")
        self.assertEqual(len(self.they()), 7)
        last = 0
        for one in owing.owed(self.room)[0]:
            if one.message.subject in ("Board 0", "Board 1"):
                last = owing.let_go(self.room, [one.message.id]).step
        self.assertEqual(self.they(), ["Trucks"])
        undo(self.room, last)
        undo(self.room)
        self.assertEqual(len(self.they()), 7)

    def test_no_answer_by_a_time_is_told_once(self) -> None:
        """It stands at the head of the Desk when nobody answered by then, until it is let go or asked again."""
        number = self.write("Trucks", "The trucks are yours.", ago=HOUR)
        self.assertEqual(self.they(), [])
        owing.await_answer(self.room, [number], "tomorrow 9:00")
        self.assertEqual(self.they(), ["Trucks"])
        self.clock.now = self.at("10 09:00")
        self.assertEqual(deliver(self.room), [number])
        self.assertEqual(deliver(self.room), [])
        self.assertEqual(heads(self.room), [number])
        owing.let_go(self.room, [number])
        self.assertEqual((heads(self.room), self.they()), ([], []))

    def test_asked_again_it_leaves_the_head(self) -> None:
        """Once the owner wrote in the thread again, the newer message is what is owed."""
        number = self.write("Trucks", "Could you send me the list?", ago=HOUR)
        owing.await_answer(self.room, [number], "tomorrow 9:00")
        self.clock.now = self.at("10 09:00")
        deliver(self.room)
        again = letter("Re: Trucks", sender=OWNER, to="brandel@salthall.example", body="Could you send it still?",
                       at=self.clock.now, In_Reply_To=self.id_of(number))  # fmt: skip
        newer = self.take_sent(again)
        self.assertEqual(heads(self.room), [])
        self.assertEqual([one.message.id for one in owing.owed(self.room)[0]], [newer])

    def test_an_answer_in_time_is_not_told(self) -> None:
        """Whoever answered in time is not missed."""
        number = self.write("Trucks", "The trucks are yours.", ago=HOUR)
        owing.await_answer(self.room, [number], "tomorrow 9:00")
        receive(self.room, letter("Re: Trucks", at=NOON + 60, In_Reply_To=self.id_of(number)))
        self.clock.now = self.at("10 09:00")
        self.assertEqual(deliver(self.room), [])
        self.assertEqual(heads(self.room), [])


class HoursTest(FollowingCase):
    def test_hours_are_those_of_who_answers(self) -> None:
        """By their clock, the commonest first, on days they write; nothing of who hardly wrote."""
        self.assertEqual(usual_hours(self.room, "brandel@salthall.example"), [])
        for day in range(6):
            raw = letter(f"Answer {day}", sender="June <june@far.example>", at=NOON + day * 60)
            when = f"Mon, {6 + (day % 3)} Oct 2025 {17 if day < 4 else 9}:10:00 +0900"
            self.take(
                b"\n".join(b"Date: " + when.encode() if one.startswith(b"Date:") else one for one in raw.split(b"\n"))
            )
        found = usual_hours(self.room, "june@far.example")
        self.assertEqual([one.hour for one in found], [17, 9])
        self.assertEqual(found[0].apart, 7 * 60)
        self.assertEqual(found[0].said, "2025-10-10 10:00")
