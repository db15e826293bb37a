"""What the owner writes first, and what becomes of it: questions that are answered or not, words that ask nothing,
promises that are kept or not. Each message says whose answer it awaits, as it was meant."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from hieranome.core.buckets import DESK, SENT, SHELF
from hieranome.demo.grammar import expand
from hieranome.demo.render import Draft, received, sent
from hieranome.demo.world import OWNER, SENDERS, Sender

Awaits = Literal["", "them", "owner", "promise"]
"""Whose answer a message awaits: theirs, the owner's, or what the owner promised in it."""
PER_DAY = 7
_PEOPLE = "hedda ruben ines tomas lio petra salt ropewalk granary glass tollgate visa hotel coach donor board agent press".split()
_ASKS = (
    "[Could you|Can you] send me <thing> by <day>?|Which of the two dates suits you better?|Please send me <thing> again, I cannot find "
    "it.|Let me know whether <thing> still holds.|I need your list of players by <day>, please.|Would <hour> on <day> suit you?|Do you "
    "still have a <instrument> for us?|Please confirm <thing> so that I can sign.|What did you decide about <piece>?|Who opens the stage door?"
)
_TELLS = (
    "The contract is signed, nothing more to do on your side.|Thank you for <piece>, it was a joy.|For your files: <thing> is "
    "attached.|The coach leaves at <hour>, as agreed.|All is well here; see you on <day>.|Remember the encore? What an evening. Thank you "
    "all.|The programme went to print this morning.|No need to answer, I only wanted you to know that <first> plays.|Why they printed it "
    "in green I shall never know. It reads well all the same."
)
_PROMISES = (
    "I will send you <thing> on <day>.|I'll call you <day> at <hour>.|You will have my answer by <day>.|I will ask <first> and let you "
    "know.|Let me check <thing>; I'll come back to you on <day>.|We will send the signed copy <day>."
)
_KEPT = "Here is <thing>, as I said.|As promised: <thing>.|I asked <first>: it is all right.|The answer is yes; <thing> follows by post."
_PLAIN = "Yes, please do.|Agreed.|Take the first one.|<day> is fine."
_ANSWERS = (
    "Yes, <day> is fine.|Attached. <calm>|We take the second one.|It still holds.|<first> has it, I will bring it.|Of course. Here it is.|No, "
    "sorry, not this month."
)
_AROUND = "It is about <piece> in <town>.|We are in <town> from <day> on.|<first> told me about <thing>.||"
_WANTS = "<ask>|[We looked at|I checked] <thing>. <ask>|<press> <ask>"
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
        first = self._mine(key, at, self._letter(_ASKS))
        thread = [Written(first, "", "them")]
        if self._rng.random() < 0.1:
            away = self._theirs(key, at + timedelta(minutes=2), _AWAY, first)
            machine = replace(away.sender, automatic=True)
            thread.append(Written(replace(away, subject=f"Away: {first.subject}", sender=machine), key))
        if self._rng.random() < self._told[key]:
            lag = timedelta(hours=self._lags[key] * self._rng.lognormvariate(0, 0.6))
            answer = self._theirs(key, at + lag, _ANSWERS, first)
            thread.append(Written(answer, key))
            if answer.at < self._end:
                thread[0] = replace(thread[0], settled_by=answer.message_id)
        return thread

    def _told_them(self, key: str, at: datetime) -> list[Written]:
        """The owner says something; one in ten thanks for it."""
        first = self._mine(key, at, self._letter(_TELLS))
        thanks = self._theirs(key, at + timedelta(hours=3), "Thank you!|Good to know.", first)
        return [Written(first, ""), *([Written(thanks, key)] if self._rng.random() < 0.1 else [])]

    def _promised(self, key: str, at: datetime) -> list[Written]:
        """They ask, the owner promises or just answers, and does it later, or does not."""
        first = self._theirs(key, at, _WANTS, None)
        promises = self._rng.random() < 0.7
        answer = self._mine(key, at + timedelta(hours=2), self._letter(_PROMISES if promises else _PLAIN), first)
        thread = [Written(first, key, "owner", answer.message_id if answer.at < self._end else "")]
        thread.append(Written(answer, "", "promise" if promises else ""))
        if promises and self._rng.random() < 0.65:
            kept = self._mine(key, at + timedelta(days=self._rng.randint(1, 6)), self._letter(_KEPT), answer)
            thread.append(Written(kept, ""))
            if kept.at < self._end:
                thread[1] = replace(thread[1], settled_by=kept.message_id)
        return thread

    def _letter(self, what: str) -> str:
        said = self._pick(what)
        greeting = self._pick("Dear <first>,|Hello,|Good morning,|<first>,")
        around = self._pick(_AROUND)
        body = [said, around] if self._rng.random() < 0.4 else [around, said]
        return f"{greeting}\n\n{' '.join(one for one in body if one)}\n\nBest,\nMaren\n"

    def _pick(self, rule: str) -> str:
        text = expand(self._rng.choice(rule.split("|")) if "[" not in rule else f"[{rule}]", self._rng)
        return text[:1].upper() + text[1:]

    def _mine(self, key: str, at: datetime, body: str, answers: Draft | None = None) -> Draft:
        subject = f"Re: {answers.subject.removeprefix('Re: ')}" if answers else self._subject()
        return self._draft(Sender("Maren Aldous", OWNER), at, subject, body, answers, SENDERS[key].address)

    def _theirs(self, key: str, at: datetime, rule: str, answers: Draft | None) -> Draft:
        sender = SENDERS[key]
        body = f"{self._pick('<greet>')}\n\n{self._pick(rule)}\n\n{self._pick('<bye>')}\n{sender.sign or sender.name}\n"
        subject = f"Re: {answers.subject.removeprefix('Re: ')}" if answers else self._subject()
        return self._draft(replace(sender, to=OWNER), at, subject, body, answers, "")

    def _draft(self, who: Sender, at: datetime, subject: str, body: str, answers: Draft | None, to: str) -> Draft:
        self._number += 1
        return Draft(
            who, at, subject, body, self._number, world=self._world, to=to,
            reply_to_id=answers.message_id if answers else "",
        )  # fmt: skip

    def _subject(self) -> str:
        return self._pick(
            "<thing> for <town>|<piece>|<day> in <town>|<hall>: <thing>|The <instrument>|A word about <thing>"
        )


def raw_of(written: Written) -> bytes:
    """The bytes of a message of an exchange."""
    return received(written.draft) if written.source else sent(written.draft)


def belongs(written: Written) -> str:
    """Where it belongs."""
    if not written.source:
        return SENT
    return DESK if written.awaits == "owner" else SHELF
