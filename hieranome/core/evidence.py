"""The evidence: signed contributions that add up to the log-odds of a message's importance.

What ships for each group of features, what was counted of mail like it, what the lessons about its sender, its list or
a rare word of its subject add, and what all others moved together, lessons and silences. Their values sum to
:attr:`Judgement.log_odds`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from hieranome.core.buckets import inside
from hieranome.core.counts import Node
from hieranome.core.engine import Engine
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector
from hieranome.core.groups import GROUPS, Context
from hieranome.core.judgement import Bond
from hieranome.core.junk import strongest
from hieranome.core.tally import WORD_LESSONS
from hieranome.core.wording import (
    FAMILY,
    FOR,
    address_of,
    name_of_node,
    name_of_source,
    name_of_words,
    quoted,
    subject_word,
    traits,
    words_of_group,
)

MAX_LESSONS = 4
"""Lessons shown by name; the others are added up in one line."""
LEAST_REASON = 0.1
"""Log-odds a lesson or a node must add to be a reason by itself."""
LEAST_SHIFT = 0.05
"""Log-odds by which a line must have changed to be told."""

SIGNS = 3
"""Signs of junk named in a line."""

Kind = Literal["prior", "node", "lesson", "lessons", "silences", "counted"]


@dataclass(frozen=True, slots=True)
class Line:
    """One contribution: its kind, text, signed log-odds.

    ``lesson`` is the id of the lesson a line is about, else None; ``count`` how many lessons a summed
    line stands for; ``group`` names what part of the message a line of the prior or of the counts is about;
    ``search`` is the search line that finds the mail a line is about, or empty.
    """

    kind: Kind
    text: str
    value: float
    lesson: int | None = None
    count: int = 0
    group: str = ""
    search: str = ""


def explain(
    engine: Engine, vector: Vector, facts: MessageFacts, context: Context, named: int = MAX_LESSONS
) -> list[Line]:
    """The evidence of one message, strongest first. At most ``named`` lessons stand in lines of their own; what is too
    little to be a reason by itself is part of the level all other lessons set, or, where there are none, of what was
    looked past."""
    headings = {group.name: group.heading for group in GROUPS}
    lines = [
        Line("prior", words_of_group(name, facts, context) or headings[name], value, group=headings[name])
        for name, value in engine.prior_parts(vector).items()
    ]
    lessons, count, level = _lessons(engine, vector, named)
    nodes = _nodes(engine, vector, facts)
    counted, unseen = _counted(engine, vector, facts, context)
    told = [*lessons, *nodes, *_unknown(engine, vector, facts)]
    reasons = [line for line in told if abs(line.value) >= LEAST_REASON]
    level += unseen + sum(line.value for line in told) - sum(line.value for line in reasons)
    silences = engine.silent_part(vector)
    if abs(silences) < LEAST_REASON and count:
        level, silences = level + silences, 0.0
    elif not count:
        level, silences = 0.0, silences + level
    rest = [Line("lessons", "", level, count=count), Line("silences", "", silences)]
    lines += [*reasons, *counted, *(line for line in rest if line.value)]
    lines.sort(key=lambda line: -abs(line.value))
    return lines


def shifted(before: list[Line], after: list[Line]) -> list[tuple[Line, float]]:
    """Lines whose contribution changed, the most changed first, each with what it contributed before."""

    def key(line: Line) -> tuple[str, int | None, str]:
        return line.kind, line.lesson, line.group

    was = {key(line): line.value for line in before}
    now = {key(line) for line in after}
    gone = [(replace(line, value=0.0), line.value) for line in before if key(line) not in now]
    both = [(line, was.get(key(line), 0.0)) for line in after] + gone
    changed = [(line, value) for line, value in both if abs(line.value - value) >= LEAST_SHIFT]
    return sorted(changed, key=lambda one: -abs(one[0].value - one[1]))


_BOND: dict[Bond, str] = {
    "sender": "from the same sender",
    "list": "through the same list",
    "word": "with a rare word of this subject",
}


def _lessons(engine: Engine, vector: Vector, named: int) -> tuple[list[Line], int, float]:
    """The lessons that add most, each in a line; how many others there are, and what they add together. Only a lesson
    about mail that has its sender, its list or a rare word in common is a reason by itself."""
    bonds = engine.bonds(vector)
    parts = sorted(engine.lesson_parts(vector).items(), key=lambda item: (item[0] not in bonds, -abs(item[1])))
    reasons = [(number, value) for number, value in parts if number in bonds and abs(value) >= LEAST_REASON][:named]
    lines = [Line("lesson", _BOND[bonds[number]], value, lesson=number, count=1) for number, value in reasons]
    rest = sum(value for _, value in parts) - sum(value for _, value in reasons)
    return lines, len(engine) - len(reasons), rest


def _nodes(engine: Engine, vector: Vector, facts: MessageFacts) -> list[Line]:
    """What was counted of its sender, its list, its subject and so on; nodes that counted the same are one line."""
    alike: dict[tuple[str, str, tuple[tuple[str, int], ...]], list[Node]] = {}
    for node in engine.nodes(vector):
        alike.setdefault((FAMILY[node.branch], node.most, tuple(node.lessons.items())), []).append(node)
    return [_node(engine, facts, nodes) for nodes in alike.values()]


def _node(engine: Engine, facts: MessageFacts, nodes: list[Node]) -> Line:
    """A line for nodes that counted the same, named after the narrowest; words are named together."""
    node = nodes[-1]
    place = inside(next(bucket for bucket in engine.buckets if bucket.name == node.most))
    if node.branch == "reached":
        return _of_address(engine, facts, node)
    if node.branch == "word":
        group, search = name_of_words(facts, [one.slot for one in nodes])
    else:
        group, search = name_of_node(node.branch, facts)
    given = sum(node.lessons.values())
    most = node.lessons.get(node.most, 0)
    text = f"{most} of {given} {place}" if most else f"left {place}"
    return Line("node", text, sum(one.value for one in nodes), count=given, group=group, search=search)


def _of_address(engine: Engine, facts: MessageFacts, node: Node) -> Line:
    """A line for what the owner said of the address a message came to."""
    address = address_of(facts, node.slot)
    text = f"You said it is {FOR[engine.purposes[address]]}"
    group, search = f"Came to {address}", f"to:{quoted(address)}"
    return Line("node", text, node.value, count=sum(node.lessons.values()), group=group, search=search)


def _counted(engine: Engine, vector: Vector, facts: MessageFacts, context: Context) -> tuple[list[Line], float]:
    """What the counts over all lessons and what ships about junk say, and what they add for a subject none of whose
    words they know."""
    lines, unseen = [], 0.0
    made, shipped, word = engine.counted_parts(vector)
    if shipped:
        why = traits(strongest(facts, context, SIGNS))
        lines.append(Line("counted", f"Made like junk: {why}", shipped, None, 0, "Known before any lesson"))
    if made:
        count = engine.unwanted_lessons
        lines.append(
            Line("counted", f"Made like the {count} you sent to the Drain", made, None, count, "How it is made")
        )
    if word is not None and word.lessons >= WORD_LESSONS:
        shown = subject_word(facts, word.slot)
        text = f"“{shown}” in its subject: {word.important} of {_lessons_with(word.lessons)} kept mail on the Desk"
        search = f"subject:{quoted(shown)}"
        lines.append(Line("counted", text, word.value, None, word.lessons, "Words of the subject", search))
    elif word is not None:
        unseen = word.value
    return lines, unseen


def _unknown(engine: Engine, vector: Vector, facts: MessageFacts) -> list[Line]:
    """What is added because no lesson was about its list, or else its sender."""
    value = engine.unknown_part(vector)
    where, search = name_of_source(facts)
    text = f"No lesson was about mail {where} yet: it may matter more than mail like it"
    return [Line("counted", text, value, None, 0, "New to your lessons", search)] if value else []


def _lessons_with(count: int) -> str:
    return "1 lesson with it" if count == 1 else f"{count} lessons with it"
