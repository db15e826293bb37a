"""HTML mail made safe to show in a frame without scripts.

Tags and attributes pass by a list (nh3); everything that would fetch from elsewhere is taken out, and
style rules lose what could fetch or cover. What remains is wrapped in a page of its own, which is
served under a policy that allows nothing but inline style and images of the message itself.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

import nh3

from hieranome.mail.shallow import shallow

MAX_SHOWN = 1_500_000
"""Characters of HTML that are cleaned and shown; a longer part is shown cut, and says so."""

POLICY = (
    "default-src 'none'; img-src 'self' data:; style-src 'unsafe-inline'; font-src 'none'; "
    "form-action 'none'; base-uri 'none'; frame-ancestors 'self'; sandbox allow-same-origin allow-popups "
    "allow-popups-to-escape-sandbox"
)
"""Content-Security-Policy of a shown message."""

_TAGS = (
    "a abbr address article aside b bdi bdo big blockquote br caption center cite code col colgroup dd del details "
    "dfn div dl dt em figcaption figure font footer h1 h2 h3 h4 h5 h6 header hr i img ins kbd li main mark nav ol p "
    "pre q rp rt ruby s samp section small span strike strong sub summary sup table tbody td tfoot th thead time tr "
    "tt u ul var wbr"
)
_STYLES = (
    "color background-color font font-family font-size font-style font-weight line-height text-align text-decoration "
    "text-transform text-indent letter-spacing white-space vertical-align direction border border-top border-right "
    "border-bottom border-left border-color border-style border-width border-collapse border-spacing border-radius "
    "padding padding-top padding-right padding-bottom padding-left margin margin-top margin-right margin-bottom "
    "margin-left width max-width min-width height max-height list-style list-style-type display float clear "
    "table-layout word-break overflow-wrap"
)
_ANYWHERE = (
    "align valign dir lang title width height bgcolor color border cellpadding cellspacing colspan rowspan nowrap style"
)
_FETCHES = re.compile(r"url\s*\(|expression|@import|javascript:|image-set|\\", re.IGNORECASE)
_CID = re.compile(r"^cid:(.+)$", re.IGNORECASE)

Sources = Mapping[str, str]
Fetched = Callable[[int], str]
"""Where the remote picture of that number can be had from this server."""


def _filter(sources: Sources, remote: list[str], fetched: Fetched | None) -> object:
    def check(tag: str, attribute: str, value: str) -> str | None:
        if attribute == "style":
            return None if _FETCHES.search(value) else value
        if tag == "img" and attribute == "src":
            inside = _CID.match(value.strip())
            if inside:
                return sources.get(inside.group(1).strip("<>"))
            if value.strip().lower().startswith(("http:", "https:", "//")):
                remote.append(value.strip())
                return fetched(len(remote) - 1) if fetched else None
            return None
        if tag == "a" and attribute == "href" and not value.strip().lower().startswith(("http:", "https:", "mailto:")):
            return None
        return value

    return check


class SafeHtml:
    """The cleaned inside of a message; ``remote`` are the addresses of its remote pictures, in order. They are left
    out, unless ``fetched`` says where each can be had."""

    __slots__ = ("body", "cut", "remote")

    def __init__(self, html: str, sources: Sources | None = None, fetched: Fetched | None = None) -> None:
        self.remote: list[str] = []
        flat, cut = shallow(html[:MAX_SHOWN])
        self.cut = cut or len(html) > MAX_SHOWN
        anywhere = set(_ANYWHERE.split())
        self.body: str = nh3.clean(
            flat,
            tags=set(_TAGS.split()),
            clean_content_tags={"script", "style", "title", "template", "noscript", "iframe", "object", "svg", "math"},
            attributes={
                "*": anywhere,
                "a": {"href", "name"},
                "img": {"src", "alt"},
                "font": {"face", "size"},
                "ol": {"start", "type"},
                "time": {"datetime"},
            },
            attribute_filter=_filter(sources or {}, self.remote, fetched),  # type: ignore[arg-type]
            filter_style_properties=set(_STYLES.split()),
            url_schemes={"http", "https", "mailto", "cid"},
            link_rel="noopener noreferrer",
            set_tag_attribute_values={"a": {"target": "_blank"}},
        )
        self.body = _fold_quotes(self.body)

    def page(self) -> str:
        """A whole document for the frame."""
        note = "<p><em>The message is longer; the rest is in its source.</em></p>" if self.cut else ""
        return (
            '<!doctype html><html><head><meta charset="utf-8"><meta name="referrer" content="no-referrer">'
            f"<style>{_STYLE}</style></head><body>{self.body}{note}</body></html>"
        )


_STYLE = (
    "html{background:#fff;color:#1d2524}body{margin:0;padding:2px;font:14px/1.5 system-ui,sans-serif;"
    "overflow-wrap:anywhere}img{max-width:100%;height:auto}table{max-width:100%}pre{white-space:pre-wrap}"
    "blockquote{margin:0 0 0 .5em;padding-left:.8em;border-left:2px solid #b9c4c0;color:#4d5856}"
    "summary{cursor:pointer;color:#1f6f61}"
)

_QUOTE = re.compile(r"<(/?)blockquote\b[^>]*>")
_FOLDED = 400
"""Characters of a quotation from which on it is folded."""


def _fold_quotes(body: str) -> str:
    """Cleaned HTML with each outermost long quotation behind a line that opens it."""
    pieces = []
    depth = at = start = 0
    for match in _QUOTE.finditer(body):
        if not match[1]:
            start = match.start() if depth == 0 else start
            depth += 1
            continue
        depth -= 1
        if depth == 0 and match.end() - start > _FOLDED:
            pieces += [
                body[at:start],
                "<details><summary>quoted text</summary>",
                body[start : match.end()],
                "</details>",
            ]
            at = match.end()
    return "".join([*pieces, body[at:]])
