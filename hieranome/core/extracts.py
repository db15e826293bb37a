"""The few sentences of a message that carry it, each by where it stands in the text.

Every sentence is scored from the text alone (Luhn 1958; Edmundson 1969; Kupiec, Pedersen and Chen 1995): by what it
tells that can be checked (numbers, times, names), by the words it has in common with the subject and with the rest of
the text, by its length; what the same sender says in every message says nothing.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterator
from dataclasses import dataclass

import numpy as np

from hieranome.core.gaussian import Floats
from hieranome.core.stopwords import WORDS as STOPWORDS
from hieranome.core.text import words

MAX_TEXT = 20_000
"""Characters of a text that are looked at."""
MAX_SENTENCES = 80
ABBREVIATION = 12
"""Characters before a full stop among which an abbreviation is looked for."""
SHORTEST, LONGEST = 4, 70
"""Words of a sentence that can carry anything and is one: more are a table or a list without marks."""

SUBJECT_WEIGHT = 0.5
CENTRAL_WEIGHT = 0.5
"""What words in common with the subject, and with the other sentences, weigh beside facts and length, which weigh 1."""
FACTS_ENOUGH = 3
"""Facts beyond which more of them say no more."""
LENGTH_ENOUGH = 22
"""Words beyond which a longer sentence says no more."""

_PARAGRAPH_END = re.compile(r"\n[ \t\r]*\n")
_MARKS = re.compile(r"[.!?…]+[\"”’»)]*|(?P<alone>[。！？]+)")
"""Marks that may end a sentence, with what closes a quotation behind them; each is part of one match and no more. Those
of scripts without blanks end it alone, the others where a blank follows."""
_ABBREVIATED = re.compile(
    r"(?:\b(?:no|nr|mr|mrs|ms|dr|prof|st|vs|etc|e\.g|i\.e|approx|ca|z\.b|d\.h)|\b[A-Z])\.$", re.IGNORECASE
)
_FACT = re.compile(
    r"\d+(?:[.,:]\d+)*|\b(?:mon|tues|wednes|thurs|fri|satur|sun)day\b|"
    r"\b(?:january|february|march|april|june|july|august|september|october|november|december)\b|"
    r"\b(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|twenty|thirty|forty|fifty|sixty|ninety|hundred|"
    r"thousand|million|half|third|noon|midnight|midday|today|tomorrow|week|month|year)\b|[$€£%]",
    re.IGNORECASE,
)
_WORD = re.compile(r"[^\W\d_]{2,}|[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af\u0e00-\u0e7f]")
_WHITE = re.compile(r"\s+")


@dataclass(frozen=True, slots=True)
class Sentence:
    """A sentence of a text: its words as they are read, and where it stands (characters from ``start`` to ``end``)."""

    text: str
    start: int
    end: int


def sentences(text: str) -> list[Sentence]:
    """The sentences of a text in order; an empty line ends one, a line break alone does not."""
    found: list[Sentence] = []
    for start, end in _spans(text[:MAX_TEXT]):
        said = _WHITE.sub(" ", text[start:end]).strip()
        if said:
            start += len(text[start:end]) - len(text[start:end].lstrip())
            found.append(Sentence(said, start, end))
            if len(found) == MAX_SENTENCES:
                break
    return found


def _spans(text: str) -> Iterator[tuple[int, int]]:
    """Where sentences begin and end: at the end of a paragraph, or behind a mark that ends no abbreviation."""
    begun = 0
    ends = [match.start() for match in _PARAGRAPH_END.finditer(text)]
    for end in [*ends, len(text)]:
        for match in _MARKS.finditer(text, begun, end):
            ends_it = match["alone"] or text[match.end() : min(match.end() + 1, end)].isspace()
            if ends_it and not _ABBREVIATED.search(text, max(begun, match.end() - ABBREVIATION), match.end()):
                yield begun, match.end()
                begun = match.end()
        yield begun, end
        begun = end


def extract(text: str, subject: str, count: int = 3, usual: Collection[str] = ()) -> list[Sentence]:
    """At most ``count`` sentences that carry a text, in its order. ``usual`` are sentences the same sender writes in
    other messages as well (:func:`usual_key`); where nothing else is left, the first of the text."""
    every = sentences(text)
    worded = [one for one in every if SHORTEST <= len(_WORD.findall(one.text)) <= LONGEST]
    fresh = [one for one in worded if usual_key(one.text) not in usual] or worded[:count]
    if not fresh:
        return every[:1]
    scores = _scores(fresh, subject)
    best = sorted(range(len(fresh)), key=lambda at: (-scores[at], at))[:count]
    return [fresh[at] for at in sorted(best)]


def usual_key(sentence: str) -> str:
    """What sentences that differ in their numbers alone have in common."""
    return re.sub(r"\d+", "0", sentence.lower())


def _scores(every: list[Sentence], subject: str) -> Floats:
    told = [[word for word in words(one.text, 200) if word not in STOPWORDS and len(word) > 1] for one in every]
    topic = {word for word in words(subject, 60) if word not in STOPWORDS and len(word) > 1}
    facts = np.array([min(len(set(_FACT.findall(one.text.lower()))), FACTS_ENOUGH) / FACTS_ENOUGH for one in every])
    about = np.array([len(topic.intersection(one)) / max(1, min(len(topic), 3)) for one in told])
    length = np.array([min(len(one.text.split()), LENGTH_ENOUGH) / LENGTH_ENOUGH for one in every])
    return np.asarray(facts + length + SUBJECT_WEIGHT * np.minimum(about, 1.0) + CENTRAL_WEIGHT * _central(told))


def _central(told: list[list[str]]) -> Floats:
    """How much each sentence has in common with the others, in [0, 1]: the mean of the cosines of their words, each
    counted once and weighed by how few sentences have it."""
    often = Counter(word for one in told for word in set(one))
    at = {word: number for number, word in enumerate(often)}
    table = np.zeros((len(told), len(at)))
    for row, one in zip(table, told, strict=True):
        for word in set(one):
            row[at[word]] = np.log(1 + len(told) / often[word])
    lengths = np.linalg.norm(table, axis=1)
    table /= np.maximum(lengths, 1e-9)[:, None]
    common = table @ table.T
    np.fill_diagonal(common, 0.0)
    mean = common.sum(axis=1)
    return np.asarray(mean / max(float(mean.max(initial=0.0)), 1e-9))
