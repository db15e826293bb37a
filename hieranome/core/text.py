"""Words out of text: one tokeniser for every feature, neutral to the language where it can be."""

from __future__ import annotations

import re
from collections.abc import Iterable
from itertools import pairwise

_WORD = re.compile(r"[^\W_]+(?:['’][^\W_]+)?", re.UNICODE)
_DIGITS = re.compile(r"\d+")
_NO_SPACES = re.compile(r"[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af\u0e00-\u0e7f]")
MAX_RUN = 200
"""Characters looked at of one unbroken run in a script without spaces."""


def words(text: str, limit: int) -> list[str]:
    """At most ``limit`` lower-cased words; a run of digits becomes ``0``, scripts without spaces become
    overlapping pairs of characters."""
    found = _WORD.findall(text.lower())[:limit]
    if text.isascii():
        return [word if word.isalpha() else _DIGITS.sub("0", word) for word in found]
    split: list[str] = []
    for word in found:
        if _NO_SPACES.search(word):
            split.extend(word[i : i + 2] for i in range(max(1, min(len(word), MAX_RUN) - 1)))
        else:
            split.append(word if word.isalpha() else _DIGITS.sub("0", word))
    return split[:limit]


def pairs(tokens: list[str]) -> Iterable[str]:
    """Neighbouring words joined by a blank."""
    return (f"{a} {b}" for a, b in pairwise(tokens))


_QUOTE_HEAD = re.compile(
    r"^(?:.{0,120}\b(?:wrote|writes|schrieb|a écrit|escribió|ha scritto|schreef)\b.{0,20}:\s*"
    r"|-{3,}\s*(?:original message|forwarded message|ursprüngliche nachricht|message d'origine|"
    r"mensaje original)\s*-{3,}|_{20,})$",
    re.IGNORECASE,
)


def own_words(text: str) -> tuple[str, int]:
    """Split off quoted text and the signature.

    Returns the writer's own words and the number of lines set aside. Lines that begin with
    ``>`` or ``|`` are quoted; a line ``-- `` starts the signature (RFC 3676, section 4.3); a line
    that introduces a quotation ends the own words when nothing but quotation follows it. When
    nothing would be left, the text is returned whole: a message is never judged as empty
    because of how it quotes.
    """
    kept: list[str] = []
    aside = 0
    lines = text.splitlines()
    for number, line in enumerate(lines):
        stripped = line.lstrip()
        if stripped[:1] in (">", "|"):
            aside += 1
            continue
        if line.rstrip("\r") in ("-- ", "--"):
            aside += len(lines) - number
            break
        if len(line) < 200 and _QUOTE_HEAD.match(stripped.rstrip()):
            aside += 1
            if stripped.startswith(("-", "_")):
                aside += len(lines) - number - 1
                break
            continue
        kept.append(line)
    result = "\n".join(kept).strip()
    return (result, aside) if result else (text.strip(), 0)
