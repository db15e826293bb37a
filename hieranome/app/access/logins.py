"""Who signs in at the servers of a mailbox, and with what: its password, or a token, renewed when it runs out."""

from __future__ import annotations

import threading

from hieranome.app.access.vault import Vault
from hieranome.core.errors import SecretRefused
from hieranome.mail.oauth import Provider, Tokens, TokenServer
from hieranome.mail.servers import Login
from hieranome.store.accounts import NewAccount


class Logins:
    """The logins of all mailboxes. Each is renewed by one thread at a time, since a refresh token may be good for one
    use alone."""

    def __init__(self, vault: Vault, servers: TokenServer | None = None) -> None:
        self.vault = vault
        self.servers = servers or TokenServer()
        self._lock = threading.Lock()

    def of(self, account: NewAccount, *, refused: str = "") -> Login:
        """The login of a mailbox. ``refused`` is a token its server did not take although it had not run out: the next
        one is asked for. Raises :class:`SecretRefused` where the secret cannot be read or no token is given, and
        :class:`ServerUnreachable` where it cannot be asked for."""
        if not account.token_url:
            return Login(account.user, self._secret(account), account.bearer)
        with self._lock:
            tokens = Tokens.of(self._secret(account))
            if tokens.has_run_out(self.servers.now()) or tokens.access == refused:
                tokens = self.servers.renew(provider_of(account), tokens)
                self.vault.put(account.address, tokens.kept(), self.vault.kind(account.address) or "file")
        return Login(account.user, tokens.access, bearer=True)

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
