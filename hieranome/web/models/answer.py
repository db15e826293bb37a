"""What every answer has in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Answer(BaseModel):
    """Base of all answers."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True, from_attributes=True)


class Problem(Answer):
    """Why a request was refused: what, why, how to mend it."""

    detail: str
