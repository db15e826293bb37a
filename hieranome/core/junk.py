"""What ships about junk: how mail nobody wants is made and written, whoever sends it.

A table of weights (:mod:`hieranome.core.junk_table`) gives the log-odds that a message is junk where junk is as likely
as other mail. It speaks against importance alone and never for it; for the Drain it speaks both ways. Lessons learn
beside it, as beside all that ships.
"""

from __future__ import annotations

import math

import numpy as np

from hieranome.core.facts import MessageFacts
from hieranome.core.features import SLOTS, slot_of
from hieranome.core.gaussian import Floats, Rows
from hieranome.core.groups import GROUPS, Context, Seen
from hieranome.core.junk_table import BASE, WEIGHTS

HEEDED_GROUPS = ("how", "made", "damage", "cues", "headers", "markup", "header_order")
"""Groups of features that say how a message is made and written, not who sent it or what about."""
CUES = frozenset({"offer"})
"""Of what a message asks, this alone is looked at: a question or a request is no sign of junk."""
PASSED_OVER = ("host ", "hour ", "size ", "attached ")
"""How features begin that it does not look at."""
AGAINST = 5.0
"""By so much, in log-odds, junk is held less important at most."""
DRAINED = (-3.0, 5.0)
"""What is added to the log-odds of the Drain lies between these."""
_HEEDED = np.array([group.name in HEEDED_GROUPS for group in GROUPS])
_WEIGHTS = np.zeros(SLOTS)
for _group, _texts in WEIGHTS.items():
    for _text, _weight in _texts.items():
        _WEIGHTS[slot_of(_group, _text)] += _weight


def heeds(group: str, text: str) -> bool:
    """Whether the table may look at a feature: no host stands in it, no question, and nothing by which one collection
    of mail differs from another (when it came, how large it is, what is attached)."""
    return group in HEEDED_GROUPS and not text.startswith(PASSED_OVER) and (group != "cues" or text in CUES)


def log_odds(rows: Rows) -> Floats:
    """The log-odds that each of some messages is junk, where junk is as likely as other mail."""
    weighed = np.where(_HEEDED[rows.groups], _WEIGHTS[rows.slots] * rows.values, 0.0)
    return np.asarray(BASE + np.add.reduceat(weighed, rows.starts))


def against(odds: Floats) -> Floats:
    """What is added to the log-odds of importance: never more than nothing."""
    return np.asarray(-np.clip(odds, 0.0, AGAINST))


def for_drain(odds: Floats, lessons: Floats) -> Floats:
    """What is added to the log-odds of the Drain among the low buckets. That mail does not look like junk speaks less
    against the Drain the more ``lessons`` there are about its source: the owner knows better what they do not want."""
    shipped = np.clip(odds, *DRAINED)
    return np.where(shipped < 0.0, shipped / (1.0 + lessons), shipped)


def looked_at(facts: MessageFacts, context: Context) -> dict[tuple[str, str], float]:
    """What the table may look at of a message, by group and text, each with its value in the message's vector."""
    seen, found = Seen(facts, context), {}
    for group in GROUPS:
        texts = set(group.extract(seen)) if group.name in HEEDED_GROUPS else set[str]()
        value = group.mass / math.sqrt(max(1, len(texts)))
        found.update({(group.name, text): value for text in texts if heeds(group.name, text)})
    return found


def strongest(facts: MessageFacts, context: Context, most: int) -> list[tuple[str, str]]:
    """Of one message, the features (group and text) that speak most for junk, the strongest first."""
    weighed = [(WEIGHTS[key[0]].get(key[1], 0.0) * value, key) for key, value in looked_at(facts, context).items()]
    return [key for weight, key in sorted(weighed, reverse=True)[:most] if weight > 0.0]
