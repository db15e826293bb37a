"""Everything out, and in again elsewhere: mail as an mbox for each place, all else as JSON Lines.

An export is a zip. Each line of ``messages.jsonl`` says where its message's bytes lie in which mbox, so that they come
back to the byte although the mbox is an ordinary one.
"""

from __future__ import annotations

import base64
import hashlib
import json
import re
import sqlite3
import time
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import asdict
from itertools import groupby
from pathlib import Path
from typing import IO, Any

from pydantic import TypeAdapter

from hieranome import __version__
from hieranome.app.bulk.content import Content
from hieranome.app.reading.incoming import COMPRESSION, words_of
from hieranome.app.reading.processes import reading_of
from hieranome.app.room.arranged import CHECKS
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import GONE
from hieranome.core.errors import CallerError, Conflict, HieranomeError, StoreFull, Unreadable
from hieranome.core.features import unpack
from hieranome.mail.charsets import valid
from hieranome.mail.mbox import quote, unquote
from hieranome.store import (
    arranged,
    editions,
    following,
    messages,
    tags,
    topics,
    transfer,
    unsubscribed,
)

FORMAT = 1
_BATCH = 500
MOST_EDITIONS = 100_000
_REQUESTS = TypeAdapter(list[unsubscribed.Request])
MAX_LINE = 32_000_000
"""Bytes of one line of a table."""
MAX_STORED = 600_000_000
"""Bytes of one message as it lies in an export."""


def export(room: Mailroom, target: Path) -> int:
    """Write everything into a zip; how many messages. Raises :class:`StoreFull` when the disk is full, and leaves no
    half-written file then, and :class:`CallerError` where something else than a file stands there already (a device,
    a folder): it stays as it is."""
    target = target.resolve()
    if target.exists() and not target.is_file():
        raise CallerError(f"{target} is no ordinary file, so nothing was written to it. Name a file that ends in .zip.")
    beside = target.with_name(f"{target.name}.part")
    try:
        with (
            room.store.snapshot() as db,
            zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive,
        ):
            offsets = _write_mail(db, archive)
            for table in transfer.TABLES:
                with archive.open(f"{table}.jsonl", "w", force_zip64=True) as out:
                    for row in transfer.rows(db, table):
                        values = {key: _out(value) for key, value in row.items()}
                        if table == "messages":
                            values |= offsets.get(row["id"], {})
                        out.write(json.dumps(values, ensure_ascii=False, separators=(",", ":")).encode() + b"\n")
            about = {"format": FORMAT, "version": __version__, "at": room.clock(), "messages": len(offsets)}
            archive.writestr("about.json", json.dumps(about, indent=1))
        beside.replace(target)
    except OSError as exc:
        beside.unlink(missing_ok=True)
        raise StoreFull(f"The export could not be written to {target} ({exc.strerror}). Free some space.") from exc
    return len(offsets)


def _write_mail(db: sqlite3.Connection, archive: zipfile.ZipFile) -> dict[int, dict[str, Any]]:
    """Write an mbox for each place; where each message lies."""
    offsets: dict[int, dict[str, Any]] = {}
    for place in transfer.places_with_mail(db):
        name = f"mail/{place}.mbox"
        at = 0
        with archive.open(name, "w", force_zip64=True) as out:
            for number, sender, when, compressed in transfer.mail_of(db, place):
                head, body = _separator(sender, when), quote(zlib.decompress(compressed))
                ended = body.endswith(b"\n")
                out.write(head + body + (b"\n" if ended else b"\n\n"))
                offsets[number] = {"mbox": name, "offset": at + len(head), "length": len(body)}
                at += len(head) + len(body) + (1 if ended else 2)
    return offsets


def _separator(sender: str, at: int) -> bytes:
    who = re.sub(r"\s", "", sender) or "MAILER-DAEMON"
    return f"From {who} {time.asctime(time.gmtime(at))}\n".encode("ascii", "replace")


def _out(value: object) -> object:
    return {"base64": base64.b64encode(value).decode("ascii")} if isinstance(value, bytes) else value


def _in(value: object) -> object:
    return base64.b64decode(value["base64"]) if isinstance(value, dict) else value


def restore(room: Mailroom, source: Path) -> int:
    """Read an export into a data folder that holds no mail yet; how many messages. All of it comes in, or nothing.

    Raises :class:`Conflict` when there is mail here, :class:`Unreadable` or :class:`CallerError` for what is no export
    or was changed.
    """
    if messages.any_here(room.reader()):
        raise Conflict("There is mail in this data folder already. Name a new folder with --data to restore an export.")
    return _restore(room, source)


def _restore(room: Mailroom, source: Path) -> int:
    try:
        with zipfile.ZipFile(source) as archive:
            about = json.loads(_bounded_line(archive, "about.json"))
            if not isinstance(about, dict) or about.get("format") != FORMAT:
                told = about.get("format") if isinstance(about, dict) else None
                raise CallerError(
                    f"{source} was written in format {told}, and this version reads {FORMAT}. Use the Hieranome that "
                    "wrote it, or a newer one."
                )
            with room.change() as db:
                room.touch()
                _read_tables(db, archive)
                room.load()  # what cannot be made a model of is no export
                _check_bulk(db)
                return messages.how_many(db)
    except HieranomeError:
        raise
    except (OSError, zipfile.BadZipFile, zlib.error) as exc:
        raise Unreadable(f"{source} cannot be read as an export ({exc}). Choose the file as it was written.") from exc
    except (KeyError, ValueError, TypeError, AttributeError, ArithmeticError, RuntimeError, sqlite3.Error) as exc:
        raise CallerError(
            f"{source} is not a whole export ({valid(repr(exc))[:300]}). Nothing was brought in."
        ) from exc


def _check_bulk(db: sqlite3.Connection) -> None:
    """Read what is arranged, editions and requests to unsubscribe as they are read later. Raises what they hold that
    cannot be."""
    for check in CHECKS.values():
        check(db)
    for one in editions.recent(db, 0, MOST_EDITIONS):
        Content.read(editions.get(db, one.id)[1])
    _REQUESTS.validate_python([asdict(one) for one in unsubscribed.every(db)])
    tags.check(db)
    arranged.check(db)
    topics.check(db)
    following.check(db)


def _bounded_line(archive: zipfile.ZipFile, name: str) -> bytes:
    with archive.open(name) as file:
        return _line(file.read(MAX_LINE + 1), name)


def _line(line: bytes, name: str) -> bytes:
    if len(line) > MAX_LINE:
        raise ValueError(f"{name} has a line of more than {MAX_LINE:,} bytes")
    return line


def _read_tables(db: sqlite3.Connection, archive: zipfile.ZipFile) -> None:
    transfer.clear(db)
    where: list[dict[str, Any]] = []
    for table in transfer.TABLES:
        if table in transfer.LATER and f"{table}.jsonl" not in archive.namelist():
            continue
        known = transfer.columns(db, table)
        for values in _lines(archive, f"{table}.jsonl"):
            if table == "messages" and values["place"] != GONE:
                where.append({key: values.pop(key) for key in ("mbox", "offset", "length")} | {"id": values["id"]})
                where[-1]["digest"] = _in(values["digest"])
            if table == "vectors":
                unpack(_blob(values["features"]))
            for name in transfer.NO_LONGER.get(table, ()):
                values.pop(name, None)
            if not set(values) <= known:
                raise ValueError(f"{table} has columns this version does not know")
            transfer.put(db, table, {name: _in(value) for name, value in values.items()})
    transfer.complete(db)
    _read_mail(db, archive, where)


def _lines(archive: zipfile.ZipFile, name: str) -> Iterator[dict[str, Any]]:
    with archive.open(name) as file:
        while line := file.readline(MAX_LINE + 1):
            values = json.loads(_line(line, name))
            if not isinstance(values, dict):
                raise ValueError(f"a line of {name} is no object")
            yield values


def _blob(value: object) -> bytes:
    found = _in(value)
    if not isinstance(found, bytes):
        raise ValueError("a blob is no blob")
    return found


def _read_mail(db: sqlite3.Connection, archive: zipfile.ZipFile, where: list[dict[str, Any]]) -> None:
    where.sort(key=lambda one: (one["mbox"], one["offset"]))
    for mbox, messages_of_it in groupby(where, key=lambda one: one["mbox"]):
        with archive.open(mbox) as file:
            _read_mbox(db, file, messages_of_it)


def _read_mbox(db: sqlite3.Connection, file: IO[bytes], where: Iterable[dict[str, Any]]) -> None:
    numbers: list[int] = []
    at = 0
    for one in where:
        _skip(file, one["offset"] - at)
        if not 0 <= one["length"] <= MAX_STORED:
            raise ValueError(f"message {one['id']} has no length that can be")
        raw = unquote(file.read(one["length"]), reversible=True)
        at = one["offset"] + one["length"]
        if hashlib.sha256(raw).digest() != one["digest"]:
            raise ValueError(f"message {one['id']} was changed")
        _store(db, one["id"], raw)
        numbers.append(one["id"])
        if len(numbers) == _BATCH:
            messages.index(db, numbers)
            numbers.clear()
    messages.index(db, numbers)


def _skip(file: IO[bytes], count: int) -> None:
    if count < 0:
        raise ValueError("messages lie in one another")
    while count > 0:
        piece = file.read(min(count, 1 << 20))
        if not piece:
            raise ValueError("a mailbox file is too short")
        count -= len(piece)


def _store(db: sqlite3.Connection, number: int, raw: bytes) -> None:
    reading = reading_of(raw)
    facts = reading.facts
    messages.put_mail(db, number, zlib.compress(raw, COMPRESSION), words_of(facts, reading.text))
