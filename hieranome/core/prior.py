"""What ships: how list, bulk and direct mail tend to matter, before the first lesson.

Weights are log-odds per unit of a feature's value; a group with several features spreads its mass,
so these are nudges. They were set by hand from what the words mean, not fitted to any mailbox.
"""

from __future__ import annotations

from hieranome.core.buckets import DIGEST, DRAIN, SHELF
from hieranome.core.features import feature

Prior = dict[int, float]


def _named(table: dict[str, dict[str, float]]) -> Prior:
    return {feature(group, text): w for group, entries in table.items() for text, w in entries.items()}


IMPORTANCE: Prior = _named(
    {
        "base": {"all": -2.5},
        "to_whom": {"to me alone": 1.2, "to me": 0.7, "copy": 0.0, "not named": -0.8},
        "relation": {
            "answered 0": -0.4,
            "answered 1": 0.6,
            "answered 3": 1.2,
            "answered 9": 1.8,
            "answered 29": 2.2,
            "answered many": 2.4,
            "written 0": -0.4,
            "written 1": 0.8,
            "written 3": 1.2,
            "written 9": 1.5,
            "written 29": 1.7,
            "written many": 1.8,
            "read 0": -1.2,
            "read 1": -0.7,
            "read 3": 0.4,
            "read 4": 0.8,
            "list read 0": -0.8,
            "list read 4": 0.6,
            "answered within an hour": 0.8,
            "answered within a day": 0.4,
            "my thread": 3.0,
        },
        "how": {
            "list": -0.8,
            "announcements": -0.8,
            "unsubscribe": -1.2,
            "precedence bulk": -1.5,
            "precedence list": -0.8,
            "precedence junk": -1.5,
            "automatic": -0.8,
            "html only": -0.8,
            "reply": 0.8,
            "invitation": 1.0,
            "priority -1": -0.5,
            "replies elsewhere": -0.4,
            "no reply wanted": -1.0,
        },
        "damage": {
            "sender missing": -0.6,
            "several senders": -1.5,
            "proven forged": -4.0,
            "looks like another": -3.0,
            "recipients missing": -0.6,
            "message-id missing": -0.3,
            "date off": -0.4,
            "hidden text": -1.5,
            "shouting subject": -0.8,
            "loud subject": -1.0,
            "padded subject": -1.5,
        },
        "cues": {"request": 0.4, "deadline": 0.5, "trouble": 0.8, "offer": -0.8, "question": 0.4},
    }
)

LOW: dict[str, Prior] = {
    SHELF: _named(
        {
            "base": {"all": 0.6},
            "how": {"reply": 0.8, "discussion list": 1.0, "automatic": 0.4, "invitation": 0.5},
            "to_whom": {"to me alone": 0.6, "to me": 0.4, "copy": 0.6},
            "damage": {"shouting subject": -0.8, "loud subject": -0.8, "padded subject": -1.0},
            "cues": {"offer": -0.5},
        }
    ),
    DIGEST: _named(
        {
            "base": {"all": -0.4},
            "how": {"announcements": 1.2, "unsubscribe": 1.0, "precedence bulk": 0.8, "reply": -0.8},
            "cues": {"offer": 0.3},
        }
    ),
    DRAIN: _named(
        {
            "base": {"all": -1.2},
            "how": {"html only": 1.0, "replies elsewhere": 0.4, "list": -1.0, "reply": -1.2},
            "damage": {
                "sender missing": 0.8,
                "several senders": 1.5,
                "proven forged": 3.0,
                "looks like another": 2.5,
                "recipients missing": 0.8,
                "message-id missing": 0.6,
                "date off": 0.8,
                "raw 8-bit headers": 0.6,
                "hidden text": 1.5,
                "shouting subject": 1.2,
                "loud subject": 1.4,
                "padded subject": 2.0,
            },
            "cues": {"offer": 0.6},
            "relation": {"answered 0": 0.2, "written 0": 0.2, "my thread": -2.0},
        }
    ),
}

OWN_BUCKET: Prior = _named({"base": {"all": -2.0}})
"""A bucket of the owner's own gets mail by lessons alone."""
