"""Vectors kept at hand are those of the store."""

import numpy as np

from hieranome.app.arrival import importing
from hieranome.app.teaching.correct import correct
from hieranome.core.gaussian import Rows
from hieranome.store import messages, standing
from tests.mail.test_sources import mbox
from tests.support import RoomCase, letter, offer


class VectorsTest(RoomCase):
    def test_they_equal_the_stored_ones_in_any_order(self) -> None:
        """Asked twice, in another order, with new mail between: always the vectors the store holds."""
        numbers = [self.take(offer(n)) for n in range(4)]
        for wanted in (numbers, numbers[::-1], [*numbers, self.take(letter())]):
            found = self.room.vectors.of(self.room.reader(), wanted)
            for number, vector in zip(wanted, found, strict=True):
                np.testing.assert_array_equal(vector, messages.vectors(self.room.reader(), [number])[number])

    def test_parts_made_ready_follow_what_stands(self) -> None:
        """Asked again after mail came and went, the parts hold just what stands."""
        numbers = [self.take(offer(n)) for n in range(6)]
        for wanted in (numbers, numbers[2:], [*numbers[:3], self.take(letter())]):
            ids, slots = [], []
            for part, rows in self.room.vectors.blocks(self.room.reader(), wanted):
                ids += part
                slots.append(rows.slots)
            self.assertEqual(ids, wanted)
            stacked = Rows.stacked(self.room.vectors.of(self.room.reader(), wanted))
            np.testing.assert_array_equal(np.concatenate(slots), stacked.slots)

    def test_an_import_that_weighs_anew_is_noticed(self) -> None:
        """After mail brought in changed what is known of senders, a verdict scores with the new vectors."""
        first = self.take(offer(1))
        correct(self.room, [first], "desk")
        path = self.folder / "more.mbox"
        path.write_bytes(mbox(*(offer(n) for n in range(2, 9))))
        importing.run(self.room, importing.begin(self.room, path))
        correct(self.room, [first], "drain")
        number = standing.newest(self.room.reader())[-1]
        judged = self.room.engine.judge(messages.vectors(self.room.reader(), [number])[number])
        self.assertAlmostEqual(self.row(number).score, judged.importance, delta=1e-3)
