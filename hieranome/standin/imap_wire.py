"""The wire of one connection to the simulated IMAP server: lines and literals in, lines out, faults to order."""

from __future__ import annotations

import asyncio
import ssl
from dataclasses import dataclass, field

from hieranome.standin.imap_words import LITERAL_AHEAD

MAX_LITERAL = 64 * 1024 * 1024


class Dropped(Exception):
    """The connection was broken on purpose."""


@dataclass(slots=True)
class Faults:
    """What goes wrong. ``drop_after`` counts bytes of answers until the connection breaks; ``drop_before`` and
    ``drop_behind`` name commands whose connection breaks before they are carried out, or after it but before the
    answer; ``refuse`` answers a command with the text given (say, ``NO [OVERQUOTA] full``); ``delay`` is seconds before
    every answer. Each break happens once."""

    drop_after: int | None = None
    drop_before: set[str] = field(default_factory=set)
    drop_behind: set[str] = field(default_factory=set)
    refuse: dict[str, str] = field(default_factory=dict)
    delay: float = 0.0


class Wire:
    """What goes over one connection. Raises :class:`Dropped` where a fault breaks it."""

    def __init__(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter, faults: Faults) -> None:
        self._reader, self._writer, self._faults = reader, writer, faults

    @property
    def encrypted(self) -> bool:
        """Whether TLS was begun."""
        return self._writer.get_extra_info("ssl_object") is not None

    async def start_tls(self, context: ssl.SSLContext) -> None:
        """Begin TLS."""
        await self._writer.start_tls(context)

    def drop(self) -> None:
        """Break the connection."""
        self._writer.transport.abort()

    async def line(self) -> bytes:
        """The next line; empty at the end."""
        return await self._reader.readline()

    async def command(self) -> bytes | None:
        """The next command with its literals, or None at the end."""
        line = b""
        while True:
            part = await self.line()
            if not part.endswith(b"\n"):
                return None
            line += part
            ahead = LITERAL_AHEAD.search(part)
            if not ahead:
                return line
            if int(ahead[1]) > MAX_LITERAL:
                await self.say(b"* BYE that literal is too large")
                return None
            if not ahead[2]:
                await self.say(b"+ go ahead")
            line += await self._reader.readexactly(int(ahead[1]))

    async def say(self, line: bytes) -> None:
        """Send a line, as far as the faults let it."""
        faults = self._faults
        if faults.delay:
            await asyncio.sleep(faults.delay)
        data = line + b"\r\n"
        if faults.drop_after is not None:
            if len(data) > faults.drop_after:
                self._writer.write(data[: faults.drop_after])
                faults.drop_after = None
                await self._writer.drain()
                self._writer.close()
                raise Dropped
            faults.drop_after -= len(data)
        self._writer.write(data)
        await self._writer.drain()
