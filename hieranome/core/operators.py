"""The operators of the search line, as data: reader, form, completions, guide and tests read this table.

``from``, ``to``, ``cc``, ``subject``, ``body``, ``larger``, ``smaller``, ``before``, ``on`` and ``since`` are the
search keys of IMAP (RFC 9051, section 6.4.4) and mean what they mean there, but that words are whole words and dates
may be said in other ways. ``mark`` takes its flags by their names; ``file``, ``list``, ``bucket``, ``tag``,
``account``, ``due``, ``score`` and ``certainty`` are ours.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from hieranome.core.conditions import Sign
from hieranome.core.files import KINDS

Takes = Literal["words", "file", "bucket", "tag", "account", "choice", "size", "date", "range", "due"]


@dataclass(frozen=True, slots=True)
class Operator:
    """One operator: ``label`` is its name in a form, ``title`` what it means; ``takes`` says what stands behind its
    colon, ``about`` the column or number it looks at, ``choices`` the words it knows with what each means, ``says``
    how it reads in a sentence."""

    name: str
    label: str
    takes: Takes
    about: str
    title: str
    example: str
    says: str
    choices: Mapping[str, tuple[str, Sign, float]] = field(default_factory=dict)


ANY_FILE = "any"
"""What ``file:`` calls any attachment."""
_FLAGS: dict[str, tuple[str, Sign, float]] = {
    "unread": ("seen", "=", 0),
    "read": ("seen", "=", 1),
    "answered": ("answered", "=", 1),
    "unanswered": ("answered", "=", 0),
    "flagged": ("flagged", "=", 1),
}

OPERATORS: tuple[Operator, ...] = (
    Operator(
        "from",
        "Sender",
        "words",
        "sender",
        "Words of the sender's name or address, a whole address, or a domain behind an @",
        "from:ilse",
        "from {}",
    ),
    Operator("to", "Recipient", "words", "recipients", "Words of a name or address in To", "to:tours", "to {}"),
    Operator("cc", "Cc", "words", "cc", "Words of a name or address in Cc", "cc:board", "with {} in Cc"),
    Operator("subject", "Subject", "words", "subject", "Words of the subject", "subject:rider", "{} in the subject"),
    Operator("body", "Text", "words", "body", "Words of the message itself", 'body:"piano tuner"', "{} in the text"),
    Operator(
        "list", "Mailing list", "words", "list", "Words of the mailing list's id", "list:union", "through the list {}"
    ),
    Operator(
        "account",
        "Mailbox",
        "account",
        "account",
        "The mailbox it stands in, by its address",
        "account:tours",
        "in the mailbox {}",
    ),
    Operator("bucket", "Bucket or folder", "bucket", "place", "Where it stands", "bucket:shelf", "in {}"),
    Operator("tag", "Tag", "tag", "tag", "A tag it carries, or one that it is the parent of", "tag:visas", "tagged {}"),
    Operator(
        "file",
        "Attachment",
        "file",
        "files",
        f"An attachment: {ANY_FILE}, a kind ({', '.join(KINDS)}), or words of its name",
        f"file:{ANY_FILE}",
        "with {}",
    ),
    Operator(
        "mark", "Marked", "choice", "flags", "How it is marked: " + ", ".join(_FLAGS), "mark:unread", "{}", _FLAGS
    ),
    Operator("larger", "Larger than", "size", "size", "Larger than this", "larger:2MB", "larger than {}"),
    Operator("smaller", "Smaller than", "size", "size", "Smaller than this", "smaller:10KB", "smaller than {}"),
    Operator("since", "Since", "date", "time", "Since the beginning of that day", "since:2w", "since {}"),
    Operator("before", "Before", "date", "time", "Before the beginning of that day", "before:2026-03-01", "before {}"),
    Operator("on", "On", "date", "time", "Within that day, month or year", "on:yesterday", "of {}"),
    Operator(
        "due",
        "Due",
        "due",
        "due",
        "Due: any, overdue, or within a day or time as it is typed for a due date",
        "due:friday",
        "due {}",
    ),
    Operator(
        "score",
        "Score",
        "range",
        "score",
        "Importance between two numbers, 0 to 100",
        "score:40..70",
        "with a score {}",
    ),
    Operator(
        "certainty", "Certainty", "range", "certainty", "Certainty, 0 to 100", "certainty:<50", "with a certainty {}"
    ),
)
BY_NAME = {one.name: one for one in OPERATORS}
