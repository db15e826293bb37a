"""How soon the page shows mail and answers a key, and how smoothly it scrolls, with a large mailbox.

    .venv/bin/python bench/page.py [--count 100000] [--data FOLDER]

With --data the mailbox is kept there and used again (bench/api.py makes the same). Prints milliseconds from the answer of the first list request to the first row painted, and the share of
frames later than 20 ms while scrolling through the list, with the most rows ever in the document; then milliseconds from a key to the frame that shows what it did: the next
message open in the list, after a verdict too.
"""

from __future__ import annotations

import argparse
import platform
import statistics
import sys
import tempfile
import threading
import time
from pathlib import Path

import uvicorn

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from bench.api import fill  # noqa: E402
from hieranome.app.room.mailroom import Mailroom  # noqa: E402
from hieranome.app.service import Service  # noqa: E402
from hieranome.store import places  # noqa: E402
from hieranome.web.application import build  # noqa: E402
from tests.browser.driver import Page, open_browser  # noqa: E402

FIRST_ROW = """
const done = arguments[arguments.length - 1];
const entry = performance.getEntriesByType('resource').find(e => e.name.includes('/api/messages?place=shelf'));
done([entry.responseEnd - entry.requestStart, window.__first - entry.responseEnd]);
"""
WATCH = """
new MutationObserver((_, me) => { if (document.querySelector('.row-mail .row-subject')) {
  requestAnimationFrame(() => { window.__first = performance.now(); }); me.disconnect(); }
}).observe(document, {childList: true, subtree: true});
"""
KEY = """
const [key, done] = [arguments[0], arguments[arguments.length - 1]];
const state = () => document.querySelector('.row-mail.open')?.dataset.message;
const before = state(), began = performance.now();
document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
function look() { if (state() !== before) requestAnimationFrame(() => done(performance.now() - began));
  else if (performance.now() - began > 5000) done(-1); else requestAnimationFrame(look); }
look();
"""
SCROLL = """
const done = arguments[arguments.length - 1], list = document.querySelector('.list');
const gaps = []; let last = performance.now(), most = 0, n = 0;
function step(now) { gaps.push(now - last); last = now; most = Math.max(most, document.querySelectorAll('.row-mail').length);
  list.scrollTop += 120; if (++n < 400) requestAnimationFrame(step); else done([gaps, most]); }
requestAnimationFrame(step);
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100_000)
    parser.add_argument("--data", type=Path)
    arguments = parser.parse_args()
    with tempfile.TemporaryDirectory() as place:
        data = arguments.data or Path(place, "data")
        fill(data, arguments.count)
        room = Mailroom(data)
        server = uvicorn.Server(
            uvicorn.Config(build(Service.of(room, open_to_all=True)), host="127.0.0.1", port=0, log_level="error")
        )
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.05)
        address = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
        browser, _ = open_browser()
        page = Page(browser, address)
        browser.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": WATCH})
        shown, answered = [], []
        for _ in range(7):
            page.go("/in/shelf")
            page.await_rows()
            page.await_("the first paint", lambda: browser.execute_script("return window.__first"))
            answer, paint = browser.execute_async_script(FIRST_ROW)
            answered.append(answer)
            shown.append(paint)
        gaps, most = browser.execute_async_script(SCROLL)
        browser.execute_script("document.querySelector('.list').scrollTop = 0")
        keyed = {}
        for name, key in (("j, the next message", "j"), ("f, a verdict and the next message", "f")):
            times = []
            for _ in range(25):
                times.append(browser.execute_async_script(KEY, key))
                time.sleep(0.8)
            keyed[name] = times
        total = sum(one.total for one in places.every(room.reader()))
        print(f"{platform.machine()}, {total:,} messages")
        print(
            f"  first rows {statistics.median(shown):.0f} ms after the API answered (bar: 1000), max {max(shown):.0f}"
        )
        print(f"  the API answered the first page in {statistics.median(answered):.0f} ms")
        late = sum(gap > 20 for gap in gaps[5:]) / len(gaps[5:])
        print(
            f"  frames: median {statistics.median(gaps):.1f} ms, later than 20 ms: {100 * late:.1f}%, most rows {most}"
        )
        for name, times in keyed.items():
            print(
                f"  key {name}: median {statistics.median(times):.0f} ms, p95 {sorted(times)[-2]:.0f}, max {max(times):.0f} (bar 100)"
            )
        browser.quit()
        server.should_exit = True
        thread.join(10)
        room.close()


if __name__ == "__main__":
    main()
