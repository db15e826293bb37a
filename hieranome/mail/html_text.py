"""Text out of HTML mail, for scoring, searching and snippets."""

from __future__ import annotations

import re

from selectolax.lexbor import LexborHTMLParser

from hieranome.mail.shallow import shallow

MAX_HTML = 2_000_000
"""Characters of one HTML part that are read as text."""

_HIDDEN = re.compile(
    r"display\s*:\s*none|visibility\s*:\s*hidden|font-size\s*:\s*0(?:px|pt|em|%)?\s*(?:;|$)"
    r"|opacity\s*:\s*0(?:\.0+)?\s*(?:;|$)|max-height\s*:\s*0(?:px)?\s*(?:;|$)",
    re.IGNORECASE,
)
_BLANKS = re.compile(r"[^\S\n]+")
_LINES = re.compile(r"(?: ?\n){2,} ?")
"""An empty line or several, once blanks are one each."""
_BREAK = "br, p, div, tr, li, h1, h2, h3, h4, h5, h6, blockquote, table, hr, pre"
_TELLING = ("img", "form", "input", "font", "table", "style", "script", "center", "iframe", "h1", "ul", "blockquote")
_SILENT = "script, style, head, title, noscript, template, object, iframe, svg, math"


class HtmlText:
    """What an HTML part says: its visible text, text without quotations, link targets, hidden words."""

    __slots__ = ("hidden_words", "links", "own", "tags", "text")

    def __init__(self, html: str) -> None:
        tree = LexborHTMLParser(shallow(html[:MAX_HTML])[0])
        self.hidden_words = 0
        self.tags = tuple(tag for tag in _TELLING if tree.css_first(tag) is not None)
        self.links = [
            href
            for node in tree.css("a[href], area[href]")[:200]
            if (href := (node.attributes.get("href") or "").strip())
        ]
        _remove(tree, _SILENT)
        self._drop_hidden(tree)
        for node in tree.css(_BREAK):
            node.insert_before("\n")
        self.text = self._tidy(tree)
        self.own = (self._tidy(tree) if _remove(tree, "blockquote") else self.text) or self.text

    def _drop_hidden(self, tree: LexborHTMLParser) -> None:
        gone: set[int] = set()
        for node in tree.css("[style], [hidden]"):
            if node.mem_id in gone:
                continue
            style = node.attributes.get("style") or ""
            if "hidden" in node.attributes or _HIDDEN.search(style):
                self.hidden_words += len(node.text(deep=True, separator=" ").split())
                gone.update(inner.mem_id for inner in node.css("[style], [hidden]"))
                node.decompose()

    @staticmethod
    def _tidy(tree: LexborHTMLParser) -> str:
        root = tree.body or tree.root
        text = root.text(deep=True, separator="") if root is not None else ""
        text = _BLANKS.sub(" ", text.replace("\x00", "").replace("\u200b", "").replace("\u00ad", ""))
        return _LINES.sub("\n\n", text).strip()


def _remove(tree: LexborHTMLParser, selector: str) -> int:
    """Take out what a selector finds; how many. What lies within something taken out is gone with it, and must not be
    touched again."""
    found = tree.css(selector)
    gone: set[int] = set()
    for node in found:
        if node.mem_id not in gone:
            gone.update(inner.mem_id for inner in node.css(selector))
            node.decompose()
    return len(found)
