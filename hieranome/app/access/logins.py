"""Who signs in at the servers of a mailbox, and with what: its password, or a token, renewed when it runs out."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar

from hieranome.app.access.vault import Vault
from hieranome.core.errors import SecretRefused, WorldError
from hieranome.mail.oauth import Provider, Tokens, TokenServer
from hieranome.mail.servers import Login
from hieranome.store.accounts import NewAccount

T = TypeVar("T")


class Logins:
    """The logins of all mailboxes. Each is renewed by one thread at a time, since a refresh token may be good for one
    use alone."""

    def __init__(self, vault: Vault, servers: TokenServer | None = None) -> None:
        self.vault = vault
        self.servers = servers or TokenServer()
        self._lock = threading.Lock()
        self._unkept: dict[str, Tokens] = {}

    def of(self, account: NewAccount, *, refused: str = "") -> Login:
        """The login of a mailbox. ``refused`` is a token its server did not take although it had not run out: the next
        one is asked for. Raises :class:`SecretRefused` where the secret cannot be read or no token is given, and
        :class:`ServerUnreachable` where it cannot be asked for."""
        if not account.token_url:
            return Login(account.user, self._secret(account), account.bearer)
        with self._lock:
            kept = Tokens.of(self._secret(account))
            tokens = self._unkept.get(account.address, kept)
            if tokens.has_run_out(self.servers.now()) or tokens.access == refused:
                tokens = self.servers.renew(provider_of(account), tokens)
            if tokens != kept:
                self._keep(account.address, tokens)
        return Login(account.user, tokens.access, bearer=True)

    def enter(self, account: NewAccount, work: Callable[[Login], T]) -> T:
        """What work gives that signs in with the login of a mailbox. Where its token is refused although it had not run
        out, it is done once more with the next. Raises what :meth:`of` and the work raise."""
        login = self.of(account)
        try:
            return work(login)
        except SecretRefused:
            if not account.token_url:
                raise
        return work(self.of(account, refused=login.secret))

    def _keep(self, address: str, tokens: Tokens) -> None:
        """Keep renewed tokens. The refresh token before them may be good no more, so where they cannot be kept (a full
        disk) they are held until they can."""
        try:
            self.vault.put(address, tokens.kept(), self.vault.kind(address) or "file")
            self._unkept.pop(address, None)
        except WorldError:
            self._unkept[address] = tokens

    def forget(self, address: str) -> None:
        """Hold nothing of a mailbox any more: its secret was entered anew or is forgotten."""
        with self._lock:
            self._unkept.pop(address, None)

    def _secret(self, account: NewAccount) -> str:
        secret = self.vault.get(account.address)
        if secret is None:
            raise SecretRefused(
                f"The secret of {account.address} cannot be read. Sign in here once, or enter it anew under Mailboxes."
            )
        return secret


def provider_of(account: NewAccount) -> Provider:
    """Where the owner authorised a mailbox; its client's secret is kept with the tokens."""
    return Provider(account.authorise_url, account.token_url, account.client_id, account.scope)
