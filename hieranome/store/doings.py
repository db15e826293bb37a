"""What rules and routines do, as it is stored."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from hieranome.core.doings import Action, V


def packed(actions: Iterable[Action[V]]) -> str:
    """Actions as one text: a list of {"verb", "target"}."""
    return json.dumps([{"verb": one.verb, "target": one.target} for one in actions], ensure_ascii=False)


def unpacked(text: str) -> tuple[Action[Any], ...]:
    """Actions out of their text. Raises :class:`ValueError` or :class:`TypeError` for what is none."""
    return tuple(Action(**one) for one in json.loads(text))
