"""Subscriptions ended with the owner's word: by the way that is safe, told truly, and named when they come back."""

from __future__ import annotations

from hieranome.app.bulk import subscriptions
from hieranome.app.bulk.unsubscribing import Unsubscriber
from hieranome.app.exporting import export, restore
from hieranome.app.mailbox import mailboxes
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import vouching
from hieranome.core.errors import CallerError, NotFound
from hieranome.standin.unsubscribing import UnsubscribeEndpoint
from hieranome.store import drafts, settings, unsubscribed
from hieranome.store.accounts import NewAccount
from hieranome.store.drafts import Identity
from tests.support import NOON, OWNER, ApiCase, letter

SERVER = "mx.quillmark.example"
DAY = 86_400
H = "from:list-unsubscribe:list-unsubscribe-post"


def news(
    name: str, at: int = NOON, *, results: str = "", signed: str = H, leave: str = "", click: bool = True
) -> bytes:
    """A newsletter that can be left, with what a server found of it."""
    domain = f"{name}.example"
    headers = {
        "List_Id": f"<news.{domain}>",
        "List_Unsubscribe": leave or f"<https://{domain}/leave>, <mailto:leave@{domain}?subject=stop>",
        "DKIM_Signature": f"v=1; a=rsa-sha256; d={domain}; s=s1; h={signed}; bh=x; b=abcdefgh1234",
    }
    if click:
        headers["List_Unsubscribe_Post"] = "List-Unsubscribe=One-Click"
    if results:
        headers["Authentication_Results"] = f"{SERVER}; {results.format(d=domain)}"
    return letter(f"Issue of {name} at {at}", sender=f"{name} <news@{domain}>", at=at, **headers)


PASS = "dkim=pass header.d={d} header.b=abcdefgh; spf=pass smtp.mailfrom={d}"


class UnsubscribingTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        vouching.set_names(self.room, settings.CONFIRMED, [SERVER])
        self.endpoint = UnsubscribeEndpoint({"fail.example": "fails", "page.example": "page", "lie.example": "lies"})
        self.endpoint.start()
        self.addCleanup(self.endpoint.close)
        self.served.unsubscriber = Unsubscriber(self.room, self.endpoint.dial, lambda _name, _patience: b"")
        self.leaving = self.served.unsubscriber

    def write_as(self, address: str) -> None:
        """Let the owner write as an address."""
        account = NewAccount(address, "M", address, False, "h.example", 993, "tls", "h.example", 465, "tls")
        number = mailboxes.add(self.room, account, []).id
        with self.room.change() as db:
            drafts.put_identity(db, Identity(address, number, "Maren", ""))

    def of(self, name: str) -> str:
        """The key of a newsletter."""
        return f"list:news.{name}.example"

    def test_by_one_click(self) -> None:
        """Asked once, its answer and date kept, told truly for each manner; the lie shows when it comes back."""
        for name in ("obey", "fail", "page", "lie"):
            self.take(news(name, results=PASS))
            self.assertEqual(self.leaving.offer(self.of(name)).way, "post")
        told = {name: self.leaving.unsubscribe(self.of(name)).outcome for name in ("obey", "fail", "page", "lie")}
        self.assertEqual(told, {"obey": "accepted", "fail": "failed", "page": "page", "lie": "accepted"})
        self.assertEqual(len(self.endpoint.asked), 4)
        self.take(news("lie", self.clock.now + 3 * DAY, results=PASS))
        found = {one.key: one for one in subscriptions.find(self.room)}
        self.assertEqual((found[self.of("lie")].came_back, found[self.of("fail")].unsubscribed), (0, 0))
        self.take(news("lie", self.clock.now + 11 * DAY, results=PASS))
        found = {one.key: one for one in subscriptions.find(self.room)}
        self.assertEqual((found[self.of("lie")].came_back, found[self.of("obey")].came_back), (1, 0))
        self.assertGreater(found[self.of("obey")].unsubscribed, NOON)
        asked = unsubscribed.of_source(self.room.reader(), self.of("fail"))[0]
        self.assertEqual((asked.way, asked.target, asked.words), ("post", "fail.example", "Its server answered 500."))

    def test_only_where_a_signature_speaks_for_it(self) -> None:
        """Forged, unsigned headers, a result of another's signature, of a server not believed: nothing is asked."""
        cases = {
            "forged": news("forged", results="dkim=fail header.d={d}; spf=fail smtp.mailfrom={d}"),
            "other": news("other", results="dkim=pass header.d=else.example header.b=abcdefgh"),
            "partly": news("partly", results=PASS, signed="from:subject", leave="<https://partly.example/leave>"),
            "mark": news(
                "mark",
                results="dkim=pass header.d={d} header.b=zzzzzzzz; spf=pass smtp.mailfrom={d}",
                leave="<https://mark.example/l>",
            ),
            "nobody": news("nobody", leave="<https://nobody.example/leave>"),
            "http": news("http", results=PASS, leave="<http://http.example/leave>"),
            "none": letter("Issue", sender="n <news@none.example>", List_Id="<news.none.example>"),
        }
        for raw in cases.values():
            self.take(raw)
        ways = {name: self.leaving.offer(self.of(name)).way for name in cases}
        self.assertEqual(
            ways,
            {
                "forged": "refuse", "other": "refuse", "partly": "link", "mark": "link", "nobody": "post",
                "http": "link", "none": "refuse",
            },
        )  # fmt: skip
        for name in cases:
            with self.assertRaises(CallerError):
                self.leaving.unsubscribe(self.of(name))
        self.assertEqual(self.endpoint.asked, [])
        self.assertEqual(unsubscribed.held(self.room.reader()), {})
        with self.assertRaises(NotFound):
            self.leaving.offer("list:nothing.example")

    def test_by_a_message(self) -> None:
        """From the address it came to, through the outbox: recipient, subject and text, nothing else."""
        self.take(
            news("post", results=PASS, leave="<mailto:leave@post.example?subject=stop&cc=x@y.example&body=signoff%20x>")
        )
        self.assertEqual(self.leaving.offer(self.of("post")).way, "refuse")
        self.write_as(OWNER)
        offer = self.leaving.offer(self.of("post"))
        self.assertEqual((offer.way, offer.target, offer.sender), ("mailto", "leave@post.example", OWNER))
        self.assertEqual((offer.subject, offer.text), ("stop", "signoff x"))
        self.assertEqual(self.leaving.unsubscribe(self.of("post")).outcome, "sent")
        waiting = drafts.in_state(self.room.reader(), "waiting")
        self.assertEqual(
            [(one.sender, one.recipients, one.cc, one.subject, one.body) for one in waiting],
            [(OWNER, "leave@post.example", "", "stop", "signoff x")],
        )

    def test_a_message_says_nothing_in_the_owners_name(self) -> None:
        """A stranger's subject and text do not go out as the owner's; nothing goes to a third person whom no signature
        of the sender's own names."""
        said = "subject=I%20resign&body=I%20go"
        cases = {
            "own": (news("own", leave=f"<mailto:leave@own.example?{said}>", click=False, signed="from"), "mailto"),
            "sub": (news("sub", leave=f"<mailto:l@mail.sub.example?{said}>", click=False, signed="from"), "mailto"),
            "third": (news("third", leave=f"<mailto:boss@work.example?{said}>", click=False, signed="from"), "refuse"),
            "covered": (news("covered", results=PASS, leave=f"<mailto:l@sends.example?{said}>", click=False), "mailto"),
            "foreign": (
                news("foreign", results=PASS, leave="<mailto:l@sends.example>", click=False).replace(
                    b"d=foreign.example", b"d=else.example"
                ),
                "refuse",
            ),
            "twice": (
                news("twice", results=PASS, leave="<mailto:l@sends.example>", click=False).replace(
                    b"List-Id", b"List-Unsubscribe: <mailto:boss@work.example>\r\nList-Id"
                ),
                "refuse",
            ),
        }
        for raw, _ in cases.values():
            self.take(raw)
        self.write_as(OWNER)
        offers = {name: self.leaving.offer(self.of(name)) for name in cases}
        self.assertEqual(
            {name: one.way for name, one in offers.items()}, {name: way for name, (_, way) in cases.items()}
        )
        for name in ("own", "sub", "covered"):
            self.assertEqual((offers[name].subject, offers[name].text), ("unsubscribe", "unsubscribe"), name)
            self.leaving.unsubscribe(self.of(name))
        waiting = drafts.in_state(self.room.reader(), "waiting")
        self.assertEqual({(one.subject, one.body) for one in waiting}, {("unsubscribe", "unsubscribe")})

    def test_where_many_write_from_one_domain(self) -> None:
        """There only the sender itself is written to, on the domains the owner named as well."""
        vouching.set_names(self.room, settings.SHARED, ["shared.example"])
        self.take(news("first", click=False))
        self.write_as(OWNER)
        for to, way in (("boss@shared.example", "refuse"), ("news@shared.example", "mailto")):
            self.take(news("shared", self.clock.now, leave=f"<mailto:{to}>", click=False, signed="from"))
            self.assertEqual(self.leaving.offer(self.of("shared")).way, way)
            self.clock.now += 60

    def test_only_the_senders_own_signature_can_be_checked(self) -> None:
        """Where no server is believed, a stranger's good signature over a stranger's headers speaks for nobody."""
        self.take(news("borrowed").replace(b"d=borrowed.example", b"d=else.example"))
        self.assertEqual(self.leaving.offer(self.of("borrowed")).way, "link")

    def test_headers_beyond_what_is_read(self) -> None:
        """A pair of headers in front of a thousand others, or of one that is too long: nothing is asked of anybody."""
        for name, between in (("many", b"X: y\r\n" * 1000), ("long", b"X: " + b"y" * 520_000 + b"\r\n")):
            raw = news(name, results=PASS).replace(b"\n", b"\r\n").replace(b"\r\r", b"\r")
            start = raw.index(b"List-Unsubscribe:")
            false = (
                b"List-Unsubscribe: <https://evil.example/l>\r\nList-Unsubscribe-Post: List-Unsubscribe=One-Click\r\n"
            )
            head = b"List-Id: <news." + name.encode() + b".example>\r\n"
            self.take(head + false + between + raw)
            self.assertGreater(start, 0)
            offer = self.leaving.offer(self.of(name))
            self.assertEqual(offer.way, "refuse", name)
            with self.assertRaisesRegex(CallerError, "headers"):
                self.leaving.unsubscribe(self.of(name))
        self.assertEqual(self.endpoint.asked, [])

    def test_in_an_export(self) -> None:
        """What was asked comes along; one that tells of an outcome there is not is refused whole."""
        self.take(news("obey", results=PASS))
        self.leaving.unsubscribe(self.of("obey"))
        export(self.room, self.folder / "out.zip")
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        restore(other, self.folder / "out.zip")
        self.assertEqual(unsubscribed.every(other.reader()), unsubscribed.every(self.room.reader()))
        self.assertEqual(list(unsubscribed.held(other.reader())), [self.of("obey")])
        with self.room.change() as db:
            db.execute("UPDATE unsubscribed SET outcome = 'maybe'")
        export(self.room, self.folder / "odd.zip")
        third = Mailroom(self.folder / "third")
        self.addCleanup(third.close)
        with self.assertRaises(CallerError):
            restore(third, self.folder / "odd.zip")
        self.assertEqual(unsubscribed.every(third.reader()), [])

    def test_at_the_api(self) -> None:
        """What is offered, done, and what came of it; a refusal tells why."""
        self.take(news("fail", results=PASS))
        self.take(news("partly", results=PASS, signed="from", leave="<https://partly.example/leave>"))
        about = self.client.get("/api/subscriptions/about", params={"source": self.of("fail")}).json()
        self.assertEqual(
            (about["offer"]["way"], about["offer"]["target"], about["asked"]), ("post", "fail.example", [])
        )
        done = self.client.post("/api/subscriptions/unsubscribe", json={"source": self.of("fail")}).json()
        self.assertEqual((done["outcome"], done["words"]), ("failed", "Its server answered 500."))
        about = self.client.get("/api/subscriptions/about", params={"source": self.of("fail")}).json()
        self.assertEqual([one["outcome"] for one in about["asked"]], ["failed"])
        answer = self.client.post("/api/subscriptions/unsubscribe", json={"source": self.of("partly")})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("never done for you", answer.json()["detail"])
        about = self.client.get("/api/subscriptions/about", params={"source": self.of("partly")}).json()
        self.assertEqual((about["offer"]["way"], about["offer"]["target"]), ("link", "https://partly.example/leave"))
