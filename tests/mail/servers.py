"""Mail servers that tests run against: the stand-in, and Dovecot with a configuration of its own on loopback."""

from __future__ import annotations

import os
import pwd
import shutil
import signal
import socket
import ssl
import subprocess
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Protocol

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from hieranome.mail.imap import Imap
from hieranome.mail.servers import Login, Security, Server
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import CAPABILITIES, Account
from hieranome.standin.imap_wire import Faults
from hieranome.standin.postbox import Postbox
from tests.patience import PATIENCE

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
        self.imap = ImapServer({USER: Account(self.box, SECRET, ("a-token",))})
        self.offer(without)
        self.imap.start()

    def offer(self, without: tuple[str, ...] = ()) -> None:
        """Offer everything but some capabilities."""
        self.imap.capabilities = set(CAPABILITIES.split()) - set(without)

    @property
    def server(self) -> Server:
        return Server("127.0.0.1", self.imap.port, "plain")

    @property
    def faults(self) -> Faults:
        """What goes wrong on the wire."""
        return self.imap.faults

    def renumber(self, folder: str) -> None:
        self.box.renumber(folder)

    def drop_all(self) -> None:
        self.imap.drop_all()

    def close(self) -> None:
        self.imap.close()
        self.box.close()


_CONFIGURATION = """
protocols = imap sieve
listen = 127.0.0.1
base_dir = {home}/run
state_dir = {home}/state
log_path = {home}/log
{tls}
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
    port = {tls_port}
    ssl = yes
  }}
}}
service managesieve-login {{
  chroot =
  inet_listener sieve {{
    port = {sieve_port}
  }}
}}
service stats {{
  chroot =
}}
plugin {{
  sieve = file:~/scripts;active=~/active.sieve
}}
protocol lda {{
  mail_plugins = sieve
  postmaster_address = postmaster@quillmark.example
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

    def __init__(self, prefix: str = "", security: Security = "plain") -> None:
        if not Path(DOVECOT).exists():
            raise FileNotFoundError(
                "Dovecot is missing: apt-get install dovecot-imapd, or run 'make test', which does."
            )
        self._home = Path(tempfile.mkdtemp(prefix="dc", dir="/tmp"))
        self._port, self._sieve_port = _free_port(), _free_port()
        self._security: Security = security
        self._validity = int(time.time()) + 1000
        root = os.geteuid() == 0
        owner = pwd.getpwnam("mail") if root else pwd.getpwuid(os.geteuid())
        me = owner.pw_name
        for name in ("mail", "run", "state"):
            (self._home / name).mkdir()
        os.chown(self._home / "mail", owner.pw_uid, owner.pw_gid)
        self._home.chmod(0o755)
        self._owner = owner
        (self._home / "conf").write_text(
            _CONFIGURATION.format(
                home=self._home,
                port=0 if security == "tls" else self._port,
                tls_port=self._port if security == "tls" else 0,
                sieve_port=self._sieve_port,
                tls="ssl = no" if security == "plain" else self._tls(),
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

    def _tls(self) -> str:
        self.trusted = certificate(self._home, 30)
        return f"ssl = yes\nssl_cert = <{self.trusted}\nssl_key = <{self.trusted}"

    def start(self) -> None:
        """Begin to serve, at the start or after :meth:`stop`, on the same port."""
        self._process = subprocess.Popen(
            [DOVECOT, "-F", "-c", str(self._home / "conf")], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        self._wait()

    def stop(self) -> None:
        """End; what is stored stays."""
        self._process.send_signal(signal.SIGTERM)
        self._process.wait(PATIENCE)

    def _wait(self) -> None:
        until = time.monotonic() + PATIENCE
        while True:
            try:
                self.connect().close()
                return
            except Exception:
                if time.monotonic() > until or self._process.poll() is not None:
                    log = self._home / "log"
                    self.close()
                    raise RuntimeError(log.read_text() if log.exists() else "Dovecot did not start") from None
                time.sleep(0.1)

    def connect(self) -> Imap:
        """A connection of another program, which trusts the certificate."""
        trust = None if self._security == "plain" else ssl.create_default_context(cafile=str(self.trusted))
        return Imap.connect(self.server, LOGIN, trust=trust, timeout=PATIENCE)

    @property
    def server(self) -> Server:
        return Server("127.0.0.1" if self._security == "plain" else "localhost", self._port, self._security)

    def _doveadm(self, *words: str) -> None:
        subprocess.run(
            ["doveadm", "-c", str(self._home / "conf"), *words], check=True, stdout=subprocess.DEVNULL, timeout=PATIENCE
        )

    @property
    def scripts(self) -> Server:
        """Where its scripts are kept (ManageSieve)."""
        security: Security = "plain" if self._security == "plain" else "starttls"
        return Server(self.server.host, self._sieve_port, security)

    def deliver(self, raw: bytes) -> None:
        """Let mail come in as from outside, by the server's own delivery, which runs its scripts."""
        subprocess.run(
            ["/usr/lib/dovecot/dovecot-lda", "-c", str(self._home / "conf"), "-o", "log_path=/dev/null", "-e"],
            input=raw, check=True, timeout=PATIENCE,
            cwd=self._home, user=self._owner.pw_uid, group=self._owner.pw_gid, extra_groups=[],
            env={"HOME": str(self._home / "mail" / USER), "USER": USER}, capture_output=True,
        )  # fmt: skip

    def renumber(self, folder: str) -> None:
        self._validity += 1
        self._doveadm("mailbox", "update", "-u", USER, "--uid-validity", str(self._validity), folder)

    def drop_all(self) -> None:
        subprocess.run(["doveadm", "-c", str(self._home / "conf"), "kick", USER], check=False, capture_output=True)

    def close(self) -> None:
        self.stop()
        shutil.rmtree(self._home, ignore_errors=True)


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


def certificate(folder: Path, days: int, *names: str) -> Path:
    """A self-signed certificate for localhost, or for some names, with its key, in one file, that lasts so many days
    from now (negative: it ended so long ago)."""
    held = names or ("localhost",)
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, held[0])])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=100))
        .not_valid_after(now + timedelta(days=days))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(name) for name in held]), critical=False)
        .sign(key, hashes.SHA256())
    )
    both = folder / f"certificate{days}{'-'.join(names)}.pem"
    plain = serialization.NoEncryption()
    pem, private = serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8
    both.write_bytes(made.public_bytes(pem) + key.private_bytes(pem, private, plain))
    return both


def contexts(folder: Path, days: int, *names: str) -> tuple[ssl.SSLContext, ssl.SSLContext]:
    """A server's context with :func:`certificate`, and one that trusts it."""
    both = certificate(folder, days, *names)
    served = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    served.load_cert_chain(both)
    return served, ssl.create_default_context(cafile=str(both))
