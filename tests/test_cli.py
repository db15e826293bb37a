"""The command line: what it does and how it refuses."""

import json
import os
import subprocess
import sys
import tempfile
import unittest
import urllib.error
import urllib.request
from pathlib import Path

from tests.mail.test_sources import mbox
from tests.support import letter


def run(*words: str) -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, "COLUMNS": "200", "NO_COLOR": "1"}
    return subprocess.run(
        [sys.executable, "-m", "hieranome.cli", *words], capture_output=True, text=True, env=environment, check=False
    )


class CommandTest(unittest.TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)

    def test_import_reports_and_repeats(self) -> None:
        """Importing says what came in; a second time nothing does."""
        path = self.folder / "a.mbox"
        path.write_bytes(mbox(letter("one"), letter("two")))
        data = str(self.folder / "data")
        first = run("import", str(path), "--data", data, "--owner", "maren@quillmark.example")
        said = (
            "2 messages imported, 0 were here already.\n"
            "Next: start it with “hieranome serve” and open Import under Settings, which asks up to ten questions.\n"
        )
        self.assertEqual((first.returncode, first.stdout), (0, said))
        self.assertIn("0 messages imported, 2 were here", run("import", str(path), "--data", data).stdout)

    def test_refusals_are_one_sentence(self) -> None:
        """What cannot be imported ends with a sentence and a code, never with a traceback."""
        (self.folder / "x.txt").write_bytes(b"no mail\n")
        for path, code in ((self.folder / "x.txt", 2), (self.folder / "absent", 3)):
            refused = run("import", str(path), "--data", str(self.folder / "data"))
            self.assertEqual(refused.returncode, code)
            self.assertNotIn("Traceback", refused.stderr)
            self.assertTrue(refused.stderr.strip())

    def test_mailgen_writes_mail_and_truth(self) -> None:
        """The command writes both files, and says how many."""
        out, truth = self.folder / "m.mbox", self.folder / "t.csv"
        done = run("mailgen", "--count", "50", "--seed", "3", "--out", str(out), "--truth", str(truth))
        self.assertEqual(done.returncode, 0)
        self.assertTrue(out.stat().st_size > 10_000 and truth.stat().st_size > 1_000)
        refused = run("mailgen", "--count", "5", "--out", str(self.folder / "no" / "m.mbox"))
        self.assertEqual(refused.returncode, 3)

    def test_serve_prints_its_address_and_a_code_for_the_first_password(self) -> None:
        """Nobody is answered before that; with the code a password is set, and its session is answered."""
        process = subprocess.Popen(
            [sys.executable, "-m", "hieranome.cli", "serve", "--data", str(self.folder / "data"), "--port", "0"],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        assert process.stdout is not None
        address = process.stdout.readline().split()[3]
        code = process.stdout.readline().split()[-1]
        process.stdout.close()
        with self.assertRaises(urllib.error.HTTPError) as refused:
            urllib.request.urlopen(f"{address}api/about")
        self.assertEqual(refused.exception.code, 401)
        refused.exception.close()
        given = json.dumps({"code": code, "password": "a long password"}).encode()
        headers = {"content-type": "application/json", "x-hieranome": "1"}
        with urllib.request.urlopen(urllib.request.Request(f"{address}api/entry/first", given, headers)) as answer:
            cookie = answer.headers["set-cookie"].split(";")[0]
        with urllib.request.urlopen(
            urllib.request.Request(f"{address}api/about", headers={"cookie": cookie})
        ) as answer:
            self.assertIn(b'"demo":false', answer.read())

    def test_other_machines_need_tls(self) -> None:
        """Beyond loopback it is not served in clear, and the error says what to give."""
        refused = run("serve", "--data", str(self.folder / "data"), "--host", "0.0.0.0")
        self.assertEqual(refused.returncode, 2)
        self.assertIn("--tls-cert", refused.stderr)

    def test_an_export_comes_in_elsewhere(self) -> None:
        """export writes what restore brings into a new folder."""
        mbox, out = str(self.folder / "m.mbox"), str(self.folder / "out.zip")
        run("mailgen", "--count", "20", "--out", mbox)
        run("import", mbox, "--data", str(self.folder / "a"))
        count = run("export", out, "--data", str(self.folder / "a")).stdout.split()[0]
        self.assertGreaterEqual(int(count), 20)
        self.assertIn(f"{count} messages brought in", run("restore", out, "--data", str(self.folder / "b")).stdout)
        again = run("restore", out, "--data", str(self.folder / "b"))
        self.assertIn("already", again.stderr)
