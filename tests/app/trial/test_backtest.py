"""Backtests of files: what they say, write and refuse."""

import csv
import io
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from rich.console import Console

from hieranome.app.trial.backtest import COLUMNS, Plan, as_data, read_truth, run_files, write_predictions
from hieranome.core.errors import CallerError, Unreadable
from hieranome.core.facts import Owner
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.report import curve, show

OWNER = Owner.of(*OWNER_ADDRESSES)


class BacktestTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        place = tempfile.TemporaryDirectory()
        cls.addClassCleanup(place.cleanup)
        cls.folder = Path(place.name)
        cls.mail, cls.truth = cls.folder / "made.mbox", cls.folder / "made.csv"
        mailgen.write(400, 3, cls.mail, cls.truth)
        heard: list[tuple[int, int]] = []
        cls.result = run_files(cls.mail, cls.truth, Plan(owner=OWNER), lambda done, of: heard.append((done, of)))
        cls.heard = heard

    def test_it_predicts_every_message_with_a_truth(self) -> None:
        """All of the mailbox but the owner's own, in order, with progress up to the end."""
        rows = csv.DictReader(self.truth.read_text("utf-8").splitlines())
        told = [row["message_id"] for row in rows if row["bucket"] != "sent"]
        self.assertEqual([one.message_id for one in self.result.predicted], told)
        self.assertEqual(self.heard[-1][0], self.heard[-1][1])
        self.assertGreater(self.result.scoring_rate, 0.0)
        self.assertEqual(self.result.lessons, sum(one.corrected for one in self.result.predicted))

    def test_it_is_good_at_the_demos_world(self) -> None:
        """Ranking is far from chance, and little of what belongs on the Desk is buried."""
        self.assertGreater(self.result.figures.auc, 0.9)
        self.assertLess(self.result.figures.buried.value, 0.2)

    def test_predictions_are_written_in_order(self) -> None:
        """The CSV has the promised columns and one line for each prediction."""
        out = self.folder / "predictions.csv"
        write_predictions(out, self.result)
        with out.open(encoding="utf-8", newline="") as file:
            rows = list(csv.reader(file))
        self.assertEqual(tuple(rows[0]), COLUMNS)
        self.assertEqual([row[0] for row in rows[1:]], [one.message_id for one in self.result.predicted])
        self.assertEqual([row[3] for row in rows[1:]], [one.place for one in self.result.predicted])
        with self.assertRaises(Unreadable):
            write_predictions(self.folder / "no" / "such.csv", self.result)

    def test_figures_as_data_carry_counts(self) -> None:
        """Shares in JSON come with what they are shares of."""
        found = json.loads(json.dumps(as_data(self.result)))
        for name in ("buried", "noise", "asked", "corrections"):
            self.assertEqual(set(found[name]), {"part", "whole", "share"})
        self.assertEqual(len(found["reliability"]), 10)
        self.assertEqual(len(found["curve"]), 20)

    def test_the_report_shows_every_figure(self) -> None:
        """The terminal table has figures, calibration and the learning curve."""
        out = io.StringIO()
        show(Console(file=out, width=120), self.result)
        for part in (
            "regret",
            "buried",
            "noise",
            "asked",
            "calibration error",
            "Brier",
            "scored a second",
            "Regret along",
        ):
            self.assertIn(part, out.getvalue())
        self.assertEqual(curve([0.0, 4.0, 8.0]), "▁▅█")
        self.assertEqual(curve([]), "")

    def test_the_command_gives_json_and_predictions(self) -> None:
        """The command line runs the same, and writes what was asked for."""
        out = self.folder / "by-command.csv"
        command = [
            sys.executable,
            "-m",
            "hieranome.cli",
            "backtest",
            "--mail",
            str(self.mail),
            "--truth",
            str(self.truth),
        ]
        owners = [part for address in OWNER_ADDRESSES for part in ("--owner", address)]
        done = subprocess.run(
            [*command, *owners, "--out", str(out), "--json"], capture_output=True, text=True, check=True
        )
        self.assertAlmostEqual(json.loads(done.stdout)["regret"], self.result.figures.regret)
        self.assertEqual(len(out.read_text("utf-8").splitlines()), 1 + len(self.result.predicted))
        wrong = subprocess.run([*command, "--correct", "7"], capture_output=True, text=True, check=False)
        self.assertNotEqual(wrong.returncode, 0)


class RefusalTest(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.truth = Path(place.name) / "truth.csv"

    def test_a_truth_that_cannot_be_used_is_refused_in_a_sentence(self) -> None:
        """Missing columns, no buckets, a place that is none, bytes that are no text, no file."""
        for content, words in (
            (b"id,place\r\n<a@x.example>,desk\r\n", "no columns message_id and bucket"),
            (b"message_id,bucket\r\n", "names no bucket"),
            (b"message_id,bucket\r\n<a@x.example>,undecided\r\n", "not a bucket"),
            (b"message_id,bucket\r\n\xff\xfe,desk\r\n", "not a CSV in UTF-8"),
            (b"", "no columns"),
        ):
            with self.subTest(words):
                self.truth.write_bytes(content)
                with self.assertRaisesRegex(CallerError, words):
                    read_truth(self.truth)
        with self.assertRaises(Unreadable):
            read_truth(self.truth.with_name("none.csv"))

    def test_ids_are_read_as_the_mail_has_them(self) -> None:
        """A byte-order mark, folded ids and what stands behind an id do not keep truth and mail apart."""
        self.truth.write_bytes(b"\xef\xbb\xbfmessage_id,bucket\r\n<a@x.example> (made),desk\r\n b@x.example,shelf\r\n")
        self.assertEqual(len(read_truth(self.truth).buckets), 2)
        self.assertIn("<a@x.example>", read_truth(self.truth).buckets)

    def test_mail_and_truth_that_do_not_meet_are_told(self) -> None:
        """Nothing in common is an error, and so is a share of corrections that is none."""
        mail = self.truth.with_name("made.mbox")
        mailgen.write(5, 1, mail, None)
        self.truth.write_text("message_id,bucket\n<other@x.example>,desk\n")
        with self.assertRaisesRegex(CallerError, "could be measured"):
            run_files(mail, self.truth, Plan())
        with self.assertRaisesRegex(CallerError, "between 0 and 1"):
            run_files(mail, self.truth, Plan(correct=1.5))
