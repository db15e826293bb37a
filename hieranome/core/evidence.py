"""The evidence: signed contributions that add up to the log-odds of a message's importance.

Three kinds of lines: what the prior says of each group of features, what each lesson adds, and by
how much doubt pulls the sum towards even. Their values sum to :attr:`Judgement.log_odds`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hieranome.core.engine import Engine
from hieranome.core.facts import MessageFacts
from hieranome.core.features import GROUPS, Context, Vector

MAX_LESSONS = 4
"""Lessons shown by name; the others are added up in one line."""


@dataclass(frozen=True, slots=True)
class Line:
    """One contribution: its kind (``prior``, ``lesson``, ``lessons``, ``doubt``), text, signed log-odds.

    ``lesson`` is the id of the lesson a line is about, else None; ``count`` how many lessons a summed
    line stands for.
    """

    kind: Literal["prior", "lesson", "lessons", "doubt"]
    text: str
    value: float
    lesson: int | None = None
    count: int = 0


def explain(engine: Engine, vector: Vector, facts: MessageFacts, context: Context) -> list[Line]:
    """The evidence of one message, strongest first, doubt last."""
    judgement = engine.judge(vector)
    headings = {group.name: group.heading for group in GROUPS}
    lines = [
        Line("prior", _words(name, facts, context) or headings[name], value)
        for name, value in engine.prior_parts(vector).items()
    ]
    lines.sort(key=lambda line: -abs(line.value))
    lessons = sorted(engine.lesson_parts(vector).items(), key=lambda item: -abs(item[1]))
    named = [Line("lesson", "", value, lesson=number, count=1) for number, value in lessons[:MAX_LESSONS]]
    rest = lessons[MAX_LESSONS:]
    if rest:
        named.append(Line("lessons", "", sum(value for _, value in rest), count=len(rest)))
    lines.extend(named)
    lines.append(Line("doubt", "Doubt pulls towards even", judgement.log_odds - sum(line.value for line in lines)))
    return lines


def _words(group: str, facts: MessageFacts, context: Context) -> str:
    writer = _WORDS.get(group)
    return writer(facts, context) if writer else ""


def _relation(facts: MessageFacts, context: Context) -> str:
    sums = context.relations.of(f"address:{facts.sender.address}")
    parts = []
    if sums.answered:
        parts.append(f"you answered this sender {_times(sums.answered)}")
    if sums.written:
        parts.append(f"you wrote to them {_times(sums.written)}")
    if sums.received and not parts:
        parts.append(f"you never answered this sender; read {sums.read} of {sums.received}")
    if not sums.received and not parts:
        parts.append("this sender is new to you")
    if context.thread_has_mine:
        parts.append("you wrote in this thread")
    return _sentence(parts)


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
