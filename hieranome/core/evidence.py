"""The evidence: signed contributions that add up to the log-odds of a message's importance.

What the prior says of each group of features, what each lesson adds, what all lessons together say of how the
message is made and of a word in its subject, by how much doubt pulls the sum towards even, and what calibration
makes of that. Their values sum to :attr:`Judgement.log_odds`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from hieranome.core.engine import Engine
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector, slot_of
from hieranome.core.groups import GROUPS, Context
from hieranome.core.judgement import Bond
from hieranome.core.text import words

MAX_LESSONS = 4
"""Lessons shown by name; the others are added up in one line."""


LEAST_SHIFT = 0.05
"""Log-odds by which a line must have changed to be told."""

Kind = Literal["prior", "lesson", "lessons", "counted", "doubt", "calibration"]


@dataclass(frozen=True, slots=True)
class Line:
    """One contribution: its kind, text, signed log-odds.

    ``lesson`` is the id of the lesson a line is about, else None; ``count`` how many lessons a summed
    line stands for; ``group`` names what part of the message a line of the prior or of the counts is about.
    """

    kind: Kind
    text: str
    value: float
    lesson: int | None = None
    count: int = 0
    group: str = ""


def explain(
    engine: Engine, vector: Vector, facts: MessageFacts, context: Context, named: int = MAX_LESSONS
) -> list[Line]:
    """The evidence of one message, strongest first; doubt and calibration last. At most ``named`` lessons stand in
    lines of their own."""
    judgement = engine.judge(vector)
    headings = {group.name: group.heading for group in GROUPS}
    lines = [
        Line("prior", _words(name, facts, context) or headings[name], value, group=headings[name])
        for name, value in engine.prior_parts(vector).items()
    ]
    lines += _counted(engine, vector, facts) + _lessons(engine, vector, named)
    lines.sort(key=lambda line: -abs(line.value))
    doubt = judgement.damped - sum(line.value for line in lines)
    return [
        *lines,
        Line("doubt", "Little is known of such mail, which pulls towards even", doubt),
        Line("calibration", "What such sums proved to be worth", judgement.log_odds - judgement.damped),
    ]


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


def _lessons(engine: Engine, vector: Vector, named: int) -> list[Line]:
    """The lessons that add most, each in a line, and one line for all the others. Only a lesson about mail that has
    its sender, its list or a rare word in common is a reason by itself; what the others moved, they moved together."""
    bonds = engine.bonds(vector)
    parts = sorted(engine.lesson_parts(vector).items(), key=lambda item: (item[0] not in bonds, -abs(item[1])))
    reasons = [(number, value) for number, value in parts if number in bonds][:named]
    lines = [Line("lesson", _BOND[bonds[number]], value, lesson=number, count=1) for number, value in reasons]
    rest = parts[len(reasons) :]
    if rest:
        lines.append(Line("lessons", "", sum(value for _, value in rest), count=len(rest)))
    return lines


def _counted(engine: Engine, vector: Vector, facts: MessageFacts) -> list[Line]:
    """What the counts over all lessons say."""
    lines = []
    made, word = engine.counted_parts(vector)
    if made:
        count = engine.unwanted_lessons
        lines.append(
            Line("counted", f"Made like the {count} you sent to the Drain", made, None, count, "How it is made")
        )
    if word is not None and word.value:
        shown = next((w for w in words(facts.subject[:500], 40) if slot_of("subject", w) == word.slot), "")
        text = f"“{shown}” in its subject: {word.important} of {_lessons_with(word.lessons)} kept mail on the Desk"
        if not word.lessons:
            text = "No lesson yet had a word of its subject"
        lines.append(Line("counted", text, word.value, None, word.lessons, "Words of the subject"))
    return lines


def _lessons_with(count: int) -> str:
    return "1 lesson with it" if count == 1 else f"{count} lessons with it"


def _words(group: str, facts: MessageFacts, context: Context) -> str:
    writer = _WORDS.get(group)
    return writer(facts, context) if writer else ""


def _relation(facts: MessageFacts, context: Context) -> str:
    sums = context.relations.of(f"address:{facts.sender.address}")
    parts = []
    if sums.answered:
        pace = f", {_pace(sums.waited // sums.timed)}" if sums.timed else ""
        parts.append(f"you answered this sender {_times(sums.answered)}{pace}")
    if sums.written:
        parts.append(f"you wrote to them {_times(sums.written)}")
    if sums.received and not parts:
        parts.append(f"you never answered this sender; read {sums.read} of {sums.received}")
    if not sums.received and not parts:
        parts.append("this sender is new to you")
    if context.thread_has_mine:
        parts.append("you wrote in this thread")
    return _sentence(parts)


def _pace(minutes: int) -> str:
    for words_for, limit in (("usually within the hour", 60), ("usually within the day", 1440)):
        if minutes <= limit:
            return words_for
    return f"usually after {minutes // 1440} days" if minutes >= 2880 else "usually the day after"


def _times(count: int) -> str:
    return {1: "once", 2: "twice"}.get(count, f"{count} times")


def _to_whom(facts: MessageFacts, context: Context) -> str:
    count = len(facts.recipients)
    direct = any(context.owner.owns(c) for c in facts.to)
    if direct:
        return "Sent to you alone" if count == 1 else f"Sent to you and {count - 1} more"
    if any(context.owner.owns(c) for c in facts.cc):
        return f"You are a copy among {count}"
    return "Your address is not among the recipients"


def _how(facts: MessageFacts, context: Context) -> str:
    parts = []
    if facts.list_id:
        parts.append("sent through a mailing list")
    if facts.list_unsubscribe:
        parts.append("offers to unsubscribe")
    if facts.precedence in ("bulk", "junk", "list"):
        parts.append(f"marked as {facts.precedence} mail")
    if facts.auto_submitted:
        parts.append("sent by a machine")
    if facts.html_only:
        parts.append("HTML without plain text")
    if facts.invitation:
        parts.append("an invitation")
    if facts.in_reply_to or facts.references:
        parts.append("answers an earlier message")
    if "noreply" in facts.sender.address or "no-reply" in facts.sender.address:
        parts.append("wants no reply")
    return _sentence(parts)


def _damage(facts: MessageFacts, context: Context) -> str:
    shown = {"date off": "a date that does not fit", "hidden text": "hidden text"}
    parts = [shown.get(defect, defect) for defect in facts.defects]
    if context.forged:
        parts.append("proven not to come from the sender it names")
    if context.alike:
        parts.append("its sender looks like somebody you vouch for, and is not")
    if facts.subject.count("!") > 1 or "$" in facts.subject:
        parts.append("a loud subject")
    if facts.subject.isupper():
        parts.append("a subject in capitals")
    return _sentence(parts)


def _cues(facts: MessageFacts, context: Context) -> str:
    return "Asks, requests or sets a time" if "?" in facts.text else "Words of request, deadline or offer"


def _sentence(parts: list[str]) -> str:
    text = "; ".join(parts)
    return text[:1].upper() + text[1:]


_WORDS: dict[str, Callable[[MessageFacts, Context], str]] = {
    "relation": _relation,
    "to_whom": _to_whom,
    "how": _how,
    "damage": _damage,
    "cues": _cues,
}
