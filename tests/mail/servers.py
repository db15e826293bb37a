"""Mail servers that tests run against: the stand-in, and Dovecot with a configuration of its own on loopback."""

from __future__ import annotations

import os
import pwd
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Protocol

from imapclient import IMAPClient

from hieranome.mail.servers import Login, Server
from hieranome.standin.imap_server import CAPABILITIES, Account, ImapServer
from hieranome.standin.postbox import Postbox

USER, SECRET = "maren", "quill-and-mark"
LOGIN = Login(USER, SECRET)
DOVECOT = "/usr/sbin/dovecot"


class MailServer(Protocol):
    """What a test needs of a server."""

    @property
    def server(self) -> Server:
        """How it is reached."""

    def renumber(self, folder: str) -> None:
        """Give a folder a new UIDVALIDITY."""

    def drop_all(self) -> None:
        """Break every connection."""

    def close(self) -> None:
        """End it."""


class Standin:
    """The stand-in with one account; ``without`` names capabilities it does not offer."""

    def __init__(self, without: tuple[str, ...] = (), capacity: int | None = None) -> None:
        self.box = Postbox(capacity=capacity)
        self.imap = ImapServer({USER: Account(self.box, SECRET, "a-token")})
        self.offer(without)
        self.imap.start()

    def offer(self, without: tuple[str, ...] = ()) -> None:
        """Offer everything but some capabilities."""
        self.imap.capabilities = set(CAPABILITIES.split()) - set(without)

    @property
    def server(self) -> Server:
        return Server("127.0.0.1", self.imap.port, "plain")

    def renumber(self, folder: str) -> None:
        self.box.renumber(folder)

    def drop_all(self) -> None:
        self.imap.drop_all()

    def close(self) -> None:
        self.imap.close()
        self.box.close()


_CONFIGURATION = """
protocols = imap
listen = 127.0.0.1
base_dir = {home}/run
state_dir = {home}/state
log_path = {home}/log
ssl = no
disable_plaintext_auth = no
mail_fsync = never
mail_location = maildir:{home}/mail/%u:LAYOUT=fs
first_valid_uid = 0
default_internal_user = {internal}
default_login_user = {login}
default_internal_group = {group}
mail_max_userip_connections = 50
passdb {{
  driver = static
  args = password={secret}
}}
userdb {{
  driver = static
  args = uid={uid} gid={gid} home={home}/mail/%u
}}
service anvil {{
  chroot =
}}
service imap-login {{
  chroot =
  inet_listener imap {{
    port = {port}
  }}
  inet_listener imaps {{
    port = 0
  }}
}}
service stats {{
  chroot =
}}
namespace inbox {{
  inbox = yes
  separator = {separator}
  prefix = {prefix}
  mailbox Sent {{
    auto = create
    special_use = \\Sent
  }}
  mailbox Drafts {{
    auto = create
    special_use = \\Drafts
  }}
  mailbox Archive {{
    auto = create
    special_use = \\Archive
  }}
  mailbox Junk {{
    auto = create
    special_use = \\Junk
  }}
  mailbox Trash {{
    auto = create
    special_use = \\Trash
  }}
}}
"""


class Dovecot:
    """Dovecot with Maildirs in a folder of its own; ``prefix`` is what names of folders must begin with, its last
    character the delimiter."""

    def __init__(self, prefix: str = "") -> None:
        if not Path(DOVECOT).exists():
            raise FileNotFoundError(
                "Dovecot is missing: apt-get install dovecot-imapd, or run 'make test', which does."
            )
        self._home = Path(tempfile.mkdtemp(prefix="dc", dir="/tmp"))
        self._port = _free_port()
        root = os.geteuid() == 0
        owner = pwd.getpwnam("mail") if root else pwd.getpwuid(os.geteuid())
        me = owner.pw_name
        for name in ("mail", "run", "state"):
            (self._home / name).mkdir()
        os.chown(self._home / "mail", owner.pw_uid, owner.pw_gid)
        self._home.chmod(0o755)
        (self._home / "conf").write_text(
            _CONFIGURATION.format(
                home=self._home,
                port=self._port,
                secret=SECRET,
                uid=owner.pw_uid,
                gid=owner.pw_gid,
                internal="dovecot" if root else me,
                login="dovenull" if root else me,
                group="dovecot" if root else owner.pw_gid,
                prefix=prefix,
                separator=prefix[-1:] or "/",
            ),
            encoding="utf-8",
        )
        self.start()

    def start(self) -> None:
        """Begin to serve, at the start or after :meth:`stop`, on the same port."""
        self._process = subprocess.Popen(
            [DOVECOT, "-F", "-c", str(self._home / "conf")], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        self._wait()

    def stop(self) -> None:
        """End; what is stored stays."""
        self._process.send_signal(signal.SIGTERM)
        self._process.wait(10)

    def _wait(self) -> None:
        until = time.monotonic() + 20
        while True:
            try:
                client = IMAPClient("127.0.0.1", port=self._port, ssl=False, timeout=5)
                client.login(USER, SECRET)
                client.logout()
                return
            except Exception:
                if time.monotonic() > until or self._process.poll() is not None:
                    log = self._home / "log"
                    self.close()
                    raise RuntimeError(log.read_text() if log.exists() else "Dovecot did not start") from None
                time.sleep(0.1)

    @property
    def server(self) -> Server:
        return Server("127.0.0.1", self._port, "plain")

    def _doveadm(self, *words: str) -> None:
        subprocess.run(
            ["doveadm", "-c", str(self._home / "conf"), *words], check=True, stdout=subprocess.DEVNULL, timeout=20
        )

    def renumber(self, folder: str) -> None:
        self._doveadm("mailbox", "update", "-u", USER, "--uid-validity", str(int(time.time()) + 1000), folder)

    def drop_all(self) -> None:
        subprocess.run(["doveadm", "-c", str(self._home / "conf"), "kick", USER], check=False, capture_output=True)

    def close(self) -> None:
        self.stop()
        shutil.rmtree(self._home, ignore_errors=True)


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])
