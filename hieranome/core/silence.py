"""Silence: mail the owner looked past and left where it was put. It is weak evidence that it belongs there.

How weak depends on the owner. With C the share of mistakes this owner corrects and p how sure the model was of the
place, a message left there belongs there with probability p / (p + (1 - p)(1 - C)) (Bayes); but a model that took
that at its word would teach itself its own mistakes, so a silence weighs C p / (1 - C + C p), and counts for a small
share of a lesson.
"""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.core.features import Vector

COUNTED = 0.1
"""The share of a lesson a silence of full weight counts for in the tree of counts."""
STEPPED = 0.25
"""The weight of its likelihood in the regression, beside a lesson's."""
SURE = 0.99
"""The regression takes no step where it was that sure already."""
FIRST = 4
"""Of so many first messages of a source it is noted how many were left before one was corrected."""


@dataclass(frozen=True, slots=True)
class Silence:
    """A message looked past: its vector, the bucket it was left in, and how much that says, in [0, 1], as it was
    weighed then. ``sure`` says that the regression has nothing to learn from it; ``beside`` is what history said of
    its sender then, in log-odds."""

    id: int
    vector: Vector
    place: str
    weight: float
    sure: bool
    beside: float


@dataclass(frozen=True, slots=True)
class Noted:
    """The state before something was noted, by which it is taken back."""

    source: int
    left: int
    corrected: bool
    hits: int
    misses: int


class Attention:
    """What share of mistakes the owner corrects, estimated from how many of a source's first messages were left where
    they were put before one of them was corrected. It starts at four of five."""

    def __init__(self) -> None:
        self._hits, self._misses = 4, 1
        self._sources: dict[int, tuple[int, bool]] = {}

    @property
    def share(self) -> float:
        """The estimate, in (0, 1)."""
        return self._hits / (self._hits + self._misses)

    def was_corrected(self, source: int) -> bool:
        """Whether a message of a source was ever corrected, or answered when it was asked about."""
        return self._state(source).corrected

    def weight(self, sureness: float) -> float:
        """How much a message left in a place says that the model was ``sureness`` (0 to 1) sure of."""
        noticed = self.share * sureness
        return noticed / (1.0 - self.share + noticed)

    def note_left(self, source: int) -> Noted:
        """A message of a source was looked past."""
        before = self._state(source)
        self._sources[source] = (before.left + (not before.corrected), before.corrected)
        return before

    def note_corrected(self, source: int, *, asked: bool) -> Noted:
        """A message of a source was corrected; where the owner was ``asked``, that tells nothing of attention."""
        before = self._state(source)
        if not asked and not before.corrected and before.left < FIRST:
            self._hits += 1
            self._misses += before.left
        self._sources[source] = (before.left, True)
        return before

    def take_back(self, before: Noted) -> None:
        """Return to the state before the latest note not yet taken back."""
        self._hits, self._misses = before.hits, before.misses
        self._sources[before.source] = (before.left, before.corrected)

    def _state(self, source: int) -> Noted:
        return Noted(source, *self._sources.get(source, (0, False)), self._hits, self._misses)
