"""What every answer has in common."""

from __future__ import annotations

from dataclasses import fields
from inspect import get_annotations
from typing import Annotated, Any, get_type_hints

from pydantic import BaseModel, ConfigDict, Field

Id = Annotated[int, Field(ge=0, le=2**63 - 1)]
"""A number by which something is stored."""


class Answer(BaseModel):
    """Base of all answers. One may take its fields from what it tells of: ``class StepOut(Answer, of=Step)`` has those
    of the dataclass ``Step``, in their order; what is written in its body stands in their place, or behind them."""

    def __init_subclass__(cls, of: type | None = None, **more: Any) -> None:
        """Add the fields of a dataclass, before those of the answer are gathered."""
        super().__init_subclass__(**more)
        if of is not None:
            hints = get_type_hints(of)
            taken = {one.name: hints[one.name] for one in fields(of)}
            cls.__annotations__ = taken | get_annotations(cls)

    model_config = ConfigDict(json_schema_serialization_defaults_required=True, from_attributes=True)


class CertificateOut(Answer):
    """A certificate that is not trusted: which server showed it, who issued it, for how long (YYYY-MM-DD), and its
    SHA-256 fingerprint, by which the owner may trust it."""

    host: str
    port: int
    issuer: str
    first: str
    last: str
    fingerprint: str


class Problem(Answer):
    """Why a request was refused: what, why, how to mend it; with the certificate that was not trusted, where that is
    why. ``asks`` says that it is done where the same is sent again with ``confirmed``."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=False, from_attributes=True)

    detail: str
    certificate: CertificateOut | None = None
    asks: bool | None = None
