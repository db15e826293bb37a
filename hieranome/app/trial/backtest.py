"""Backtest: what the engine would have done with a mailbox whose truths are known."""

from __future__ import annotations

import csv
import random
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from hieranome.app.reading.processes import reading_of
from hieranome.core.addresses import Purpose
from hieranome.core.buckets import QUIET_PLACES, SENT, UNDECIDED
from hieranome.core.engine import Engine
from hieranome.core.errors import CallerError, Unreadable
from hieranome.core.facts import Owner
from hieranome.core.figures import Figures, Share, figures
from hieranome.core.replay import Passing, Predicted, Replay, replay
from hieranome.mail.reading import one_id
from hieranome.mail.sources import Item, SourceFile, find, items

COLUMNS = ("message_id", "score", "certainty", "bucket", "corrected")


@dataclass(frozen=True, slots=True)
class Plan:
    """How a backtest is run: the share of mistakes corrected, the seed that draws them, the owner, which own buckets
    are Desk-like, and what the owner's addresses are said to be for."""

    correct: float = 1.0
    seed: int = 1
    owner: Owner = Owner()  # noqa: RUF009 (frozen)
    important: tuple[str, ...] = ()
    purposes: Mapping[str, Purpose] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Result:
    """What a backtest found. Rates are messages (or lessons) a second, 0 where there were none."""

    predicted: list[Predicted]
    figures: Figures
    names: Mapping[str, str]
    lessons: int
    scoring_rate: float
    learning_rate: float


@dataclass(frozen=True, slots=True)
class Truth:
    """Where messages belong, by message id as the reading gives it; ``names`` has the ids as they were written."""

    buckets: dict[str, str]
    names: dict[str, str]


def read_truth(path: Path) -> Truth:
    """Buckets from a CSV with the columns ``message_id`` and ``bucket``; ids may carry what follows them in a header.

    Raises :class:`Unreadable` when it cannot be read, :class:`CallerError` when it says nothing usable.
    """
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            rows = csv.DictReader(file)
            if not {"message_id", "bucket"} <= set(rows.fieldnames or ()):
                raise CallerError(
                    f"{path} has no columns message_id and bucket in its first line. "
                    "Write them there, and one line for each message below."
                )
            told = [(r["message_id"] or "", (r["bucket"] or "").strip()) for r in rows]
    except OSError as exc:
        raise Unreadable(f"{path} cannot be read ({exc.strerror}). Choose another file.") from exc
    except (UnicodeDecodeError, csv.Error) as exc:
        raise CallerError(f"{path} is not a CSV in UTF-8 ({exc}). Save it as such.") from exc
    kept = [(name, bucket) for name, bucket in told if bucket not in ("", SENT)]
    reserved = sorted({bucket for _, bucket in kept} & {UNDECIDED, *QUIET_PLACES})
    if reserved:
        raise CallerError(f"{path} puts mail in {', '.join(reserved)}, which is not a bucket. Name a bucket instead.")
    if not kept:
        raise CallerError(f"{path} names no bucket for any message. Write a line for each message.")
    return Truth({one_id(name): bucket for name, bucket in kept}, {one_id(name): name for name, _ in kept})


def passing(item: Item) -> Passing:
    """A message of a source as the replay takes it."""
    return Passing(reading_of(item.raw).facts, item.seen, item.answered)


def mailbox(sources: Iterable[SourceFile], tell: Callable[[int], None] | None = None) -> Iterator[Passing]:
    """All messages of some files, in their order; ``tell`` hears how many bytes were read."""
    before = 0
    for source in sources:
        for item in items(source):
            yield passing(item)
            if tell is not None:
                tell(before + item.after)
        before += source.size


def run(mail: Iterable[Passing], truth: Truth, plan: Plan, each: Callable[[Predicted], None] | None = None) -> Result:
    """Run a backtest; ``each`` hears every prediction. Raises :class:`CallerError` when no truth meets a message."""
    if not 0.0 <= plan.correct <= 1.0:
        raise CallerError(f"The share of corrected mistakes must lie between 0 and 1; {plan.correct} was given.")
    run_of = Replay(
        owner=plan.owner,
        correct=plan.correct,
        draw=random.Random(plan.seed).random,
        important=plan.important,
        watch=time.perf_counter,
        learner=Engine(purposes=plan.purposes),
    )
    predicted: list[Predicted] = []
    for one in replay(run_of, mail, truth.buckets):
        predicted.append(one)
        if each is not None:
            each(one)
    if not predicted:
        raise CallerError(
            "No message of the mailbox has its id in the truth, so nothing could be measured. "
            "Check that both are of the same mail."
        )
    lessons = sum(one.corrected for one in predicted)
    return Result(
        predicted,
        figures(predicted, run_of.costs, run_of.important),
        truth.names,
        lessons,
        len(predicted) / run_of.scoring if run_of.scoring else 0.0,
        lessons / run_of.learning if run_of.learning else 0.0,
    )


def run_files(mail: Path, truth: Path, plan: Plan, tell: Callable[[int, int], None] | None = None) -> Result:
    """Backtest the mail at a path; ``tell`` hears (bytes read, of how many)."""
    known = read_truth(truth)
    sources = find(mail)
    total = sum(source.size for source in sources)
    return run(mailbox(sources, (lambda done: tell(done, total)) if tell else None), known, plan)


def write_predictions(path: Path, result: Result) -> None:
    """Write the predictions as CSV, in order. Raises :class:`Unreadable` when it cannot be written."""
    try:
        with path.open("w", encoding="utf-8", newline="") as file:
            rows = csv.writer(file)
            rows.writerow(COLUMNS)
            for one in result.predicted:
                name = " ".join(result.names.get(one.message_id, one.message_id).split())
                told = (f"{one.score:.6f}", f"{one.certainty:.6f}", one.place, int(one.corrected))
                rows.writerow((name, *told))
    except OSError as exc:
        raise Unreadable(f"{path} cannot be written ({exc.strerror}). Choose another file.") from exc


def as_data(result: Result) -> dict[str, Any]:
    """The figures as plain data for JSON: shares come with the counts they are made of."""
    found: dict[str, Any] = asdict(result.figures)
    for name in ("buried", "noise", "asked", "corrections"):
        found[name] = _share(getattr(result.figures, name))
    found["recall"] = {name: _share(share) for name, share in result.figures.recall.items()}
    return {
        **found,
        "lessons": result.lessons,
        "messages_per_second": result.scoring_rate,
        "lessons_per_second": result.learning_rate,
    }


def _share(share: Share) -> dict[str, Any]:
    return {"part": share.part, "whole": share.whole, "share": share.value}
