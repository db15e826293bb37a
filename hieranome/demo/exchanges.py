"""What the owner writes first, and what becomes of it: questions that are answered or not, words that ask nothing,
promises that are kept or not. Each message says whose answer it awaits, as it was meant."""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from hieranome.core.buckets import DESK, SENT, SHELF
from hieranome.demo.grammar import expand, sentences
from hieranome.demo.render import Draft, received, sent
from hieranome.demo.world import OWNER, SENDERS, Sender

Awaits = Literal["", "them", "owner", "promise"]
"""Whose answer a message awaits: theirs, the owner's, or what the owner promised in it."""
PER_DAY = 7
_PEOPLE = "hedda ruben ines tomas lio petra salt ropewalk granary glass tollgate visa hotel coach donor board agent press".split()
_BY_FIRST_NAME = frozenset(
    "hedda ruben ines tomas lio petra salt ropewalk granary glass board press agent donor".split()
)
_TRAVEL = frozenset({"tollgate", "visa", "hotel", "coach"})
"""Who is not asked about music."""
_ASKS: tuple[tuple[str, ...], ...] = (
    (
        "<paper:a> for <town:t>", "Could you send me <paper:a> by <day:d>? I cannot find it here.",
        "It comes in a minute. <calm>|Of course, by <hour>.|<first> has it, I will bring it.",
    ),
    (
        "<day:d> in <town:t>", "Would <hour:h> on <day:d> suit you for a call about <town:t>?",
        "Yes, that is fine.|Sorry, not on <day:d>. A day later?|Yes, <hour:h> then.",
    ),
    (
        "Which of the two dates for <town:t>?", "Which of the two dates suits you better, <day:d> or the week after?",
        "We take the second one.|<day:d> is better for us.",
    ),
    (
        "<paper:a>: does it still hold?", "Please let me know whether <paper:a> still holds as we said. I want to sign on <day:d>.",
        "It still holds.|It does. <calm>",
    ),
    (
        "The door on <day:d>", "Who opens the door for us on <day:d>, and from when on?",
        "<first> does, from <hour> on.|I do. <calm>",
    ),
)  # fmt: skip
"""What the owner asks: subject, question, answers to it."""
_ASKS_OF_MUSIC: tuple[tuple[str, ...], ...] = (
    (
        "List of players for <town:t>", "I need your list of players for <town:t> by <day:d>, please.",
        "You have it by <hour>. <calm>|There are <num> names on it now, and none will follow.",
    ),
    (
        "<instrument:i> for <town:t>", "Do you still have a <instrument:i> for us in <town:t>?",
        "Yes, we do. <calm>|Sorry, not this month.",
    ),
    (
        "<piece:p>", "What did you decide about <piece:p>?",
        "We play it, as the last piece.|We leave it out this time.",
    ),
)  # fmt: skip
_TELLS: tuple[tuple[str, ...], ...] = (
    ("The contract for <town:t>", "The contract for <town:t> is signed, nothing more to do on your side."),
    ("Coach on <day:d>", "The coach leaves at <hour> on <day:d>, as agreed."),
    ("See you in <town:t>", "All is well here; see you on <day> in <town:t>."),
    (
        "The programme for <town:t>",
        "The programme went to print this morning. Why they want it in green I shall never know. It reads well all the same.",
    ),
)
"""What the owner says and wants no answer to: subject, text."""
_TELLS_OF_MUSIC: tuple[tuple[str, ...], ...] = (
    ("Thank you for <piece:p>", "Thank you for <piece:p>, it was a joy. Remember the encore? What an evening."),
    ("<piece:p>", "No need to answer, I only wanted you to know that <first> plays in <piece:p>."),
)
_WANTS: tuple[tuple[str, ...], ...] = (
    (
        "<paper:a> for <town:t>", "I looked at <paper:a> once more. Could you send it before <day:d>?",
        "I will send you <paper:a> on <day:d>.|We will send the signed copy on <day:d>.",
        "Here is <paper:a>, as I said.|As promised: <paper:a>.",
    ),
    (
        "<town:t>: a call?", "There are two things about <town:t> that we had better talk about. When can I reach you?",
        "I'll call you on <day> at <hour>.", "As I said on the phone: both are fine with us.",
    ),
    (
        "How many are you on <day:d>?", "How many are you on <day:d>? <press>",
        "I will ask <first:b> and let you know.|You will have my answer by <hour>.", "I asked <first:b>: <num>, and none will follow.",
    ),
)  # fmt: skip
"""What others want: subject, question, what the owner promises, how it is kept."""
_WANTS_OF_MUSIC: tuple[tuple[str, ...], ...] = (
    (
        "Who plays on <day:d>?", "Who plays for <first:a> on <day:d>? <press>",
        "I will ask <first:b> and let you know.|You will have my answer by <hour>.", "I asked <first:b>: it is all right.",
    ),
    (
        "The <instrument:i> for <town:t>", "May we bring the <instrument:i> a day early to <town:t>? <press>",
        "Let me check with the hall; I'll come back to you on <day>.", "The answer is yes; the key waits at the door.",
    ),
    (
        "<piece:p> on <day:d>", "Do you agree to <piece:p> as the last piece on <day:d>? <press>",
        "I will ask <first:b> and let you know.", "I asked <first:b>: yes, gladly.",
    ),
)  # fmt: skip
_PLAIN = "Yes, please do.|Agreed.|That is fine.|Yes, go ahead."
_AROUND = "I am in <town> from <day> on.|<first> sends regards.||"
_AWAY = (
    "Thank you for your message. I am away until <day> and read no mail. In urgent cases turn to <first> <last>. This answer was made "
    "by a machine."
)


@dataclass(frozen=True, slots=True)
class Written:
    """One message of an exchange: from whom it was meant to come, whose answer it awaits, and the Message-ID of what
    settled that (empty: nothing did)."""

    draft: Draft
    source: str
    awaits: Awaits = ""
    settled_by: str = ""


class Exchanges:
    """Threads that the owner began or that want something of the owner, day by day, from a seed of their own."""

    def __init__(self, seed: int, end: datetime) -> None:
        self._rng = random.Random(f"exchanges {seed}")
        self._world = f"x{seed}"
        self._end = end
        self._number = 0
        self._said: dict[str, str] = {}
        self._lags = {key: self._rng.choice((3, 8, 20, 30, 60)) for key in _PEOPLE}
        self._told = {key: self._rng.uniform(0.55, 0.95) for key in _PEOPLE}

    def day(self, start: datetime, threads: int = PER_DAY) -> Iterator[Written]:
        """The messages of the threads that begin on a day, whenever they are written, as far as the end."""
        for _ in range(threads):
            key = self._rng.choice(_PEOPLE)
            at = start + timedelta(hours=self._rng.randint(8, 18), minutes=self._rng.randrange(60))
            begin = self._rng.choices((self._asked, self._told_them, self._promised), (0.5, 0.25, 0.25))[0]
            yield from (one for one in begin(key, at) if one.draft.at < self._end)

    def _asked(self, key: str, at: datetime) -> list[Written]:
        """The owner asks; they answer, or a machine does, or nobody."""
        subject, question, answers = self._begin(key, _ASKS, _ASKS_OF_MUSIC)
        first = self._mine(key, at, self._letter(question), subject)
        thread = [Written(first, "", "them")]
        if self._rng.random() < 0.1:
            away = self._theirs(key, at + timedelta(minutes=2), _AWAY, f"Away: {first.subject}", first)
            thread.append(Written(replace(away, sender=replace(away.sender, automatic=True)), key))
        if self._rng.random() < self._told[key]:
            lag = timedelta(hours=self._lags[key] * self._rng.lognormvariate(0, 0.6))
            answer = self._theirs(key, at + lag, answers, "", first)
            thread.append(Written(answer, key))
            if answer.at < self._end:
                thread[0] = replace(thread[0], settled_by=answer.message_id)
        return thread

    def _told_them(self, key: str, at: datetime) -> list[Written]:
        """The owner says something; one in ten thanks for it."""
        subject, text = self._begin(key, _TELLS, _TELLS_OF_MUSIC)
        first = self._mine(key, at, self._letter(text), subject)
        thanks = self._theirs(key, at + timedelta(hours=3), "Thank you!|Good to know.", "", first)
        return [Written(first, ""), *([Written(thanks, key)] if self._rng.random() < 0.1 else [])]

    def _promised(self, key: str, at: datetime) -> list[Written]:
        """They ask, the owner promises or just answers, and does it later, or does not."""
        subject, question, promise, kept = self._begin(key, _WANTS, _WANTS_OF_MUSIC)
        first = self._theirs(key, at, question, subject, None)
        promises = self._rng.random() < 0.7
        answer = self._mine(key, at + timedelta(hours=2), self._letter(promise if promises else _PLAIN), "", first)
        thread = [Written(first, key, "owner", answer.message_id if answer.at < self._end else "")]
        thread.append(Written(answer, "", "promise" if promises else ""))
        if promises and self._rng.random() < 0.65:
            done = self._mine(key, at + timedelta(days=self._rng.randint(1, 6)), self._letter(kept), "", answer)
            thread.append(Written(done, ""))
            if done.at < self._end:
                thread[1] = replace(thread[1], settled_by=done.message_id)
        return thread

    def _begin(
        self, key: str, letters: Sequence[tuple[str, ...]], of_music: Sequence[tuple[str, ...]]
    ) -> tuple[str, ...]:
        """What a new thread is about: the rules of one of its letters."""
        self._said = {"you": f" {SENDERS[key].name.split()[0]}" if key in _BY_FIRST_NAME else ""}
        return self._rng.choice([*letters, *(of_music if key not in _TRAVEL else ())])

    def _letter(self, what: str) -> str:
        said = self._pick(what)
        greeting = self._pick(
            "Hello<you>,|Good morning<you>,|Dear<you>," if self._said["you"] else "Good morning,|Hello,"
        )
        around = self._pick(_AROUND)
        body = [said, around] if self._rng.random() < 0.4 else [around, said]
        return f"{greeting}\n\n{' '.join(one for one in body if one)}\n\nBest,\nMaren\n"

    def _pick(self, rule: str) -> str:
        return sentences(expand(self._rng.choice(rule.split("|")), self._rng, self._said))

    def _mine(self, key: str, at: datetime, body: str, subject: str, answers: Draft | None = None) -> Draft:
        return self._draft(Sender("Maren Aldous", OWNER), at, subject, body, answers, SENDERS[key].address)

    def _theirs(self, key: str, at: datetime, rule: str, subject: str, answers: Draft | None) -> Draft:
        sender = SENDERS[key]
        body = f"{self._pick('<greet>')}\n\n{self._pick(rule)}\n\n{self._pick('<bye>')}\n{sender.sign or sender.name}\n"
        return self._draft(replace(sender, to=OWNER), at, subject, body, answers, "")

    def _draft(self, who: Sender, at: datetime, subject: str, body: str, answers: Draft | None, to: str) -> Draft:
        """A letter; what answers another bears its subject unless a subject is given."""
        self._number += 1
        if answers is not None and not subject:
            subject = f"Re: {answers.subject.removeprefix('Re: ')}"
        return Draft(
            who, at, self._pick(subject), body, self._number, world=self._world, to=to,
            reply_to_id=answers.message_id if answers else "",
        )  # fmt: skip


def raw_of(written: Written) -> bytes:
    """The bytes of a message of an exchange."""
    return received(written.draft) if written.source else sent(written.draft)


def belongs(written: Written) -> str:
    """Where it belongs."""
    if not written.source:
        return SENT
    return DESK if written.awaits == "owner" else SHELF
