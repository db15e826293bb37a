"""What the evidence calls the parts of a message: groups of features, and nodes of the tree of counts."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from hieranome.core.addresses import Purpose
from hieranome.core.facts import MessageFacts
from hieranome.core.features import slot_of
from hieranome.core.groups import GROUPS, Context, reached
from hieranome.core.text import words


def quoted(text: str) -> str:
    """A phrase of a search line."""
    return '"' + text.replace('"', " ").strip() + '"'


def _of_domain(facts: MessageFacts) -> tuple[str, str]:
    return "Mail from its domain", f"from:{quoted(facts.sender.domain)}" if facts.sender.domain else ""


def _of_address(facts: MessageFacts) -> tuple[str, str]:
    return "Mail of this sender", f"from:{quoted(facts.sender.address)}" if facts.sender.address else ""


def _of_list(facts: MessageFacts) -> tuple[str, str]:
    return "Mail of this list", f"list:{quoted(facts.list_id)}"


def _of_list_sender(facts: MessageFacts) -> tuple[str, str]:
    return "This sender on this list", f"{_of_list(facts)[1]} {_of_address(facts)[1]}".strip()


def name_of_source(facts: MessageFacts) -> tuple[str, str]:
    """How a line says that mail is of a list, or else of a sender, and the search line that finds it."""
    if facts.list_id:
        return "on this list", _of_list(facts)[1]
    return "from this sender", _of_address(facts)[1]


def _of_skeleton(facts: MessageFacts) -> tuple[str, str]:
    where, search = name_of_source(facts)
    return f"This subject {where}", f"{search} subject:{quoted(facts.subject[:80])}".strip()


def name_of_words(facts: MessageFacts, slots: list[int | None]) -> tuple[str, str]:
    """How a line names mail of the source with some words of the subject, and the search line that finds it."""
    where, search = name_of_source(facts)
    shown = [subject_word(facts, slot) for slot in slots]
    named = " and ".join(f"“{word}”" for word in shown)
    return f"{named} {where}", " ".join([search, *(f"subject:{quoted(word)}" for word in shown)]).strip()


def subject_word(facts: MessageFacts, slot: int | None) -> str:
    """The word of the subject that has a slot, as it is written there."""
    found = next((w for w in words(facts.subject[:500], 40) if slot_of("subject", w) == slot), "")
    written = (part.strip(_AROUND) for part in facts.subject.lower().split())
    return next((part for part in written if words(part, 1) == [found]), found)


_AROUND = ".,:;!?()[]{}<>\"'“”„’"
_NODES: dict[str, Callable[[MessageFacts], tuple[str, str]]] = {
    "domain": _of_domain,
    "address": _of_address,
    "list": _of_list,
    "list_sender": _of_list_sender,
    "skeleton": _of_skeleton,
}
"""How a line names the mail of a node, and the search line that finds it."""
FAMILY = {
    "domain": "sender",
    "address": "sender",
    "list": "list",
    "list_sender": "list",
    "skeleton": "subject",
    "word": "word",
    "reached": "reached",
}
"""Nodes of one family that counted the same say the same."""


FOR = {
    Purpose.PEOPLE: "for people",
    Purpose.SHOPS: "for shops and newsletters",
    Purpose.GIVEN_UP: "given up",
}
"""What an address is for, in words."""


def address_of(facts: MessageFacts, slot: int | None) -> str:
    """The address among those a message went to that has a slot."""
    named = ((address, f"{how} {address}") for how, address in reached(facts))
    return next((one for one, text in named if slot in (slot_of("own_address", text), slot_of("addressed", text))), "")


def name_of_node(branch: str, facts: MessageFacts) -> tuple[str, str]:
    """How a line names the mail of a node, and the search line that finds it."""
    return _NODES[branch](facts)


def words_of_group(group: str, facts: MessageFacts, context: Context) -> str:
    """What a group of features looked at in this message, in words; empty where its heading says it all."""
    writer = _WORDS.get(group)
    return writer(facts, context) if writer else ""


_TRAITS = (
    ("html only", "only HTML"),
    ("type text/html", "only HTML"),
    ("offer", "words of an offer"),
    ("loud subject", "a loud subject"),
    ("shouting subject", "a subject in capitals"),
    ("date broken", "a broken date"),
    ("replies elsewhere", "answers go elsewhere"),
    ("subject foreign", "a subject in other letters"),
    ("id of another domain", "an id of another domain"),
    ("sent to its own sender", "sent to its own sender"),
    ("links", "few links"),
    ("quoted", "little or nothing quoted"),
    ("priority", "it calls itself urgent"),
    ("capitals", "capitals"),
    ("shouts", "exclamation marks"),
    ("money", "sums of money"),
    ("length", "its length"),
    ("charset", "its character set"),
)
"""Signs of junk by how their text begins, as a line calls them; others are called by their group."""


def traits(features: Iterable[tuple[str, str]]) -> str:
    """Signs of junk (features, by group and text) in words, each once."""
    headings = {group.name: group.heading[:1].lower() + group.heading[1:] for group in GROUPS}
    found = [
        next((word for start, word in _TRAITS if text.startswith(start)), headings[name]) for name, text in features
    ]
    return ", ".join(dict.fromkeys(found))


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
