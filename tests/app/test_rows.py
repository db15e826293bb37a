"""A message has one shape, whoever shows it: lists, threads, results, events, what it is opened with."""

from __future__ import annotations

import unittest
from typing import Any

from hieranome.app import shaping_tags
from hieranome.app.rules import keeping
from hieranome.app.teaching.correct import correct
from hieranome.core.rules import Action, Rule
from hieranome.core.sure import Reach
from tests.support import NOON, ApiCase, letter

SENDER = "Birch & Bow <news@birchbow.example>"


class RowsTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.room.clock = lambda: NOON + 100  # or the day it leaves the Drain moves on with each look
        tag = shaping_tags.make(self.room, "Strings").id
        actions = (Action("tag", str(tag)), Action("due", "in 3 days"))
        keeping.put(self.room, Rule(0, "Strings", True, "arrives", 0, "came", False, "strings", "", actions))
        first = self.take(letter("Strings at half price", sender=SENDER, message_id="<one@birchbow.example>"))
        correct(self.room, [first], "drain", Reach.ADDRESS)
        self.before = self.room.events.latest
        self.number = self.take(
            letter("Re: Strings at half price", sender=SENDER, in_reply_to="<one@birchbow.example>")
        )

    def rows(self) -> dict[str, dict[str, Any]]:
        """The message as each of those shows it who show mail."""
        told = self.room.events.since(self.before) or []
        get = self.client.get
        listed = {
            "arrived": [one.data["message"] for one in told if one.kind == "arrived"],
            "list": get("/api/messages", params={"place": "drain"}).json()["messages"],
            "thread": get(f"/api/messages/{self.number}/thread").json(),
            "search": get("/api/search", params={"line": "strings"}).json()["messages"],
            "opened": [get(f"/api/messages/{self.number}").json()["message"]],
            "of a source": get(
                "/api/places/drain/sources/mail", params={"source": "address:news@birchbow.example"}
            ).json()["messages"],
            "newest of a source": [one["newest"] for one in get("/api/places/drain/sources").json()["sources"]],
            "what is due": [one["message"] for one in get("/api/follow-up").json()["due"]],
        }
        return {who: next(row for row in rows if row["id"] == self.number) for who, rows in listed.items()}

    def test_all_show_the_same(self) -> None:
        """The day it leaves the Drain, its tags, what is due of it are told by all alike."""
        rows = self.rows()
        wanted = rows["list"]
        self.assertEqual(wanted["place"], "drain")
        self.assertGreater(wanted["leaves_at"], self.room.clock())
        self.assertEqual([len(wanted["tags"]), [one["kind"] for one in wanted["follow"]]], [1, ["due"]])
        for who, row in rows.items():
            self.assertEqual(row, wanted, who)

    def test_what_was_marked_read_is_shown_so(self) -> None:
        """The answer to opening is the row as the list shows it then."""
        answered = self.client.post(f"/api/messages/{self.number}/opened").json()
        self.assertTrue(answered["seen"])
        self.assertEqual(answered, self.rows()["list"])


if __name__ == "__main__":
    unittest.main()
