"""A simulated web server on loopback that publishes one file over HTTPS, as a domain does for mail programs."""

from __future__ import annotations

import asyncio
import ssl

from hieranome.standin.loopback import Loopback


class Publisher(Loopback):
    """Answers every request with a status, some headers and a body. ``requests`` are the heads that came."""

    def __init__(self, body: bytes, tls: ssl.SSLContext, *, status: str = "200 OK", headers: str = "") -> None:
        super().__init__("web-standin", 0)
        self.body, self.status, self.headers = body, status, headers
        self.requests: list[str] = []
        self._tls = tls

    async def _listen(self) -> asyncio.Server:
        return await asyncio.start_server(self._serve, "127.0.0.1", self.port, ssl=self._tls)

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        head = await reader.readuntil(b"\r\n\r\n")
        self.requests.append(head.decode("latin-1"))
        told = f"HTTP/1.1 {self.status}\r\nContent-Length: {len(self.body)}\r\n{self.headers}Connection: close\r\n\r\n"
        writer.write(told.encode("latin-1") + self.body)
        await writer.drain()
        writer.close()
