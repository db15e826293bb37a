"""The first judgement: how likely a message is important, as log-odds.

A regression whose first lesson about a sender holds for the sender: it is taken in until a message like it, with
another text, would be judged the same way. Otherwise the words of one text, which the next will not repeat, take
most of the credit, and the owner has to say the same thing twice.
"""

from __future__ import annotations

from hieranome.core.gaussian import GaussianLogistic, Rows, Step
from hieranome.core.prior import IMPORTANCE

WANTED = 1.0
UNWANTED = -3.5
"""Log-odds, before the counts and calibration, beyond which a first lesson holds."""
ROUNDS = 4
"""How often a first lesson is taken in again at most."""
NOT_REPEATED = frozenset({"text", "links"})
"""What a sender's next message will not have in common with this one."""
SENDERS_OWN = frozenset({"address", "list_sender", "name", "sender_subject"})
"""What no other sender has: further rounds move these alone, so that others' mail stays where it is."""
SENDER = frozenset({"address"})


class Importance(GaussianLogistic):
    """The regression behind importance."""

    def __init__(self) -> None:
        super().__init__(IMPORTANCE)

    def is_first(self, rows: Rows) -> bool:
        """Whether no lesson was ever about this message's sender."""
        return not self.knows(rows.only(SENDER))

    def take_in(self, rows: Rows, important: bool) -> list[Step]:
        """Take in one lesson; returns its steps in order."""
        first = self.is_first(rows)
        steps = [self.learn(rows, important)]
        if not first:
            return steps
        own, lasting = rows.only(SENDERS_OWN), rows.only(NOT_REPEATED, without=True)
        for _ in range(ROUNDS):
            held = self.sum(lasting)
            if held > WANTED if important else held < UNWANTED:
                break
            steps.append(self.learn(own, important, beside=held - self.sum(own)))
        return steps
