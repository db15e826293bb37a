"""A simulated IMAP server (RFC 9051 and its extensions) on loopback, with faults to order.

It serves :class:`hieranome.standin.postbox.Postbox` accounts from a thread of its own. Capabilities can be switched
off, connections dropped at any byte, commands refused.
"""

from __future__ import annotations

import asyncio
import ssl
from collections.abc import Mapping

from hieranome.standin.imap_session import Session
from hieranome.standin.imap_site import Account, Site
from hieranome.standin.loopback import Loopback


class ImapServer(Loopback, Site):
    """Serves accounts by user name on 127.0.0.1. ``tls`` makes every connection encrypted from its start;
    ``start_tls`` offers STARTTLS instead. ``read_only`` names folders that may only be looked at."""

    def __init__(
        self,
        accounts: Mapping[str, Account],
        *,
        port: int = 0,
        tls: ssl.SSLContext | None = None,
        start_tls: ssl.SSLContext | None = None,
    ) -> None:
        Site.__init__(self, accounts, start_tls)
        self._tls = tls
        self._sessions: set[Session] = set()
        Loopback.__init__(self, "imap-standin", port)

    def drop_all(self) -> None:
        """Break every connection there is."""
        self._loop.call_soon_threadsafe(self._drop_sessions)

    def _drop_sessions(self) -> None:
        for session in list(self._sessions):
            session.drop()

    async def _listen(self) -> asyncio.Server:
        return await asyncio.start_server(self._serve, "127.0.0.1", self.port, ssl=self._tls, limit=1 << 20)

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        session = Session(self, reader, writer)
        self._sessions.add(session)
        try:
            await session.run()
        except asyncio.CancelledError:
            return
        finally:
            self._sessions.discard(session)
            writer.close()
