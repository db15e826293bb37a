"""Which organisation a domain belongs to, by the public suffix list that ships with its package: nothing is fetched."""

from __future__ import annotations

from functools import lru_cache

from tldextract import TLDExtract

_EXTRACT = TLDExtract(cache_dir=None, suffix_list_urls=(), include_psl_private_domains=True)


@lru_cache(maxsize=4096)
def organisation(domain: str) -> str:
    """The organisational domain (RFC 7489, section 3.2) of a domain; of a suffix the list does not
    know, the last two labels."""
    return _EXTRACT.extract_str(domain).top_domain_under_public_suffix or ".".join(domain.split(".")[-2:])
