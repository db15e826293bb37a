"""The lessons an engine has taken in, in order, with the weights of importance each moved: what each contributes to a
message, and which of them have something in common with it."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hieranome.core.features import Vector
from hieranome.core.gaussian import Floats, Rows, Step, likeness
from hieranome.core.judgement import Lesson


@dataclass(slots=True)
class _Taken:
    """A lesson taken in, and which weights of importance it moved by how much."""

    lesson: Lesson
    slots: NDArray[np.int32]
    moved: Floats


class Contributions:
    """The lessons taken in, the oldest first. Questions about all of them at once are answered from one flat copy,
    which is made when the first is asked."""

    def __init__(self) -> None:
        self._taken: list[_Taken] = []
        self._flat: tuple[NDArray[np.int32], Floats, NDArray[np.intp]] | None = None

    def __len__(self) -> int:
        return len(self._taken)

    def __iter__(self) -> Iterator[Lesson]:
        return (one.lesson for one in self._taken)

    def add(self, lesson: Lesson, step: Step) -> None:
        """A lesson was taken in by a step."""
        self._taken.append(_Taken(lesson, step.slots.astype(np.int32), step.moved))
        self._flat = None

    def drop(self) -> None:
        """The latest was taken back."""
        self._taken.pop()
        self._flat = None

    def to(self, weights: Floats) -> dict[int, float]:
        """What each lesson adds where the slots of the features have these weights; those that add nothing are left
        out."""
        if not self._taken:
            return {}
        slots, moved, starts = self._flattened()
        parts = np.add.reduceat(moved * weights[slots], starts).tolist()
        return {one.lesson.id: part for one, part in zip(self._taken, parts, strict=True) if part != 0.0}

    def having(self, marks: NDArray[np.uint8]) -> dict[int, int]:
        """By the lessons with a feature whose slot is marked the marks (bits) of all their features together."""
        if not self._taken:
            return {}
        slots, _, starts = self._flattened()
        held = np.bitwise_or.reduceat(marks[slots], starts).tolist()
        return {one.lesson.id: found for one, found in zip(self._taken, held, strict=True) if found}

    def like(self, vector: Vector, least: float, newest: int) -> list[Lesson]:
        """Lessons whose messages are like one by at least ``least`` (0 to 1), of the newest."""
        recent = [one.lesson for one in self._taken[-newest:]]
        if not recent:
            return []
        alike = likeness(Rows.stacked([lesson.vector for lesson in recent]), vector)
        return [lesson for lesson, like in zip(recent, alike, strict=True) if like >= least]

    def both_ways(self, low: Collection[str], important: Collection[str], least: float) -> bool:
        """Whether of the lessons that took mail across the line of the Desk, of which there are some, at least such a
        share took it away; those of answers to questions say nothing of it."""
        onto = sum(one.stood in low and one.belongs in important for one in self)
        away = sum(one.stood in important and one.belongs in low for one in self)
        return away > 0 and away >= least * (onto + away)

    def _flattened(self) -> tuple[NDArray[np.int32], Floats, NDArray[np.intp]]:
        if self._flat is None:
            lengths = np.array([len(one.slots) for one in self._taken], dtype=np.intp)
            self._flat = (
                np.concatenate([one.slots for one in self._taken]),
                np.concatenate([one.moved for one in self._taken]),
                np.cumsum(lengths) - lengths,
            )
        return self._flat
