"""The tree of errors, in three families: the caller's fault, the world's fault, our own.

Every message says what is wrong, why, and how to mend it. ``status`` is the HTTP status
that one handler in :mod:`hieranome.web` gives to it; the command line exits with ``exit_code``.
"""

from __future__ import annotations


class HieranomeError(Exception):
    """Root of everything Hieranome raises on purpose."""

    status = 500
    exit_code = 1


# --- the caller's fault ---------------------------------------------------------------


class CallerError(HieranomeError):
    """The request cannot be carried out as it was put."""

    status = 422
    exit_code = 2


class NotFound(CallerError):
    """The thing named does not exist."""

    status = 404


class Conflict(CallerError):
    """The request contradicts the state it meets."""

    status = 409


class Asks(Conflict):
    """It can be done, and reaches so far that the owner has to say once more that they mean it."""


class NotSignedIn(CallerError):
    """Nobody is signed in, or not with this password."""

    status = 401


class TooOften(CallerError):
    """Tried too often; it may be tried again later."""

    status = 429


class NotMail(CallerError):
    """A file offered for import holds no mail that can be told apart."""


class StaleCursor(CallerError):
    """A page cursor cannot be read."""


# --- the world's fault ----------------------------------------------------------------


class WorldError(HieranomeError):
    """The machine or a file refused."""

    status = 503
    exit_code = 3


class Unreadable(WorldError):
    """A path cannot be opened or read."""

    status = 422


class MessageUnreadable(WorldError):
    """A message could not be read; it is kept whole and shown as its source."""

    status = 422


class StoreFull(WorldError):
    """The disk that holds the data cannot take more; the last step was undone whole."""

    status = 507


class StoreUnusable(WorldError):
    """The data file cannot be opened as one of ours."""


class ServerUnreachable(WorldError):
    """A mail server could not be reached, or did not speak as one."""

    status = 502


class SecretRefused(WorldError):
    """A mail server did not accept the user name, password or token."""

    status = 422


class ConnectionBroken(WorldError):
    """A connection broke while it was used; what was under way is looked up when it stands again."""

    status = 502


class ServerFull(WorldError):
    """The mailbox on the server holds as much as it may."""

    status = 507


class NotPermitted(WorldError):
    """The server does not let this account do that."""

    status = 502


class FolderMissing(WorldError):
    """A folder is not on the server."""

    status = 502


class ServerRefused(WorldError):
    """A mail server refused a command for a reason of its own, which the message quotes."""

    status = 502


# --- our bug --------------------------------------------------------------------------


class InternalError(HieranomeError):
    """An invariant of ours does not hold."""
