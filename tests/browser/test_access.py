"""Everybody can use it: axe, both themes, narrow pages, empty mailboxes, keys."""

from pathlib import Path
from typing import Any

from hieranome.app import owner_settings
from hieranome.app.service import Service
from hieranome.demo import house
from tests.browser.driver import BrowserCase, Keys, prefer_dark, resize
from tests.browser.work import EmptyCase
from tests.made_once import lay_demo

AXE = Path(__file__).parent.parent.parent / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
VIEWS = (
    "/in/desk", "/in/shelf", "/in/sent", "/search?line=freight", "/search", "/journal", "/import", "/try", "/settings",
    "/settings/buckets", "/settings/senders", "/settings/phrases", "/settings/routines",
    "/follow-up", "/topics", "/queues", "/away",
    "/tags", "/rules", "/rules?rule=new", "/settings/trays", "/mailboxes", "/connect", "/leave/1", "/outgoing", "/in/junk",
)  # fmt: skip
LOOKS: tuple[dict[str, Any], ...] = (
    {"reading": "below", "density": "one"},
    {"reading": "off"},
    {"gauge": False, "names": "both", "unreadFirst": True},
)
RUN = """
const done = arguments[arguments.length - 1];
const only = arguments[0] ? {runOnly: [arguments[0]]} : {};
axe.run({exclude: [['iframe']]}, {iframes: false, ...only}).then(r => done(r.violations.map(v =>
  v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + (n.any[0] ? n.any[0].message : '')).slice(0, 3).join(' | '))));
"""

CLASHING = """
const its = [...document.querySelectorAll('.reading-from > *, .reading-marks > *, .reading-who .quiet-button')]
  .map(e => [e.innerText, e.getBoundingClientRect()]);
const outer = document.querySelector('.reading').getBoundingClientRect();
return its.filter(([, a], i) => a.right > outer.right || its.some(([, b], k) => k > i &&
  a.left < b.right - 1 && b.left < a.right - 1 && a.top < b.bottom - 1 && b.top < a.bottom - 1)).map(([text]) => text);
"""
"""What stands at the head of a message and lies over something beside it, or sticks out."""

ASKING = "Viola 2 ill since last night, who can step in for Friday?"
"""A letter of the demo's Desk that asks, so that there is something to tell of it and of its sender."""


class AccessTest(BrowserCase):
    in_trays = True

    @classmethod
    def make(cls, folder: Path) -> Service:
        lay_demo(folder)
        return house.open_demo(folder)

    def violations(self, only: str = "") -> Any:
        """What axe finds on the page; of one rule alone where it is named."""
        if not self.js("return 'axe' in window"):
            self.js(AXE.read_text(encoding="utf-8"))
        return self.page.browser.execute_async_script(RUN, only)

    def in_both_themes(self) -> Any:
        """What axe finds on the page in the light, and what of its colours in the dark, which changes nothing else."""
        found = self.violations()
        prefer_dark(self.page.browser, True)
        found += self.violations("color-contrast")
        prefer_dark(self.page.browser, False)
        return found

    def test_axe_finds_nothing_in_either_theme(self) -> None:
        """No accessibility violation on any view, with a message open or not, light and dark."""
        page = self.page
        for view in VIEWS:
            with self.subTest(view=view):
                page.go(view)
                page.await_(
                    "the view",
                    lambda: page.all(
                        ".list .row-mail, .page h1, .list-note, .drafts h1, .subscriptions h1, .follow h1"
                    ),
                )
                if page.all(".list .row-mail"):
                    self.js("document.activeElement.blur()")
                    page.press("j")
                    page.await_("the message", lambda: page.all(".reading-text, .reading-frame"))
                self.assertEqual(self.in_both_themes(), [])
                for key in ("V", "=") if view == "/in/desk" else ():
                    page.open(ASKING)
                    page.press(key)
                    page.await_("it above the text", lambda: page.all(".short-line"))
                    self.assertEqual(self.in_both_themes(), [], key)

    def test_axe_finds_nothing_in_a_letter(self) -> None:
        """Neither in a draft with copies and people offered, nor while one waits to go."""
        page = self.page
        page.go("/outgoing")
        page.await_("the view", lambda: page.all(".page h1, .drafts h1"))
        page.press("l")
        page.one(".draft-form .quiet-button").click()
        page.one(".draft-form input[role='combobox']").send_keys("an")
        page.await_("people", lambda: page.all(".people-offered li"))
        self.assertEqual(self.violations(), [])
        page.press(Keys.CONTROL + Keys.ENTER)
        page.await_("what is missing", lambda: "neither subject nor text" in page.one(".draft-form [role=alert]").text)
        self.assertEqual(self.violations(), [])
        page.go("/in/desk")
        page.await_rows()
        page.press("j")
        page.await_("the message", lambda: page.all(".reading-answer"))
        page.press("p")
        page.one(".draft-form .strong-button").click()
        page.await_("the way back", lambda: page.all(".notices"))
        self.assertEqual(self.violations(), [])

    def test_axe_finds_nothing_in_menus(self) -> None:
        """Neither in the menu of a message, where a day is chosen, among the keys nor in the guide, light and dark."""
        page = self.page
        page.go("/in/desk")
        page.open(ASKING)
        page.one('[data-act="menu"]').click()
        page.one('[data-menu="always"]').click()
        self.assertEqual(self.in_both_themes(), [])
        page.one('[data-menu="due"]').click()
        page.await_("a month", lambda: page.all(".month td button"))
        self.assertEqual(self.in_both_themes(), [])
        page.press(Keys.ESCAPE)
        self.js("document.activeElement.blur()")
        page.press("?")
        page.await_("the keys", lambda: "The ten to begin with" in page.one(".keys-groups").text)
        self.assertEqual(self.in_both_themes(), [])
        page.press(Keys.ESCAPE)
        next(one for one in page.all(".spine-keys") if one.text == "Guide").click()
        page.await_("the guide", lambda: page.all(".guide h2"))
        self.assertEqual(self.in_both_themes(), [])
        page.one(".guide-head .quiet-button").click()

    def test_axe_finds_nothing_however_it_looks(self) -> None:
        """Neither below nor on a page of its own, neither dense nor bare, nor with everything opened up."""
        page = self.page
        for look in LOOKS:
            with self.subTest(look):
                self.arrange(**look)
                page.go("/in/shelf")
                page.await_rows()
                page.press("j", "v", ":")
                page.await_("the command line", lambda: page.all(".command-list li"))
                self.assertEqual(self.violations(), [])
        self.arrange()
        page.go("/settings/keyboard")
        page.one(".key-list")
        self.assertEqual(self.violations(), [])
        page.go("/search?line=freight")
        page.await_rows()
        next(e for e in page.all(".search-line button") if e.text == "Form").click()
        page.one(".search-field").send_keys(" fr")
        page.await_("suggestions", lambda: page.all(".search-suggestions li"))
        self.assertEqual(self.violations(), [])

    def test_twice_as_large(self) -> None:
        """At 200 percent, the page a browser makes of 1280 by 800, everything can still be reached."""
        page = self.page
        resize(page.browser, 640, 400)
        self.addCleanup(resize, page.browser, 1280, 800)
        for view in ("/in/desk", "/search?line=freight", "/settings"):
            page.go(view)
            page.await_("the view", lambda: page.all(".list .row-mail, .page h1"))
            if page.all(".list .row-mail"):
                self.js("document.activeElement.blur()")
                page.press("j")
                page.await_("the message", lambda: page.all(".reading-text, .reading-frame"))
            self.assertLessEqual(self.js("return document.documentElement.scrollWidth"), 640, view)
            hidden = self.js(
                "return [...document.querySelectorAll('.spine a, .verdict button, .reading')].filter(e => {"
                "e.scrollIntoView(); const b = e.getBoundingClientRect();"
                "return b.width < 8 || b.height < 8 || b.left < -1 || b.right > 641}).map(e => e.className + e.innerText)"
            )
            self.assertEqual(hidden, [], view)

    def test_motion_is_reduced_where_it_is_wished(self) -> None:
        """Nothing moves for those who asked for less motion."""
        wish = {"features": [{"name": "prefers-reduced-motion", "value": "reduce"}]}
        self.page.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", wish)
        self.addCleanup(self.page.browser.execute_cdp_cmd, "Emulation.setEmulatedMedia", {"features": []})
        self.page.go("/in/desk")
        self.page.await_rows()
        script = (
            "return [...document.querySelectorAll('*')].filter(e => { const s = getComputedStyle(e);"
            "return s.transitionDuration !== '0s' || s.animationName !== 'none' }).length"
        )
        self.assertEqual(self.js(script), 0)

    def first_at_900(self, path: str) -> None:
        """Open the first message of a list in a window of 900 px."""
        page = self.page
        resize(page.browser, 900, 700)
        self.addCleanup(resize, page.browser, 1280, 800)
        page.go(path)
        page.await_rows()
        page.press("j")
        page.await_("the message", lambda: page.all(".reading-text, .reading-frame"))

    def test_nothing_sticks_out_at_900(self) -> None:
        """At 900 px the page does not scroll sideways, and every verdict button is inside."""
        self.first_at_900("/in/desk")
        page = self.page
        self.assertLessEqual(self.js("return document.documentElement.scrollWidth"), 900)
        for button in page.all(".verdict-button, .band-segment, .verdict-reach select"):
            box = button.rect
            self.assertLessEqual(box["x"] + box["width"], 900, button.text)
            self.assertGreaterEqual(box["width"], 40)

    def test_what_is_due_and_tagged_hides_no_button_at_900(self) -> None:
        """The sender, the time, what is due, tags and the buttons beside them stand clear of each other, however long the
        name of the sender is."""
        self.first_at_900("/search?line=tag:hotels+due:any")
        self.assertTrue(self.page.all(".reading-marks .tag") and self.page.all(".reading-marks .follow-said"))
        self.assertEqual(self.js(CLASHING), [])
        self.js("document.querySelector('.reading-sender').textContent = 'Hotel '.repeat(40)")
        self.assertEqual(self.js(CLASHING), [])

    def test_focus_is_seen(self) -> None:
        """Tabbing through the page, the focused element is always outlined."""
        page = self.page
        page.go("/in/desk")
        page.await_rows()
        seen = set()
        for _ in range(20):
            page.press("\ue004")
            name, width = self.js(
                "const e = document.activeElement; return [e.className + e.tagName, getComputedStyle(e).outlineWidth]"
            )
            seen.add(name)
            if "BODY" not in name:
                self.assertNotEqual(width, "0px", name)
        self.assertGreater(len(seen), 5)

    def test_single_keys_can_be_switched_off(self) -> None:
        """With single keys off, a letter does nothing; arrows still move."""
        page = self.page
        page.go("/in/shelf")
        first = page.await_rows()[0]
        self.arrange()
        owner_settings.arrange_look(self.served.room, keys={"single": False})
        page.go("/in/shelf")
        page.await_rows()
        page.press("\ue015")
        page.await_open(first)
        page.press("f")
        self.assertIn(first, page.subjects()[0])

    def test_long_lists_hold_few_rows(self) -> None:
        """However long the list, the page holds only the rows in sight and a few more, and scrolls to the end."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        self.assertLess(len(page.all(".row-mail")), 60)
        self.js("document.querySelector('.list').scrollTo(0, 1e9)")
        total = int(page.one(".list-count").text.split()[0])
        page.await_("the last row", lambda: page.all(f'.row-mail[aria-posinset="{total}"]'))


class EmptyTest(EmptyCase):
    in_trays = True

    def test_an_empty_mailbox_says_how_to_start(self) -> None:
        """With no mail every bucket says what will come, and the Desk how to begin."""
        page = self.page
        page.go("/")
        page.await_("the way in", lambda: "Connect a mailbox" in page.text())
        for place in ("undecided", "shelf", "digest", "drain"):
            page.go_to(place)
            page.await_("what will come", lambda: page.all(".list-note"))
        page.go("/journal")
        page.await_("an empty journal", lambda: "Nothing yet" in page.text())
        self.assertEqual(page.problems(), [])
