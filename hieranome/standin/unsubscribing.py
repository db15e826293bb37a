"""A simulated endpoint on loopback that is asked to unsubscribe (RFC 8058): it obeys, fails, leads to a page, or lies,
by the host it is asked as."""

from __future__ import annotations

import asyncio
import re
import socket
from typing import Literal

from hieranome.mail.public import Deadline
from hieranome.standin.loopback import Loopback

Manner = Literal["obeys", "fails", "page", "lies"]
_ANSWERS: dict[Manner, str] = {
    "obeys": "200 OK",
    "lies": "200 OK",
    "fails": "500 Internal Server Error",
    "page": "302 Found\r\nLocation: /preferences",
}
_HOST = re.compile(rb"^host:\s*([^\s:]+)", re.IGNORECASE | re.MULTILINE)
_LENGTH = re.compile(rb"^content-length:\s*(\d+)", re.IGNORECASE | re.MULTILINE)
_ASKED = b"List-Unsubscribe=One-Click"


class UnsubscribeEndpoint(Loopback):
    """Answers as each host's ``manners`` say (other hosts obey). ``asked`` are the requests that came: host, head and
    body; ``left`` the hosts whose lists write no more."""

    def __init__(self, manners: dict[str, Manner]) -> None:
        super().__init__("unsubscribe-standin", 0)
        self.manners = manners
        self.asked: list[tuple[str, str, bytes]] = []
        self.left: set[str] = set()

    def dial(self, _scheme: str, _host: str, _port: int, deadline: Deadline) -> socket.socket:
        """A connection here, whatever host was meant."""
        return socket.create_connection(("127.0.0.1", self.port), timeout=deadline.left())

    async def _listen(self) -> asyncio.Server:
        return await asyncio.start_server(self._serve, "127.0.0.1", self.port)

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        head = await reader.readuntil(b"\r\n\r\n")
        length = _LENGTH.search(head)
        body = await reader.readexactly(min(int(length[1]), 10_000) if length else 0)
        named = _HOST.search(head)
        host = named[1].decode("latin-1").lower() if named else ""
        self.asked.append((host, head.decode("latin-1"), body))
        manner = self.manners.get(host, "obeys")
        good = head.startswith(b"POST ") and body == _ASKED
        if good and manner == "obeys":
            self.left.add(host)
        status = _ANSWERS[manner] if good else "400 Bad Request"
        writer.write(f"HTTP/1.1 {status}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n".encode("latin-1"))
        await writer.drain()
        writer.close()
