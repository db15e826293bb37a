"""Reading beside storing gives what reading in place gives."""

import unittest

import numpy as np

from hieranome.app.reading.processes import BulkReading
from hieranome.core.facts import Owner
from hieranome.demo import mailgen
from hieranome.mail.sources import Item
from tests.mail.nasty import NASTY
from tests.support import NOON, OWNER


def batches() -> list[list[Item]]:
    raws = [*NASTY.values(), *(one.raw for one in mailgen.generate(150, 6))]
    items = [Item(raw, n % 2 == 0, n % 3 == 0, False, 0, "f", n + 1) for n, raw in enumerate(raws)]
    return [items[at : at + 20] for at in range(0, len(items), 20)]


class ReadersTest(unittest.TestCase):
    def test_processes_give_what_one_gives_in_the_same_order(self) -> None:
        """Facts, bytes, flags and vectors are the same however many processes read."""
        owner = Owner.of(OWNER)
        with (
            BulkReading(owner, lambda: NOON, processes=0) as here,
            BulkReading(owner, lambda: NOON, processes=2) as beside,
        ):
            alone, many = list(here.read(iter(batches()))), list(beside.read(iter(batches())))
        self.assertEqual([after for after, _ in alone], [after for after, _ in many])
        for (_, left), (_, right) in zip(alone, many, strict=True):
            for a, b in zip(left, right, strict=True):
                self.assertEqual((a.facts, a.compressed, a.digest, a.text), (b.facts, b.compressed, b.digest, b.text))
                self.assertEqual((a.seen, a.answered, a.flagged), (b.seen, b.answered, b.flagged))
                np.testing.assert_array_equal(a.vector, b.vector)

    def test_no_mail_is_no_batch(self) -> None:
        """An empty source gives nothing and ends."""
        with BulkReading(Owner(), lambda: NOON, processes=2) as readers:
            self.assertEqual(list(readers.read(iter([]))), [])
