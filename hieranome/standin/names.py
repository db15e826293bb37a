"""A simulated DNS server on loopback: it knows the SRV records it is given, and that nothing else exists."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence

import dns.flags
import dns.message
import dns.rcode
import dns.rdataclass
import dns.rdatatype
import dns.resolver
import dns.rrset

from hieranome.standin.loopback import Loopback

Service = tuple[int, int, int, str]
"""Priority, weight, port and target of a service (RFC 2782)."""


class NameServer(Loopback):
    """Answers over UDP. ``records`` are services by name; ``asked`` are the names that were asked for; with ``broken``
    it answers that it failed."""

    def __init__(self, records: Mapping[str, Sequence[Service]], *, broken: bool = False) -> None:
        super().__init__("dns-standin", 0)
        self.records = dict(records)
        self.broken = broken
        self.asked: list[str] = []
        self._line: asyncio.DatagramTransport | None = None

    def resolver(self) -> dns.resolver.Resolver:
        """One that asks this server alone."""
        made = dns.resolver.Resolver(configure=False)
        made.nameservers, made.port = ["127.0.0.1"], self.port
        return made

    def answer(self, question: bytes) -> bytes:
        """The answer to one question, as bytes."""
        asked = dns.message.from_wire(question)
        answer = dns.message.make_response(asked)
        name = asked.question[0].name.to_text(omit_final_dot=True)
        self.asked.append(name)
        known = self.records.get(name, ())
        if self.broken:
            answer.set_rcode(dns.rcode.SERVFAIL)
        elif not known:
            answer.set_rcode(dns.rcode.NXDOMAIN)
        else:
            texts = [f"{priority} {weight} {port} {target}." for priority, weight, port, target in known]
            kind = dns.rdatatype.SRV
            answer.answer.append(dns.rrset.from_text_list(asked.question[0].name, 60, dns.rdataclass.IN, kind, texts))
        answer.flags |= dns.flags.RA
        return answer.to_wire()

    async def _begin(self) -> None:
        self._line, _ = await self._loop.create_datagram_endpoint(lambda: _Answers(self), ("127.0.0.1", 0))
        self.port = self._line.get_extra_info("sockname")[1]

    async def _end(self) -> None:
        assert self._line is not None
        self._line.close()
        await asyncio.sleep(0)


class _Answers(asyncio.DatagramProtocol):
    def __init__(self, server: NameServer) -> None:
        self._server = server

    def connection_made(self, transport: asyncio.DatagramTransport) -> None:  # type: ignore[override]
        self._line = transport

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        self._line.sendto(self._server.answer(data), addr)
