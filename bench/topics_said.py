"""Six kinds of generated mail as an owner would describe them, and the mailboxes they are to be found in.

Written down before there was anything that finds them, and not changed since.
"""

from __future__ import annotations

SAID: dict[str, str] = {
    "hall asks": "questions from the halls about a date: the rider, the contract or the seating plan that does not fit",
    "player asks": "players who are ill, stuck somewhere or without their instrument and need a decision from me",
    "travel tells": "invoices, confirmations and seat numbers from the carriers, hotels and coach firms",
    "agencies pitch": "agencies who offer us young players, quartets and conductors with free dates",
    "newsletters": "bulletins and weekly letters about concert halls and the arts",
    "carrier trouble": "shipments that are held at customs, refused at the border or damaged",
}
"""What the owner would say, by the kind that is meant."""
DEVELOPED = (1, 2, 3)
"""Seeds of the mailboxes the finder may be developed on."""
KEPT_ASIDE = (8101, 8102, 8103)
"""Seeds of the mailboxes it is measured on."""
MESSAGES = 6_000
"""How many messages each mailbox has; what is found is judged on the last third, which arrives after the answers."""
