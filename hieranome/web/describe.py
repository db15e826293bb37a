"""Writes the OpenAPI description, from which the front end's types are made: ``python -m hieranome.web.describe``."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from hieranome.web.application import build


def description() -> str:
    """The description as JSON, stable from run to run."""
    return json.dumps(build(None).openapi(), indent=1, sort_keys=True, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else None
    if target:
        target.write_text(description(), encoding="utf-8")
    else:
        sys.stdout.write(description())
