"""The API: what it answers, refuses and tells."""

import asyncio
import json
import subprocess
import sys
import unittest
from pathlib import Path

from hieranome.core.buckets import UNDECIDED
from hieranome.standin.delivery import Delivery
from hieranome.web.describe import description
from hieranome.web.routers.house import _events
from tests.mail.test_sources import mbox
from tests.patience import await_
from tests.support import ApiCase, RoomCase, letter, offer

ROOT = Path(__file__).parent.parent.parent


class SureTest(ApiCase):
    def test_vouching_over_the_api(self) -> None:
        """Listed, added by name and from a message, removed; nonsense is refused in a sentence."""
        number = self.take(letter(sender="Kim <kim@studio.example>"))
        self.assertEqual(self.client.get("/api/vouched").json(), [])
        added = self.client.post("/api/vouched", json={"kind": "address", "message": number})
        self.assertEqual((added.json()["key"], added.json()["name"]), ("kim@studio.example", "Kim"))
        self.client.post("/api/vouched", json={"kind": "domain", "key": "@Hall.example"})
        self.assertEqual(
            {one["key"] for one in self.client.get("/api/vouched").json()}, {"kim@studio.example", "hall.example"}
        )
        self.assertEqual(self.client.get(f"/api/messages/{number}").json()["vouched"], True)
        self.assertEqual(self.client.delete("/api/vouched/address/kim@studio.example").status_code, 204)
        self.assertEqual(self.client.delete("/api/vouched/address/kim@studio.example").status_code, 404)
        refused = self.client.post("/api/vouched", json={"kind": "domain", "key": "hall"})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Write it like", refused.json()["detail"])

    def test_checkers_shared_domains_and_kin_follow_are_settings(self) -> None:
        """Set together, read back, kept."""
        wanted = {
            "confirmed_checkers": ["mx.quillmark.example"],
            "shared_domains": ["many.example"],
            "kin_follow": True,
            "looked_past_teaches": False,
        }
        self.assertEqual(self.client.put("/api/settings", json=wanted).status_code, 200)
        found = self.client.get("/api/settings").json()
        for key, value in wanted.items():
            self.assertEqual(found[key], value)

    def test_a_trial_over_the_api(self) -> None:
        """Survey, start, follow to the end, stop; a path that is none is refused."""
        folder = self.folder / "archive"
        folder.mkdir()
        (folder / "Inbox.mbox").write_bytes(mbox(*(letter(f"m{n}", body=f"b {n}") for n in range(12))))
        (folder / "Junk.mbox").write_bytes(mbox(*(offer(n) for n in range(12))))
        survey = self.client.post("/api/archive", json={"path": str(folder)}).json()
        self.assertEqual({f["name"]: f["suggested"] for f in survey}, {"Inbox": "desk", "Junk": "drain"})
        wanted = {"path": str(folder), "places": {"Inbox": "desk", "Junk": "drain"}, "correct": 1.0}
        self.assertEqual(self.client.post("/api/trial", json=wanted).status_code, 202)
        await_("the trial's end", lambda: self.client.get("/api/trial").json()["state"] not in ("reading", "replaying"))
        state = self.client.get("/api/trial").json()
        self.assertEqual((state["state"], state["figures"]["messages"]), ("done", 24))
        self.assertEqual(self.client.delete("/api/trial").json()["state"], "none")
        for path in ("archive", str(self.folder / "none")):
            self.assertGreaterEqual(self.client.post("/api/archive", json={"path": path}).status_code, 400)

    def test_a_forged_message_is_told(self) -> None:
        """The reading side hears why a message is not who it says, and a contradiction is told with the verdict."""
        self.client.put("/api/settings", json={"confirmed_checkers": ["mx.quillmark.example"]})
        results = "mx.quillmark.example; dmarc=fail header.from=salthall.example"
        number = self.take(letter("Fee", Authentication_Results=results))
        (warning,) = self.client.get(f"/api/messages/{number}").json()["warnings"]
        self.assertIn("Forged", warning)


class ListingTest(ApiCase):
    def test_places_come_in_the_order_of_the_band(self) -> None:
        """Every place with its counts; letters in order, none for Your call."""
        self.take(letter())
        answer = self.client.get("/api/places").json()
        band = [p for p in answer["places"] if p["band"] >= 0]
        self.assertEqual([p["name"] for p in band], ["desk", "undecided", "shelf", "digest", "drain"])
        self.assertEqual([p["takes"] for p in band], [True, False, True, True, True])
        self.assertLess(answer["bounds"]["ask"], answer["bounds"]["desk"])
        self.assertLess(answer["bounds"]["fairly"], answer["bounds"]["quite"])

    def test_pages_follow_each_other(self) -> None:
        """All messages of a place come page by page, and a change of scores in between is told."""
        for number in range(9):
            self.take(letter(f"m{number}", body=f"b {number}"))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk'")
        seen, cursor = [], ""
        while True:
            page = self.client.get("/api/messages", params={"place": "desk", "limit": 4, "cursor": cursor}).json()
            seen += [m["id"] for m in page["messages"]]
            self.assertFalse(page["shifted"])
            cursor = page["next"]
            if not cursor:
                break
        self.assertEqual(sorted(seen), list(range(1, 10)))
        first = self.client.get("/api/messages", params={"place": "desk", "limit": 4}).json()
        self.client.post("/api/verdicts", json={"messages": [9], "belongs": "drain"})
        after = self.client.get("/api/messages", params={"place": "desk", "limit": 4, "cursor": first["next"]}).json()
        self.assertTrue(after["shifted"])

    def test_clear_refusals(self) -> None:
        """What does not exist or cannot be read is said in a sentence."""
        for path, status in (
            ("/api/messages?place=attic", 404), ("/api/messages/99", 404), ("/api/messages?place=desk&cursor=1~zz", 422),
            ("/api/imports/5", 404), ("/api/messages/99/html", 404), ("/api/nothing", 404),
        ):  # fmt: skip
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, status, path)
            self.assertTrue(answer.json()["detail"])


class OpenTest(ApiCase):
    def test_a_message_comes_with_evidence_that_adds_up(self) -> None:
        """Text, people, reaches and evidence; the lines sum to the log-odds."""
        number = self.take(offer(1))
        opened = self.client.get(f"/api/messages/{number}").json()
        self.assertAlmostEqual(sum(line["value"] for line in opened["evidence"]), opened["log_odds"], delta=1e-9)
        self.assertIn("Save 11 percent", opened["passages"][0]["text"])
        self.assertIn("list", opened["reaches"])
        self.assertAlmostEqual(sum(one["share"] for one in opened["low"]), 1.0, places=9)

    def test_html_is_served_under_its_own_policy(self) -> None:
        """The frame's page carries no script and a policy that allows none."""
        raw = letter(body="x").replace(b"text/plain", b"text/html") + b"<script>bad()</script><p>fine</p>"
        answer = self.client.get(f"/api/messages/{self.take(raw)}/html")
        self.assertIn("default-src 'none'", answer.headers["content-security-policy"])
        self.assertIn("sandbox", answer.headers["content-security-policy"])
        self.assertNotIn("<script", answer.text)
        self.assertIn("<p>fine</p>", answer.text)

    def test_attachments_are_downloads(self) -> None:
        """Only raster pictures may be shown; SVG and HTML are saved, never run."""
        parts = (
            b'--b\nContent-Type: image/svg+xml\nContent-Disposition: attachment; filename="a.svg"\n\n<svg onload="x()"/>\n'
            b'--b\nContent-Type: text/html\nContent-Disposition: attachment; filename="a.html"\n\n<script>x()</script>\n'
            b'--b\nContent-Type: image/png\nContent-Disposition: attachment; filename="a.png"\n\n1234\n--b--\n'
        )
        head = b'From: a@b.example\nSubject: parts\nContent-Type: multipart/mixed; boundary="b"\n\n'
        number = self.take(head + parts)
        for path, kind, way in (
            ("1.1", "application/octet-stream", "attachment"), ("1.2", "application/octet-stream", "attachment"),
            ("1.3", "image/png", "inline"),
        ):  # fmt: skip
            answer = self.client.get(f"/api/messages/{number}/parts/{path}")
            self.assertEqual(answer.headers["content-type"], kind)
            self.assertTrue(answer.headers["content-disposition"].startswith(way))
            self.assertEqual(answer.headers["x-content-type-options"], "nosniff")
        self.assertEqual(self.client.get(f"/api/messages/{number}/parts/9").status_code, 404)

    def test_the_source_is_what_came(self) -> None:
        """Byte for byte, as a download."""
        number = self.take(letter())
        answer = self.client.get(f"/api/messages/{number}/source")
        self.assertEqual(answer.content, letter())
        self.assertIn("attachment", answer.headers["content-disposition"])

    def test_read_and_unread(self) -> None:
        """Marking is kept and counted."""
        number = self.take(letter())
        self.assertTrue(self.client.post(f"/api/messages/{number}/opened").json()["seen"])
        self.client.post("/api/marks", json={"messages": [number], "mark": "unread"})
        self.assertFalse(self.client.get(f"/api/messages/{number}").json()["message"]["seen"])

    def test_thread(self) -> None:
        """The other messages of the thread come oldest first."""
        first = self.take(letter("Rider", message_id="<1@x.example>"))
        second = self.take(letter("Re: Rider", message_id="<2@x.example>", In_Reply_To="<1@x.example>"))
        thread = self.client.get(f"/api/messages/{second}/thread").json()
        self.assertEqual([m["id"] for m in thread], [first, second])


class TeachingTest(ApiCase):
    def test_verdict_kin_and_undo(self) -> None:
        """A verdict answers with effect and kin; kin follow when asked; both are undone."""
        numbers = [self.take(offer(n)) for n in range(4)]
        before = self.state()
        outcome = self.client.post("/api/verdicts", json={"messages": numbers[:1], "belongs": "desk"}).json()
        self.assertGreater(outcome["effects"][0]["after"], outcome["effects"][0]["before"])
        kin = [k["message"]["id"] for k in outcome["kin"]]
        self.assertEqual(sorted(kin), numbers[1:])
        self.assertEqual(outcome["kin_total"], 3)
        step = self.client.post(f"/api/steps/{outcome['step']}/kin", json={"messages": kin}).json()
        self.assertEqual((step["kind"], step["messages"]), ("kin", 3))
        self.assertEqual(self.client.post("/api/undo").json()["id"], step["id"])
        self.client.post("/api/undo")
        self.assertEqual({n: s[:2] for n, s in self.state().items()}, {n: s[:2] for n, s in before.items()})
        lines = self.client.get("/api/steps").json()["steps"]
        self.assertTrue(all(line["undone_at"] for line in lines))
        self.assertTrue(self.client.get("/api/lessons").json()["lessons"][0]["undone"])
        self.assertEqual(self.client.post("/api/undo").status_code, 409)

    def test_bad_verdicts(self) -> None:
        """Unknown reach, no messages, unknown bucket: refused."""
        number = self.take(letter())
        for body in (
            {"messages": [], "belongs": "desk"}, {"messages": [number], "belongs": "attic"},
            {"messages": [number], "belongs": "desk", "reach": "galaxy"}, {"messages": [number], "belongs": UNDECIDED},
        ):  # fmt: skip
            self.assertEqual(self.client.post("/api/verdicts", json=body).status_code, 422, body)
        self.assertEqual(self.client.get("/api/steps").json()["steps"], [])


class HouseTest(ApiCase):
    def drop(self, *files: tuple[str, bytes]):  # type: ignore[no-untyped-def]
        return self.client.post("/api/imports", files=[("files", file) for file in files])

    def wait_done(self, number: int) -> dict[str, object]:
        def job() -> dict[str, object]:
            return dict(self.client.get(f"/api/imports/{number}").json())

        await_("the import's end", lambda: job()["state"] in ("done", "failed"), said=job)
        return job()

    def test_dropped_files_come_in(self) -> None:
        """An mbox and a message dropped together are imported, and their copies are cleared away."""
        answer = self.drop(("a.mbox", mbox(letter("one"), letter("two"))), ("b.eml", letter("three")))
        self.assertEqual(answer.status_code, 202)
        job = self.wait_done(answer.json()["id"])
        self.assertEqual((job["state"], job["added"]), ("done", 3))
        await_("the copies to be cleared away", lambda: not list(self.served.importer.incoming.iterdir()))

    def test_what_is_no_mail_is_refused(self) -> None:
        """A text file and an empty file are refused with the reason, and nothing is left behind."""
        for name, content, words in (("x.txt", b"hello\n", "not a mailbox"), ("e.mbox", b"", "is empty")):
            answer = self.drop((name, content))
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["detail"])
        self.assertEqual(list(self.served.importer.incoming.iterdir()), [])
        self.assertEqual(self.client.get("/api/imports").json(), [])

    def test_hostile_file_names_stay_inside(self) -> None:
        """A name with a path is laid down in its own folder."""
        answer = self.drop(("../../../escape.mbox", mbox(letter())))
        self.assertEqual(self.wait_done(answer.json()["id"])["added"], 1)
        self.assertFalse((self.folder / "escape.mbox").exists())

    def test_settings(self) -> None:
        """Addresses are kept lower-cased; what is none is refused."""
        answer = self.client.put("/api/settings", json={"owner_addresses": ["Maren@Quillmark.example "]})
        self.assertEqual(answer.json()["owner_addresses"], ["maren@quillmark.example"])
        self.assertEqual(self.client.put("/api/settings", json={"owner_addresses": ["nobody"]}).status_code, 422)

    def test_delivery_only_in_the_demo(self) -> None:
        """Without a demo there is none to control; with one it is run, paused and stepped."""
        self.assertFalse(self.client.get("/api/delivery").json()["present"])
        self.assertEqual(self.client.put("/api/delivery", json={"running": True}).status_code, 422)
        came: list[bytes] = []
        self.served.delivery = Delivery([b"1", b"2"], came.append, interval=0.2)
        self.served.delivery.start(running=False)
        self.client.post("/api/delivery/next")
        self.assertEqual(came, [b"1"])
        self.client.put("/api/delivery", json={"running": True, "interval": 0.2})
        await_("the second", lambda: len(came) == 2)
        self.assertEqual(came, [b"1", b"2"])
        self.assertEqual(self.client.post("/api/delivery/next").status_code, 422)


class GuardTest(ApiCase):
    def test_strangers_are_refused(self) -> None:
        """Foreign hosts, origins, sites and unmarked changes get nothing and change nothing."""
        number = self.take(letter())
        before = self.state()
        body = {"messages": [number], "belongs": "drain"}
        for headers in (
            {"host": "evil.example"}, {"host": ""}, {"origin": "https://evil.example"}, {"origin": "null"},
            {"origin": "http://testserver.evil.example"}, {"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"},
        ):  # fmt: skip
            self.assertEqual(self.client.post("/api/verdicts", json=body, headers=headers).status_code, 403, headers)
        del self.client.headers["x-hieranome"]
        self.assertEqual(self.client.post("/api/verdicts", json=body).status_code, 403)
        self.assertEqual(self.state(), before)

    def test_reading_across_sites_is_refused(self) -> None:
        """Another site's page cannot fetch mail."""
        answer = self.client.get("/api/places", headers={"sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors"})
        self.assertEqual(answer.status_code, 403)

    def test_rebinding_is_refused(self) -> None:
        """A foreign name that leads here is not answered."""
        self.assertEqual(self.client.get("/api/places", headers={"host": "rebound.example:8025"}).status_code, 403)

    def test_every_answer_carries_its_policy(self) -> None:
        """Pages and API answers say what they may load."""
        for path in ("/api/places", "/"):
            headers = self.client.get(path).headers
            self.assertIn("default-src 'none'", headers["content-security-policy"])
            self.assertNotIn("unsafe", headers["content-security-policy"])
            self.assertEqual(headers["x-content-type-options"], "nosniff")


class EventTest(RoomCase):
    class Connected:
        async def is_disconnected(self) -> bool:
            return False

    async def listen(self, last: str, count: int) -> list[tuple[str, str, dict[str, object]]]:
        stream = _events(self.Connected(), self.room.events, last)  # type: ignore[arg-type]
        found = []
        async for event in stream:
            found.append((event.event or "", event.id or "", json.loads(event.data)))
            if len(found) == count:
                break
        await stream.aclose()  # type: ignore[attr-defined]
        return found

    def test_a_listener_resumes_where_it_was(self) -> None:
        """Events missed in between come with the next connection, in order."""
        last = self.room.events.latest
        self.take(letter("one"))
        self.take(letter("two", body="2"))
        told = asyncio.run(asyncio.wait_for(self.listen(last, 5), 10))
        self.assertEqual([kind for kind, _, _ in told], ["hello", "arrived", "counts", "arrived", "counts"])
        again = asyncio.run(asyncio.wait_for(self.listen(told[2][1], 3), 10))
        self.assertEqual([one[1] for one in again[1:]], [one[1] for one in told[3:]])

    def test_a_listener_of_another_run_starts_anew(self) -> None:
        """An id that is not remembered gets one reset."""
        told = asyncio.run(asyncio.wait_for(self.listen("stranger-5", 2), 10))
        self.assertEqual([kind for kind, _, _ in told], ["hello", "reset"])

    def test_memory_is_bounded(self) -> None:
        """A listener away for too long is told to load anew."""
        last = self.room.events.latest
        for number in range(1500):
            self.room.events.publish("counts", number=number)
        self.assertIsNone(self.room.events.since(last))


class DescriptionTest(unittest.TestCase):
    def test_the_description_is_current(self) -> None:
        """docs/openapi.json is what the application says of itself."""
        kept = (ROOT / "docs" / "openapi.json").read_text(encoding="utf-8")
        self.assertEqual(kept, description(), "run 'make api' and commit what it writes")

    def test_the_front_ends_types_are_current(self) -> None:
        """The generated types are those of the description."""
        tool = ROOT / "frontend" / "node_modules" / ".bin" / "openapi-typescript"
        made = subprocess.run(
            [str(tool), str(ROOT / "docs" / "openapi.json")],
            capture_output=True,
            text=True,
            check=True,
            cwd=ROOT / "frontend",
        ).stdout
        kept = (ROOT / "frontend" / "src" / "api" / "schema.ts").read_text(encoding="utf-8")
        self.assertEqual(made.strip(), kept.strip(), "run 'make api' and commit what it writes")


if __name__ == "__main__":
    sys.exit(unittest.main())
