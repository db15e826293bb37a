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
_LINES = re.compile(r"\s*\n\s*\n\s*")
_BREAK = "br, p, div, tr, li, h1, h2, h3, h4, h5, h6, blockquote, table, hr, pre"
_TELLING = ("img", "form", "input", "font", "table", "style", "script", "center", "iframe", "h1", "ul", "blockquote")
_SILENT = "script, style, head, title, noscript, template, object, iframe, svg, math"


class HtmlText:
    """What an HTML part says: its visible text, text without quotations, link targets, hidden words."""

    __slots__ = ("hidden_words", "links", "own", "tags", "text")

    def __init__(self, html: str) -> None:
        tree = LexborHTMLParser(shallow(html[:MAX_HTML]))
        self.hidden_words = 0
        self.tags = tuple(tag for tag in _TELLING if tree.css_first(tag) is not None)
        self.links = [
            href
            for node in tree.css("a[href], area[href]")[:200]
            if (href := (node.attributes.get("href") or "").strip())
        ]
        for node in tree.css(_SILENT):
            node.decompose()
        self._drop_hidden(tree)
        for node in tree.css(_BREAK):
            node.insert_before("\n")
        self.text = self._tidy(tree)
        quoted = tree.css("blockquote")
        for node in quoted:
            node.decompose()
        self.own = (self._tidy(tree) if quoted else self.text) or self.text

    def _drop_hidden(self, tree: LexborHTMLParser) -> None:
        for node in tree.css("[style], [hidden]"):
            style = node.attributes.get("style") or ""
            if "hidden" in node.attributes or _HIDDEN.search(style):
                self.hidden_words += len(node.text(deep=True, separator=" ").split())
                node.decompose()

    @staticmethod
    def _tidy(tree: LexborHTMLParser) -> str:
        root = tree.body or tree.root
        text = root.text(deep=True, separator="") if root is not None else ""
        text = _BLANKS.sub(" ", text.replace("\x00", "").replace("\u200b", "").replace("\u00ad", ""))
        return _LINES.sub("\n\n", text).strip()
