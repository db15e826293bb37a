"""What tests at a real Sieve interpreter share."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

from tests.patience import PATIENCE


class PigeonholeCase(unittest.TestCase):
    """A folder in which Pigeonhole carries out scripts."""

    def setUp(self) -> None:
        if shutil.which("sieve-test") is None:
            raise FileNotFoundError("sieve-test is missing: apt-get install dovecot-sieve, or run 'make test'.")
        self.folder = Path(tempfile.mkdtemp(prefix="sieve-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        owner = self.owner = pwd.getpwnam("mail") if os.geteuid() == 0 else pwd.getpwuid(os.geteuid())
        os.chown(self.folder, owner.pw_uid, owner.pw_gid)
        (self.folder / "conf").write_text(
            f"mail_uid = {owner.pw_uid}\nmail_gid = {owner.pw_gid}\nfirst_valid_uid = 0\n"
            f"mail_location = maildir:{self.folder}/mail\nssl = no\npostmaster_address = p@made.example\n"
            f"base_dir = {self.folder}\nstate_dir = {self.folder}\nlog_path = {self.folder}/log\n"
            f"plugin {{\n  sieve = file:{self.folder}/script.sieve\n}}\n"
            "protocol lda {\n  mail_plugins = sieve\n}\nlda_mailbox_autocreate = yes\n"
            "namespace inbox {\n  inbox = yes\n  separator = /\n}\n"
        )

    def carried_out(self, script: str, raw: bytes, *more: str, me: str = "maren@quillmark.example") -> str:
        """What Pigeonhole says it would do with a message that comes to an address."""
        (self.folder / "script.sieve").write_text(script, encoding="utf-8")
        (self.folder / "message").write_bytes(raw)
        told = subprocess.run(
            ["sieve-test", "-c", "conf", "-r", me, *more, "script.sieve", "message"],
            cwd=self.folder, capture_output=True, timeout=PATIENCE, check=False,
        )  # fmt: skip
        self.assertEqual(told.returncode, 0, told.stderr.decode() + script)
        return told.stdout.decode()
