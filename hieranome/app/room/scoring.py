"""Scores of standing mail, brought to what the model says."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

import numpy as np

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.engine import Engine
from hieranome.core.gaussian import Rows
from hieranome.core.judgement import Judgement, Weighed
from hieranome.store import scores

SCORE_STEP = 0.001


CERTAINTY_STEP = 0.01
"""Changes of importance and certainty smaller than these are not written to standing rows."""


def score_of(number: int, judgement: Judgement) -> scores.Score:
    """The stored numbers of a judgement."""
    low, high = judgement.band
    return scores.Score(number, judgement.importance, low, high, judgement.certainty, judgement.likely)


def rescore_rows(db: sqlite3.Connection, engine: Engine, numbers: Sequence[int], rows: Rows) -> Weighed:
    """Judge messages, at least one, and write the numbers that changed visibly; returns what was found."""
    found = engine.weigh(rows)
    likely, (low, high) = found.likely, found.edges
    stored = scores.scores(db, numbers)
    score, certainty = np.array([(one[0], one[1]) for one in stored]).T
    moved = (np.abs(score - found.importance) > SCORE_STEP) | (np.abs(certainty - found.certainty) > CERTAINTY_STEP)
    relabelled = np.array([was[2] != now for was, now in zip(stored, likely, strict=True)])
    changed = np.flatnonzero(moved | relabelled)
    at = changed.tolist()
    columns = (column[changed].tolist() for column in (found.importance, low, high, found.certainty))
    scores.rescore(db, map(scores.Score, [numbers[i] for i in at], *columns, [likely[i] for i in at]))
    return found


def rescore_in_sight(room: Mailroom, db: sqlite3.Connection) -> None:
    """Bring the scores of what the owner sees first up to the model; the others follow behind
    (:class:`hieranome.app.room.rescoring.Rescorer`)."""
    numbers = room.having_vectors(db, scores.in_sight(db))
    if numbers:
        rescore_rows(db, room.engine, numbers, Rows.stacked(room.vectors.of(db, numbers)))
