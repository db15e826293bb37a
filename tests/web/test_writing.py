"""Drafts over the API: begun, kept, sent, taken back; refusals lose nothing."""

from __future__ import annotations

from hieranome.app.mailbox import mailboxes
from hieranome.store.accounts import NewAccount
from tests.support import OWNER, ApiCase, letter

ILSE = "Ilse Vann <vann@northpier.example>"


class Drafts(ApiCase):
    """A mailbox that is described but not reached: nothing is really sent."""

    def setUp(self) -> None:
        super().setUp()
        nowhere = ("127.0.0.1", 1, "plain")
        new = NewAccount(OWNER, "Maren Aldous", OWNER, False, *nowhere, *nowhere)
        self.account = mailboxes.add(self.room, new, []).id

    def begin(self, **wanted: object) -> dict[str, object]:
        """A letter just begun."""
        answer = self.client.post("/api/drafts", json=wanted)
        self.assertEqual(answer.status_code, 201, answer.text)
        made: dict[str, object] = answer.json()
        return made

    def keep(self, number: object, **changes: str) -> dict[str, object]:
        """Keep a letter with these words."""
        words = {"sender": OWNER, "recipients": ILSE, "subject": "Rider", "body": "Yes."} | changes
        kept: dict[str, object] = self.client.put(f"/api/drafts/{number}", json=words).json()
        return kept

    def test_a_reply_is_begun_with_what_it_answers(self) -> None:
        """Recipients, subject and quote; it is listed as a draft."""
        asked = self.take(letter("Risers", sender=ILSE))
        made = self.begin(kind="reply", message=asked)
        self.assertEqual((made["recipients"], made["subject"], made["answers"]), (ILSE, "Re: Risers", asked))
        self.assertIn("> Can you confirm", str(made["body"]))
        self.assertEqual([one["id"] for one in self.client.get("/api/drafts").json()], [made["id"]])

    def test_what_is_kept_comes_back(self) -> None:
        """Every word, and no other sender than one's own."""
        number = self.begin(kind="new")["id"]
        self.keep(number, bcc="c@copper.example", body="half a sent")
        got = self.client.get(f"/api/drafts/{number}").json()
        self.assertEqual((got["body"], got["bcc"], got["state"]), ("half a sent", "c@copper.example", "draft"))
        refused = self.client.put(f"/api/drafts/{number}", json={"sender": "x@evil.example"})
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(self.client.get(f"/api/drafts/{number}").json()["body"], "half a sent")

    def test_it_waits_and_can_be_taken_back(self) -> None:
        """In the outbox it cannot be changed; out of it, it can."""
        number = self.begin(kind="new")["id"]
        self.keep(number)
        sent = self.client.post(f"/api/drafts/{number}/send").json()
        self.assertEqual(sent["state"], "waiting")
        self.assertEqual(self.client.put(f"/api/drafts/{number}", json={"sender": OWNER}).status_code, 409)
        self.assertEqual(self.client.delete(f"/api/drafts/{number}").status_code, 409)
        self.assertEqual(self.client.post(f"/api/drafts/{number}/back").json()["state"], "draft")
        self.assertEqual(self.client.delete(f"/api/drafts/{number}").json()["kind"], "discarded")
        self.assertEqual(self.client.get(f"/api/drafts/{number}").status_code, 404)

    def test_nobody_and_no_address_are_refused(self) -> None:
        """It stays a draft with a sentence."""
        number = self.begin(kind="new")["id"]
        for recipients, words in (("", "goes to nobody"), ("Ilse", "no address"), ("a@b", "spelt")):
            self.keep(number, recipients=recipients)
            answer = self.client.post(f"/api/drafts/{number}/send")
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["detail"])
        self.assertEqual(self.client.get(f"/api/drafts/{number}").json()["state"], "draft")

    def test_files_go_in_and_out(self) -> None:
        """Named, sized, and taken out again; too much is refused whole."""
        number = self.begin(kind="new")["id"]
        path = f"/api/drafts/{number}/attachments"
        made = self.client.post(path, files={"file": ("plan.txt", b"stage left", "text/plain")}).json()
        (file,) = made["attachments"]
        self.assertEqual((file["name"], file["size"]), ("plan.txt", 10))
        large = self.client.post(path, files={"file": ("large.bin", bytes(25_000_001))})
        self.assertEqual(large.status_code, 422)
        self.assertIn("was not added", large.json()["detail"])
        self.assertEqual(self.client.delete(f"{path}/{file['id']}").json()["attachments"], [])

    def test_identities_have_names_and_signatures(self) -> None:
        """A further address is one's own from then on; the mailbox's own stays."""
        other = {"address": "Tours@quillmark.example", "account": self.account, "name": "Tours", "signature": "M."}
        told = self.client.put("/api/identities", json=other).json()
        self.assertEqual([one["address"] for one in told], [OWNER, "tours@quillmark.example"])
        self.assertIn("tours@quillmark.example", self.client.get("/api/settings").json()["owner_addresses"])
        asked = self.take(letter("Risers", sender=ILSE, to="tours@quillmark.example"))
        made = self.begin(kind="reply", message=asked)
        self.assertEqual(made["sender"], "tours@quillmark.example")
        self.assertIn("\n-- \nM.", str(made["body"]))
        self.assertEqual(self.client.delete(f"/api/identities/{OWNER}").status_code, 422)
        told = self.client.delete("/api/identities/tours@quillmark.example").json()
        self.assertEqual([one["address"] for one in told], [OWNER])

    def test_people_are_offered_those_written_to_first(self) -> None:
        """By the beginning of a name or an address."""
        self.take(letter("One", sender=ILSE))
        self.take(letter("Two", sender="Ilsabe Roth <roth@granary.example>"))
        self.take_sent(letter("Mine", sender=OWNER, to=ILSE))
        found = self.client.get("/api/correspondents", params={"start": "ils"}).json()
        self.assertEqual([one["address"] for one in found], ["vann@northpier.example", "roth@granary.example"])
        self.assertEqual(self.client.get("/api/correspondents", params={"start": "%"}).json(), [])

    def test_an_invitation_that_is_none_cannot_be_answered(self) -> None:
        """It is told, and no letter is begun."""
        number = self.take(letter("No invitation"))
        answer = self.client.post(f"/api/messages/{number}/invitation", json={"answer": "accepted"})
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.client.get("/api/drafts").json(), [])


class Nobody(ApiCase):
    def test_without_a_mailbox_nothing_is_begun(self) -> None:
        """It is told what to do."""
        answer = self.client.post("/api/drafts", json={"kind": "new"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Connect one", answer.json()["detail"])
