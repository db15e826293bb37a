"""Errors of IMAP connections, told as ours."""

from __future__ import annotations

import contextlib
import imaplib
from collections.abc import Iterator

from imapclient.exceptions import IMAPClientAbortError, IMAPClientError, ProtocolError

from hieranome.core.errors import (
    ConnectionBroken,
    FolderMissing,
    HieranomeError,
    NotPermitted,
    ServerFull,
    ServerRefused,
)
from hieranome.mail.charsets import valid


@contextlib.contextmanager
def translated(where: str) -> Iterator[None]:
    """Within it, foreign errors become ours."""
    try:
        yield
    except HieranomeError:
        raise
    except (IMAPClientAbortError, imaplib.IMAP4.abort, OSError, EOFError, ProtocolError) as exc:
        raise ConnectionBroken(
            f"The connection to {where} broke ({valid(str(exc))[:500]}). It is made again by itself."
        ) from exc
    except (IMAPClientError, imaplib.IMAP4.error) as exc:
        raise _refused(where, valid(str(exc))[:500]) from exc
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as exc:
        # An answer cut off in its middle reaches us as whatever the parser stumbled over.
        raise ConnectionBroken(f"{where} gave an answer that cannot be read ({valid(repr(exc))[:500]}).") from exc


def _refused(where: str, said: str) -> HieranomeError:
    upper = said.upper()
    if "OVERQUOTA" in upper or "QUOTA EXCEEDED" in upper or "OVER QUOTA" in upper:
        return ServerFull(
            f"The mailbox at {where} is full, so nothing more can be put there. Free some space on the server; it is "
            "tried again by itself."
        )
    if "NOPERM" in upper or "PERMISSION" in upper or "ACL" in upper.split() or "READ-ONLY" in upper:
        return NotPermitted(f"{where} does not permit this ({said}). Ask whoever runs it for the right to change it.")
    if any(code in upper for code in ("TRYCREATE", "NONEXISTENT", "DOESN'T EXIST", "NO SUCH")):
        return FolderMissing(f"The folder is not on {where} ({said}).")
    if "TOO LARGE" in upper or "TOOBIG" in upper or "LIMIT" in upper:
        return ServerRefused(f"{where} does not take a message of this size ({said}).")
    return ServerRefused(f"{where} refused a command ({said}).")
