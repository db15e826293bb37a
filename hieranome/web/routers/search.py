"""The search line, what completes it, searches kept by name."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import searching
from hieranome.app.searching import MAX_PAGE, Ranking
from hieranome.core.operators import OPERATORS
from hieranome.core.values import QueryError
from hieranome.web.models.answer import Id
from hieranome.web.models.search import (
    FoundOut,
    InsteadOut,
    OperatorOut,
    SavedIn,
    SavedOut,
    SuggestionOut,
    TermOut,
    UnderstoodOut,
)
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["search"])

Line = Annotated[str, Query(max_length=2_000)]


@router.get("/search")
def search_mail(
    room: RoomDep,
    line: Line,
    order: Ranking = "relevance",
    cursor: str = "",
    limit: Annotated[int, Query(ge=1, le=MAX_PAGE)] = 100,
) -> FoundOut:
    """One page of what a line finds; pass ``next`` back as ``cursor`` for the following one."""
    found = searching.find(room, line, order, cursor, limit)
    return FoundOut(
        messages=rows_out(room, found.page.messages),
        next=found.page.next,
        sentence=found.query.sentence,
        hints=list(found.query.hints),
        terms=[TermOut.model_validate(one) for one in found.query.terms],
        total=found.total,
        beyond=found.beyond,
    )


@router.get("/search/instead")
def search_instead(room: RoomDep, line: Line) -> list[InsteadOut]:
    """Lines that find something where this one finds nothing: other spellings first, then one condition fewer."""
    return [InsteadOut.model_validate(one) for one in searching.instead(room, line)]


@router.get("/search/understood")
def understand_line(room: RoomDep, line: Line) -> UnderstoodOut:
    """What a line means so far, and ways to go on with it."""
    suggestions = [SuggestionOut.model_validate(one) for one in searching.suggest(room, line)]
    try:
        query = searching.understand(room, line)
    except QueryError as exc:
        return UnderstoodOut(sentence="", problem=str(exc), hints=[], terms=[], suggestions=suggestions)
    return UnderstoodOut(
        sentence=query.sentence,
        problem="",
        hints=list(query.hints),
        terms=[TermOut.model_validate(one) for one in query.terms],
        suggestions=suggestions,
    )


@router.get("/search/operators")
def list_operators() -> list[OperatorOut]:
    """The operators a search line knows."""
    return [
        OperatorOut(
            name=one.name,
            label=one.label,
            takes=one.takes,
            title=one.title,
            example=one.example,
            choices=list(one.choices),
        )
        for one in OPERATORS
    ]


@router.get("/searches")
def list_searches(room: RoomDep) -> list[SavedOut]:
    """The saved searches."""
    return [SavedOut.model_validate(one) for one in searching.saved(room)]


@router.post("/searches")
def save_search(room: RoomDep, wanted: SavedIn) -> SavedOut:
    """Keep a search under a name."""
    return SavedOut.model_validate(searching.save(room, wanted.name, wanted.line))


@router.delete("/searches/{number}", status_code=204)
def remove_search(room: RoomDep, number: Id) -> None:
    """Keep a search no longer."""
    searching.forget(room, number)
