"""Imports, settings, the demo's delivery, events."""

from __future__ import annotations

import asyncio
import json
import re
import secrets
import shutil
import tempfile
import time
from collections.abc import AsyncIterator, Callable
from dataclasses import asdict
from functools import partial
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Form, Header, Request, UploadFile
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.background import BackgroundTask

from hieranome import __version__
from hieranome.app import exporting, owner_settings
from hieranome.app.arrival import importing
from hieranome.app.arrival.importing import ImportJob
from hieranome.app.room.events import Events
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.core.errors import CallerError, StoreFull
from hieranome.web.guard import session_of
from hieranome.web.models.answer import Id
from hieranome.web.models.house import (
    AboutOut,
    DeliveryIn,
    DeliveryOut,
    GuestOut,
    ImportOut,
    LookIn,
    LookOut,
    SettingsIn,
    SettingsOut,
    TroubleOut,
)
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["house"])


@router.get("/about")
def about(service: ServiceDep) -> AboutOut:
    """What runs here."""
    guest = GuestOut.model_validate(service.guest) if service.guest else None
    return AboutOut(version=__version__, demo=service.demo, guest=guest)


@router.get("/health")
def show_trouble(service: ServiceDep) -> list[TroubleOut]:
    """What works behind the page and is in trouble now; mostly nothing."""
    return [
        TroubleOut(name=one.name, doing=one.doing, failures=one.failures, error=one.error or "It ended.")
        for one in (worker.health for worker in service.workers)
        if one.in_trouble
    ]


@router.post("/imports", status_code=202)
async def start_import(
    service: ServiceDep, files: Annotated[list[UploadFile], File()], mine: Annotated[bool, Form()] = False
) -> ImportOut:
    """Import dropped files: mbox files or single messages. Answers at once; progress comes as events. ``mine`` is the
    owner's word that mail in them that bears one of their addresses is theirs."""
    return await run_in_threadpool(_lay_down, service, files, mine)


def _lay_down(service: Service, files: list[UploadFile], mine: bool) -> ImportOut:
    folder = service.importer.incoming / secrets.token_hex(8)
    folder.mkdir(parents=True)
    try:
        for number, file in enumerate(files):
            name = re.sub(r"[^\w.,:=@ -]+", "_", file.filename or "mail")[-120:].lstrip(".") or "mail"
            with (folder / f"{number:04d}-{name}").open("wb") as target:
                shutil.copyfileobj(file.file, target, 1 << 20)
    except OSError as exc:
        shutil.rmtree(folder, ignore_errors=True)
        if exc.errno == 28:
            raise StoreFull(
                "The disk is full, so nothing was imported. Free some space and drop the files again."
            ) from exc
        raise CallerError(f"The files could not be laid down ({exc.strerror}). Drop them again.") from exc
    single = next(iter(folder.iterdir())) if len(files) == 1 else None
    if single is not None:
        service.importer.check(single)
    return _import_out(service.room, service.importer.submit(folder.absolute(), mine=mine))


@router.get("/imports")
def list_imports(room: RoomDep) -> list[ImportOut]:
    """The latest imports, newest first."""
    return [_import_out(room, job) for job in importing.recent(room)]


@router.get("/imports/{number}")
def get_import(room: RoomDep, number: Id) -> ImportOut:
    """One import."""
    return _import_out(room, importing.get(room, number))


def _import_out(room: Mailroom, job: ImportJob) -> ImportOut:
    left = [{"path": path, "why": why} for path, why in importing.skipped(room, job)]
    return ImportOut.model_validate(asdict(job) | {"skipped": left})


@router.get("/export", response_class=FileResponse)
def export_everything(room: RoomDep) -> FileResponse:
    """Everything as a zip: mail as an mbox for each place, lessons, states and settings as JSON Lines."""
    folder = Path(tempfile.mkdtemp(prefix="export-", dir=room.store.folder))
    file = folder / "export.zip"
    try:
        exporting.export(room, file)
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    name = f"hieranome-{time.strftime('%Y-%m-%d', time.localtime(room.clock()))}.zip"
    clear = BackgroundTask(shutil.rmtree, folder, ignore_errors=True)
    return FileResponse(file, media_type="application/zip", filename=name, background=clear)


@router.get("/settings")
def get_settings(room: RoomDep) -> SettingsOut:
    """The settings."""
    return SettingsOut.model_validate(owner_settings.current(room))


@router.put("/settings")
def put_settings(room: RoomDep, wanted: SettingsIn) -> SettingsOut:
    """Change the settings that are named."""
    owner_settings.change(room, **wanted.model_dump())
    return get_settings(room)


@router.get("/appearance")
def get_appearance(room: RoomDep) -> LookOut:
    """How the page looks, and its keys."""
    return LookOut.model_validate(owner_settings.look(room))


@router.put("/appearance")
def put_appearance(room: RoomDep, wanted: LookIn) -> LookOut:
    """Keep how the page looks, or its keys; each is a step that can be undone."""
    owner_settings.arrange_look(room, wanted.appearance, wanted.keys)
    return get_appearance(room)


@router.get("/delivery")
def get_delivery(service: ServiceDep) -> DeliveryOut:
    """Whether the demo's day goes on arriving."""
    delivery = service.delivery
    if delivery is None:
        return DeliveryOut(present=False, running=False, interval=0.0, left=0)
    return DeliveryOut(present=True, running=delivery.running, interval=delivery.interval, left=delivery.left)


@router.put("/delivery")
def put_delivery(service: ServiceDep, wanted: DeliveryIn) -> DeliveryOut:
    """Run or pause the demo's day, or change its pace."""
    if service.delivery is None:
        raise CallerError("There is no demo delivery here: it runs with 'make demo' only.")
    service.delivery.set(running=wanted.running, interval=wanted.interval)
    return get_delivery(service)


@router.post("/delivery/next")
def deliver_next(service: ServiceDep) -> DeliveryOut:
    """Let the demo's next message arrive at once."""
    if service.delivery is None or not service.delivery.deliver_now():
        raise CallerError("There is no more demo mail to deliver.")
    return get_delivery(service)


@router.get("/events", response_class=EventSourceResponse)
async def stream_events(
    request: Request, service: ServiceDep, last_event_id: Annotated[str, Header()] = ""
) -> EventSourceResponse:
    """Arrivals, counts, moves and import progress as server-sent events, as long as the session lasts.

    A listener that comes back with Last-Event-ID gets what it missed, or one ``reset`` event when that is
    no longer remembered and everything must be loaded anew.
    """
    events = service.room.events
    session = session_of(request.headers, request.app.state.cookie)
    lasts = partial(service.entry.lasts, session)
    return EventSourceResponse(_events(request, events, last_event_id or events.latest, lasts), ping=20)


async def _events(
    request: Request, events: Events, last: str, lasts: Callable[[], bool] = lambda: True
) -> AsyncIterator[ServerSentEvent]:
    loop = asyncio.get_running_loop()
    woken = asyncio.Event()

    def wake() -> None:
        loop.call_soon_threadsafe(woken.set)

    stop = events.listen(wake)
    try:
        yield ServerSentEvent(event="hello", id=last, data="{}")
        while lasts() and not await request.is_disconnected():
            woken.clear()
            missed = events.since(last)
            if missed is None:
                last = events.latest
                yield ServerSentEvent(event="reset", id=last, data="{}")
            for event in missed or ():
                last = event.id
                yield ServerSentEvent(event=event.kind, id=event.id, data=json.dumps(event.data))
            try:
                await asyncio.wait_for(woken.wait(), 5)
            except TimeoutError:
                continue
    finally:
        stop()
