"""Connecting where a password and the system's certificates do not do: a certificate trusted by its fingerprint, and an
authorisation in the browser."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.mail.finding import Finder
from hieranome.standin.authorising import Authoriser
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.names import NameServer
from hieranome.standin.postbox import Postbox
from hieranome.standin.smtp_sink import SmtpSink
from tests.browser.test_mailbox import FormCase
from tests.mail.servers import SECRET, USER, contexts
from tests.support import OWNER, crlf, letter, nobody


class TrustTest(FormCase):
    """A server with a certificate of its own making, whose owner authorises instead of typing a password."""

    imap: ImapServer
    sink: SmtpSink
    provider: Authoriser

    @classmethod
    def make(cls, folder: Path) -> Service:
        served, trust = contexts(folder.parent, 30)
        box = Postbox()
        cls.addClassCleanup(box.close)
        box.append("INBOX", crlf(letter("Rider questions")))
        cls.provider = Authoriser(served)
        cls.imap = ImapServer({USER: Account(box, SECRET, cls.provider.good)}, tls=served)
        cls.sink = SmtpSink({USER: SECRET}, tokens=cls.provider.good)
        names = NameServer({})
        for one in (cls.imap, cls.sink, cls.provider, names):
            one.start()
            cls.addClassCleanup(one.close)
        made = Service.of(Mailroom(folder), open_to_all=True, poll=0.3)
        made.finder = Finder(names.resolver(), nobody)
        made.logins.servers._trust = trust
        return made

    def describe(self) -> None:
        """Enter the servers by hand."""
        page = self.page
        page.go("/connect")
        self.fill("#box-address", OWNER)
        page.one("#box-name").click()
        page.await_("no servers", lambda: "no server of quillmark.example answered" in page.text())
        self.fill("#box-user", USER)
        self.fill("[aria-label='IMAP server']", "127.0.0.1")
        self.fill("[aria-label='IMAP port']", str(self.imap.port))
        self.fill("[aria-label='SMTP server']", "127.0.0.1")
        self.fill("[aria-label='SMTP port']", str(self.sink.port))
        page.one("[aria-label='SMTP encryption'] option[value='plain']").click()

    def test_1_a_certificate_is_trusted_on_the_owners_word(self) -> None:
        """It is shown with what stands in it; another port takes the word back."""
        page = self.page
        self.describe()
        self.fill("#box-secret", SECRET)
        self.button("Try it").click()
        shown = page.one(".servers-certificate")
        self.assertRegex(shown.text, r"127\.0\.0\.1, port \d+ \(IMAP\)\n.*\n.*CN=localhost(.|\n)*([0-9A-F]{2}:){31}")
        self.assertEqual(self.imap.commands, [])
        page.one("#box-trust").click()
        page.await_("the word", lambda: "Trusted by its fingerprint alone" in page.text())
        self.fill("[aria-label='IMAP port']", "1")
        page.await_("no word", lambda: "Trusted by its fingerprint alone" not in page.text())
        self.fill("[aria-label='IMAP port']", str(self.imap.port))
        page.one("#box-trust").click()
        self.button("Try it").click()
        page.await_("what is there", lambda: "127.0.0.1 let you in" in page.text())

    def test_2_a_mailbox_authorised_in_the_browser(self) -> None:
        """Each way back: the page it comes back to, and the address pasted."""
        page = self.page
        self.describe()
        page.one("#box-way option[value='authorise']").click()
        self.fill("#authorise-authorise_url", f"https://localhost:{self.provider.port}/authorise")
        self.fill("#authorise-token_url", f"https://localhost:{self.provider.port}/token")
        self.fill("#authorise-client_id", "hieranome")
        first = page.browser.current_window_handle
        for way in ("pasted", "back"):
            self.button("Authorise").click()
            page.await_("the tab", lambda: len(page.browser.window_handles) == 2)
            url = page.one(".authorise [role=status] a").get_attribute("href") or ""
            returned = self.provider.authorise(url)
            self.assertTrue(returned.startswith(f"{page.address}/authorised?"), returned)
            page.browser.switch_to.window(next(w for w in page.browser.window_handles if w != first))
            if way == "back":
                page.browser.get(returned)
                page.await_("the token", lambda: "Authorised. Close this tab" in page.text())
                page.await_("the address without a code", lambda: page.browser.current_url.endswith("/authorised"))
            page.browser.close()
            page.browser.switch_to.window(first)
            if way == "pasted":
                self.fill("#authorise-returned", returned)
                self.button("Take").click()
            page.await_("the word", lambda: "Authorised. Try it now." in page.text())
        self.button("Try it").click()
        page.one("#box-trust").click()
        self.button("Try it").click()
        page.await_("what is there", lambda: "127.0.0.1 let you in" in page.text())
        self.button("Connect and read").click()
        self.button("Enough").click()
        page.await_("the proposal", lambda: "Of your newest" in page.text())
        page.go("/mailboxes")
        page.await_("health", lambda: "watched" in page.text())
