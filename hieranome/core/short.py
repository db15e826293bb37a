"""The short of it: the few sentences of a message that carry it, with what each asks, promises or dates.

Nothing is written that its writer did not write: every line is a sentence of the text (:mod:`hieranome.core.extracts`,
as in editions). What asks, what promises and what names a time to come stands there even where it carries nothing else.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from hieranome.core.extracts import Sentence, extract, sentences
from hieranome.core.owing import asks, promises, questions
from hieranome.core.when import Said, moments_in

CARRIED = 3
"""Sentences of a message that carry it."""
CARRIED_IN_THREAD = 1
"""The same of each message of a thread."""
ASKED = 4
"""Questions of a message, at most."""
DATED = 2
"""Sentences that name a time, at most, beside those."""


@dataclass(frozen=True, slots=True)
class Line:
    """A sentence as it was written, whether it asks or promises something, and the times to come it names."""

    text: str
    asks: bool
    promises: bool
    dates: tuple[Said, ...]


def short(
    text: str, subject: str, sent: datetime, now: datetime, *, count: int = CARRIED, usual: Collection[str] = ()
) -> list[Line]:
    """The lines of a message's own words, in their order: at most ``count`` that carry it, those that ask, the first
    that promises, and up to two that name a time to come. ``sent`` is when it was written (aware), ``usual`` what its
    sender says in every message."""
    every = sentences(text)
    told = {one.start: _told(one, sent, now) for one in every}
    chosen = {one.start for one in extract(text, subject, count, usual)}
    asked = questions(text)[:ASKED]
    chosen |= {one.start for one in every if any(_same(one.text, question) for question in asked)}
    chosen |= {one.start for one in [one for one in every if told[one.start].promises][:1]}
    chosen |= {one.start for one in [one for one in every if told[one.start].dates and one.start not in chosen][:DATED]}
    return [told[one.start] for one in every if one.start in chosen]


def lines(text: str, sent: datetime, now: datetime) -> list[Line]:
    """All sentences of a text, with what each does."""
    return [_told(one, sent, now) for one in sentences(text)]


def _same(sentence: str, asked: str) -> bool:
    """Whether a sentence is the one that asks, however the two were cut out of the text."""
    return asked in sentence or sentence in asked


def _told(one: Sentence, sent: datetime, now: datetime) -> Line:
    return Line(one.text, asks(one.text), promises(one.text), tuple(moments_in(one.text, sent, now)))
