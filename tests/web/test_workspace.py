"""The workspace's requests: search, filing, places, previews."""

from email.message import EmailMessage

from hieranome.app.pictures import Pictures
from hieranome.mail.remote import fetch_picture
from tests.mail.test_invitation import EVENT, calendar
from tests.mail.test_remote import PNG, loopback, shop
from tests.support import ApiCase, letter, offer


def laden() -> bytes:
    """A message with a text, a PDF, an SVG, a picture and an invitation."""
    message = EmailMessage()
    message["From"] = "Oskar Brandel <brandel@salthall.example>"
    message["To"] = "maren@quillmark.example"
    message["Subject"] = "Papers"
    message["X-Odd"] = "=?utf-8?q?=C3=BCber?="
    message.set_content("As attached.\n\nOn Monday Maren wrote:\n> the old words\n> and more")
    message.add_attachment("rider line\n" * 20, subtype="plain", filename="rider.txt")
    message.add_attachment(b"%PDF-1.4 made up", maintype="application", subtype="pdf", filename="plan.pdf")
    message.add_attachment(b"<svg onload='x()'/>", maintype="image", subtype="svg+xml", filename="logo.svg")
    message.add_attachment(PNG, maintype="image", subtype="png", filename="sheet.png")
    message.add_attachment(calendar(EVENT), maintype="text", subtype="calendar", filename="invite.ics")
    return message.as_bytes()


def pictured(address: str) -> bytes:
    """An offer whose HTML shows two remote pictures."""
    message = EmailMessage()
    message["From"] = "Birch & Bow <news@birchbow.example>"
    message["To"] = "maren@quillmark.example"
    message["Subject"] = "Look"
    message.set_content("plain")
    html = f'<p>See</p><img src="{address}/harp.png"><img src="{address}/page"><img src="cid:none">'
    message.add_alternative(html, subtype="html")
    return message.as_bytes()


class PreviewTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.number = self.take(laden())
        self.opened = self.client.get(f"/api/messages/{self.number}").json()
        self.parts = {part["name"]: part["path"] for part in self.opened["parts"]}

    def part(self, name: str, tail: str = "") -> str:
        return f"/api/messages/{self.number}/parts/{self.parts[name]}{tail}"

    def test_quoted_text_stands_apart(self) -> None:
        """The sender's words, then what they quote."""
        passages = self.opened["passages"]
        self.assertEqual([one["quoted"] for one in passages], [False, True])
        self.assertIn("the old words", passages[1]["text"])

    def test_the_invitation_is_a_card(self) -> None:
        """It is read from the attached calendar."""
        self.assertEqual(self.opened["invitation"]["title"], "Get-in, Salt Hall")

    def test_only_what_is_safe_is_shown_in_place(self) -> None:
        """Raster pictures inline; a PDF when asked for; SVG, HTML and everything else as downloads, never sniffed."""
        for name, tail, kind, way in (
            ("sheet.png", "", "image/png", "inline"),
            ("plan.pdf", "", "application/octet-stream", "attachment"),
            ("plan.pdf", "?view=true", "application/pdf", "inline"),
            ("logo.svg", "?view=true", "application/octet-stream", "attachment"),
            ("rider.txt", "?view=true", "application/octet-stream", "attachment"),
        ):
            answer = self.client.get(self.part(name, tail))
            self.assertEqual(answer.headers["content-type"], kind, name)
            self.assertTrue(answer.headers["content-disposition"].startswith(way), name)
            self.assertEqual(answer.headers["x-content-type-options"], "nosniff")
            self.assertIn("default-src 'none'", answer.headers["content-security-policy"])

    def test_text_is_shown_as_text(self) -> None:
        """A text attachment comes as words; what is no text is refused, what is not there is not found."""
        self.assertIn("rider line", self.client.get(self.part("rider.txt", "/text")).json()["text"])
        refused = self.client.get(self.part("plan.pdf", "/text"))
        self.assertEqual((refused.status_code, refused.json()["detail"][:24]), (422, "This attachment is no te"))
        self.assertEqual(self.client.get(f"/api/messages/{self.number}/parts/9.9/text").status_code, 404)

    def test_headers_come_decoded_and_in_order(self) -> None:
        """Name and value, as sent."""
        headers = self.client.get(f"/api/messages/{self.number}/headers").json()
        self.assertEqual([one["name"] for one in headers][:3], ["From", "To", "Subject"])
        self.assertIn({"name": "X-Odd", "value": "über"}, headers)


class PictureTest(ApiCase):
    def test_pictures_come_only_when_asked_for(self) -> None:
        """Left out at first; named by our own address when asked; fetched by the server, and refused where none."""
        with shop() as (address, asked):
            self.served.pictures = Pictures(self.room, lambda url: fetch_picture(url, loopback))
            number = self.take(pictured(address))
            self.assertEqual(self.client.get(f"/api/messages/{number}").json()["blocked"], 2)
            self.assertNotIn("/pictures/", self.client.get(f"/api/messages/{number}/html").text)
            self.assertEqual(asked, [])
            shown = self.client.get(f"/api/messages/{number}/html?pictures=true").text
            self.assertIn(f'src="/api/messages/{number}/pictures/0"', shown)
            self.assertNotIn(address, shown)
            first = self.client.get(f"/api/messages/{number}/pictures/0")
            self.assertEqual((first.content, first.headers["content-type"]), (PNG, "image/png"))
            self.assertEqual(self.client.get(f"/api/messages/{number}/pictures/1").status_code, 502)
            self.assertEqual(self.client.get(f"/api/messages/{number}/pictures/2").status_code, 404)

    def test_a_sender_can_be_trusted_with_pictures(self) -> None:
        """Kept by address, told with the message, and taken back."""
        number = self.take(pictured("https://birchbow.example"))
        self.client.put("/api/pictured", json={"address": "News@birchbow.example", "wanted": True})
        self.assertTrue(self.client.get(f"/api/messages/{number}").json()["pictured"])
        self.assertEqual(self.client.get("/api/pictured").json()["addresses"], ["news@birchbow.example"])
        self.client.put("/api/pictured", json={"address": "news@birchbow.example", "wanted": False})
        self.assertFalse(self.client.get(f"/api/messages/{number}").json()["pictured"])
        refused = self.client.put("/api/pictured", json={"address": "birchbow", "wanted": True})
        self.assertEqual(refused.status_code, 422)

    def test_other_sites_cannot_have_pictures_fetched(self) -> None:
        """A page elsewhere that names our address gets nothing."""
        number = self.take(pictured("https://birchbow.example"))
        answer = self.client.get(f"/api/messages/{number}/pictures/0", headers={"sec-fetch-site": "cross-site"})
        self.assertEqual(answer.status_code, 403)


class SearchRequestTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.rider = self.take(letter())
        self.offers = [self.take(offer(n)) for n in range(4)]

    def test_a_page_says_what_was_understood(self) -> None:
        """Hits, sentence, hints, conditions and count in one answer."""
        found = self.client.get("/api/search", params={"line": "from:brandel risers sender:x or risers"}).json()
        self.assertEqual([one["id"] for one in found["messages"]], [self.rider])
        self.assertIn("or with “risers…”", found["sentence"])
        self.assertIn("no operator", found["hints"][0])
        self.assertEqual((found["total"], found["beyond"], found["terms"]), (1, False, []))

    def test_pages_in_every_order(self) -> None:
        """Each order is paged to its end."""
        for order in ("relevance", "time", "importance"):
            seen: list[int] = []
            cursor = ""
            while True:
                query = {"line": "offer", "order": order, "limit": 3, "cursor": cursor}
                page = self.client.get("/api/search", params=query).json()
                seen += [one["id"] for one in page["messages"]]
                cursor = page["next"]
                if not cursor:
                    break
            self.assertEqual(sorted(seen), self.offers, order)

    def test_what_is_wrong_is_said(self) -> None:
        """A search refuses with the cure; while writing, the same sentence comes without refusal."""
        refused = self.client.get("/api/search", params={"line": "bucket:cellar"})
        self.assertEqual(refused.status_code, 422)
        while_writing = self.client.get("/api/search/understood", params={"line": "bucket:cellar"})
        self.assertEqual(while_writing.json()["problem"], refused.json()["detail"])
        stale = self.client.get("/api/search", params={"line": "offer", "order": "time", "cursor": "eA=="})
        self.assertEqual(stale.status_code, 422)

    def test_operators_and_saved_searches(self) -> None:
        """The table comes as data; searches are kept, listed and forgotten."""
        self.assertIn("from", [one["name"] for one in self.client.get("/api/search/operators").json()])
        saved = self.client.post("/api/searches", json={"name": "Offers", "line": "list:birchbow"}).json()
        self.assertEqual([one["name"] for one in self.client.get("/api/searches").json()], ["Offers"])
        self.assertEqual(self.client.delete(f"/api/searches/{saved['id']}").status_code, 204)
        self.assertEqual(self.client.get("/api/searches").json(), [])


class FilingRequestTest(ApiCase):
    def test_put_away_mark_and_put_back(self) -> None:
        """Each answers with its step; doing nothing is no step."""
        number = self.take(letter())
        filed = self.client.post("/api/filed", json={"messages": [number], "place": "archive"}).json()
        self.assertGreater(filed["step"], 0)
        marked = self.client.post("/api/marks", json={"messages": [number], "mark": "flagged"}).json()
        self.assertEqual(marked["messages"], [number])
        again = self.client.post("/api/marks", json={"messages": [number], "mark": "flagged"}).json()
        self.assertEqual(again["step"], 0)
        self.client.post("/api/filed/back", json={"messages": [number]})
        self.assertNotEqual(self.row(number).place, "archive")

    def test_places_are_made_named_and_taken_away(self) -> None:
        """Folders and buckets come and go; a bucket takes verdicts at once."""
        folder = self.client.post("/api/folders", json={"title": "Hotels"}).json()
        bucket = self.client.post("/api/buckets", json={"title": "Paperwork"}).json()
        self.assertEqual((folder["takes"], bucket["takes"]), (False, True))
        number = self.take(letter())
        done = self.client.post("/api/verdicts", json={"messages": [number], "belongs": bucket["name"]})
        self.assertEqual(done.status_code, 200)
        named = self.client.put(f"/api/places/{bucket['name']}", json={"title": "Papers", "notice": 5}).json()
        self.assertEqual((named["title"], named["notice"], named["rhythm"]), ("Papers", 5, ""))
        self.assertGreater(self.client.post("/api/places/shelf/visit").json()["looked_at"], 0)
        self.assertEqual(self.client.delete(f"/api/places/{folder['name']}").status_code, 204)
        self.assertEqual(self.client.delete("/api/places/desk").status_code, 422)
        self.assertEqual(self.client.put("/api/places/desk", json={"rhythm": "hourly"}).status_code, 422)

    def test_all_of_a_place_or_of_a_sender(self) -> None:
        """Ids newest first, with the count of all."""
        offers = [self.take(offer(n)) for n in range(5)]
        place = self.row(offers[0]).place
        other = self.take(
            letter("Another list", sender="x@other.example", List_Id="<l.other.example>", Precedence="bulk")
        )
        self.client.post("/api/verdicts", json={"messages": [other], "belongs": place})
        found = self.client.get(f"/api/places/{place}/messages", params={"limit": 3}).json()
        self.assertEqual((len(found["messages"]), found["total"]), (3, self.standing_in(place)))
        sender = {"sender": "news@birchbow.example"}
        found = self.client.get(f"/api/places/{place}/messages", params=sender).json()
        self.assertEqual(found["messages"], offers[::-1])

    def test_more_and_less(self) -> None:
        """A weighing answers like a verdict, and moves nothing."""
        number = self.take(offer(1))
        place = self.row(number).place
        outcome = self.client.post("/api/weighings", json={"messages": [number], "up": True}).json()
        self.assertGreater(outcome["effects"][0]["after"], outcome["effects"][0]["before"])
        self.assertTrue(outcome["changed"])
        self.assertEqual(self.row(number).place, place)
