"""Serving the application: where it can be reached, and what is said of it when it begins."""

from __future__ import annotations

import ssl
import sys
from dataclasses import dataclass
from pathlib import Path

import typer
import uvicorn

from hieranome.app.service import Service
from hieranome.core.errors import CallerError
from hieranome.web.application import build
from hieranome.web.guard import LOOPBACK


@dataclass(frozen=True, slots=True)
class Reach:
    """How the page is reached."""

    port: int
    host: str = "127.0.0.1"
    names: tuple[str, ...] = LOOPBACK
    cert: Path | None = None
    key: Path | None = None
    secure: bool = False
    behind_proxy: bool = False

    @classmethod
    def checked(
        cls, host: str, port: int, names: list[str], cert: Path | None, key: Path | None, *, behind_proxy: bool
    ) -> Reach:
        """Raises :class:`CallerError` for what would let a password go over a network in clear."""
        if (cert is None) != (key is None):
            raise CallerError("Give both --tls-cert and --tls-key, or neither.")
        for file in (cert, key):
            if file is not None and not file.is_file():
                raise CallerError(f"{file} is no file. Name the PEM file with --tls-cert or --tls-key.")
        if host in ("", *LOOPBACK):
            secure = cert is not None or behind_proxy
            return cls(port, host or "127.0.0.1", (*LOOPBACK, *names), cert, key, secure, behind_proxy)
        if cert is None and not behind_proxy:
            raise CallerError(
                f"On {host} other machines could read along. Give --tls-cert and --tls-key, or --behind-proxy when a "
                "proxy that speaks TLS stands before it."
            )
        if not names:
            raise CallerError("Name the host it is reached under with --name, so that other names can be refused.")
        return cls(port, host, (*LOOPBACK, *names), cert, key, True, behind_proxy)


def trusted(ca: Path | None) -> ssl.SSLContext | None:
    """The system's certificates with a file of one's own added; None without one. Raises :class:`Unreadable`."""
    if ca is None:
        return None
    context = ssl.create_default_context()
    try:
        context.load_verify_locations(ca)
    except (OSError, ssl.SSLError) as exc:
        raise CallerError(f"{ca} holds no certificates that can be read ({exc}). Name a PEM file.") from exc
    return context


def serve_until_stopped(service: Service, reach: Reach) -> None:
    """Serve, and close the application when it ends."""
    config = uvicorn.Config(
        build(service, reach.names, port=reach.port, secure=reach.secure),
        host=reach.host,
        port=reach.port,
        log_level="warning",
        timeout_graceful_shutdown=2,
        ssl_certfile=reach.cert,
        ssl_keyfile=reach.key,
        proxy_headers=reach.behind_proxy,
        forwarded_allow_ips="127.0.0.1",
    )
    server = _AnnouncingServer(config)
    server.code = service.entry.code
    server.name = reach.names[len(LOOPBACK)] if len(reach.names) > len(LOOPBACK) else "127.0.0.1"
    try:
        server.run()
    finally:
        service.close()


class _AnnouncingServer(uvicorn.Server):
    """Prints the address once it is service, and the code that sets the first password."""

    code = ""
    name = "127.0.0.1"

    async def startup(self, sockets: list[object] | None = None) -> None:  # type: ignore[override]
        await super().startup(sockets)  # type: ignore[arg-type]
        if self.started:
            port = self.servers[0].sockets[0].getsockname()[1]
            scheme = "https" if self.config.is_ssl else "http"
            typer.echo(f"Hieranome is at {scheme}://{self.name}:{port}/  (Ctrl+C ends it)")
            if self.code:
                typer.echo(f"Choose a password there with this code: {self.code}")
            sys.stdout.flush()
