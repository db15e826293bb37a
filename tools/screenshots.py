"""Takes the pictures in docs/screenshots from the demo's data: ``make screenshots``."""

from __future__ import annotations

import shutil
import sys
import tempfile
import threading
import time
from pathlib import Path

import uvicorn

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from hieranome.demo import house  # noqa: E402
from hieranome.web.application import build  # noqa: E402
from tests.browser.driver import Keys, Page, open_browser, prefer_dark  # noqa: E402
from tests.support import fill_archive  # noqa: E402

PICTURES = ROOT / "docs" / "screenshots"


def settle(page: Page) -> None:
    """Wait until nothing moves any more."""
    page.await_("fonts", lambda: page.browser.execute_script("return document.fonts.status === 'loaded'"))
    time.sleep(0.6)


def take(page: Page, name: str) -> None:
    """Keep a picture of the page as it stands."""
    settle(page)
    page.browser.save_screenshot(str(PICTURES / f"{name}.png"))
    print(f"  {name}.png")


def walk(page: Page, number: int, archive: Path) -> None:
    """The main views, one after the other."""
    page.go("/in/desk")
    page.await_rows()
    page.go(f"/in/desk/{number}")
    page.await_open("Carnet 44-1187: timpani case held")
    take(page, "desk")
    page.go_to("shelf")
    subject = page.await_rows()[0]
    page.open(subject)
    page.press("d")
    page.await_("the effect", lambda: page.all(".effect-text"))
    take(page, "verdict")
    page.go("/journal")
    page.await_("lines", lambda: page.all(".ledger tbody tr"))
    take(page, "journal")
    words(page, number)
    often(page)
    connect(page)
    others(page, archive)


def words(page: Page, number: int) -> None:
    """A search, what is followed through, a draft."""
    page.go("/search?line=from%3Atollgate%20(carnet%20or%20invoice)%20since%3A2m&order=importance")
    page.await_rows()
    page.press("j")
    page.await_("the text", lambda: page.all(".reading-frame, .reading-text"))
    take(page, "search")
    page.go("/follow-up")
    page.await_("what is owed", lambda: page.all(".owed-line"))
    page.press("j")
    take(page, "follow-up")
    page.go(f"/in/desk/{number}")
    page.await_("the message", lambda: page.all(".reading-answer"))
    page.press("p")
    page.await_("the draft", lambda: page.all(".draft-text"))
    page.press("Dear counter 4, here is the list you miss. ")
    take(page, "draft")


def often(page: Page) -> None:
    """Cases in their states, in the dark, and the notice while the owner is away."""
    prefer_dark(page.browser, True)
    page.go("/queues")
    page.await_("the cases", lambda: page.all(".queue-row"))
    page.press("j", "j")
    take(page, "queues")
    prefer_dark(page.browser, False)
    page.go("/away")
    page.await_("the notice", lambda: page.all(".away-circle"))
    page.press("I")
    page.await_("who would have got it", lambda: page.all(".away-tried .away-list li"))
    take(page, "away")


def others(page: Page, archive: Path) -> None:
    """The pages beside the mail."""
    page.go("/subscriptions")
    page.await_("what it is", lambda: page.all(".about-recent li"))
    page.press("j", "j", "j", "j", "s", "d")
    page.await_("two decided", lambda: "goes along" in page.effect() or "go along" in page.effect())
    take(page, "subscriptions")
    page.press("u", "u")
    page.go("/old-mail")
    page.one('.weigh-ages input[type="range"]').send_keys(Keys.HOME, Keys.ARROW_RIGHT)
    page.await_("rows", lambda: len(page.all("[data-weight]")) > 5)
    page.one("[data-weight] .weight-name").click()
    page.press(" ", "j", " ")
    take(page, "old-mail")
    page.go("/rules")
    page.await_("what it would take", lambda: page.all(".rule-mail li"))
    take(page, "rules")
    page.go("/topics")
    page.await_("what it asks", lambda: page.all(".topic-ask"))
    take(page, "topics")
    page.go("/in/drain")
    page.await_rows()
    next(e for e in page.all(".drain button") if e.text == "Strictness").click()
    page.await_("the scale", lambda: page.all(".drain-setting"))
    take(page, "drain")
    page.go("/editions")
    page.await_("an edition", lambda: page.all(".edition-extract"))
    page.press("j", "j")
    take(page, "edition")
    page.go("/settings/buckets")
    page.await_("the page", lambda: page.all(".bucket-table"))
    take(page, "settings")
    page.go("/in/shelf")
    page.await_rows()
    page.press("j", "r")
    page.await_("refused", lambda: page.all(".effect-promise") or page.all('[data-act="meant"]'))
    for asked in page.all('[data-act="meant"]'):
        asked.click()
        page.await_("from now on", lambda: "From now on" in page.one(".effect-promise").text)
    page.go("/senders")
    page.await_("what was said", lambda: page.all("[data-said]"))
    take(page, "senders")
    page.go("/try")
    page.one("#archive").send_keys(f"{archive}\n")
    page.await_("the folders", lambda: page.all(".try-folders tbody tr"))
    page.one(".try-folders button[type=submit]").click()
    page.await_("figures", lambda: page.all(".figures"))
    take(page, "try")


def connect(page: Page) -> None:
    """The demo's second mailbox, from its servers to where its mail would go."""
    page.go("/connect")
    page.await_("its address", lambda: page.one("#box-address").get_attribute("value"))
    page.one("form .strong-button").click()
    page.await_("what is there", lambda: page.all("section .strong-button"))
    page.one("section .strong-button").click()
    page.await_("where mail would go", lambda: page.all(".shares li"))
    take(page, "connect")
    page.go("/mailboxes")
    page.await_("both", lambda: len(page.all(".mailboxes > li")) == 2)
    take(page, "mailboxes")


def main() -> None:
    """Serve a fresh demo and take all pictures."""
    folder = Path(tempfile.mkdtemp())
    PICTURES.mkdir(parents=True, exist_ok=True)
    served = house.open_demo(folder / "demo")
    server = uvicorn.Server(uvicorn.Config(build(served), host="127.0.0.1", port=0, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.05)
    browser, profile = open_browser()
    try:
        port = server.servers[0].sockets[0].getsockname()[1]
        row = (
            served.room.reader()
            .execute("SELECT id FROM messages WHERE subject LIKE 'Carnet 44-1187: timpani%'")
            .fetchone()
        )
        fill_archive(folder / "demo" / "mail", 900)
        walk(Page(browser, f"http://127.0.0.1:{port}"), row[0], folder / "demo" / "mail")
    finally:
        browser.quit()
        server.should_exit = True
        thread.join(10)
        served.close()
        shutil.rmtree(folder, ignore_errors=True)
        shutil.rmtree(profile, ignore_errors=True)


if __name__ == "__main__":
    main()
