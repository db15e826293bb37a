"""HTML without the depth that no real message has and no reader can bear."""

from __future__ import annotations

import re

MAX_DEPTH = 256
"""Tags within tags that are kept."""

_TAG = re.compile(r"<(/?)([a-zA-Z][a-zA-Z0-9]*)")
_UNCOUNTED = frozenset(
    "area base br col embed hr img input link meta source track wbr "
    "caption colgroup dd dt li option p rp rt tbody td tfoot th thead tr".split()
)
"""Tags that hold nothing, and tags that end by themselves where the next of their kind begins."""


def shallow(html: str) -> str:
    """HTML with tags nested deeper than any real message left out, so that no reader chokes on it."""
    if html.count("<") < MAX_DEPTH:
        return html
    depth = 0
    pieces = []
    at = 0
    while (match := _TAG.search(html, at)) is not None:
        end = html.find(">", match.end()) + 1
        if not end:
            break
        pieces.append(html[at : match.start()])
        closing, name = match.groups()
        if name.lower() in _UNCOUNTED:
            kept = True
        elif closing:
            kept = depth <= MAX_DEPTH
            depth = max(0, depth - 1)
        else:
            depth += 1
            kept = depth <= MAX_DEPTH
        if kept:
            pieces.append(html[match.start() : end])
        at = end
    pieces.append(html[at:])
    return "".join(pieces)
