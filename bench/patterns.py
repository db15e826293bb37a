"""How long each regular expression of the package takes on the worst text that can be made for it.

    .venv/bin/python -m bench.patterns [PART ...]

For every pattern (those whose place holds one of the parts, or all) texts are made from its own repetitions: what it
repeats, over and over, behind what has to stand before it, and before what does not fit. Each is searched through at 10,
20 and 40 KB. Told are the patterns that take longer than a linear one does, with the seconds at each length, and the
text that did it. Each is tried in a process of its own, which is ended after a while.
"""

from __future__ import annotations

import ast
import importlib
import multiprocessing
import pkgutil
import platform
import re
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from multiprocessing.connection import Connection
from pathlib import Path
from re import _constants as op  # type: ignore[attr-defined]
from re import _parser  # type: ignore[attr-defined]
from typing import Any

import hieranome

Pattern = re.Pattern[str] | re.Pattern[bytes]
LENGTHS = (10_000, 20_000, 40_000)
SLOW = 0.02
"""Seconds of the longest text from which on a pattern is told."""
STEEP = 8
"""By how much longer a text four times as long takes from which on a pattern is told as one that grows faster than its
text."""
WORST = 4
"""Texts that are tried at each length."""
ENDED_AFTER = 20
_CALLS = frozenset({"search", "match", "fullmatch", "sub", "split", "findall", "finditer"})
_OF_A_CATEGORY: dict[Any, str] = {
    op.CATEGORY_DIGIT: "7", op.CATEGORY_NOT_DIGIT: "x", op.CATEGORY_SPACE: " ", op.CATEGORY_NOT_SPACE: "x",
    op.CATEGORY_WORD: "x", op.CATEGORY_NOT_WORD: "-",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Used:
    """A pattern of the package: where it stands, and by which calls it is asked."""

    where: str
    pattern: Pattern
    calls: frozenset[str]


def patterns() -> Iterator[Used]:
    """Every pattern of the package: those that modules hold, and those written in a call."""
    root = Path(hieranome.__file__).parent
    for info in pkgutil.walk_packages([str(root)], "hieranome."):
        module = importlib.import_module(info.name)
        held = [(name, value) for name, value in vars(module).items() if isinstance(value, re.Pattern)]
        path = Path(str(module.__file__))
        source = path.read_text(encoding="utf-8")
        for name, value in held:
            called = frozenset(re.findall(rf"\b{name}\.(\w+)", source)) & _CALLS
            yield Used(f"{info.name}.{name}", value, called or _CALLS)
        known = {value.pattern for _, value in held}
        for line, call, found in _written(source):
            if found.pattern not in known:
                yield Used(f"{info.name}:{line}", found, frozenset({call}))


def _written(source: str) -> Iterator[tuple[int, str, Pattern]]:
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in _CALLS:
            of_re = isinstance(node.func.value, ast.Name) and node.func.value.id == "re"
            said = node.args[0].value if of_re and node.args and isinstance(node.args[0], ast.Constant) else None
            if isinstance(said, str | bytes):
                yield node.lineno, node.func.attr, re.compile(said)


def sample(parsed: Any) -> str:
    """A short text that a part of a pattern matches, as far as that can be told."""
    return "".join(_sample(kind, said) for kind, said in parsed)


def _sample(kind: Any, said: Any) -> str:
    if kind is op.LITERAL:
        return chr(said)
    if kind is op.NOT_LITERAL:
        return "x" if chr(said) != "x" else "y"
    if kind is op.ANY:
        return "x"
    if kind is op.IN:
        return _of_set(said)
    if kind is op.BRANCH:
        return sample(said[1][0])
    if kind is op.SUBPATTERN:
        return sample(said[3])
    if kind is op.ATOMIC_GROUP:
        return sample(said)
    if kind in (op.MAX_REPEAT, op.MIN_REPEAT, op.POSSESSIVE_REPEAT):
        return sample(said[2]) * max(1, min(int(said[0]), 10))
    return ""


def _of_set(said: Any) -> str:
    """A character of a set."""
    negated = said[0][0] is op.NEGATE
    if negated:
        without = re.compile("[^" + "".join(_escaped(one) for one in said[1:]) + "]")
        return next((one for one in "x7 .-<>\"'@,;\n\t" if without.fullmatch(one)), "\u2603")
    kind, what = said[0]
    if kind is op.LITERAL:
        return chr(what)
    if kind is op.RANGE:
        return chr(what[0])
    return str(_OF_A_CATEGORY.get(what, "x"))


def _escaped(one: Any) -> str:
    kind, what = one
    if kind is op.LITERAL:
        return re.escape(chr(what))
    if kind is op.RANGE:
        return f"{re.escape(chr(what[0]))}-{re.escape(chr(what[1]))}"
    return str({"7": r"\d", " ": r"\s"}.get(str(_OF_A_CATEGORY.get(what)), r"\w"))


def pumps(parsed: Any, before: str = "") -> Iterator[tuple[str, str]]:
    """Every repetition of a pattern: what has to stand before it, and what it repeats."""
    for kind, said in parsed:
        if kind in (op.MAX_REPEAT, op.MIN_REPEAT, op.POSSESSIVE_REPEAT):
            if said[1] > 20:
                yield before, sample(said[2])
                for one in _choices(said[2]):
                    yield before, one
            yield from pumps(said[2], before)
        elif kind is op.SUBPATTERN:
            yield from pumps(said[3], before)
        elif kind is op.ATOMIC_GROUP:
            yield from pumps(said, before)
        elif kind is op.BRANCH:
            for one in said[1]:
                yield from pumps(one, before)
        elif kind in (op.ASSERT, op.ASSERT_NOT):
            yield from pumps(said[1], before)
        before += _sample(kind, said)


def _choices(parsed: Any) -> Iterator[str]:
    """What else a repetition repeats: each choice of a set or of branches."""
    for kind, said in parsed:
        if kind is op.IN:
            yield from (_of_set([one]) for one in said[:12] if one[0] is not op.NEGATE)
            yield from (one for one in ". \t\n\"'<-a0" if said[0][0] is op.NEGATE)
        elif kind is op.BRANCH:
            yield from map(sample, said[1])
        elif kind is op.SUBPATTERN:
            yield from _choices(said[3])
        elif kind is op.ANY:
            yield from ("x", " ", '"')


def texts(pattern: Pattern, length: int) -> Iterator[str]:
    """Texts of a length that may take long."""
    said = pattern.pattern if isinstance(pattern.pattern, str) else pattern.pattern.decode("latin-1")
    parsed = _parser.parse(said, pattern.flags & ~re.UNICODE if isinstance(pattern.pattern, bytes) else pattern.flags)
    made = {(before, pump) for before, pump in pumps(parsed) if pump}
    for before, pump in sorted(made):
        for end in ("", "\u0001", "x", "\n!"):
            yield before + pump * (length // len(pump)) + end
        if before:
            yield (before + pump) * (length // len(before + pump))
            yield before * (length // len(before)) + pump
            half = length // 2
            yield before * (half // len(before)) + pump * (half // len(pump)) + "\u0001"
    whole = sample(parsed)
    if whole:
        yield whole * (length // len(whole))


def seconds(used: Used, text: str) -> float:
    """How long a text takes in the ways the pattern is asked: searched through, whether it begins so, or is so."""
    pattern = used.pattern
    given: Any = text if isinstance(pattern.pattern, str) else text.encode("utf-8", "replace")
    began = time.process_time()
    if used.calls - {"match", "fullmatch"}:
        for _ in pattern.finditer(given):
            pass
    if "match" in used.calls:
        pattern.match(given)
    if "fullmatch" in used.calls:
        pattern.fullmatch(given)
    return time.process_time() - began


def worst(used: Used, told: Connection) -> None:
    """Tell of the worst text of the shortest length what it takes at each, and how it begins."""
    taken = []
    for number, text in enumerate(texts(used.pattern, LENGTHS[0])):
        told.send(([], text[:30]))  # so that one that does not end is known
        taken.append((seconds(used, text), number))
    for _, number in sorted(taken, reverse=True)[:WORST]:
        every = []
        for length in LENGTHS:
            text = next(islice(texts(used.pattern, length), number, None))
            every.append(seconds(used, text))
        told.send((every, text[:30]))
    told.send(None)


def tried(used: Used) -> tuple[list[float], str] | None:
    """The worst of a pattern: seconds at each length, and the text's beginning; None where it is quick. One that does
    not end is told as endless."""
    here, there = multiprocessing.Pipe()
    process = multiprocessing.get_context("fork").Process(target=worst, args=(used, there))
    process.start()
    there.close()
    found: tuple[list[float], str] | None = None
    last, until = "", time.monotonic() + ENDED_AFTER
    while True:
        if not here.poll(max(0.0, until - time.monotonic())):
            found = [float("inf")], last
            break
        said = here.recv()
        if said is None:
            break
        taken, last = said
        if taken and taken[-1] > SLOW and (found is None or taken[-1] > found[0][-1]):
            found = taken, last
    process.kill()
    process.join()
    return found


def main() -> None:
    parts = sys.argv[1:]
    every = [one for one in patterns() if not parts or any(part in one.where for part in parts)]
    print(
        f"{len(every)} patterns, {platform.machine()}, Python {platform.python_version()}; seconds at {LENGTHS} bytes"
    )
    slow, steep = 0, 0
    for one in every:
        found = tried(one)
        if found is not None:
            slow += 1
            taken, text = found
            steep += taken[-1] > STEEP * taken[0] or len(taken) < len(LENGTHS)
            print(f"{' '.join(f'{took:8.3f}' for took in taken)}  {one.where}  on {text!r}", flush=True)
    print(f"{slow} of {len(every)} take longer than {SLOW} s, {steep} grow faster than the text")


if __name__ == "__main__":
    main()
