"""What happened: to one message, and since the owner last looked."""

from tests.support import NOON, ApiCase, letter, offer


class Happened(ApiCase):
    def test_a_message_tells_what_happened_to_it(self) -> None:
        """Verdict, filing and marks with their steps, in their order; an undone step says when; no other's."""
        number, other = self.take(letter("Risers")), self.take(offer(1))
        for path, body in (
            ("/api/verdicts", {"messages": [number], "belongs": "shelf", "reach": "learn"}),
            ("/api/marks", {"messages": [number], "mark": "flagged"}),
            ("/api/filed", {"messages": [number, other], "place": "archive"}),
        ):
            self.assertEqual(self.client.post(path, json=body).status_code, 200)
        self.client.post("/api/undo")
        told = self.client.get(f"/api/messages/{number}/journal").json()
        self.assertEqual([one["kind"] for one in told], ["verdict", "marked", "filed"])
        self.assertEqual((told[0]["target"], told[1]["mark"], told[1]["wanted"]), ("shelf", "flagged", True))
        self.assertEqual((told[2]["origin"], told[2]["target"]), ("shelf", "archive"))
        self.assertIsNone(told[0]["undone_at"])
        self.assertIsNotNone(told[2]["undone_at"])
        self.assertEqual([one["kind"] for one in self.client.get(f"/api/messages/{other}/journal").json()], ["filed"])
        self.assertEqual(self.client.get("/api/messages/999/journal").status_code, 404)

    def test_a_lesson_that_moved_nothing_is_told_too(self) -> None:
        """That a message matters more or less is part of what happened to it, though it stayed where it stood."""
        number = self.take(offer(1))
        self.client.post("/api/weighings", json={"messages": [number], "up": True})
        (told,) = self.client.get(f"/api/messages/{number}/journal").json()
        self.assertEqual((told["kind"], told["belongs"], told["origin"], told["target"]), ("verdict", "desk", "", ""))
        self.client.post("/api/verdicts", json={"messages": [number], "belongs": "shelf", "reach": "learn"})
        self.assertEqual(
            [one["belongs"] for one in self.client.get(f"/api/messages/{number}/journal").json()], ["desk", ""]
        )

    def test_what_came_and_was_done_meanwhile_is_counted(self) -> None:
        """Only what came after the message named, and only steps since the time named; undone lessons count no more."""
        first = self.take(letter("Before", at=NOON))
        later = [self.take(offer(n)) for n in range(3)]
        self.client.post("/api/verdicts", json={"messages": [later[0]], "belongs": "drain", "reach": "learn"})
        asked = {"after": first, "since": 0}
        told = self.client.get("/api/lately", params=asked).json()
        self.assertEqual((told["newest"], told["came"], told["lessons"]), (later[-1], 3, 1))
        self.assertEqual(sum(one["messages"] for one in told["places"]), 3)
        self.client.post("/api/undo")
        self.assertEqual(self.client.get("/api/lately", params=asked).json()["lessons"], 0)
        quiet = self.client.get("/api/lately", params={"after": later[-1], "since": 2**39}).json()
        self.assertEqual((quiet["came"], quiet["places"], quiet["lessons"], quiet["followed"]), (0, [], 0, 0))
