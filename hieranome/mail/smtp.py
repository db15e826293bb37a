"""Handing mail in for sending: SMTP (RFC 5321) by submission (RFC 6409), encrypted but on this very machine."""

from __future__ import annotations

import base64
import contextlib
import smtplib
import ssl
from collections.abc import Callable, Iterator, Sequence

from hieranome.core.errors import (
    ConnectionBroken,
    HieranomeError,
    SecretRefused,
    ServerRefused,
    ServerUnreachable,
    WorldError,
)
from hieranome.core.sizes import sized
from hieranome.mail.greeting import distrusted
from hieranome.mail.servers import Login, Server, check_security, quoted, unreachable

TIMEOUT = 60.0


class NotAccepted(ServerRefused):
    """The server will not take this message, now or later: it must be changed first."""


class TryLater(WorldError):
    """The server does not take the message now, but may later; it has not taken it."""

    status = 502


class Unsure(WorldError):
    """The connection broke after the message's bytes were begun: it may have been taken or not."""

    status = 502


def hand_in(
    server: Server,
    login: Login | None,
    sender: str,
    recipients: Sequence[str],
    raw: bytes,
    *,
    begun: Callable[[], None],
    trust: ssl.SSLContext | None = None,
    timeout: float = TIMEOUT,
) -> None:
    """Hand a message in for all its recipients or for none.

    ``begun`` is called when the bytes are about to go: what it records tells, should everything end here, that the
    message may have gone. Raises :class:`NotAccepted`, :class:`TryLater` and the errors of connecting before that, and
    :class:`Unsure` after it.
    """
    where = str(server)
    with _connected(server, trust, timeout) as smtp:
        _enter(smtp, server, login, trust)
        _envelope(smtp, sender, recipients, len(raw), where)
        begun()
        try:
            code, said = smtp.data(raw)
        except smtplib.SMTPDataError as exc:
            raise _refusal(exc.smtp_code, exc.smtp_error, where, "the message") from exc
        except (smtplib.SMTPException, OSError) as exc:
            raise Unsure(
                f"The connection to {where} broke while the message was handed in, so it may have gone or not. Look "
                "into Sent or ask a recipient before you send it again."
            ) from exc
        if code != 250:
            raise _refusal(code, said, where, "the message")


def try_out(
    server: Server, login: Login | None, *, trust: ssl.SSLContext | None = None, timeout: float = TIMEOUT
) -> None:
    """Sign in to hand mail in, and hand none in. Raises the errors of connecting and of signing in."""
    with _connected(server, trust, timeout) as smtp:
        _enter(smtp, server, login, trust)


@contextlib.contextmanager
def _connected(server: Server, trust: ssl.SSLContext | None, timeout: float) -> Iterator[smtplib.SMTP]:
    context = check_security(server, trust)
    try:
        if server.security == "tls":
            smtp: smtplib.SMTP = smtplib.SMTP_SSL(server.host, server.port, timeout=timeout, context=context)
        else:
            smtp = smtplib.SMTP(server.host, server.port, timeout=timeout)
    except ssl.SSLCertVerificationError as exc:
        raise distrusted("smtp", server, exc) from exc
    except (OSError, smtplib.SMTPException) as exc:
        raise unreachable("SMTP", server, exc) from exc
    try:
        yield smtp
    finally:
        with contextlib.suppress(OSError, smtplib.SMTPException):
            smtp.quit()
        smtp.close()


def _enter(smtp: smtplib.SMTP, server: Server, login: Login | None, trust: ssl.SSLContext | None) -> None:
    try:
        smtp.ehlo()
        if server.security == "starttls":
            smtp.starttls(context=check_security(server, trust))
            smtp.ehlo()
        if login is not None and smtp.has_extn("auth"):
            if login.bearer:
                _show_token(smtp, server, login)
            elif not f"{login.user}{login.secret}".isascii():
                _say(smtp, "PLAIN", f"\0{login.user}\0{login.secret}")  # RFC 4616: the library says ASCII alone
            else:
                smtp.login(login.user, login.secret)
    except smtplib.SMTPAuthenticationError as exc:
        raise SecretRefused(
            f"{server} does not let {login.user if login else ''} hand mail in with this secret"
            f"{quoted(exc.smtp_error, login)}. Check the user name and the password; many providers want an app "
            "password instead of the usual one."
        ) from None
    except ssl.SSLCertVerificationError as exc:
        raise distrusted("smtp", server, exc) from exc
    except smtplib.SMTPNotSupportedError as exc:
        raise ServerUnreachable(f"{server} does not offer what the settings ask of it ({exc}).") from exc
    except (smtplib.SMTPException, OSError) as exc:
        raise ConnectionBroken(f"The connection to {server} broke ({exc}). It is tried again by itself.") from exc


def _show_token(smtp: smtplib.SMTP, server: Server, login: Login) -> None:
    """Sign in with a token, by RFC 7628 where the server takes it, else as it was done before. What a server says
    instead of refusing at once is answered with what ends it."""
    if "OAUTHBEARER" in smtp.esmtp_features.get("auth", "").upper().split():
        name = login.user.replace("=", "=3D").replace(",", "=2C")
        said = f"n,a={name},\1host={server.host}\1port={server.port}\1auth=Bearer {login.secret}\1\1"
        method, last = "OAUTHBEARER", "\1"
    else:
        said = f"user={login.user}\1auth=Bearer {login.secret}\1\1"
        method, last = "XOAUTH2", ""
    _say(smtp, method, said, last)


def _say(smtp: smtplib.SMTP, method: str, said: str, last: str = "") -> None:
    """Sign in by one message of a SASL method, and by the ``last`` that ends it where the server asks on."""
    code, told = smtp.docmd("AUTH", f"{method} {base64.b64encode(said.encode()).decode('ascii')}")
    if code == 334:
        code, told = smtp.docmd(base64.b64encode(last.encode()).decode("ascii"))
    if code not in (235, 503):
        raise smtplib.SMTPAuthenticationError(code, told)


def _envelope(smtp: smtplib.SMTP, sender: str, recipients: Sequence[str], size: int, where: str) -> None:
    limit = int(smtp.esmtp_features.get("size", "0").strip() or 0)
    if limit and size > limit:
        raise NotAccepted(
            f"The message is {sized(size)}, and {where} takes no more than {sized(limit)}. "
            "Take attachments out, or send them another way."
        )
    try:
        code, said = smtp.mail(sender, [f"SIZE={size}"] if limit else [])
        if code != 250:
            raise _refusal(code, said, where, f"mail from {sender}")
        for one in recipients:
            code, said = smtp.rcpt(one)
            if code not in (250, 251):
                smtp.rset()
                raise _refusal(code, said, where, f"mail to {one}")
    except (smtplib.SMTPException, OSError) as exc:
        raise TryLater(f"The connection to {where} broke ({exc}). Nothing was sent; it is tried again.") from exc


def _refusal(code: int, said: bytes | str, where: str, what: str) -> HieranomeError:
    text = " ".join((said.decode("utf-8", "replace") if isinstance(said, bytes) else said).split())[:200]
    if 400 <= code < 500:
        return TryLater(f"{where} does not take {what} now ({code} {text}). It is tried again.")
    return NotAccepted(
        f"{where} does not take {what} ({code} {text}). Nobody was sent anything; change the message and send it again."
    )
