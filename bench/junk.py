"""How well the table of junk that ships tells junk from other mail whose senders it never saw, and how it is fitted.

    .venv/bin/python -m bench.junk --mail FILE.mbox --truth FILE.csv [--samples DIR] [--write]

Junk is what the truths put in the Drain, and the kinds of generated mail nobody wants. Half of the sources (lists, or
else domains) are left out in turn, and the others' table is asked about them: told are the area under the curve, the
precision where six tenths of the junk are found, and what the table that ships says of the samples (mail nobody would
call junk, such as that of Python's own tests of ``email``). ``--write`` fits the table to all of it and writes it to
``hieranome/core/junk_table.py``, with what it was fitted to.
"""

from __future__ import annotations

import argparse
import hashlib
import math
import platform
import random
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from sklearn.linear_model import LogisticRegression
from sklearn.metrics import roc_auc_score

from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core import junk
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.features import extract
from hieranome.core.gaussian import Rows
from hieranome.core.groups import Context
from hieranome.core.relations import Relations
from hieranome.demo import mailgen
from hieranome.mail.reading import read
from hieranome.mail.sources import find

TABLE = Path(junk.__file__).with_name("junk_table.py")
GENERATED, SEED = 4_000, 77
UNWANTED = ("cold sales", "phishing", "spam")
"""Kinds of generated mail that are junk to anybody."""
SOURCES = 8
"""A feature is heeded that mail of so many sources has: what fewer have says who wrote."""
STRENGTH = 0.2
"""How far weights may go (the inverse of the penalty). Doubled or halved the area under the curve moves by .004."""
LEAST = 0.05
"""Weights smaller than this are left out."""
CONTEXT = Context(Owner.of(), Relations())
Named = dict[tuple[str, str], float]


@dataclass(frozen=True, slots=True)
class Corpus:
    """Mail with what is junk of it: what each message has, by group and text, with its value in a vector; and whose
    each is."""

    name: str
    has: list[Named]
    junk: list[bool]
    sources: list[str]


def truths(mail: Path, truth: Path) -> Corpus:
    """The mail of an mbox, with its truths."""
    told = read_truth(truth).buckets
    known = [(one.facts, place) for one in mailbox(find(mail)) if (place := told.get(one.facts.message_id))]
    return Corpus(
        f"{mail.name} (SHA-256 {hashlib.sha256(mail.read_bytes()).hexdigest()[:16]})",
        [junk.looked_at(facts, CONTEXT) for facts, _ in known],
        [place == "drain" for _, place in known],
        [facts.list_id or facts.sender.domain for facts, _ in known],
    )


def generated() -> Corpus:
    """Mail of the demo's generator."""
    made = [one for one in mailgen.generate(GENERATED, SEED) if one.kind]
    name = f"the demo's generator ({GENERATED} messages, seed {SEED})"
    return Corpus(
        name,
        [junk.looked_at(read(one.raw).facts, CONTEXT) for one in made],
        [one.kind in UNWANTED for one in made],
        [f"made {one.source}" for one in made],
    )


def heeded(corpora: Iterable[Corpus]) -> list[tuple[str, str]]:
    """The features that mail of enough sources has."""
    whose: dict[tuple[str, str], set[str]] = defaultdict(set)
    for corpus in corpora:
        for has, source in zip(corpus.has, corpus.sources, strict=True):
            for key in has:
                whose[key].add(source)
    return sorted(key for key, sources in whose.items() if len(sources) >= SOURCES)


def matrix(rows: Sequence[Named], keys: Sequence[tuple[str, str]]) -> csr_matrix:
    """What messages have, as rows."""
    at = {key: number for number, key in enumerate(keys)}
    cells = [(row, at[key], value) for row, has in enumerate(rows) for key, value in has.items() if key in at]
    where = ([row for row, _, _ in cells], [column for _, column, _ in cells])
    return csr_matrix(([value for _, _, value in cells], where), shape=(len(rows), len(keys)))


def weights_of(corpora: Sequence[Corpus]) -> NDArray[np.float64]:
    """What each message counts: the two kinds of each corpus as much as each other, a large source not for all."""
    parts = []
    for corpus in corpora:
        how_many, is_junk = Counter(corpus.sources), np.array(corpus.junk)
        weight = np.array([1.0 / math.sqrt(how_many[source]) for source in corpus.sources])
        for kind in (is_junk, ~is_junk):
            weight[kind] /= weight[kind].sum() or 1.0
        parts.append(weight)
    weight = np.concatenate(parts)
    return np.asarray(weight * len(weight) / weight.sum())


def fit(rows: csr_matrix, is_junk: NDArray[np.bool_], weight: NDArray[np.float64]) -> LogisticRegression:
    """The regression (L2, both kinds as likely)."""
    return LogisticRegression(C=STRENGTH, max_iter=2_000).fit(rows, is_junk, sample_weight=weight)


def left_out(corpora: Sequence[Corpus]) -> NDArray[np.float64]:
    """The log-odds of each message by a table that never saw its source."""
    rows = matrix([has for corpus in corpora for has in corpus.has], heeded(corpora))
    is_junk = np.array([one for corpus in corpora for one in corpus.junk])
    sources = [source for corpus in corpora for source in corpus.sources]
    every = sorted(set(sources))
    half = set(random.Random(1).sample(every, len(every) // 2))
    first, weight, found = np.array([source in half for source in sources]), weights_of(corpora), np.zeros(len(sources))
    for taught in (first, ~first):
        found[~taught] = fit(rows[taught], is_junk[taught], weight[taught]).decision_function(rows[~taught])
    return found


def told(name: str, is_junk: NDArray[np.bool_], found: NDArray[np.float64]) -> str:
    """How well log-odds tell junk, in a line."""
    order = np.argsort(-found)
    wanted = int(0.6 * is_junk.sum())
    taken = int(np.searchsorted(np.cumsum(is_junk[order]), wanted)) + 1
    good = found[~is_junk]
    return (
        f"  {name}: area {roc_auc_score(is_junk, found):.3f}, precision at .6 recall {wanted / taken:.3f},"
        f" good mail above 0: {np.mean(good > 0):.1%}, above 4: {np.mean(good > 4):.2%}"
    )


def write(corpora: Sequence[Corpus]) -> None:
    """Fit the table to all of the mail, and write it."""
    keys = heeded(corpora)
    is_junk = np.array([one for corpus in corpora for one in corpus.junk])
    rows = matrix([has for corpus in corpora for has in corpus.has], keys)
    model = fit(rows, is_junk, weights_of(corpora))
    table: dict[str, dict[str, float]] = {name: {} for name in junk.HEEDED_GROUPS}
    for (group, text), weight in zip(keys, model.coef_[0], strict=True):
        if abs(weight) >= LEAST:
            table[group][text] = round(float(weight), 2)
    counts = "\n".join(f"- {one.name}: {len(one.junk)} messages, {sum(one.junk)} of them junk" for one in corpora)
    lines = [
        '"""What tells junk from other mail before the first lesson: fitted by ``bench/junk.py --write``, not by hand.',
        "",
        f"Fitted to:\n\n{counts}\n",
        "Weights are log-odds per unit of a feature's value, where junk and other mail are as likely. Of the mail only",
        "counts stand here: the table holds no text of it, and is under the licence of the program.",
        '"""',
        "",
        f"BASE = {round(float(model.intercept_[0]), 2)}",
        '"""The log-odds of mail that has nothing of this."""',
        "WEIGHTS: dict[str, dict[str, float]] = {",
    ]
    for group, weights in table.items():
        lines += [f'    "{group}": {{', *(f"        {text!r}: {value}," for text, value in weights.items()), "    },"]
    TABLE.write_text("\n".join([*lines, "}", ""]), encoding="utf-8")
    print(f"{sum(map(len, table.values()))} weights written to {TABLE}")


def of_samples(folder: Path) -> Mapping[str, float]:
    """What the table that ships says of each file of mail."""
    return {path.name: of_facts(read(path.read_bytes()).facts) for path in sorted(folder.glob("*.txt"))}


def of_facts(facts: MessageFacts) -> float:
    """What the table that ships says of a message."""
    return float(junk.log_odds(Rows.of(extract(facts, CONTEXT)))[0])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path, required=True)
    parser.add_argument("--truth", type=Path, required=True)
    parser.add_argument("--samples", type=Path)
    parser.add_argument("--write", action="store_true")
    wanted = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    corpora = [truths(wanted.mail, wanted.truth), generated()]
    if wanted.write:
        write(corpora)
    found, start = left_out(corpora), 0
    for corpus in corpora:
        end = start + len(corpus.junk)
        print(told(corpus.name, np.array(corpus.junk), found[start:end]))
        start = end
    if wanted.samples:
        said = of_samples(wanted.samples)
        worst = sorted(said.items(), key=lambda pair: -pair[1])[:5]
        print(f"  samples: {len(said)}, the most like junk: {', '.join(f'{n} {v:.1f}' for n, v in worst)}")


if __name__ == "__main__":
    main()
