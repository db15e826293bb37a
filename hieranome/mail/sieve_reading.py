"""Sieve scripts (RFC 5228) read as rules: whole, or not at all.

What is read is what :mod:`hieranome.mail.sieve_writing` writes and what is commonly written by hand: tests of the
sender, the list, the subject, the size and the date, put together; and actions that file, mark, send a copy on or stop.
All else is refused with its line, since a rule that means something else would be worse than none.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, tzinfo
from typing import Any

from sievelib.commands import Command
from sievelib.parser import Parser

from hieranome.core.errors import CallerError
from hieranome.core.query import MAX_LINE
from hieranome.core.rules import DOINGS, Action, Rule
from hieranome.mail.sieve_writing import MARKS

MAX_SCRIPT = 100_000
"""Bytes of a script that is read: some 1,500 rules. Who reads it takes four times as long for twice as much."""
MAX_DEEP = 30
"""Tests within tests."""
_PLACING = frozenset(one.verb for one in DOINGS if one.places)
_FLAGS = {flag.lower(): verb for verb, flag in MARKS.items()}


@dataclass(frozen=True, slots=True)
class Known:
    """What names of a script stand for here: the action that puts mail where a folder of the server is, by the
    folder's name; the tag of each keyword (in lower case), and the owner's time zone."""

    folders: Mapping[str, Action]
    tags: Mapping[str, str]
    zone: tzinfo


class ScriptRefused(CallerError):
    """A script that cannot be read, or that says what rules cannot."""

    def __init__(self, line: int, why: str) -> None:
        super().__init__(f"Line {line} of the script: {why} Nothing was taken over.")
        self.line = line


def rules_of(script: str, known: Known) -> list[Rule]:
    """The rules a script says, in order. Raises :class:`ScriptRefused` with the line of the first thing that rules
    cannot say."""
    if len(script.encode("utf-8", "replace")) > MAX_SCRIPT:
        raise ScriptRefused(1, f"it has more than {MAX_SCRIPT:,} bytes.")
    parser = Parser()
    try:
        fine = parser.parse(script)
    except Exception as exc:  # what the library raises for a script that strangers wrote
        raise ScriptRefused(_lines(script, parser), f"it cannot be read ({exc}).") from exc
    if not fine:
        place = getattr(parser, "error_pos", None)
        why = re.sub(r"^line \d+: ", "", parser.error or "it cannot be read")
        raise ScriptRefused(place[0] if place else _lines(script, parser), f"{why}.")
    return _Reader(script, known).read(parser.result)


def _lines(script: str, parser: Parser) -> int:
    try:
        return int(parser.lexer.curlineno())
    except Exception:  # nothing was read yet
        return script.count("\n") + 1


def _lines_of_words(script: str) -> list[int]:
    """The line of every identifier, in order: of the commands and tests, as they stand in the tree."""
    lexer = Parser().lexer
    found = []
    for kind, _ in lexer.scan(script.encode()):
        if kind == "identifier":
            found.append(lexer.curlineno())
    return found


@dataclass
class _Chain:
    """What stands before a branch of an *if*: the conditions, and whether all of it only says where mail goes."""

    earlier: list[str] = field(default_factory=list)
    only_places: bool = True

    def add(self, condition: str, *, only_places: bool) -> None:
        """Another branch."""
        self.earlier.append(condition)
        self.only_places = self.only_places and only_places


class _Reader:
    """Goes through the tree of a script in the order of its text."""

    def __init__(self, script: str, known: Known) -> None:
        self._known = known
        self._lines = _lines_of_words(script)
        self._at = -1
        self._rules: list[Rule] = []
        self._filed = 0
        """The line where mail was filed without *stop*; whatever comes behind that would happen twice."""

    def read(self, commands: list[Command]) -> list[Rule]:
        """All top-level commands."""
        chain = _Chain()
        for command in commands:
            self._at += 1
            if command.name == "require":
                continue
            if command.name not in ("if", "elsif", "else"):
                raise self._refused(f"“{command.name}” stands by itself, for all mail; rules are about some.")
            if command.name == "if":
                chain = _Chain()
                if self._filed:
                    raise self._refused(f"mail filed in line {self._filed} could be filed again here. Add stop there.")
            own = self._condition(command["test"]) if command.name != "else" else ""
            chain.add(own, only_places=self._block(command, own, chain))
        return self._rules

    def _block(self, command: Command, own: str, chain: _Chain) -> bool:
        """Take a branch as a rule; whether it only says where mail goes."""
        line = self._line
        actions = [action for child in command.children for action in self._action(child)]
        if not actions:
            raise ScriptRefused(line, "nothing is done there.")
        verbs = [one.verb for one in actions]
        placing = [at for at, verb in enumerate(verbs) if verb in _PLACING]
        if len(placing) > 1:
            raise ScriptRefused(line, "mail would stand in two folders.")
        if placing and any(verb not in ("stop", "forward") for verb in verbs[placing[0] + 1 :]):
            raise ScriptRefused(line, "mail is marked after it was filed, which marks nothing.")
        if placing and "stop" not in verbs:
            self._filed = line
        only = all(verb in _PLACING or verb == "stop" for verb in verbs)
        # Of a chain that only says where mail goes the first decides anyway.
        excepted = "" if (only and chain.only_places) or not own else " or ".join(f"({one})" for one in chain.earlier)
        own = own or " ".join(f"-({one})" for one in chain.earlier)
        if max(len(own), len(excepted)) > MAX_LINE:
            raise ScriptRefused(line, f"with what stands before it, it asks more than {MAX_LINE} characters of a rule.")
        name = f"From a script, line {line}"
        self._rules.append(Rule(0, name, True, "arrives", 0, "came", False, own, excepted, tuple(actions)))
        return only

    @property
    def _line(self) -> int:
        return self._lines[min(self._at, len(self._lines) - 1)] if self._lines else 1

    def _refused(self, why: str) -> ScriptRefused:
        return ScriptRefused(self._line, why)

    def _action(self, command: Command) -> list[Action]:
        self._at += 1
        given = command.arguments
        if command.name == "stop":
            return [Action("stop")]
        if command.name == "keep":
            return [self._folder("INBOX")]
        if command.name == "fileinto":
            if "copy" in given or "flags" in given:
                raise self._refused("fileinto with :copy or :flags is nothing rules do.")
            return [self._folder(_text(given["mailbox"]))]
        if command.name == "redirect":
            if "copy" not in given:
                raise self._refused("redirect without :copy would leave nothing here.")
            return [Action("forward", _text(given["address"]))]
        if command.name in ("addflag", "removeflag"):
            return [self._mark(flag, command.name == "addflag") for flag in self._flags(command)]
        raise self._refused(f"“{command.name}” is nothing rules do.")

    def _flags(self, command: Command) -> list[str]:
        if "variable-name" in command.arguments:
            raise self._refused("flags in a variable are nothing rules know.")
        return [flag for one in _texts(command.arguments["list-of-flags"]) for flag in one.split()]

    def _mark(self, flag: str, on: bool) -> Action:
        low = flag.lower()
        if low in _FLAGS and on:
            return Action("flag" if _FLAGS[low] == "flag" else "read")
        if low.startswith("\\") or low not in self._known.tags:
            raise self._refused(f"no tag stands for the flag {flag}. Make one, or remove it.")
        return Action("tag" if on else "untag", self._known.tags[low])

    def _folder(self, name: str) -> Action:
        found = self._known.folders.get("INBOX" if name.upper() == "INBOX" else name)
        if found is None:
            raise self._refused(f"there is no folder {name}.")
        return found

    def _condition(self, test: Command, deep: int = 0) -> str:
        """A test as a search line."""
        self._at += 1
        if deep > MAX_DEEP:
            raise self._refused(f"tests stand within each other more than {MAX_DEEP} deep.")
        if test.name in ("allof", "anyof"):
            parts = [self._condition(one, deep + 1) for one in test.arguments["tests"]]
            if len(parts) == 1:
                return parts[0]
            return f"({' or '.join(parts)})" if test.name == "anyof" else " ".join(parts)
        if test.name == "not":
            inner = self._condition(test.arguments["test"], deep + 1)
            return f"-({inner})"
        reader: Callable[[dict[str, Any], dict[str, Any]], str] | None = getattr(self, f"_{test.name}", None)
        if test.name not in ("address", "header", "size", "date") or reader is None:
            raise self._refused(f"“{test.name}” is nothing rules ask.")
        return reader(test.arguments, getattr(test, "extra_arguments", {}))

    def _address(self, given: dict[str, Any], extra: dict[str, Any]) -> str:
        self._plainly(given, extra)
        if [one.lower() for one in _texts(given["header-list"])] != ["from"]:
            raise self._refused("rules ask the address in From alone; of others they ask words.")
        part, match = given.get("address-part", ":all"), given.get("match-type", ":is")
        keys = _texts(given["key-list"])
        if part == ":all" and match == ":is":
            return self._any([f"from:{self._sound(key, '@')}" for key in keys])
        if part == ":all" and match == ":contains":
            return self._any([f'from:"*{self._plain(key)}*"' for key in keys])
        if part == ":domain" and match == ":matches":
            return f"from:@{self._sound(self._with_below(keys), '.')}"
        raise self._refused(f"address {part} {match} is nothing rules ask; :domain :matches [“d”, “*.d”] is.")

    def _header(self, given: dict[str, Any], extra: dict[str, Any]) -> str:
        self._plainly(given, extra)
        names = [one.lower() for one in _texts(given["header-names"])]
        match, keys = given.get("match-type", ":is"), _texts(given["key-list"])
        if names == ["subject"] and match == ":contains":
            return self._any([f'subject:"*{self._plain(key)}*"' for key in keys])
        if names == ["list-id"] and match == ":matches":
            found = re.fullmatch(r"\*<([^<>*?\\]+)>\*", keys[0])
            if found and keys[1:] == [f"*<*.{found[1]}>*"]:
                return f"list:{self._sound(found[1], '.')}"
        if names == ["list-id"] and match in (":contains", ":is") and len(keys) == 1:
            found = re.fullmatch(r"<([^<>]+)>", keys[0])
            if found:
                return f"list:{self._sound(found[1], '.')}"
        raise self._refused(
            f"header {', '.join(names)} {match} is nothing rules ask; of the subject they ask :contains."
        )

    def _size(self, given: dict[str, Any], _extra: dict[str, Any]) -> str:
        word = "larger" if given["comparator"] == ":over" else "smaller"
        number = re.fullmatch(r"([0-9]{1,12})([KMG]?)", str(given["limit"]).upper())
        if number is None:
            raise self._refused("the size is no number of up to twelve digits.")
        return f"{word}:{int(number[1]) * 1024 ** ' KMG'.index(number[2] or ' ')}B"

    def _date(self, given: dict[str, Any], extra: dict[str, Any]) -> str:
        relation = _text(extra.get("match-type", '""'))
        asked = (_text(given["header-name"]).lower(), _text(given["date-part"]).lower(), given.get("match-type"))
        if asked != ("date", "date", ":value") or relation not in ("ge", "lt"):
            raise self._refused("of a date, rules ask whether it is on or after a day, or before it.")
        day = _texts(given["key-list"])[0]
        try:
            wanted = date.fromisoformat(day)
        except ValueError:
            raise self._refused(f"{day} is no day.") from None
        midnight = datetime(wanted.year, wanted.month, wanted.day, tzinfo=self._known.zone)
        if _text(extra.get("zone", '""')) != f"{midnight:%z}":
            raise self._refused(f"days begin by your clock here, which is {midnight:%z} then.")
        return f"{'since' if relation == 'ge' else 'before'}:{wanted.isoformat()}"

    def _plainly(self, given: dict[str, Any], extra: dict[str, Any]) -> None:
        if "comparator" in given and _text(extra.get("comparator", '""')) != "i;ascii-casemap":
            raise self._refused("rules compare letters in any case (i;ascii-casemap).")

    @staticmethod
    def _any(terms: list[str]) -> str:
        return terms[0] if len(terms) == 1 else f"({' or '.join(terms)})"

    def _plain(self, key: str) -> str:
        if not key or '"' in key or key != key.strip():
            raise self._refused(f"“{key}” is nothing a search line can hold.")
        return key

    def _sound(self, key: str, needs: str) -> str:
        if not re.fullmatch(r"[^\s\"()*<>\\]+", key) or needs not in key or not re.search(r"[^.]\.[^.@]+$", key):
            raise self._refused(f"“{key}” is no whole address, domain or id.")
        return key.lower()

    def _with_below(self, keys: list[str]) -> str:
        if len(keys) != 2 or keys[1] != f"*.{keys[0]}":
            raise self._refused("a domain is asked for with all below it: [“d”, “*.d”].")
        return keys[0]


def _texts(value: Any) -> list[str]:
    return [_text(one) for one in value] if isinstance(value, list) else [_text(value)]


def _text(value: Any) -> str:
    """A string of a script as what it says."""
    text = str(value)
    if text.startswith("text:"):
        return text.partition("\n")[2].rsplit("\n.", 1)[0]
    return re.sub(r"\\(.)", r"\1", text[1:-1], flags=re.DOTALL) if text[:1] == '"' else text
