"""What every answer has in common."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Id = Annotated[int, Field(ge=0, le=2**63 - 1)]
"""A number by which something is stored."""


class Answer(BaseModel):
    """Base of all answers."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True, from_attributes=True)


class Problem(Answer):
    """Why a request was refused: what, why, how to mend it."""

    detail: str
