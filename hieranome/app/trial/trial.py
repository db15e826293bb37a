"""Try it on an archive: the folders a person already has say what belongs where.

The mail is read where it lies, in order of its dates, and passed through an engine of its own; nothing is stored,
and the engine in use is not touched.
"""

from __future__ import annotations

import contextlib
import heapq
import logging
import threading
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.trial.backtest import Plan, Result, Truth, as_data, passing, run
from hieranome.core.buckets import BUILT_IN, DESK, DIGEST, DRAIN, QUIET_PLACES, SHELF, UNDECIDED
from hieranome.core.errors import CallerError, HieranomeError
from hieranome.core.replay import Passing, Predicted
from hieranome.mail.sources import SourceFile, find, items

MOST = 20_000
"""Messages tried: the newest."""
SHOWN_WRONG = 30
_GUESSES = (
    (DRAIN, ("junk", "spam", "trash", "deleted", "papierkorb", "corbeille", "papelera")),
    (DIGEST, ("news", "list", "promo", "forum", "digest", "bulk")),
    (SHELF, ("later", "shelf", "someday", "archiv")),
    (DESK, ("inbox", "important", "todo", "desk", "posteingang")),
)


@dataclass(frozen=True, slots=True)
class Folder:
    """A folder of the archive: its name, its files' bytes, and the bucket its name suggests (empty: left out)."""

    name: str
    size: int
    suggested: str


def survey(path: Path) -> list[Folder]:
    """The folders at a path, by name. Raises when there is no mail."""
    sizes: dict[str, int] = {}
    for source in find(path):
        name = folder_of(source, path)
        sizes[name] = sizes.get(name, 0) + source.size
    return [Folder(name, size, suggest(name)) for name, size in sorted(sizes.items())]


def folder_of(source: SourceFile, root: Path) -> str:
    """The folder a file of mail belongs to: an mbox by its own name, others by that of the folder around them."""
    if source.kind == "mbox":
        return source.path.stem if source.path.suffix in (".mbox", ".mbx") else source.path.name
    inside = source.path.parent
    while inside.name in ("cur", "new", "tmp") and inside != root:
        inside = inside.parent
    return inside.name.lstrip(".") or "mail"


def suggest(name: str) -> str:
    """The bucket a folder's name suggests; mail the owner wrote is left out; others are own buckets."""
    low = name.lower()
    if any(word in low for word in ("sent", "draft", "outbox", "gesendet", "envoy", "enviad")):
        return ""
    for bucket, words in _GUESSES:
        if any(word in low for word in words):
            return bucket
    plain = "".join(c if c.isalnum() else "-" for c in low).strip("-")
    return f"own-{plain}" if plain in QUIET_PLACES or plain == UNDECIDED or not plain else plain


@dataclass(frozen=True, slots=True)
class Wrong:
    """A message that would have been put elsewhere."""

    sender: str
    subject: str
    score: float
    place: str
    belongs: str


@dataclass(frozen=True, slots=True)
class State:
    """How a trial stands: ``none``, ``reading``, ``replaying``, ``done``, ``failed`` or ``stopped``."""

    state: str = "none"
    path: str = ""
    done: int = 0
    of: int = 0
    error: str = ""
    figures: dict[str, Any] | None = None
    wrong: list[Wrong] = field(default_factory=list)


_LOG = logging.getLogger(__name__)


class _Stopped(Exception):
    pass


class Trial:
    """One trial at a time, in a thread of its own."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self.state = State()

    def start(self, path: Path, places: Mapping[str, str], correct: float) -> State:
        """Begin; ``places`` says which bucket each folder is. Raises :class:`CallerError` while one runs."""
        sources = [s for s in find(path) if places.get(folder_of(s, path))]
        _check(places.values())
        if not sources:
            raise CallerError(
                "No folder was given a bucket, so there is nothing to try. Give at least two of them one."
            )
        with self._lock:
            if self._thread is not None and self._thread.is_alive():
                raise CallerError("A trial runs already. Wait for it, or stop it.")
            self._stop.clear()
            self.state = State("reading", str(path), 0, sum(s.size for s in sources))
            plan = Plan(correct, 1, self._room.owner, purposes=dict(self._room.engine.purposes))
            work = (path, sources, dict(places), plan)
            self._thread = threading.Thread(target=self._run, args=work, name="trial", daemon=True)
            self._thread.start()
        return self.state

    def stop(self) -> State:
        """Stop, and forget what was found."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(10)
        self.state = State()
        self._tell()
        return self.state

    def _run(self, path: Path, sources: list[SourceFile], places: dict[str, str], plan: Plan) -> None:
        try:
            self._try(path, sources, places, plan)
        except _Stopped:
            self.state = State("stopped", str(path))
        except (HieranomeError, OSError) as exc:
            self.state = State("failed", str(path), error=str(exc))
        except Exception as exc:
            _LOG.exception("a trial failed")
            error = f"It failed for a reason of our own ({type(exc).__name__}). Nothing was stored; try again."
            self.state = State("failed", str(path), error=error)
        self._tell()

    def _try(self, path: Path, sources: list[SourceFile], places: dict[str, str], plan: Plan) -> None:
        mail, belongs = self._read(path, sources, places)
        truth = Truth({p.facts.message_id: bucket for p, bucket in zip(mail, belongs, strict=True)}, {})
        self.state = State("replaying", str(path), 0, len(mail))
        result = run(mail, truth, plan, self._each)
        self.state = State(
            "done", str(path), len(mail), len(mail), figures=as_data(result), wrong=list(_worst(result, mail))
        )

    def _read(self, path: Path, sources: list[SourceFile], places: dict[str, str]) -> tuple[list[Passing], list[str]]:
        """The newest messages in order of date, each with a name of its own, and where each belongs."""
        newest: list[tuple[int, int, Passing, str]] = []
        number = before = 0
        for source in sources:
            bucket = places[folder_of(source, path)]
            for item in items(source):
                number += 1
                read = passing(item)
                facts = replace(read.facts, message_id=read.facts.message_id or f"<{number}@unnamed.example>")
                heapq.heappush(newest, (facts.sent_at or item.arrived, number, replace(read, facts=facts), bucket))
                if len(newest) > MOST:
                    heapq.heappop(newest)
                self._progress(before + item.after)
            before += source.size
        ordered = sorted(newest, key=lambda one: one[:2])
        return [one[2] for one in ordered], [one[3] for one in ordered]

    def _each(self, _: Predicted) -> None:
        self._progress(self.state.done + 1)

    def _progress(self, done: int) -> None:
        if self._stop.is_set():
            raise _Stopped
        tenth = max(1, self.state.of // 50)
        said = done // tenth != self.state.done // tenth
        self.state = replace(self.state, done=done)
        if said:
            self._tell()

    def _tell(self) -> None:
        now = self.state
        with contextlib.suppress(RuntimeError):
            self._room.tell("trial", state=now.state, done=now.done, of=now.of)


def _check(buckets: Iterable[str]) -> None:
    reserved = {UNDECIDED, *QUIET_PLACES} & set(buckets)
    if reserved:
        raise CallerError(
            f"Mail cannot belong in {', '.join(sorted(reserved))}. Choose a bucket, or leave the folder out."
        )


def _worst(result: Result, mail: list[Passing]) -> Iterator[Wrong]:
    """The late mistakes that cost most: important mail put away, good mail drained, then noise."""
    facts = {passed.facts.message_id: passed.facts for passed in mail}
    late = result.predicted[len(result.predicted) // 4 :]
    important = {bucket.name for bucket in BUILT_IN if bucket.important}
    wrong = [one for one in late if one.place not in (one.belongs, UNDECIDED)]
    wrong.sort(key=lambda one: (one.belongs not in important, one.place != DRAIN, one.place not in important))
    for one in wrong[:SHOWN_WRONG]:
        found = facts[one.message_id]
        sender = found.sender.name or found.sender.address
        yield Wrong(sender, found.subject[:200], one.score, one.place, one.belongs)
