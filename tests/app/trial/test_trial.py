"""Trying the engine on an archive leaves the room as it is and finds what the folders say."""

from pathlib import Path

from hieranome.app.trial.trial import Trial, suggest, survey
from hieranome.core.errors import CallerError, HieranomeError
from tests.patience import PATIENCE
from tests.support import RoomCase, fill_archive, letter


class TrialCase(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.archive = self.folder / "archive"
        self.archive.mkdir()

    def fill(self, count: int = 240) -> None:
        """Mail in the archive."""
        fill_archive(self.archive, count)

    def ended(self, trial: Trial) -> None:
        """Wait until the trial's thread has ended."""
        assert trial._thread is not None
        trial._thread.join(PATIENCE)
        self.assertFalse(trial._thread.is_alive())


class SurveyTest(TrialCase):
    def test_folders_are_found_and_guessed(self) -> None:
        """Each folder with its size and the bucket its name suggests."""
        self.fill(60)
        found = {folder.name: folder.suggested for folder in survey(self.archive)}
        self.assertEqual(found["Inbox"], "desk")
        self.assertEqual(found["Newsletters"], "digest")
        self.assertEqual(found["Junk"], "drain")
        self.assertEqual(found["Sent"], "")

    def test_other_names_are_own_buckets(self) -> None:
        """A folder of another name is a bucket of its own; a name we reserve is not taken."""
        for name, bucket in (
            ("Tour Plans", "tour-plans"),
            ("Spam", "drain"),
            ("Drafts", ""),
            ("Undecided", "own-undecided"),
        ):
            self.assertEqual(suggest(name), bucket)

    def test_no_mail_is_an_error(self) -> None:
        """An empty folder and none at all are refused."""
        for path in (self.archive, self.archive / "none"):
            with self.assertRaises(HieranomeError):
                survey(path)


class RunTest(TrialCase):
    def test_it_finds_figures_and_changes_nothing(self) -> None:
        """Figures, the worst mistakes, and a room that never noticed."""
        self.fill()
        self.take(letter())
        before, lessons = self.state(), len(self.room.engine)
        trial = Trial(self.room)
        trial.start(self.archive, {f.name: f.suggested for f in survey(self.archive)}, 1.0)
        self.ended(trial)
        self.assertEqual(trial.state.state, "done", trial.state.error)
        assert trial.state.figures is not None
        self.assertGreater(trial.state.figures["auc"], 0.8)
        self.assertEqual(trial.state.figures["messages"], trial.state.of)
        for wrong in trial.state.wrong:
            self.assertNotEqual(wrong.place, wrong.belongs)
        self.assertEqual((self.state(), len(self.room.engine)), (before, lessons))

    def test_what_cannot_be_tried_is_refused(self) -> None:
        """No bucket for any folder, a reserved place, a second trial at once."""
        self.fill(120)
        trial = Trial(self.room)
        for places in ({}, {"Inbox": ""}, {"Inbox": "sent"}, {"Inbox": "undecided"}):
            with self.subTest(places=places), self.assertRaises(CallerError):
                trial.start(self.archive, places, 1.0)
        self.assertEqual(trial.state.state, "none")
        trial.start(self.archive, {"Inbox": "desk", "Later": "shelf"}, 1.0)
        with self.assertRaisesRegex(CallerError, "runs already"):
            trial.start(self.archive, {"Inbox": "desk"}, 1.0)
        self.ended(trial)

    def test_it_can_be_stopped(self) -> None:
        """Stopped, it forgets what it found and can be started again."""
        self.fill(200)
        trial = Trial(self.room)
        trial.start(self.archive, {"Inbox": "desk", "Later": "shelf"}, 1.0)
        self.assertEqual(trial.stop().state, "none")
        trial.start(self.archive, {"Inbox": "desk", "Later": "shelf"}, 1.0)
        self.ended(trial)
        self.assertEqual(trial.state.state, "done")

    def test_an_archive_that_vanishes_is_told(self) -> None:
        """A file that goes away while it is read fails the trial with a sentence."""
        self.fill(30)
        trial = Trial(self.room)
        gone = self.archive / "Inbox.mbox"
        find = Path.unlink
        trial._read = lambda *given: (find(gone), Trial._read(trial, *given))[1]  # type: ignore[method-assign]
        trial.start(self.archive, {"Inbox": "desk"}, 1.0)
        self.ended(trial)
        self.assertEqual(trial.state.state, "failed")
        self.assertTrue(trial.state.error)
