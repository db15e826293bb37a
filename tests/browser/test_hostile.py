"""Hostile HTML in the real reader, under the application's own policy: nothing runs, nothing leaves."""

import json
from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import BrowserCase
from tests.support import OWNER, letter

RUN = "top.ran=1;parent.ran=1;window.ran=1"
AWAY = "https://evil.example"
PAGES = {
    "scripts": f"<script>{RUN}</script><script src='{AWAY}/a.js'></script><script type=module>{RUN}</script>",
    "handlers": f"<body onload='{RUN}'><img src=x onerror='{RUN}'><details open ontoggle='{RUN}'>x</details>"
    f"<p onclick='{RUN}' onpointerenter='{RUN}'>x</p><input autofocus onfocus='{RUN}'>",
    "forms": f"<form action='{AWAY}' id=f><input name=a value=b><button formaction='{AWAY}'>go</button></form>"
    f"<input form=f type=image src='{AWAY}/i.gif'>",
    "css": f"<style>@import '{AWAY}/c.css';@font-face{{font-family:q;src:url({AWAY}/f)}}*{{font-family:q}}"
    f"body{{background:url({AWAY}/b)}}</style><p style='background:url({AWAY}/s)'>a</p>"
    f"<p style='list-style-image:url({AWAY}/l);cursor:url({AWAY}/k),auto'>b</p>"
    f"<p style='background:image-set(\"{AWAY}/m\" 1x)'>c</p><link rel=stylesheet href='{AWAY}/d.css'>"
    f"<link rel=prefetch href='{AWAY}/p'><link rel=dns-prefetch href='{AWAY}'>",
    "cover": "<div style='position:fixed;inset:0;z-index:9999;background:red'>all yours</div>"
    "<div style='position:absolute;top:-900px;left:-900px;width:9000px;height:9000px'>x</div>",
    "svg": f"<svg onload='{RUN}'><script>{RUN}</script><image href='{AWAY}/i.svg'/><use href='{AWAY}/u.svg#x'/>"
    f"<foreignObject><img src=x onerror='{RUN}'></foreignObject><a href='javascript:{RUN}'>x</a></svg>",
    "links": f"<a id=l href='javascript:{RUN}'>a</a><a href='data:text/html,<script>{RUN}</script>'>b</a>"
    f"<a href='java&#x0A;script:{RUN}'>c</a><a href='vbscript:x'>d</a><a href='{AWAY}' ping='{AWAY}/ping'>e</a>",
    "refresh": f"<meta http-equiv=refresh content='0;url={AWAY}'><base href='{AWAY}/'><base target=_top>",
    "frames": f"<iframe src='{AWAY}' srcdoc='<script>{RUN}</script>'></iframe><object data='{AWAY}/o'></object>"
    f"<embed src='{AWAY}/e'><frameset><frame src='{AWAY}/f'></frameset><portal src='{AWAY}'></portal>",
    "media": f"<video src='{AWAY}/v' poster='{AWAY}/p' autoplay></video><audio src='{AWAY}/a' autoplay></audio>"
    f"<picture><source srcset='{AWAY}/s'><img srcset='{AWAY}/t 2x' src='{AWAY}/u'></picture>",
    "muddle": f"<math><mtext><table><mglyph><style><!--</style><img title='--&gt;&lt;img src=x onerror={RUN}&gt;'>"
    f"<noscript><p title='</noscript><img src=x onerror={RUN}>'></noscript>"
    f"<template><script>{RUN}</script></template><textarea><script>{RUN}</script></textarea>",
    "a huge table": "<table>" + "<tr>" + "<td>x</td>" * 50 + "</tr>" * 1 + ("<tr><td>row</td></tr>" * 20_000),
    "five megabytes of nesting": "<div><span>" * 450_000 + "deep",
}


def page_of(name: str, html: str) -> bytes:
    raw = letter(f"hostile {name}", body="x").replace(b"text/plain", b"text/html")
    return raw + f"<p id=reached>{name}</p>{html}".encode()


class HostileTest(BrowserCase):
    listens = True
    numbers: dict[str, int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        cls.numbers = {name: receive(room, page_of(name, html)) or 0 for name, html in PAGES.items()}
        return Service.of(room, open_to_all=True)

    def requested(self) -> list[str]:
        return [
            json.loads(entry["message"])["message"]["params"]["request"]["url"]
            for entry in self.page.browser.get_log("performance")
            if '"Network.requestWillBeSent"' in entry["message"]
        ]

    def inside(self) -> str:
        """What the frame shows."""
        script = "return document.querySelector('.reading-frame')?.contentDocument?.body?.innerText"
        return str(self.js(script) or "").strip()

    def test_nothing_runs_and_nothing_leaves(self) -> None:
        """Each page is shown in its frame, its links pressed and its pictures asked for; no script runs, no request
        goes elsewhere, and the page around it stands as it was."""
        page = self.page
        page.go("/in/desk")
        page.await_("the page", lambda: page.all(".band"))
        self.requested()
        for name, number in self.numbers.items():
            with self.subTest(name):
                page.go(f"/in/desk/{number}")
                page.await_(
                    f"{name} shown",
                    lambda name=name: name in self.inside(),  # type: ignore[misc]
                )
                page.press("i")
                self.js(
                    "for (const one of document.querySelector('.reading-frame').contentDocument.querySelectorAll("
                    '\'a[href^="j" i], a[href^="d" i], button, p, summary\')) one.click()'
                )
                self.assertIsNone(self.js("return window.ran"))
                self.assertEqual(self.js("return document.querySelectorAll('.spine, .band, .verdict').length"), 3)
                frame = page.one(".reading-frame")
                self.assertEqual(
                    frame.get_attribute("sandbox"), "allow-same-origin allow-popups allow-popups-to-escape-sandbox"
                )
        elsewhere = [url for url in self.requested() if not url.startswith((page.address, "data:"))]
        self.assertEqual(elsewhere, [])
        self.assertEqual(len(page.browser.window_handles), 1)

    def test_the_frame_cannot_cover_the_page(self) -> None:
        """What a message paints stays inside its frame."""
        page = self.page
        page.go(f"/in/desk/{self.numbers['cover']}")
        page.await_("the frame", lambda: page.all(".reading-frame"))
        box = self.js(
            "const f = document.querySelector('.reading-frame').getBoundingClientRect(),"
            "s = document.querySelector('.mail-side').getBoundingClientRect(); return [f.left, f.right, s.left, s.right]"
        )
        self.assertGreaterEqual(box[0], box[2])
        self.assertLessEqual(box[1], box[3])
        self.assertEqual(self.js("return document.elementFromPoint(40, 40).closest('.spine') !== null"), True)
