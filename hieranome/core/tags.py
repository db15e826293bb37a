"""Tags: their names, their order below one another, and the IMAP keywords they are on a server.

A keyword (RFC 9051, section 2.3.2) is an atom of ASCII; what a name has beyond that is left out of its keyword, and
which keyword stands for which tag is stored. Keywords that begin with ``$`` have meanings of their own (RFC 5788) and
never become tags.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from hieranome.core.errors import CallerError

TONES = 12
"""How many tones a tag can have, numbered from 0."""
MAX_NAME = 60
MAX_KEYWORD = 60
MAX_TAGS = 500
DUE = "hieranome-due"
"""The keyword of mail with a due date."""
_MEANT = frozenset({DUE, "junk", "nonjunk", "notjunk", "forwarded", "mdnsent", "seen", "answered", "flagged", "deleted",
                    "draft", "recent", "redirected"})  # fmt: skip
"""Keywords, in lower case, by which programs tell each other something else than a tag."""


@dataclass(frozen=True, slots=True)
class Tag:
    """A tag: ``tone`` is a number below :data:`TONES`, ``parent`` the tag it stands below (0: none), ``shown`` whether
    lists show it, ``keyword`` what it is on servers, ``total`` how many messages carry it."""

    id: int
    name: str
    tone: int
    parent: int
    shown: bool
    keyword: str
    total: int = 0


def clean_name(text: str) -> str:
    """A name for a tag out of what was typed. Raises :class:`CallerError` for what can be none."""
    name = " ".join(unicodedata.normalize("NFC", text).split())
    if not name or len(name) > MAX_NAME:
        raise CallerError(f"A tag has a name of 1 to {MAX_NAME} characters.")
    if '"' in name or any(unicodedata.category(one).startswith("C") for one in name):
        raise CallerError("A tag's name has no quotation marks and no control characters. Remove them.")
    return name


def keyword_for(name: str, taken: Collection[str]) -> str:
    """A keyword for a name: ASCII letters, digits, dash and underscore, none that means something else and none that
    is ``taken`` (in lower case)."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    stem = re.sub(r"[^A-Za-z0-9-]+", "_", plain).strip("_-")[: MAX_KEYWORD - 5] or "tag"
    keyword, number = stem, 1
    while keyword.lower() in taken or keyword.lower() in _MEANT:
        number += 1
        keyword = f"{stem}_{number}"
    return keyword


def is_keyword(word: str) -> bool:
    """Whether a word can be an IMAP keyword (RFC 9051, section 9: flag-keyword)."""
    return re.fullmatch(r"[^\x00-\x20\x7f-\U0010ffff(){%*\"\\\]]{1,200}", word) is not None


def may_be_tag(keyword: str) -> bool:
    """Whether a keyword another program set may become a tag."""
    return is_keyword(keyword) and not keyword.startswith("$") and keyword.lower() not in _MEANT


def name_from(keyword: str) -> str:
    """How a keyword of another program is called as a tag."""
    return clean_name(keyword.replace("_", " ")[:MAX_NAME].replace('"', "")) if keyword.strip("_") else keyword


def with_children(tags: Iterable[Tag]) -> dict[int, frozenset[int]]:
    """Every tag with all that stand below it, itself among them."""
    known = {tag.id: tag for tag in tags}
    found: dict[int, set[int]] = {number: set() for number in known}
    for number in known:
        for above in _upwards(known, number):
            found[above].add(number)
    return {number: frozenset(those) for number, those in found.items()}


def _upwards(known: Mapping[int, Tag], number: int) -> Iterable[int]:
    """A tag and those above it; what is no longer there ends the way."""
    passed: set[int] = set()
    while number in known and number not in passed:
        passed.add(number)
        yield number
        number = known[number].parent


def in_order(tags: Sequence[Tag]) -> list[tuple[Tag, int]]:
    """The tags by name, each followed by those below it, with how deep it stands."""
    known = {tag.id for tag in tags}
    children: dict[int, list[Tag]] = {}
    for tag in sorted(tags, key=lambda one: (one.name.casefold(), one.id)):
        children.setdefault(tag.parent if tag.parent in known else 0, []).append(tag)
    order: list[tuple[Tag, int]] = []
    waiting = [(tag, 0) for tag in reversed(children.get(0, []))]
    while waiting:
        tag, depth = waiting.pop()
        order.append((tag, depth))
        waiting += [(one, depth + 1) for one in reversed(children.get(tag.id, []))]
    return order


def check_parent(tags: Sequence[Tag], number: int, parent: int) -> None:
    """Raises :class:`CallerError` when a tag cannot stand below ``parent`` (0: none)."""
    known = {tag.id: tag for tag in tags}
    if parent and parent not in known:
        raise CallerError("The tag it is to stand below is not there any more.")
    if parent and number in _upwards(known, parent):
        raise CallerError(f"{known[parent].name} has this tag as its parent, or is it: a tag cannot be its own parent.")
