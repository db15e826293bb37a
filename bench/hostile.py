"""What hostile mail of a megabyte costs: reading, opening, shortening and compiling it, and how long others wait meanwhile.

    .venv/bin/python -m bench.hostile [EVERY]

Of the shapes that the tests read, every EVERYth (20) at 1 MB is read, opened, shortened and put into an edition, each in
seconds of processor time. Then what is done in the program itself, with the text that reading leaves, is done to the worst
texts that can be made for the patterns of the core, while another thread looks how long it waits for the interpreter.
"""

from __future__ import annotations

import platform
import sys
import threading
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from itertools import islice

from bench.patterns import patterns, texts
from hieranome.app.reading.incoming import prepare
from hieranome.core import extracts, owing, text, when
from hieranome.core.short import short
from hieranome.mail import opening
from hieranome.mail.reading import MAX_TEXT, read
from tests.mail.hostile import shapes

MEGABYTE = 1_000_000
NOW = datetime(2026, 12, 1, 9, tzinfo=UTC)
PAUSE = 0.001
BY_HAND = (".", "?", "a.", "a? ", "7", "1 May ", "tomorrow ", "can you ", "I will ", "\n", "a\n\n", ">", "wrote:\n", "on ",
           "12:00 ", "by 5 pm on Friday? ", "\u6b21")  # fmt: skip
"""What texts made by hand repeat."""
WORK: dict[str, Callable[[str], object]] = {
    "short": lambda said: short(said, said[:2_000], NOW, NOW),
    "sentences": extracts.sentences,
    "extract": lambda said: extracts.extract(said, said[:2_000]),
    "questions": owing.questions,
    "promise": owing.promise,
    "declines": owing.declines,
    "dates": lambda said: when.moments_in(said, NOW, NOW),
    "own words": text.own_words,
    "passages": text.passages,
}
"""What the program itself does with a stranger's text."""


def processor(work: Callable[[], object]) -> float:
    """Seconds of processor time."""
    began = time.process_time()
    work()
    return time.process_time() - began


def of_messages(every: int) -> None:
    """Tell the dearest message of a megabyte at each step."""
    worst: dict[str, tuple[float, str]] = {}
    count = 0
    for name, make in islice(shapes().items(), 0, None, every):
        raw = make(MEGABYTE)
        said = read(raw).facts.text
        steps: dict[str, Callable[[], object]] = {
            "reading": lambda raw=raw: prepare(raw, 1_760_000_000),  # type: ignore[misc]
            "opening": lambda raw=raw: opening.view(raw),  # type: ignore[misc]
            "shortening": lambda said=said: short(said, "x", NOW, NOW),  # type: ignore[misc]
            "compiling": lambda said=said: extracts.extract(said, "x"),  # type: ignore[misc]
        }
        for step, work in steps.items():
            worst[step] = max(worst.get(step, (0.0, "")), (processor(work), name))
        count += 1
    for step, (seconds, name) in worst.items():
        print(f"{step:12} {seconds:6.3f} s at most, of {count} messages of 1 MB ({name})")


def hostile_texts(length: int) -> Iterator[str]:
    """The worst texts there are of a length."""
    yield from (one * (length // len(one)) for one in BY_HAND)
    for used in patterns():
        if used.where.startswith("hieranome.core."):
            yield from texts(used.pattern, length)


def of_texts() -> None:
    """Tell the dearest text of each work, and the longest that another thread waited meanwhile."""
    waits: list[float] = []
    ended, working = threading.Event(), threading.Event()

    def wait() -> None:
        while not ended.is_set():
            began = time.perf_counter()
            time.sleep(PAUSE)
            if working.is_set():
                waits.append(time.perf_counter() - began - PAUSE)

    other = threading.Thread(target=wait)
    other.start()
    worst: dict[str, tuple[float, str]] = {}
    tried = set()
    for said in hostile_texts(MAX_TEXT):
        if said in tried:
            continue
        tried.add(said)
        working.set()
        for name, work in WORK.items():
            worst[name] = max(worst.get(name, (0.0, "")), (processor(lambda w=work, s=said: w(s)), said[:30]))  # type: ignore[misc]
        working.clear()
        time.sleep(2 * PAUSE)  # what making the next text takes is not waited for
    ended.set()
    other.join()
    for name, (seconds, said) in sorted(worst.items(), key=lambda one: -one[1][0]):
        print(f"{name:12} {seconds:6.3f} s at most, of {len(tried)} texts of {MAX_TEXT:,} characters ({said!r})")
    waits.sort()
    print(
        f"another thread waited {1000 * waits[len(waits) // 2]:.1f} ms in the median, {1000 * waits[-1]:.0f} ms at most"
    )


def main() -> None:
    print(f"{platform.machine()}, Python {platform.python_version()}")
    of_messages(int(sys.argv[1]) if len(sys.argv) > 1 else 20)
    of_texts()


if __name__ == "__main__":
    main()
