"""Nothing a message holds raises, takes long, or becomes a string that is not valid Unicode."""

from __future__ import annotations

import multiprocessing
import resource
import time
import unittest
from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from itertools import pairwise
from multiprocessing.connection import Connection
from pathlib import Path

from hieranome.app.reading.incoming import prepare
from hieranome.core.facts import Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.relations import Relations
from hieranome.mail import opening
from tests.generated import given, settings, st
from tests.mail.hostile import random_messages, shapes
from tests.support import QUICK, SOAK

CPU = 2.0
"""Seconds of processor time that reading one message, and each thing asked of it, may take."""
MEMORY = 300 * 1024**2
"""Bytes reading may take beyond what the process and the message take."""
LARGE = 10_000_000
"""Whether all shapes are tried in every size."""


def strings(value: object) -> Iterator[str]:
    """Every string in a value made of data classes and tuples."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, (tuple, list)):
        for one in value:
            yield from strings(one)
    elif is_dataclass(value):
        for field in fields(value):
            yield from strings(getattr(value, field.name))


def read_whole(raw: bytes) -> float:
    """All that is done with a message between its bytes and the page; the most seconds one of these took."""
    times: list[float] = []

    def timed(value: object) -> object:
        times.append(time.process_time())
        for text in strings(value):
            text.encode("utf-8")
        return value

    timed(None)
    made = prepare(raw, 1_760_000_000)
    timed(made)
    extract(made.facts, Context(Owner.of("maren@quillmark.example"), Relations()))
    timed(None)
    view = opening.view(raw)
    timed(view)
    timed(opening.header_lines(raw))
    if view.reading.html:
        timed(opening.html_page(raw, "/api/messages/1", pictures=True))
    for part in view.reading.parts[:3]:
        timed(opening.file_part(raw, part.path, to_view=True))
        if part.media_type.startswith("text/"):
            timed(opening.part_text(raw, part.path))
    return max(after - before for before, after in pairwise(times))


def _read_all(pipe: Connection, plan: list[tuple[str, int]]) -> None:
    made = shapes()
    for name, size in plan:
        raw = made[name](size)
        taken = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (taken + MEMORY, resource.RLIM_INFINITY))
        try:
            took = read_whole(raw)
            said = "" if took <= CPU else f"took {took:.1f} s"
        except Exception as exc:
            said = f"{type(exc).__name__}: {exc}"[:200]
        resource.setrlimit(resource.RLIMIT_AS, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))
        if said:
            pipe.send((name, size, said))
    pipe.send(None)


class CorpusTest(unittest.TestCase):
    def failures(self, plan: list[tuple[str, int]]) -> list[tuple[str, int, str]]:
        """What went wrong with shapes in sizes, read in a process with bounded memory."""
        context = multiprocessing.get_context("spawn")
        ours, theirs = context.Pipe()
        process = context.Process(target=_read_all, args=(theirs, plan), daemon=True)
        process.start()
        theirs.close()
        found = []
        while (one := ours.recv()) is not None:
            found.append(one)
        process.join()
        ours.close()
        process.close()
        return found

    def test_every_shape_is_read(self) -> None:
        """Small, every shape; larger, every tenth; of ten megabytes, those that scale: no error, no lone surrogate, at
        most two seconds of processor time and 300 MB."""
        names = list(shapes())
        self.assertGreater(len(names), 1_000)
        plan = [(name, 2_000) for name in names[:: 4 if QUICK else 1]]
        if SOAK:
            plan += [(name, size) for name in names for size in (300_000, LARGE)]
        elif not QUICK:
            plan += [(name, 300_000) for name in names[::10]]
            plan += [
                (name, LARGE) for name in names if name.startswith(("tree", "page p b", "page one", "event events"))
            ]
        self.assertEqual(self.failures(plan), [])

    def test_random_messages_are_read(self) -> None:
        """Messages put together from tokens: no exception anywhere between bytes and page."""
        for number, raw in enumerate(random_messages(25_000 if SOAK else 300 if QUICK else 1_500, 11)):
            try:
                read_whole(raw)
            except Exception as exc:
                self.fail(f"message {number} of seed 11: {exc!r}")

    @settings(max_examples=60 if QUICK else 300)
    @given(st.binary(max_size=600))
    def test_any_bytes_are_read(self, raw: bytes) -> None:
        """Whatever bytes come, as a message or behind its headers."""
        read_whole(raw)
        read_whole(b"From: a@b.example\nContent-Type: text/html; charset=" + raw)
        read_whole(b"Content-Type: multipart/mixed; boundary=b\n\n--b\n" + raw)

    @settings(max_examples=60 if QUICK else 300)
    @given(st.text(max_size=300))
    def test_any_text_is_read_in_a_header(self, text: str) -> None:
        """Whatever text stands in an address header, the sender is one address or nobody's."""
        raw = b"From: " + text.encode("utf-8", "surrogatepass") + b"\n\nx"
        sender = opening.view(raw).reading.facts.sender
        self.assertNotIn(" ", sender.address)
        self.assertLessEqual(sender.address.count("@"), 1 if '"' not in sender.address else 9)
