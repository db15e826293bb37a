"""Generated examples: Hypothesis, with no bound on how long an example or the making of one takes.

Tests take ``given``, ``settings`` and ``st`` from here, so that none of them fails because a machine is busy.
"""

from __future__ import annotations

from hypothesis import HealthCheck, example, given, seed, settings
from hypothesis import strategies as st

__all__ = ["example", "given", "seed", "settings", "st"]

settings.register_profile("patient", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("patient")
