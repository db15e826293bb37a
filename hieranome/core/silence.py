"""Silence: mail the owner looked past and left where it was put. It is weak evidence that it belongs there.

How weak depends on the owner. With C the share of mistakes this owner corrects and p how sure the model was of the
place, a message left there belongs there with probability p / (p + (1 - p)(1 - C)) (Bayes); but a model that took
that at its word would teach itself its own mistakes, so a silence weighs C p / (1 - C + C p), and counts for a small
share of a lesson.

C is told by the model's own expectation: a score is a chance, so the scores of what was looked past or corrected say
how much of it stood on the wrong side of the Desk, and the owner's corrections across that line how much was found:
owners who corrected 30, 60 and 100 of a hundred had found 44, 75 and 99 of a hundred expected (medians).

A silence speaks of its own source alone. People look past one bucket in one run, and what all mail shares (that it is
unread, in English, has a subject) would be moved by each of forty rows at once.
"""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.core.features import Vector

COUNTED = 0.1
"""The share of a lesson a silence of full weight counts for in the nodes of its sender, list and subject."""
STEPPED = 0.25
"""The weight of its likelihood in the regression's features of its sender and list, beside a lesson's."""
SURE = 0.99
"""The regression takes no step where it was that sure already."""
EXPECTED, FOUND = 5.0, 4.5
"""Mistakes expected, and those of them corrected, that are taken to have been before any."""
MOST = 0.975
"""Nobody is taken to find more than this share of what was expected."""


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
    """The state before something was noted, by which it is taken back; ``source`` is the one that had not been
    corrected before, if that is what was noted."""

    expected: float
    found: float
    source: int | None = None


class Attention:
    """What share of mistakes the owner corrects: of those across the line of the Desk that were to be expected among
    what was looked past or corrected, the share that was found."""

    def __init__(self) -> None:
        self._expected, self._found = EXPECTED, FOUND
        self._corrected: set[int] = set()

    @property
    def share(self) -> float:
        """The estimate, in (0, 1)."""
        return min(MOST, self._found / self._expected)

    def was_corrected(self, source: int) -> bool:
        """Whether a message of a source was ever corrected, or answered when it was asked about."""
        return source in self._corrected

    def weight(self, sureness: float) -> float:
        """How much a message left in a place says that the model was ``sureness`` (0 to 1) sure of."""
        noticed = self.share * sureness
        return noticed / (1.0 - self.share + noticed)

    def note_left(self, mistaken: float) -> Noted:
        """A message was looked past that stood on the wrong side of the Desk with the chance ``mistaken``."""
        before = Noted(self._expected, self._found)
        self._expected += mistaken
        return before

    def note_corrected(self, source: int, mistaken: float, *, found: bool) -> Noted:
        """A message of a source was corrected: ``found`` if across the line of the Desk. Where the owner was asked both
        are to be naught, since that tells nothing of attention."""
        before = Noted(self._expected, self._found, None if source in self._corrected else source)
        self._expected += mistaken
        self._found += found
        self._corrected.add(source)
        return before

    def take_back(self, before: Noted) -> None:
        """Return to the state before the latest note not yet taken back."""
        self._expected, self._found = before.expected, before.found
        if before.source is not None:
            self._corrected.discard(before.source)
