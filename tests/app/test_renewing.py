"""A folder whose vectors are of another feature version is opened, and what differs is made anew."""

from __future__ import annotations

import sqlite3
import unittest
from unittest import mock

import numpy as np

from hieranome.app import renewing
from hieranome.app.reading.vectors import made_anew
from hieranome.app.renewing import CHUNK, Renewer
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.looking import look_past
from hieranome.app.teaching.undoing import undo
from hieranome.app.viewing import open_message
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.features import FEATURE_VERSION, Vector, pack, relation_features, unpack, with_relation
from hieranome.store import lessons, messages, renewed, settings
from tests.support import RoomCase, letter, offer


class RenewingTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.offers = [self.take(offer(number)) for number in range(CHUNK + 5)]
        self.letters = [self.take(letter(f"Rider {number}", at=1_760_100_000 + number)) for number in range(4)]
        self.taught = [self.offers[0], self.letters[0]]
        self.step = correct(self.room, self.taught[:1], "drain").step
        correct(self.room, self.taught[1:], "desk")
        look_past(self.room, [(self.offers[3], self.row(self.offers[3]).place)])
        Rescorer(self.room).pass_over()
        self.vectors = {number: self.of_today(number, vector) for number, vector in self.every_vector().items()}

    def every_vector(self) -> dict[int, Vector]:
        """The stored vectors of all mail."""
        db = self.room.reader()
        return messages.vectors(db, messages.after(db, 0))

    def of_today(self, number: int, vector: Vector) -> Vector:
        """A vector as a message of today would have it: by what is known of its sender by now."""
        facts = MessageFacts(sender=Correspondent(self.row(number).sender_address), list_id=self.row(number).list_id)
        return with_relation(vector, relation_features(facts, self.room.context(False)))

    def opened_again(self) -> None:
        """The folder as an older version left it, opened: another number, and groups that meant something else."""
        with self.room.change() as db:
            for table, key, version in (("vectors", "message", "version"), ("lessons", "id", "feature_version")):
                for number, features in db.execute(f"SELECT {key}, features FROM {table}").fetchall():
                    other = pack(np.sort(unpack(features) ^ np.uint32(1 << 20)))
                    db.execute(
                        f"UPDATE {table} SET {version} = ?, features = ? WHERE {key} = ?",
                        (FEATURE_VERSION - 1, other, number),
                    )
            settings.put(db, renewed.FEATURES, None)
        self.room.close()
        self.room = Mailroom(self.folder / "data", self.clock)

    def assert_as_before(self) -> None:
        """All vectors are there, of mail and of lessons, and what was learned is in the model."""
        self.assertEqual(
            {number: vector.tolist() for number, vector in self.every_vector().items()},
            {number: vector.tolist() for number, vector in self.vectors.items()},
        )
        for one, number in zip(lessons.teaching(self.room.reader()), self.taught, strict=True):
            self.assertEqual(one.vector.tolist(), self.vectors[number].tolist())
        self.assertEqual((len(self.room.engine.lesson_ids), len(self.room.engine.silence_ids)), (2, 1))

    def test_all_is_made_anew(self) -> None:
        """From the stored bytes: vectors, lessons and what was looked past; undo is whole."""
        self.opened_again()
        self.assertFalse(self.room.whole)
        self.assertEqual(self.every_vector(), {})
        self.assertTrue(Renewer(self.room).renew())
        self.assert_as_before()
        self.assertTrue(self.room.whole)
        undo(self.room, self.step)
        self.assertEqual(len(self.room.engine.lesson_ids), 1)
        self.assertEqual(self.row(self.offers[0]).place, lessons.record(self.room.reader(), 1).stood)  # type: ignore[union-attr]

    def test_nothing_is_misread_meanwhile(self) -> None:
        """Before it is done mail is opened by what its bytes say, keeps its scores, and can be taught about."""
        stored = {number: self.row(number).score for number in (*self.offers, *self.letters)}
        self.opened_again()
        judged = open_message(self.room, self.letters[1]).judgement
        self.assertEqual(len(self.room.engine.lesson_ids), 0)
        said = self.room.engine.judge(self.vectors[self.letters[1]])
        self.assertAlmostEqual(judged.log_odds, said.log_odds, places=9)
        outcome = correct(self.room, [self.offers[2]], "drain")
        self.assertEqual(outcome.effects[0].message, self.offers[2])
        for number in self.letters[1:]:
            self.assertEqual(self.row(number).score, stored[number])
        Renewer(self.room).renew()
        self.assertEqual(len(self.room.engine.lesson_ids), 3)

    def test_one_that_cannot_be_read_holds_nothing_up(self) -> None:
        """Its vector is made of its source, as when it arrived so; all others are made, and it ends."""
        self.opened_again()
        odd = self.letters[2]

        def refuse(room: Mailroom, db: sqlite3.Connection, number: int) -> Vector:
            if number == odd:
                raise ValueError("what a stranger wrote")
            return made_anew(room, db, number)

        with mock.patch.object(renewing, "made_anew", refuse), self.assertLogs(renewing.__name__):
            self.assertTrue(Renewer(self.room).renew())
        self.assertTrue(self.room.whole)
        made = self.every_vector()
        self.assertEqual(set(made), set(self.vectors))
        self.assertEqual(made[self.letters[1]].tolist(), self.vectors[self.letters[1]].tolist())

    def test_what_is_cut_off_is_gone_on_with(self) -> None:
        """An end in the middle loses nothing, and nothing is made twice."""
        self.opened_again()
        renewer = Renewer(self.room)
        stop = self.room.events.listen(renewer.worker.ended.set)
        self.assertFalse(renewer.renew())
        stop()
        there = len(self.every_vector())
        self.assertTrue(0 < there < len(self.vectors), there)
        self.room.close()
        self.room = Mailroom(self.folder / "data", self.clock)
        self.assertFalse(self.room.whole)
        self.assertTrue(Renewer(self.room).renew())
        self.assert_as_before()

    def test_a_folder_of_today_is_left_alone(self) -> None:
        """Nothing is taken out of it, nor made again."""
        before = {number: vector.tolist() for number, vector in self.every_vector().items()}
        self.room.close()
        self.room = Mailroom(self.folder / "data", self.clock)
        self.assertTrue(self.room.whole)
        self.assertEqual({number: vector.tolist() for number, vector in self.every_vector().items()}, before)


if __name__ == "__main__":
    unittest.main()
