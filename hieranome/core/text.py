"""Words out of text: one tokeniser for every feature, neutral to the language where it can be."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby, pairwise

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


_RUN = re.compile(f"{_NO_SPACES.pattern}+")


def spaced(text: str) -> str:
    """Text as a search index can take it apart: a run of a script without spaces becomes its overlapping pairs of
    characters and its last character, so that any part of it is a phrase."""
    if text.isascii() or not _NO_SPACES.search(text):
        return text
    return _RUN.sub(lambda run: f" {_in_pairs(run.group())} ", text)


def phrase(text: str) -> tuple[str, bool]:
    """What to look for in :func:`spaced` text, and whether its last word is only the beginning of one."""
    run = next((run for run in _RUN.finditer(text) if run.end() == len(text.rstrip())), None)
    if run is None:
        return spaced(text), False
    pairs = _in_pairs(run.group()).rpartition(" ")
    return f"{spaced(text[: run.start()])} {pairs[0] or pairs[2]}".strip(), not pairs[0]


_ACCENTS = 0x000361F8_08029FDF
"""Which of the fifty combining characters from U+0300 on the index leaves out of words, a bit each."""


class _Folds(dict[int, str]):
    """What the full-text index makes of each character: a letter or digit of a word, folded; nothing, for an accent
    that stands by itself; or a blank between words."""

    def __missing__(self, code: int) -> str:
        found = self[code] = _fold(chr(code))
        return found


def _fold(one: str) -> str:
    category = unicodedata.category(one)
    if "\u0300" <= one <= "\u0331" and _ACCENTS >> ord(one) - 0x300 & 1:
        return ""
    if category[0] not in "LN" and category != "Co":
        return " "
    low = one.casefold() if len(one.casefold()) == 1 else one.lower()[0]
    base = unicodedata.normalize("NFD", low)
    return base[0] if len(base) > 1 and base[0].isascii() else low


_FOLDS = _Folds()


def folded(text: str) -> str:
    """Words as SQLite's full-text index takes text apart (``unicode61``, ``remove_diacritics 2``), joined by blanks."""
    return " ".join(text.translate(_FOLDS).split())


def _in_pairs(run: str) -> str:
    return " ".join([*(a + b for a, b in pairwise(run)), run[-1]])


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


@dataclass(frozen=True, slots=True)
class Passage:
    """A stretch of a message's text, written by its sender or quoted."""

    quoted: bool
    text: str


def passages(text: str) -> list[Passage]:
    """The text in order, quoted stretches apart from the sender's own; joined by line breaks they are the text.

    A line that introduces a quotation counts as quoted, and so does all behind an *original message* line.
    """
    marked: list[tuple[bool, str]] = []
    rest = False
    for line in text.splitlines():
        stripped = line.strip()
        head = len(line) < 200 and bool(_QUOTE_HEAD.match(stripped))
        rest = rest or (head and stripped.startswith(("-", "_")))
        quoted = rest or head or stripped[:1] == ">"
        marked.append((quoted or (not stripped and bool(marked) and marked[-1][0]), line))
    return [
        Passage(quoted, "\n".join(line for _, line in lines))
        for quoted, lines in groupby(marked, key=lambda one: one[0])
    ]
