"""The web application: routers, the guard, the page, one place where errors become answers."""

from __future__ import annotations

from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager
from dataclasses import asdict
from functools import cache
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from starlette.middleware.gzip import GZipMiddleware
from starlette.routing import BaseRoute
from starlette.staticfiles import StaticFiles

from hieranome import __version__
from hieranome.app.service import Service
from hieranome.core.errors import Asks, HieranomeError
from hieranome.mail.servers import CertificateRefused
from hieranome.web.guard import LOOPBACK, Guard
from hieranome.web.models.answer import CertificateOut, Problem
from hieranome.web.routers import (
    addresses,
    away,
    bulk,
    connecting,
    editions,
    entry,
    filing,
    following,
    house,
    mail,
    mailboxes,
    phrases,
    queues,
    routines,
    rules,
    search,
    second_look,
    short,
    sources,
    sure,
    tags,
    teaching,
    topics,
    trays,
    writing,
)

STATIC = Path(__file__).parent / "static"
PARTS = (
    connecting, entry, mail, teaching, filing, search, sources, bulk, addresses, editions,
    sure, mailboxes, writing, tags, rules, topics, trays, second_look, following, phrases, routines, away, queues,
    short, house,
)  # fmt: skip
"""The routers of the API, in the order it is described in."""
MAX_PATH = 200
"""Characters of a path that a file of the page may have."""


def build(service: Service | None, hosts: Iterable[str] = LOOPBACK, *, port: int = 0, secure: bool = False) -> FastAPI:
    """The application around a mailroom; without one, only its description can be asked for. ``port`` names the
    session's cookie apart from that of a neighbour on another port; ``secure`` says that it is reached by TLS."""
    app = FastAPI(
        title="Hieranome",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=_lifespan,
    )
    app.state.service = service
    app.state.cookie = f"hieranome-{port}"
    app.state.secure = secure
    app.add_exception_handler(HieranomeError, _answer_error)
    app.add_exception_handler(RequestValidationError, _answer_malformed)
    app.router.routes.extend(_api())
    _serve_page(app)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    is_in = service.entry.is_in if service is not None else bool
    app.add_middleware(Guard, hosts=hosts, cookie=app.state.cookie, secure=secure, is_in=is_in)
    return app


@cache
def _api() -> tuple[BaseRoute, ...]:
    """The routes of the API. They are the same for every application, which they find by the request, and take most of
    the time it takes to make one."""
    problems: dict[int | str, dict[str, object]] = {
        422: {"model": Problem, "description": "The request cannot be carried out as it was put"},
        "4XX": {
            "model": Problem,
            "description": "It is refused: nobody is signed in, nothing is there, it is too much",
        },
        "5XX": {"model": Problem, "description": "A server it needs, or the disk, fails"},
    }
    whole = FastAPI(openapi_url=None, generate_unique_id_function=lambda route: route.name)
    for part in PARTS:
        whole.include_router(part.router, prefix="/api", responses=problems)
    whole.include_router(following.outside)
    return tuple(whole.router.routes)


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    service: Service | None = app.state.service
    if service is None:
        yield
        return
    service.start()
    yield
    service.stop()


async def _answer_error(_request: Request, exc: Exception) -> JSONResponse:
    status = exc.status if isinstance(exc, HieranomeError) else 500
    shown = None
    if isinstance(exc, CertificateRefused) and exc.shown is not None:
        shown = CertificateOut(host=exc.server.host, port=exc.server.port, **asdict(exc.shown))
    return _problem(str(exc), status, shown, asks=isinstance(exc, Asks))


def _problem(said: str, status: int, shown: CertificateOut | None = None, *, asks: bool = False) -> JSONResponse:
    told = Problem(detail=said.encode("utf-8", "replace").decode(), certificate=shown, asks=asks or None)
    return JSONResponse(told.model_dump(exclude_none=True), status_code=status)


async def _answer_malformed(_request: Request, exc: Exception) -> JSONResponse:
    """What is wrong with a request, without what stood in it: it may hold a password."""
    found = exc.errors() if isinstance(exc, RequestValidationError) else []
    said = "; ".join(f"{'.'.join(map(str, one['loc'][1:])) or one['loc'][0]}: {one['msg']}"[:300] for one in found[:5])
    return _problem(f"The request is not as it should be ({said}). Load the page again and try once more.", 422)


def _serve_page(app: FastAPI) -> None:
    if (STATIC / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith(("api/", "assets/")) or "\x00" in path or len(path) > MAX_PATH:
            return _problem(f"There is nothing at /{path[:MAX_PATH]}.", 404)
        file = (STATIC / path).resolve()
        if path and file.is_file() and file.is_relative_to(STATIC.resolve()):
            return FileResponse(file)
        index = STATIC / "index.html"
        if not index.is_file():
            return JSONResponse(
                {"detail": "The page is not built. Run 'make setup' in a checkout, or install the released package."},
                status_code=503,
            )
        return FileResponse(index, headers={"cache-control": "no-cache"})
