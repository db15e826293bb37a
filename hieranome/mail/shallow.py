"""HTML without what no real message has and no reader can bear: depth without end, tags without end, attributes by the
thousand, tags that close what is not open.

What comes out is balanced: every tag that was opened is closed, in order, so that a parser never has to guess, and
guessing is what takes quadratic time. Only text between tags and the first attributes of a tag are kept as they were.
"""

from __future__ import annotations

import re
from collections import Counter

MAX_DEPTH = 256
"""Tags within tags that are kept."""
MAX_TAGS = 30_000
"""Tags that are kept; the rest of the page is left out."""
MAX_REFERENCES = 40_000
"""Character references (``&amp;``) that are kept; the rest of the page is left out."""
MAX_BRACKETS = 200_000
"""Opening brackets, of tags or not, that are kept."""
MAX_ATTRIBUTES = 60
"""Attributes of a tag that are kept."""
MAX_VALUE = 20_000
"""Characters of an attribute's value, but for pictures that stand in it themselves."""
_FEW = 200
_SHORT = 1_500

_TAG = re.compile(r"<(?:(/?)([a-zA-Z][^\s/>]*)|(!--)|(!\[CDATA\[)|[!?/])")
_IN_TAG = re.compile(r"[^\s>=\"']*([>=\"']|\s+)")
_ATTRIBUTE = re.compile(r"""([^\s=<>"'/]+)(?:\s*=\s*("[^"]*"|'[^']*'|[^\s"'>]+))?""")

_BARE = re.compile(r"&(?!(?:#\d{1,7}|#[xX][0-9a-fA-F]{1,6}|[a-zA-Z][a-zA-Z0-9]{1,31});)")
"""Ampersands that begin no character reference: a parser that looks for one in each takes quadratic time."""

_EMPTY = frozenset("area base br col embed hr img input link meta param source track wbr".split())
"""Elements that hold nothing."""
_RAW = frozenset("script style title textarea xmp iframe noembed noframes noscript".split())
"""Elements whose inside is no markup: it goes on to their own closing tag."""
_DROPPED = frozenset("plaintext html head body frameset frame".split())
"""Tags that change how all that follows is read, or stand around everything: what they hold stays."""
_ENDS: dict[str, frozenset[str]] = {
    "p": frozenset({"p"}),
    "li": frozenset({"li"}),
    "dt": frozenset({"dt", "dd"}),
    "dd": frozenset({"dt", "dd"}),
    "option": frozenset({"option"}),
    "optgroup": frozenset({"option", "optgroup"}),
    "rp": frozenset({"rp", "rt"}),
    "rt": frozenset({"rp", "rt"}),
    "tr": frozenset({"tr", "td", "th"}),
    "td": frozenset({"td", "th"}),
    "th": frozenset({"td", "th"}),
    "tbody": frozenset({"tbody", "thead", "tfoot", "tr"}),
    "thead": frozenset({"tbody", "thead", "tfoot", "tr"}),
    "tfoot": frozenset({"tbody", "thead", "tfoot", "tr"}),
    "a": frozenset({"a"}),
    "nobr": frozenset({"nobr"}),
    "button": frozenset({"button"}),
}
"""Open elements that end where one of that name begins (HTML, section 13.1.2.4)."""
_HOLDS: dict[str, frozenset[str]] = {
    "li": frozenset({"ul", "ol", "menu"}),
    "dt": frozenset({"dl"}),
    "dd": frozenset({"dl"}),
    "rp": frozenset({"ruby"}),
    "rt": frozenset({"ruby"}),
}
_WALLS = frozenset({"table", "td", "th", "caption", "button", "object"})
"""Elements whose inside closes nothing that was opened outside."""
_OF_TABLES = frozenset("table caption tbody thead tfoot tr td th".split())
_LOOK_BACK = 24
"""Open elements that are looked at for one that ends."""


def is_plain(html: str) -> bool:
    """Whether a page has so few tags, and these are so short, that no reader can choke on it."""
    return html.count("<") < _FEW and all(len(stretch) < _SHORT for stretch in html.split("<"))


def shallow(html: str) -> tuple[str, bool]:
    """HTML that any reader takes in time linear in its length, and whether its end was left out; small pages as they
    are."""
    if html.count("&") > _FEW:
        html = _BARE.sub("&amp;", html)
    html, many_references = _at_most(html, "&", MAX_REFERENCES)
    html, many_tags = _at_most(html, "<", MAX_BRACKETS)
    cut = many_references or many_tags
    if is_plain(html):
        return html, cut
    made = _Flattening(html)
    return made.result, cut or made.cut


def _at_most(html: str, mark: str, most: int) -> tuple[str, bool]:
    """A page up to where a mark stands once too often, and whether that cut it."""
    if html.count(mark) <= most:
        return html, False
    return mark.join(html.split(mark, most)[:most]), True


class _Flattening:
    """One pass over a page."""

    def __init__(self, html: str) -> None:
        self._html = html
        self._pieces: list[str] = []
        self._open: list[str] = []
        self._walls = 0
        self._counts: Counter[tuple[int, str]] = Counter()
        """Open elements by the number of walls around them and their name."""
        self._left_out: Counter[str] = Counter()
        self.cut = False
        self._run()
        self._close_to(0)
        self.result = "".join(self._pieces)

    def _run(self) -> None:
        html, at, tags = self._html, 0, 0
        while (match := _TAG.search(html, at)) is not None:
            self._pieces.append(html[at : match.start()])
            tags += 1
            if tags > MAX_TAGS:
                self.cut = True
                return
            closing, name, comment, section = match.groups()
            if comment or section or not name:
                at = self._behind(match.end(), "-->" if comment else "]]>" if section else ">")
                continue
            name = name.lower()[:40]
            end, attributes = self._tag(match.end())
            if end < 0:
                return  # a tag that never ends holds all the rest
            at = end
            if closing:
                self._closed(name)
            elif name in _RAW:
                at = self._raw(name, end)
            elif name not in _DROPPED:
                self._opened(name, attributes)
        self._pieces.append(html[at:])

    def _behind(self, at: int, mark: str) -> int:
        found = self._html.find(mark, at)
        return found + len(mark) if found >= 0 else len(self._html)

    def _tag(self, at: int) -> tuple[int, str]:
        """The place behind a tag whose name ends at ``at``, and its attributes as they are kept; -1 where it has no
        end. Quotes hide what they hold, but only where a value begins."""
        html, start, value = self._html, at, False
        end = html.find(">", at)
        if end >= 0 and '"' not in (inside := html[at:end]) and "'" not in inside:
            return end + 1, self._kept(inside)
        while (match := _IN_TAG.match(html, at)) is not None:
            mark = match.group(1)
            at = match.end()
            if mark == ">":
                return at, self._kept(html[start : at - 1])
            if mark == "=":
                value = True
            elif mark in "\"'":
                if value and match.end() - match.start() == 1:
                    at = html.find(mark, at) + 1
                    if not at:
                        return -1, ""
                value = False
            elif match.end() - match.start() > len(mark):
                value = False  # white space behind a word: that value, if it was one, is over
        return -1, ""

    @staticmethod
    def _kept(text: str) -> str:
        if len(text) < _FEW:
            return text
        kept: list[str] = []
        for match in _ATTRIBUTE.finditer(text):
            if len(kept) == MAX_ATTRIBUTES:
                break
            name, value = match.groups()
            if value is None:
                kept.append(name[:80])
            elif len(value) <= MAX_VALUE or value[1:12].lower() == "data:image/":
                kept.append(f"{name[:80]}={value}")
        return " " + " ".join(kept)

    def _raw(self, name: str, at: int) -> int:
        """What is no markup is left out, or text; the place behind it."""
        found = re.compile(f"</{name}(?=[\\s/>])", re.IGNORECASE).search(self._html, at)
        if name in ("textarea", "xmp"):
            self._pieces.append(self._html[at : found.start() if found else None].replace("<", "&lt;"))
        else:
            self._pieces.append(f"<{name}></{name}>")
        return self._behind(found.end(), ">") if found else len(self._html)

    def _opened(self, name: str, attributes: str) -> None:
        self._end_those_before(name)
        if name in _EMPTY:
            self._pieces.append(f"<{name}{attributes}>")
        elif len(self._open) >= MAX_DEPTH:
            self._left_out[name] += 1
        else:
            self._open.append(name)
            self._counts[self._walls, name] += 1
            self._walls += name in _WALLS
            self._pieces.append(f"<{name}{attributes}>")

    def _end_those_before(self, name: str) -> None:
        ends = _ENDS.get(name)
        if ends is None:
            return
        stops = _HOLDS.get(name, frozenset({"table"}) if name in _OF_TABLES else _WALLS)
        reached = -1
        for at in range(len(self._open) - 1, max(-1, len(self._open) - 1 - _LOOK_BACK), -1):
            if self._open[at] in stops:
                break
            if self._open[at] in ends:
                reached = at
        if reached >= 0:
            self._close_to(reached)

    def _closed(self, name: str) -> None:
        if self._left_out[name]:
            self._left_out[name] -= 1
        elif name in _OF_TABLES:
            if any(self._counts[walls, name] for walls in range(self._walls + 1)):
                self._close_to(self._last(name))
        elif self._counts[self._walls, name] or (name in _WALLS and self._counts[self._walls - 1, name]):
            self._close_to(self._last(name))

    def _last(self, name: str) -> int:
        return len(self._open) - 1 - self._open[::-1].index(name)

    def _close_to(self, height: int) -> None:
        while len(self._open) > height:
            name = self._open.pop()
            self._walls -= name in _WALLS
            self._counts[self._walls, name] -= 1
            self._pieces.append(f"</{name}>")
