"""A mailbox at Dovecot as the storm works in it: another program's view of it, and a line to it that breaks."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from imapclient import IMAPClient

from hieranome.mail.servers import Server
from hieranome.standin.imap_wire import Faults
from tests.mail.servers import SECRET, USER, Dovecot
from tests.patience import PATIENCE


@dataclass(frozen=True, slots=True)
class Named:
    """A folder by its name."""

    name: str


class Outsider:
    """What another program does in a mailbox, in the words of the stand-in's postbox."""

    def __init__(self, server: Server) -> None:
        self._client = IMAPClient(server.host, server.port, ssl=False, timeout=PATIENCE)
        self._client.login(USER, SECRET)

    def close(self) -> None:
        """Sign out."""
        self._client.logout()

    def create(self, name: str) -> None:
        """Make a folder."""
        self._client.create_folder(name)

    def folders(self) -> list[Named]:
        """All folders that can be opened."""
        return [Named(name) for flags, _, name in self._client.list_folders() if b"\\Noselect" not in flags]

    @contextmanager
    def _in(self, folder: str) -> Iterator[IMAPClient]:
        self._client.select_folder(folder)
        try:
            yield self._client
        finally:
            self._client.unselect_folder()

    def append(self, folder: str, raw: bytes) -> None:
        """Put a message into a folder."""
        self._client.append(folder, raw)

    def uids(self, folder: str) -> list[int]:
        """What stands in a folder."""
        with self._in(folder) as client:
            return sorted(client.search())

    def raw(self, folder: str, uid: int) -> bytes:
        """The bytes of a message."""
        with self._in(folder) as client:
            return bytes(client.fetch([uid], ["BODY.PEEK[]"])[uid][b"BODY[]"])

    def move(self, folder: str, uids: Iterable[int], target: str) -> None:
        """Move messages."""
        with self._in(folder) as client:
            client.move(list(uids), target)

    def copy(self, folder: str, uids: Iterable[int], target: str) -> None:
        """Copy messages."""
        with self._in(folder) as client:
            client.copy(list(uids), target)

    def expunge(self, folder: str, uids: Iterable[int]) -> None:
        """Delete messages for good."""
        with self._in(folder) as client:
            client.delete_messages(list(uids))
            client.uid_expunge(list(uids))

    def flag(self, folder: str, uids: Iterable[int], change: Callable[[frozenset[str]], frozenset[str]]) -> None:
        """Change marks."""
        with self._in(folder) as client:
            for uid in uids:
                held = frozenset(one.decode() for one in client.get_flags([uid])[uid]) - {"\\Recent"}
                client.set_flags([uid], sorted(change(held)))


class Line:
    """A port that leads to a server and breaks as :class:`Faults` say."""

    def __init__(self, server: Server) -> None:
        self.faults = Faults()
        self._to = (server.host, server.port)
        self._listening = socket.create_server(("127.0.0.1", 0))
        self._held: list[socket.socket] = []
        threading.Thread(target=self._accept, name="line", daemon=True).start()

    @property
    def server(self) -> Server:
        """How the server is reached by this line."""
        return Server("127.0.0.1", self._listening.getsockname()[1], "plain")

    def close(self) -> None:
        """Take no more connections, and break those there are."""
        self._listening.close()
        self.drop_all()

    def drop_all(self) -> None:
        """Break every connection."""
        while self._held:
            self._end(self._held.pop())

    @staticmethod
    def _end(connection: socket.socket) -> None:
        with contextlib.suppress(OSError):
            connection.shutdown(socket.SHUT_RDWR)
        connection.close()

    def _accept(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                near, _ = self._listening.accept()
                far = socket.create_connection(self._to, timeout=PATIENCE)
                self._held += [near, far]
                quiet = threading.Event()
                for source, target, pass_on in ((near, far, self._ask), (far, near, self._answer)):
                    threading.Thread(
                        target=self._pump, args=(source, target, pass_on, quiet), name="line", daemon=True
                    ).start()

    def _pump(
        self,
        source: socket.socket,
        target: socket.socket,
        pass_on: Callable[[socket.socket, bytes, threading.Event], bool],
        quiet: threading.Event,
    ) -> None:
        with contextlib.suppress(OSError):
            while data := source.recv(65536):
                if not pass_on(target, data, quiet):
                    break
        self._end(source)
        self._end(target)

    def _ask(self, target: socket.socket, data: bytes, quiet: threading.Event) -> bool:
        """Pass a command on, unless it is one before which the line breaks."""
        for names, behind in ((self.faults.drop_before, False), (self.faults.drop_behind, True)):
            for name in list(names):
                if b" " + name.encode() in data.upper():
                    names.discard(name)
                    if not behind:
                        return False
                    quiet.set()  # the server carries it out; nobody hears of it
        target.sendall(data)
        return True

    def _answer(self, target: socket.socket, data: bytes, quiet: threading.Event) -> bool:
        left = self.faults.drop_after
        if left is not None:
            self.faults.drop_after = None if len(data) > left else left - len(data)
            data = data[:left]
        if not quiet.is_set():
            target.sendall(data)
        return self.faults.drop_after is not None if left is not None else not quiet.is_set()


class DovecotByLine(Dovecot):
    """Dovecot, reached by a line that breaks; ``box`` is what another program sees and does."""

    def __init__(self) -> None:
        super().__init__()
        self.box = Outsider(super().server)
        self.line = Line(super().server)

    @property
    def faults(self) -> Faults:
        """What goes wrong on the line."""
        return self.line.faults

    @property
    def server(self) -> Server:
        return self.line.server if hasattr(self, "line") else super().server

    def offer(self, without: tuple[str, ...] = ()) -> None:
        """Dovecot offers what it offers."""

    def drop_all(self) -> None:
        self.line.drop_all()

    def close(self) -> None:
        self.line.close()
        self.box.close()
        super().close()
