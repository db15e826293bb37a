"""What every answer has in common."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Id = Annotated[int, Field(ge=0, le=2**63 - 1)]
"""A number by which something is stored."""


class Answer(BaseModel):
    """Base of all answers."""

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
    why."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=False, from_attributes=True)

    detail: str
    certificate: CertificateOut | None = None
