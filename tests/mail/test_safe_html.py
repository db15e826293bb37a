"""Hostile HTML does nothing."""

import unittest

from hieranome.mail.safe_html import SafeHtml

HOSTILE = {
    "script": "<script>alert(1)</script>x",
    "handler": '<p onclick="alert(1)" onmouseover=alert(2)>x</p>',
    "image handler": '<img src=x onerror="alert(1)">',
    "svg": '<svg onload="alert(1)"><script>alert(1)</script></svg>',
    "math": "<math><mtext><style><img src=x onerror=alert(1)></style></mtext></math>",
    "javascript link": '<a href="javascript:alert(1)">x</a>',
    "spaced javascript link": '<a href=" java\nscript:alert(1)">x</a>',
    "data link": '<a href="data:text/html,<script>alert(1)</script>">x</a>',
    "remote image": '<img src="https://evil.example/p.gif"><img srcset="https://evil.example/q.gif 2x">',
    "protocol-relative image": '<img src="//evil.example/p.gif">',
    "background": '<td background="https://evil.example/b.gif">x</td>',
    "style url": '<p style="background-image:url(https://evil.example/s)">x</p>',
    "style escape": '<p style="background:\\75rl(https://evil.example/s)">x</p>',
    "style element": "<style>@import url(https://evil.example/c.css); *{position:fixed}</style>x",
    "cover": '<div style="position:fixed;top:0;left:0;width:100%;height:100%;z-index:99">x</div>',
    "form": '<form action="https://evil.example"><input name=a><button>go</button></form>',
    "meta refresh": '<meta http-equiv="refresh" content="0;url=https://evil.example">',
    "base": '<base href="https://evil.example/">',
    "iframe": '<iframe src="https://evil.example"></iframe><object data="https://evil.example"></object>',
    "video": '<video src="https://evil.example/v" poster="https://evil.example/p"></video>',
    "link element": '<link rel="stylesheet" href="https://evil.example/c.css">',
    "broken nesting": "<a><b></a><script>alert(1)</b>",
    "comment": "<!--[if IE]><script>alert(1)</script><![endif]-->",
}


class HostileTest(unittest.TestCase):
    def test_nothing_that_acts_or_fetches_is_left(self) -> None:
        """No script, handler, fetch, form or cover survives."""
        for name, html in HOSTILE.items():
            with self.subTest(name):
                body = SafeHtml(html).body.lower()
                for forbidden in ("<script", "alert(1)\"", "onclick", "onerror", "onload", "onmouseover", "javascript:",
                                  "evil.example", "url(", "position", "<form", "<input", "<svg", "<meta", "<base",
                                  "<iframe", "<object", "<video", "<style", "<link", "data:"):  # fmt: skip
                    self.assertNotIn(forbidden, body)

    def test_links_open_elsewhere_and_tell_nothing(self) -> None:
        """An honest link stays, without referrer or opener."""
        body = SafeHtml('<a href="https://hall.example/x">hall</a>').body
        for wanted in ('href="https://hall.example/x"', 'rel="noopener noreferrer"', 'target="_blank"'):
            self.assertIn(wanted, body)

    def test_pictures_of_the_message_itself_are_shown(self) -> None:
        """A cid picture gets its place; one that is not attached is left out."""
        safe = SafeHtml('<img src="cid:a@x"><img src="cid:other">', {"a@x": "/api/messages/1/parts/1.2"})
        self.assertIn('src="/api/messages/1/parts/1.2"', safe.body)
        self.assertNotIn("cid:", safe.body)

    def test_left_out_pictures_are_counted(self) -> None:
        """The reader is told how many remote pictures were not loaded."""
        safe = SafeHtml('<img src="https://x.example/1"><img src=" //x.example/2"><img src="cid:q">')
        self.assertEqual(safe.remote, ["https://x.example/1", "//x.example/2"])
        self.assertNotIn("src=", safe.body)

    def test_pictures_asked_for_are_named_by_our_own_address(self) -> None:
        """No remote address stands in the page even then."""
        html = '<img src="https://x.example/1"><img src="javascript:x"><img src="https://x.example/2">'
        body = SafeHtml(html, fetched=lambda at: f"/api/messages/3/pictures/{at}").body
        self.assertIn('src="/api/messages/3/pictures/0"', body)
        self.assertIn('src="/api/messages/3/pictures/1"', body)
        self.assertNotIn("x.example", body)

    def test_long_quotations_are_folded(self) -> None:
        """The outermost of nested quotations is behind a line that opens it; a short one stays open."""
        long = "<blockquote><p>" + "old words " * 60 + "</p><blockquote>older</blockquote></blockquote>"
        body = SafeHtml(f"<p>new</p>{long}<p>end</p><blockquote>short</blockquote>").body
        self.assertEqual(body.count("<details>"), 1)
        self.assertLess(body.index("new"), body.index("<details>"))
        self.assertLess(body.index("</details>"), body.index("end"))
        self.assertIn("<blockquote>short</blockquote>", body)

    def test_five_megabytes_of_nesting(self) -> None:
        """Huge nested HTML is cut to what can be shown, and says so."""
        safe = SafeHtml("<div>" * 1_000_000 + "deep" + "</div>" * 1_000)
        self.assertTrue(safe.cut)
        self.assertLess(safe.body.count("<div"), 300)

    def test_plain_formatting_survives(self) -> None:
        """Tables, lists, colours and quotations are what mail is made of."""
        body = SafeHtml(
            '<table width="90%"><tr><td style="color:red">a</td></tr></table><blockquote>b</blockquote>'
        ).body
        for wanted in ("<table", "color:red", "<blockquote>"):
            self.assertIn(wanted, body)
