"""A real browser on the real interface: one per class, waits named by what they await."""

from __future__ import annotations

import atexit
import json
import shutil
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import uvicorn
from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver.chrome import service as chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from hieranome.app import owner_settings, trays
from hieranome.app.service import Service
from hieranome.web.application import build
from tests.patience import PATIENCE, await_

FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --hide-scrollbars --lang=en-GB"
).split()
LOGGED = ("browser", "performance")
RESET: tuple[tuple[str, dict[str, Any]], ...] = (
    ("Page.navigate", {"url": "about:blank"}),
    ("Network.enable", {}),
    ("Network.setBlockedURLs", {"urls": []}),
    ("Network.clearBrowserCookies", {}),
    ("Network.clearBrowserCache", {}),
    ("Emulation.setEmulatedMedia", {"media": "", "features": [{"name": "prefers-color-scheme", "value": "light"}]}),
)
"""What makes a used browser a new one. What pages stored is theirs alone: each class is served at a port of its own."""
T = TypeVar("T")


class Element(WebElement):
    """An element as a person meets it: they wait until nothing lies over it, and where the page draws it anew while
    they reach for it, they take the new one. That needs to know how it was found: ``selector``, empty for those of
    several."""

    selector = ""

    def _execute(self, command: str, params: dict[str, Any] | None = None) -> Any:
        end = time.monotonic() + PATIENCE
        while True:
            try:
                return super()._execute(command, params)
            except StaleElementReferenceException:
                if not self.selector or time.monotonic() > end:
                    raise
            except (ElementClickInterceptedException, ElementNotInteractableException):
                if time.monotonic() > end:
                    raise
            time.sleep(0.05)
            if self.selector:
                for found in self._parent.find_elements(By.CSS_SELECTOR, self.selector)[:1]:
                    self._id = found._id


class Browser(webdriver.Chrome):
    """Chromium, whose elements are :class:`Element`."""

    _web_element_cls = Element


def open_browser(
    *flags: str, width: int = 1280, height: int = 800, listens: bool = False
) -> tuple[webdriver.Chrome, Path]:
    """A fresh headless Chromium, with further flags, and its profile folder. One that ``listens`` keeps a log of all it
    asks of the network, which takes a fifth of its time."""
    profile = Path(tempfile.mkdtemp(prefix="hieranome-browser-"))
    options = webdriver.ChromeOptions()
    for flag in (*FLAGS, *flags, f"--user-data-dir={profile}"):
        options.add_argument(flag)
    options.binary_location = "/usr/bin/chromium"
    kinds = LOGGED if listens else LOGGED[:1]
    options.set_capability("goog:loggingPrefs", dict.fromkeys(kinds, "ALL"))
    browser = Browser(options=options, service=chrome.Service("/usr/bin/chromedriver"))
    resize(browser, width, height)
    return browser, profile


def resize(browser: webdriver.Chrome, width: int, height: int) -> None:
    """Set the size of the page itself."""
    metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)


def prefer_dark(browser: webdriver.Chrome, dark: bool) -> None:
    """Make the system's wish dark or light."""
    features = [{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}]
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": features})


class _Kept:
    """The browser of this process: opened when the first test wants it, emptied between classes, closed at the end."""

    browser: webdriver.Chrome | None = None
    listens = False

    @classmethod
    def emptied(cls, listens: bool) -> webdriver.Chrome:
        """A browser as if it had just been opened, but for the time that takes."""
        if cls.browser is not None:
            try:
                if listens == cls.listens:
                    return cls._empty(cls.browser)
            except WebDriverException:
                pass  # a test closed its last window, or it ended
            cls.browser.quit()
        cls.listens = listens
        cls.browser, profile = open_browser(listens=listens)
        atexit.register(shutil.rmtree, profile, ignore_errors=True)
        atexit.register(cls.browser.quit)
        return cls.browser

    @staticmethod
    def _empty(browser: webdriver.Chrome) -> webdriver.Chrome:
        first, *others = browser.window_handles
        for other in others:
            browser.switch_to.window(other)
            browser.close()
        browser.switch_to.window(first)
        for command, options in RESET:
            browser.execute_cdp_cmd(command, options)
        resize(browser, 1280, 800)
        for kind in LOGGED if _Kept.listens else LOGGED[:1]:
            browser.get_log(kind)
        return browser


class Page:
    """The interface in a browser, driven as a person would."""

    def __init__(self, browser: webdriver.Chrome, address: str) -> None:
        self.browser = browser
        self.address = address

    def go(self, path: str) -> None:
        self.browser.get(self.address + path)

    def await_(self, what: str, check: Callable[[], T]) -> T:
        """The first true value of ``check``; fails with ``what`` was awaited."""

        def now() -> T | None:
            try:
                return check()
            except (StaleElementReferenceException, WebDriverException):
                return None

        return cast(T, await_(what, now, said=lambda: f"the page says: {self.text()[:600]}", pause=0.05))

    def text(self) -> str:
        return self.browser.find_element(By.TAG_NAME, "body").text

    def all(self, selector: str) -> list[WebElement]:
        return self.browser.find_elements(By.CSS_SELECTOR, selector)

    def one(self, selector: str) -> WebElement:
        found = self.await_(f"an element {selector}", lambda: next(iter(self.all(selector)), None))
        assert isinstance(found, Element)
        found.selector = selector
        return found

    def press(self, *keys: str) -> None:
        """Type keys where the focus is; when that is drawn anew meanwhile, where it is then."""
        for key in keys:
            try:
                self.browser.switch_to.active_element.send_keys(key)
            except (StaleElementReferenceException, ElementNotInteractableException):
                self.browser.switch_to.active_element.send_keys(key)

    def subjects(self) -> list[str]:
        return [e.text for e in self.all(".list .row-subject")]

    def await_rows(self) -> list[str]:
        return self.await_("rows of mail", self.subjects)

    def await_row(self, subject: str) -> WebElement:
        def find() -> WebElement | None:
            return next((e for e in self.all(".row-mail, .call-row") if subject in e.text), None)

        return self.await_(f"a row “{subject}”", find)  # type: ignore[return-value]

    def await_gone(self, subject: str) -> None:
        self.await_(f"“{subject}” to be gone", lambda: subject not in " ".join(self.subjects()) or None)

    def await_open(self, subject: str) -> None:
        self.await_(f"“{subject}” open", lambda: subject in self.one(".reading h2").text)

    def open_row(self, subject: str) -> None:
        def click() -> bool:
            self.await_row(subject).find_element(By.CSS_SELECTOR, ".row-text, .call-text").click()
            return True

        self.await_(f"the row “{subject}” to be pressed", click)

    def open(self, subject: str) -> None:
        self.open_row(subject)
        self.await_open(subject)

    def go_to(self, place: str) -> None:
        self.one(f'.band-segment[data-place="{place}"]').click()
        self.await_(f"the place {place}", lambda: f"/in/{place}" in self.browser.current_url)

    def effect(self) -> str:
        return self.one(".effect-text").text

    def more_of_the_head(self) -> None:
        """Open what stands behind the line of sender, recipient and time."""
        self.one(".reading-who .quiet-button").click()
        self.one(".reading-people")

    def evidence(self) -> str:
        """All that weighs for and against the open message."""
        if not self.all(".evidence"):
            self.one('[data-act="evidence"]').click()
            self.one(".evidence")
        more = self.all(".evidence-more")
        if more and more[0].get_attribute("aria-expanded") == "false":
            more[0].click()
        return self.one(".evidence").text

    def problems(self) -> list[str]:
        """What the browser complained of: errors, refused loads, policy violations."""
        return [e["message"] for e in self.browser.get_log("browser") if e["level"] == "SEVERE"]


class BrowserCase(unittest.TestCase):
    """Serves an application of the class's making and opens a browser on it."""

    served: Service
    page: Page
    in_trays = False
    """Whether the Desk is shown in the trays that ship; else it is one list."""
    listens = False
    """Whether the browser keeps a log of all it asks of the network."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        raise NotImplementedError

    def block(self, *patterns: str) -> None:
        """Let the browser get no answer to requests like these."""
        self.page.browser.execute_cdp_cmd("Network.enable", {})
        self.page.browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": list(patterns)})

    @classmethod
    def setUpClass(cls) -> None:
        folder = Path(tempfile.mkdtemp(prefix="hieranome-served-"))
        cls.addClassCleanup(shutil.rmtree, folder, ignore_errors=True)
        cls.served = cls.make(folder / "data")
        if not cls.in_trays:
            trays.put(cls.served.room, [])
        cls.addClassCleanup(cls.served.close)
        config = uvicorn.Config(
            build(cls.served), host="127.0.0.1", port=0, log_level="error", timeout_graceful_shutdown=1
        )
        server = uvicorn.Server(config)
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        cls.addClassCleanup(thread.join, 15)
        cls.addClassCleanup(setattr, server, "should_exit", True)
        while not server.started:
            time.sleep(0.02)
        address = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
        cls.page = Page(_Kept.emptied(cls.listens), address)
        cls.addClassCleanup(cls.page.browser.get, "about:blank")

    def arrange(self, **look: Any) -> None:
        """Let the page look otherwise from its next load on; it is as before when the test ends."""
        self.addCleanup(owner_settings.arrange_look, self.served.room, appearance={}, keys={})
        self.addCleanup(self.js, "localStorage.clear()")
        self.js("localStorage.setItem('hieranome-appearance', arguments[0])", json.dumps(look))
        owner_settings.arrange_look(self.served.room, appearance=look)

    def js(self, script: str, *arguments: Any) -> Any:
        return self.page.browser.execute_script(script, *arguments)


__all__ = ["BrowserCase", "Keys", "Page", "open_browser", "prefer_dark", "resize"]
