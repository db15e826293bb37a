"""Sizes in words."""

from __future__ import annotations


def sized(count: int) -> str:
    """A number of bytes as one says it, in powers of ten: 64 KB, 1.5 MB."""
    for unit, one in (("GB", 1_000_000_000), ("MB", 1_000_000)):
        if count >= one:
            return f"{count / one:.1f}".removesuffix(".0") + f" {unit}"
    return f"{count / 1000:.0f} KB" if count >= 1000 else f"{count} B"
