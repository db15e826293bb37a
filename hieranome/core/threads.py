"""Which messages belong together.

The rule, in order:

1. the message answers, or names among its References, a message whose thread is known;
2. a message already here names this one (a late parent);
3. the subject, stripped of reply and forward marks, equals that of a message at most
   :data:`SUBJECT_DAYS` days away which shares a participant besides the owner, and the subject
   carried a reply mark (a subject alone never joins two fresh messages).

Otherwise it starts a thread of its own.
"""

from __future__ import annotations

import re

SUBJECT_DAYS = 30
"""How far apart, in days, two messages may lie to be joined by subject and participants."""

_REPLY_MARKS = re.compile(
    r"^\s*(?:(?:re|aw|antw|sv|vs|odp|fwd?|wg|tr|rv|enc|rif|i|r|ref|res|回复|答复|轉寄|转发)"
    r"(?:\s*\[\d+\]|\^\d+)?\s*[:：]\s*|\[[^\]]{1,40}\]\s*)",
    re.IGNORECASE,
)


def bare_subject(subject: str) -> str:
    """The subject without reply and forward marks, list labels and runs of blanks; case-folded."""
    rest = subject
    while True:
        shorter = _REPLY_MARKS.sub("", rest, count=1)
        if shorter == rest or not shorter:
            break
        rest = shorter
    return " ".join(rest.split()).casefold()


def is_reply_subject(subject: str) -> bool:
    """Whether the subject begins with a reply or forward mark."""
    found = _REPLY_MARKS.match(subject)
    return bool(found) and not subject.lstrip().startswith("[")
