"""Rules as a Sieve script (RFC 5228), as far as Sieve can say them.

Marks come first, each in a block of its own; where mail goes is one chain of conditions, since the first rule that says
so decides. Used: fileinto, copy (RFC 3894), imap4flags (RFC 5232), mailbox (RFC 5490), date and relational (RFC 5260,
RFC 5231). What a rule says beyond that leaves the whole rule out, and is named. sievelib reads what is written and
writes it out.
"""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, tzinfo
from typing import assert_never

from sievelib.parser import Parser

from hieranome.core.conditions import NUMBERS, All, Any, Due, Held, Holds, Is, Node, Not, Stands, Tagged, Test, Words
from hieranome.core.errors import InternalError
from hieranome.core.rules import BY_VERB, Action, Read, Rule
from hieranome.core.times import speaks_of_now

MARKS = {"flag": "\\Flagged", "read": "\\Seen"}
"""The system flags that marks are."""


@dataclass(frozen=True, slots=True)
class OnServer:
    """What things are called on a server: the folder of each place, the keyword of each tag (by its id as rules name
    it), and the owner's time zone."""

    folders: Mapping[str, str]
    keywords: Mapping[str, str]
    zone: tzinfo


@dataclass(frozen=True, slots=True)
class Left:
    """A rule that stays here, and what of it Sieve cannot say."""

    rule: Rule
    why: str


class CannotSay(Exception):
    """Something Sieve has no words for."""


def script_of(rules: Sequence[Read], names: OnServer, before: str = "") -> tuple[str, list[Left]]:
    """The script of rules in their order, and those that stay here; ``before`` is said first. Empty where no rule can
    be said."""
    said: list[tuple[Read, str]] = []
    left: list[Left] = []
    for one in rules:
        try:
            _check_actions(one.rule, names)
            said.append((one, _whole(one, names)))
        except CannotSay as exc:
            left.append(Left(one.rule, str(exc)))
    text = "\n".join(filter(None, (before, _marks(said, names), _chain(said, names))))
    return compiled(text) if text else "", left


def _whole(one: Read, names: OnServer) -> str:
    if one.rule.when != "arrives":
        raise CannotSay("it waits until mail is old")
    for line in (one.rule.line, one.rule.excepted):
        if speaks_of_now(line):
            raise CannotSay("it counts days from today; name a date instead")
    test = test_of(one.node, names)
    return f"allof ({test}, not {test_of(one.excepted, names)})" if one.excepted is not None else test


def _marks(said: Sequence[tuple[Read, str]], names: OnServer) -> str:
    """A block for what each rule does besides where mail goes; none for mail an earlier rule stopped at."""
    blocks: list[str] = []
    stops: list[str] = []
    for one, test in said:
        done = [text for action in one.rule.actions if (text := _mark(action, names))]
        guard = f"allof ({test}, not anyof ({', '.join(stops)}))" if stops else test
        if done:
            blocks.append(f"if {guard} {{ {' '.join(done)} }}")
        if one.rule.stops:
            stops.append(test)
    return "\n".join(blocks)


def _chain(said: Sequence[tuple[Read, str]], names: OnServer) -> str:
    blocks: list[str] = []
    for one, test in said:
        if one.rule.place or one.rule.stops:
            word = "elsif" if blocks else "if"
            blocks.append(f"{word} {test} {{ {_placing(one.rule, names)} }}")
    return "\n".join(blocks)


def _placing(rule: Rule, names: OnServer) -> str:
    if not rule.place:
        return "stop;"
    folder = names.folders[rule.place]
    return "keep;" if folder.upper() == "INBOX" else f"fileinto :create {quoted(folder)};"


def _check_actions(rule: Rule, names: OnServer) -> None:
    for one in rule.actions:
        _mark(one, names)
    if rule.place and rule.place not in names.folders:
        raise CannotSay("the place it puts mail in is no folder there")


def _mark(action: Action, names: OnServer) -> str:
    """What an action says besides where mail goes. Raises :class:`CannotSay`."""
    match action.verb:
        case "flag" | "read":
            return f"addflag {quoted(MARKS[action.verb])};"
        case "tag" | "untag":
            if action.target not in names.keywords:
                raise CannotSay("the server takes no keyword for its tag")
            return f"{'addflag' if action.verb == 'tag' else 'removeflag'} {quoted(names.keywords[action.target])};"
        case "forward":
            return f"redirect :copy {quoted(action.target)};"
        case "bucket" | "folder" | "archive" | "trash" | "stop":
            return ""
        case _:
            raise CannotSay(BY_VERB[action.verb].stays)


def test_of(node: Node, names: OnServer) -> str:
    """The test that conditions are. Raises :class:`CannotSay`."""
    match node:
        case All():
            # A whole address or id is asked for with its words, which only serve the index.
            exact = [part for part in node.parts if isinstance(part, Is)]
            parts = [part for part in node.parts if not (exact and _is_same(part, exact[0]))]
            return _joined("allof", parts, names)
        case Any():
            return _joined("anyof", node.parts, names)
        case Not():
            return f"not {test_of(node.part, names)}"
        case Is():
            return _is(node)
        case Holds():
            return _holds(node)
        case Test():
            return _number(node, names)
        case Words() | Stands() | Tagged() | Held() | Due():
            raise CannotSay(_WHY[type(node)])
        case _:
            assert_never(node)


def _is_same(part: Node, exact: Is) -> bool:
    return isinstance(part, Words) and part.text.lower().lstrip("@") == exact.value


def _joined(by: str, parts: Sequence[Node], names: OnServer) -> str:
    tests = [test_of(part, names) for part in parts]
    if not tests:
        raise CannotSay("it is about all mail")
    return tests[0] if len(tests) == 1 else f"{by} ({', '.join(tests)})"


def _is(node: Is) -> str:
    value = node.value
    if node.field == "address":
        return f'address :is "from" {quoted(value)}'
    plain = _glob(value)
    if node.field == "domain":
        return f'address :domain :matches "from" [{quoted(plain)}, {quoted("*." + plain)}]'
    return f'header :matches "list-id" [{quoted(f"*<{plain}>*")}, {quoted(f"*<*.{plain}>*")}]'


def _holds(node: Holds) -> str:
    what = 'header :contains "subject"' if node.column == "subject" else 'address :contains "from"'
    return f"{what} {quoted(node.text)}"


def _number(node: Test, names: OnServer) -> str:
    if node.field == "size" and node.sign in (">", "<"):
        return f"size :{'over' if node.sign == '>' else 'under'} {int(node.value)}"
    if node.field == "time" and node.sign in (">=", "<"):
        day = datetime.fromtimestamp(node.value, names.zone)
        relation = "ge" if node.sign == ">=" else "lt"
        return f'date :zone "{day:%z}" :value "{relation}" "date" "date" "{day:%Y-%m-%d}"'
    raise CannotSay(NUMBERS[node.field] or f"Sieve compares {node.field} otherwise")


_WHY: dict[type, str] = {
    Words: "Sieve knows no whole words; write subject:*word* for a part of the subject, or a whole address",
    Stands: "where mail stands is known here alone",
    Tagged: "what mail is tagged is known here alone",
    Held: "which mailbox it is in is known here alone",
    Due: "due dates are kept here",
}


def quoted(text: str) -> str:
    """A string of a script (RFC 5228, section 2.4.2)."""
    if "\r" in text or "\n" in text or "\0" in text:
        raise CannotSay("it holds a line break")
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return f'"{escaped}"'


def _glob(text: str) -> str:
    """Text as ``:matches`` finds it and nothing else (RFC 5228, section 2.7.1)."""
    return text.replace("\\", "\\\\").replace("*", "\\*").replace("?", "\\?")


_NEEDS = (
    ("fileinto ", "fileinto"),
    ("flag ", "imap4flags"),
    ("redirect :copy", "copy"),
    (":create ", "mailbox"),
    ("date :zone", "date"),
    (":value ", "relational"),
    ("currentdate ", "date"),
    ("envelope ", "envelope"),
    ("vacation ", "vacation"),
)


def compiled(text: str) -> str:
    """A script with what it requires, as sievelib reads and writes it."""
    needed = list(dict.fromkeys(name for words, name in _NEEDS if words in text))
    head = f"require [{', '.join(quoted(name) for name in needed)}];\n" if needed else ""
    parser = Parser()
    if not parser.parse(head + text):
        raise InternalError(f"a script of ours is none: {parser.error}")
    written = io.StringIO()
    for command in parser.result:
        command.tosieve(target=written)
    return written.getvalue()
