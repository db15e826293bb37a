"""Invitations are read for a card, however they are written."""

import unittest
from datetime import UTC, datetime

from hieranome.mail.invitation import Invitation, read_invitation
from tests.generated import given, st

EVENT = """BEGIN:VCALENDAR
VERSION:2.0
METHOD:REQUEST
BEGIN:VEVENT
UID:7@quillmark.example
SUMMARY:Get-in\\, Salt Hall
DTSTART:20260311T140000Z
DTEND:20260311T143000Z
LOCATION:Stage door
ORGANIZER;CN=Oskar Brandel:mailto:brandel@salthall.example
ATTENDEE;CN="Maren Aldous":mailto:maren@quillmark.example
ATTENDEE:mailto:crew@salthall.example
RRULE:FREQ=WEEKLY
END:VEVENT
END:VCALENDAR
"""


def calendar(text: str) -> bytes:
    return text.replace("\n", "\r\n").encode()


class InvitationTest(unittest.TestCase):
    def test_what_a_card_shows(self) -> None:
        """Kind, title, times, place, people, and that it comes again."""
        found = read_invitation(calendar(EVENT))
        assert found is not None
        self.assertEqual((found.kind, found.title, found.place), ("Invitation", "Get-in, Salt Hall", "Stage door"))
        self.assertEqual(found.start, int(datetime(2026, 3, 11, 14, tzinfo=UTC).timestamp()))
        self.assertEqual(found.end - found.start, 1_800)
        self.assertEqual(
            (found.organiser, found.attendees), ("Oskar Brandel", ("Maren Aldous", "crew@salthall.example"))
        )
        self.assertTrue(found.repeats)
        self.assertFalse(found.all_day)

    def test_whole_days_and_cancellations(self) -> None:
        """A day is a day; what is called off says so."""
        text = EVENT.replace("20260311T140000Z", "20260311").replace("20260311T143000Z", "20260312")
        text = text.replace("DTSTART:", "DTSTART;VALUE=DATE:").replace("DTEND:", "DTEND;VALUE=DATE:")
        found = read_invitation(calendar(text.replace("REQUEST", "CANCEL")))
        assert found is not None
        self.assertEqual((found.kind, found.all_day, found.end - found.start), ("Cancelled", True, 86_400))

    def test_what_is_no_event_is_none(self) -> None:
        """Empty, broken and foreign parts give no card and no trouble."""
        for raw in (
            b"",
            b"BEGIN:VCALENDAR\r\nEND:VCALENDAR",
            b"\xff\xfe\x00",
            b"BEGIN:VEVENT",
            calendar("no calendar"),
        ):
            self.assertIsNone(read_invitation(raw))

    def test_broken_times_leave_the_rest(self) -> None:
        """An event with times that are none, or without any, is shown without them."""
        found = read_invitation(calendar(EVENT.replace("DTSTART:20260311T140000Z\n", "")))
        assert found is not None
        self.assertEqual(found.start, 0)

    @given(st.binary(max_size=200))
    def test_no_bytes_make_it_stumble(self, noise: bytes) -> None:
        """Whatever stands within an event, it is read or passed over."""
        self.assertIsInstance(read_invitation(calendar(EVENT).replace(b"Stage door", noise)), Invitation | None)
