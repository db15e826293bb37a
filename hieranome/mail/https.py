"""One request over HTTPS, bounded in time and size: no redirect is followed, no cookie kept."""

from __future__ import annotations

import http.client
import ssl
from collections.abc import Mapping
from urllib.parse import urlencode, urlsplit

from hieranome.mail.deadline import ended_after
from hieranome.mail.greeting import Connect, straight
from hieranome.mail.servers import PATIENCE

MAX_ANSWER = 65_536
"""Bytes of an answer that are read."""
_FORM = {"Content-Type": "application/x-www-form-urlencoded"}


def ask(
    url: str,
    accept: str,
    form: Mapping[str, str] | None = None,
    *,
    connect: Connect = straight,
    trust: ssl.SSLContext | None = None,
) -> tuple[int, bytes]:
    """The status and content a server answers a GET with, or with a ``form`` a POST. ``connect`` reaches the world,
    ``trust`` replaces the system's certificates. Raises :class:`OSError` where no whole answer comes."""
    try:
        parts = urlsplit(url)
        host, port = parts.hostname or "", parts.port or 443
        if parts.scheme != "https" or not host:
            raise ConnectionError("its address is not one of HTTPS")
        context = trust or ssl.create_default_context()
        connection = http.client.HTTPSConnection(host, port, timeout=PATIENCE, context=context)
    except ValueError as exc:
        raise ConnectionError("its address cannot be read") from exc
    path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
    headers = {"Accept": accept, "Connection": "close"}
    try:
        with connect(host, port, PATIENCE) as line:
            connection.sock = context.wrap_socket(line, server_hostname=host, do_handshake_on_connect=False)
        with ended_after(connection.sock, PATIENCE):
            connection.sock.do_handshake()
            if form is None:
                connection.request("GET", path, headers=headers)
            else:
                connection.request("POST", path, urlencode(form), headers | _FORM)
            with connection.getresponse() as answer:
                content = answer.read(MAX_ANSWER + 1)
    except (http.client.HTTPException, ValueError) as exc:
        if isinstance(exc, OSError):
            raise
        raise ConnectionError(type(exc).__name__) from exc
    finally:
        connection.close()
    if len(content) > MAX_ANSWER:
        raise ConnectionError("its answer is too long")
    return answer.status, content
