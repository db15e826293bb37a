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
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

from hieranome import __version__
from hieranome.app.arrive import COMPRESSION
from hieranome.app.mailroom import Mailroom
from hieranome.core.errors import CallerError, Conflict, StoreFull, Unreadable
from hieranome.core.text import spaced
from hieranome.mail.mbox import quote, unquote
from hieranome.mail.reading import correspondents_text, read
from hieranome.store import messages

FORMAT = 1
TABLES = (
    "settings", "places", "threads", "messages", "vectors", "mentions", "answers", "sums", "steps", "moves", "marks",
    "lessons", "vouched", "checkers", "searches", "pictured",
)  # fmt: skip
"""What is written as JSON Lines, in the order it is read in again."""
_BATCH = 500


def export(room: Mailroom, target: Path) -> int:
    """Write everything into a zip; how many messages. Raises :class:`StoreFull` when the disk is full, and leaves no
    half-written file then."""
    beside = target.with_name(f"{target.name}.part")
    db = sqlite3.connect(f"file:{room.store.path}?mode=ro", uri=True)
    db.row_factory = sqlite3.Row
    try:
        db.execute("BEGIN")
        with zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive:
            offsets = _write_mail(db, archive)
            for table in TABLES:
                with archive.open(f"{table}.jsonl", "w", force_zip64=True) as out:
                    for row in db.execute(f"SELECT * FROM {table}"):
                        values = {key: _out(row[key]) for key in row.keys()}  # noqa: SIM118
                        if table == "messages":
                            values |= offsets[row["id"]]
                        out.write(json.dumps(values, ensure_ascii=False, separators=(",", ":")).encode() + b"\n")
            about = {"format": FORMAT, "version": __version__, "at": room.clock(), "messages": len(offsets)}
            archive.writestr("about.json", json.dumps(about, indent=1))
        beside.replace(target)
    except OSError as exc:
        beside.unlink(missing_ok=True)
        raise StoreFull(f"The export could not be written to {target} ({exc.strerror}). Free some space.") from exc
    finally:
        db.close()
    return len(offsets)


def _write_mail(db: sqlite3.Connection, archive: zipfile.ZipFile) -> dict[int, dict[str, Any]]:
    """Write an mbox for each place; where each message lies."""
    offsets: dict[int, dict[str, Any]] = {}
    for (place,) in db.execute("SELECT name FROM places WHERE total > 0").fetchall():
        name = f"mail/{place}.mbox"
        at = 0
        with archive.open(name, "w", force_zip64=True) as out:
            rows = db.execute(
                "SELECT m.id, m.sender_address, m.time, r.zlib FROM messages AS m JOIN raw AS r ON r.message = m.id"
                " WHERE m.place = ? ORDER BY m.time, m.id",
                (place,),
            )
            for row in rows:
                raw = zlib.decompress(row["zlib"])
                head, body = _separator(row["sender_address"], row["time"]), quote(raw)
                ended = body.endswith(b"\n")
                out.write(head + body + (b"\n" if ended else b"\n\n"))
                offsets[row["id"]] = {"mbox": name, "offset": at + len(head), "length": len(body)}
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
    if room.reader().execute("SELECT 1 FROM messages LIMIT 1").fetchone():
        raise Conflict("There is mail in this data folder already. Name a new one with --data to bring an export in.")
    try:
        with zipfile.ZipFile(source) as archive:
            about = json.loads(archive.read("about.json"))
            if about.get("format") != FORMAT:
                raise CallerError(
                    f"{source} was written in format {about.get('format')}, and this version reads {FORMAT}. Use the "
                    f"Hieranome that wrote it ({about.get('version')}), or a newer one."
                )
            with room.changing, room.store.atomic() as db:
                _read_tables(db, archive)
    except (OSError, zipfile.BadZipFile, zlib.error) as exc:
        raise Unreadable(f"{source} cannot be read as an export ({exc}). Choose the file as it was written.") from exc
    except (KeyError, ValueError, TypeError, sqlite3.Error) as exc:
        raise CallerError(f"{source} is not a whole export ({exc!r}). Nothing was brought in.") from exc
    room.load()
    return int(about["messages"])


def _read_tables(db: sqlite3.Connection, archive: zipfile.ZipFile) -> None:
    db.execute("PRAGMA defer_foreign_keys = ON")
    for table in reversed(TABLES):
        db.execute(f"DELETE FROM {table}")
    where: list[dict[str, Any]] = []
    for table in TABLES:
        known = {row[1] for row in db.execute(f"PRAGMA table_info({table})")}
        for values in _lines(archive, f"{table}.jsonl"):
            if table == "messages":
                where.append({key: values.pop(key) for key in ("mbox", "offset", "length")} | {"id": values["id"]})
                where[-1]["digest"] = _in(values["digest"])
            if not set(values) <= known:
                raise ValueError(f"{table} has columns this version does not know")
            names, marks = ", ".join(values), ", ".join("?" * len(values))
            db.execute(f"INSERT INTO {table} ({names}) VALUES ({marks})", [_in(v) for v in values.values()])
    # The counts are kept by triggers, which counted what came in on top of what was written.
    db.execute(
        "UPDATE places SET total = (SELECT count(*) FROM messages WHERE place = name),"
        " unread = (SELECT count(*) FROM messages WHERE place = name AND seen = 0)"
    )
    _read_mail(db, archive, where)


def _lines(archive: zipfile.ZipFile, name: str) -> Iterator[dict[str, Any]]:
    with archive.open(name) as file:
        for line in file:
            yield json.loads(line)


def _read_mail(db: sqlite3.Connection, archive: zipfile.ZipFile, where: list[dict[str, Any]]) -> None:
    where.sort(key=lambda one: (one["mbox"], one["offset"]))
    numbers: list[int] = []
    file: BinaryIO | None = None
    opened, at = "", 0
    for one in where:
        if one["mbox"] != opened:
            if file is not None:
                file.close()
            file = archive.open(one["mbox"])  # type: ignore[assignment]
            opened, at = one["mbox"], 0
        assert file is not None
        file.read(one["offset"] - at)
        raw = unquote(file.read(one["length"]), reversible=True)
        at = one["offset"] + one["length"]
        if hashlib.sha256(raw).digest() != one["digest"]:
            raise ValueError(f"message {one['id']} was changed")
        _store(db, one["id"], raw)
        numbers.append(one["id"])
        if len(numbers) == _BATCH:
            messages.index(db, numbers)
            numbers.clear()
    if file is not None:
        file.close()
    messages.index(db, numbers)


def _store(db: sqlite3.Connection, number: int, raw: bytes) -> None:
    reading = read(raw)
    facts = reading.facts
    db.execute("INSERT INTO raw VALUES (?, ?)", (number, zlib.compress(raw, COMPRESSION)))
    db.execute(
        "INSERT INTO words VALUES (?, ?, ?, ?, ?, ?)",
        (
            number,
            spaced(facts.subject),
            spaced(correspondents_text((facts.sender,))),
            spaced(correspondents_text(facts.recipients)),
            facts.list_id,
            spaced(reading.text),
        ),
    )
