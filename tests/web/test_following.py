"""Following through at the API: typed times, lists, and the calendar that is read by a token alone."""

from __future__ import annotations

from fastapi.testclient import TestClient
from ical.calendar_stream import IcsCalendarStream
from icalendar import Calendar

from hieranome.app.service import Service
from hieranome.web.application import build
from tests.support import ApiCase, letter


class FollowingApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.number = self.take(letter("Rider", at=self.clock.now - 60, body="Please answer by tomorrow at 14:00."))

    def test_times_are_understood_and_offered(self) -> None:
        """What is typed is told back; what is none says how to write one; the message's own dates come first."""
        told = self.client.get("/api/when", params={"said": "in 3 days"}).json()
        self.assertTrue(told["day"])
        refused = self.client.get("/api/when", params={"said": "soonish"})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("fri 14:00", refused.json()["detail"])
        offered = self.client.get("/api/times", params={"message": self.number}).json()
        self.assertEqual(offered[0]["words"], "tomorrow at 14:00")
        self.assertEqual(self.client.get("/api/times", params={"message": 999}).status_code, 404)

    def test_all_that_is_followed_through_is_listed(self) -> None:
        """Due, parked and owed stand in their lists, and rows say so."""
        parked = self.take(letter("Hotel", at=self.clock.now - 30, body="All is well."))
        self.assertTrue(
            self.client.post("/api/due", json={"messages": [self.number], "said": "tomorrow"}).json()["step"]
        )
        self.client.post("/api/parked", json={"messages": [parked], "said": "in 2 weeks"})
        told = self.client.get("/api/follow-up").json()
        self.assertEqual([one["message"]["subject"] for one in told["due"]], ["Rider"])
        self.assertEqual([one["message"]["subject"] for one in told["parked"]], ["Hotel"])
        opened = self.client.get(f"/api/messages/{self.number}").json()
        self.assertEqual([one["kind"] for one in opened["message"]["follow"]], ["due"])
        self.client.post("/api/due/done", json={"messages": [self.number]})
        self.assertEqual(self.client.get("/api/follow-up").json()["due"], [])

    def test_its_settings_are_kept(self) -> None:
        """When a day begins moves what is parked until a day."""
        self.client.put("/api/follow-up/settings", json={"morning": 6, "answer_returns": False})
        self.client.post("/api/parked", json={"messages": [self.number], "said": "in 2 weeks"})
        (parked,) = self.client.get("/api/follow-up").json()["parked"]
        self.assertEqual((parked["state"]["at"] // 3600 % 24, parked["state"]["answer"]), (6, False))

    def test_calendars_of_others_read_the_feed(self) -> None:
        """Two libraries read the to-dos back: what is due, a whole day and a time."""
        other = self.take(letter("Visa, form; “x”", at=self.clock.now - 30))
        self.client.post("/api/due", json={"messages": [self.number], "said": "tomorrow"})
        self.client.post("/api/due", json={"messages": [other], "said": "in 2 hours"})
        answer = self.client.get("/api/due.ics")
        self.assertTrue(answer.headers["content-type"].startswith("text/calendar"))
        read = IcsCalendarStream.calendar_from_ics(answer.text)
        self.assertEqual(sorted(str(one.summary) for one in read.todos), ["Rider", "Visa, form; “x”"])
        times = {str(one["summary"]): one.decoded("due") for one in Calendar.from_ical(answer.text).walk("VTODO")}
        self.assertEqual({str(one.summary): one.due for one in read.todos}, times)


class FeedTest(ApiCase):
    def test_a_token_opens_the_feed_and_nothing_else(self) -> None:
        """Who is not signed in reads what is due by the token, and no more; a wrong or old one reads nothing."""
        number = self.take(letter("Rider", at=self.clock.now - 60))
        self.client.post("/api/due", json={"messages": [number], "said": "tomorrow"})
        path = self.client.post("/api/due/feed").json()["path"]
        closed = Service.of(self.room)
        closed.entry.set_password("a long enough password")
        stranger = TestClient(build(closed, hosts=("testserver",)))
        self.assertIn("SUMMARY:Rider", stranger.get(path).text)
        self.assertEqual(stranger.get("/api/due.ics").status_code, 401)
        self.assertEqual(stranger.get("/api/follow-up").status_code, 401)
        self.assertEqual(stranger.post(path).status_code, 403)
        token = path.removesuffix("/due.ics")
        other = token[:-1] + ("y" if token.endswith("x") else "x")
        for wrong in ("/calendar/x/due.ics", f"{token}/all.ics", f"{other}/due.ics", f"{token[:-1]}/due.ics"):
            self.assertNotIn("Rider", stranger.get(wrong).text)
        self.assertEqual(stranger.get(path, headers={"host": "evil.example"}).status_code, 403)
        newer = self.client.post("/api/due/feed").json()["path"]
        self.assertEqual(stranger.get(path).status_code, 404)
        self.client.delete("/api/due/feed")
        self.assertEqual(stranger.get(newer).status_code, 404)
