"""What can be imported from disk: an mbox, a single message, a Maildir, a folder of any of these.

Every source gives its messages in a fixed order with a place to resume from, so that an import that
was cut off goes on where it stopped.
"""

from __future__ import annotations

import os
import re
import stat
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from hieranome.core.errors import NotMail, Unreadable
from hieranome.mail.headers import parse_date
from hieranome.mail.mbox import is_mbox_file, read_mbox

_HEADER = re.compile(rb"^[!-9;-~]+[ \t]*:", re.MULTILINE)
_KNOWN_HEADER = re.compile(
    rb"^(from|to|subject|date|received|message-id|return-path|mime-version|content-type|delivered-to"
    rb"|x-[a-z-]+|reply-to|cc|bcc|sender|content-[a-z-]+)[ \t]*:",
    re.IGNORECASE | re.MULTILINE,
)
_STATUS = re.compile(rb"^(?:X-)?Status:[ \t]*([A-Z]*)", re.IGNORECASE | re.MULTILINE)
MAX_MESSAGE = 256 * 1024 * 1024
"""Bytes of one file that is taken as a single message."""


@dataclass(frozen=True, slots=True)
class Item:
    """One message of a source: its bytes, its flags, when it arrived if known, where to resume after it."""

    raw: bytes
    seen: bool
    answered: bool
    flagged: bool
    arrived: int
    file: str
    after: int
    """Byte offset behind this message within ``file``: progress, and the place to resume from."""


@dataclass(frozen=True, slots=True)
class SourceFile:
    """A file that holds mail: its path, its kind (``mbox``, ``eml``, ``maildir``), its size in bytes."""

    path: Path
    kind: str
    size: int


@dataclass(frozen=True, slots=True)
class Skipped:
    """A file that was passed over, and why."""

    path: Path
    why: str


@dataclass(slots=True)
class Survey:
    """What lies at a path: the files that hold mail, sorted, and those that were passed over."""

    files: list[SourceFile]
    skipped: list[Skipped]


def find(path: Path) -> list[SourceFile]:
    """All files with mail at ``path``, sorted by path; raises as :func:`survey` does."""
    return survey(path).files


def survey(path: Path) -> Survey:
    """What lies at ``path``.

    Raises :class:`Unreadable` when the path cannot be read and :class:`NotMail` when it holds no
    mail; in a folder, files that hold none are passed over, each with the reason, as long as one does.
    """
    if shown(path) != str(path):
        raise NotMail(f"The name {shown(path)} is not UTF-8. Rename it, then import it.")
    if not path.exists():
        raise Unreadable(f"There is nothing at {path}. Check the path.")
    if path.is_file():
        return Survey([_single(path)], [])
    if not path.is_dir():
        raise NotMail(f"{path} is neither a file nor a folder. Give an mbox, a message, a Maildir or a folder.")
    found = Survey([], [])
    try:
        for one in sorted(_walk(path)):
            _sort_in(found, one)
    except PermissionError as exc:
        raise _refused(path, exc) from exc
    if not found.files:
        raise NotMail(
            f"The folder {path} holds no mail: no mbox, no .eml file, no Maildir. Choose a folder that does."
            + (f" {shown(found.skipped[0].path.name)}: {found.skipped[0].why}" if found.skipped else "")
        )
    return found


def shown(path: Path | str) -> str:
    """A path as text that can be stored and shown, whatever bytes its name is made of."""
    return os.fsencode(path).decode("utf-8", "backslashreplace")


def _sort_in(found: Survey, path: Path) -> None:
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            found.skipped.append(Skipped(path, "It is no ordinary file."))
            return
        source = _classify(path)
        if source is not None:
            found.files.append(source)
            return
        with path.open("rb") as file:
            why = f"It {_why_not(path, file.read(4096))}"
    except OSError as exc:
        why = f"It cannot be read ({exc.strerror})."
    found.skipped.append(Skipped(path, why))


def _walk(folder: Path) -> Iterator[Path]:
    def fail(error: OSError) -> None:
        raise PermissionError(error.errno, error.strerror, error.filename)

    for at, folders, files in os.walk(folder, onerror=fail):
        folders[:] = [name for name in folders if not (name == "tmp" and {"cur", "new"} & set(folders))]
        yield from (Path(at, name) for name in files if not name.startswith("."))


def _refused(path: Path, exc: OSError) -> Unreadable:
    return Unreadable(
        f"{exc.filename or path} cannot be read ({exc.strerror}). Give your account the right to read it, then retry."
    )


def _single(path: Path) -> SourceFile:
    try:
        found = _classify(path)
        with path.open("rb") as file:
            head = file.read(4096)
    except OSError as exc:
        raise _refused(path, exc) from exc
    if found is not None:
        return found
    raise NotMail(f"{shown(path.name)} {_why_not(path, head)}")


def _why_not(path: Path, head: bytes) -> str:
    """Why a file holds no mail, as what can be said of it."""
    if not head.strip():
        return "is empty, so there is no mail in it to import."
    if path.stat().st_size > MAX_MESSAGE:
        return f"is larger than any message ({MAX_MESSAGE >> 20} MB) and is no mbox."
    if head.startswith((b"\x1f\x8b", b"BZh", b"\xfd7zXZ", b"\x28\xb5\x2f\xfd")) or zipfile.is_zipfile(path):
        return "is compressed. Unpack it first (for example with gunzip), then import what comes out."
    return (
        "is not a mailbox: it does not begin with an mbox separator line ('From ...') or with message headers. Give an "
        "mbox, an .eml file, a Maildir or a folder of these."
    )


def _classify(path: Path) -> SourceFile | None:
    size = path.stat().st_size
    if path.parent.name in ("cur", "new") and (path.parent.parent / "cur").is_dir():
        return SourceFile(path, "maildir", size)
    with path.open("rb") as file:
        head = file.read(16_384)
    if not head.strip():
        return None
    if is_mbox_file(path):
        return SourceFile(path, "mbox", size)
    if size > MAX_MESSAGE or (b"\x00" in head[:512] and path.suffix.lower() != ".eml"):
        return None
    front = head.replace(b"\r\n", b"\n").lstrip(b"\n").partition(b"\n\n")[0]
    known = len(_KNOWN_HEADER.findall(front))
    if (path.suffix.lower() == ".eml" and _HEADER.search(front)) or known >= 2:
        return SourceFile(path, "eml", size)
    return None


def items(source: SourceFile, start: int = 0) -> Iterator[Item]:
    """The messages of one file from byte ``start`` on. Raises :class:`Unreadable` when reading fails."""
    try:
        if source.kind == "mbox":
            yield from _mbox_items(source.path, start)
        elif start < max(source.size, 1):
            yield _file_item(source)
    except OSError as exc:
        raise _refused(source.path, exc) from exc


def _mbox_items(path: Path, start: int) -> Iterator[Item]:
    with path.open("rb") as file:
        for message in read_mbox(file, start):
            seen, answered, flagged = _status_flags(message.raw)
            when = parse_date(" ".join(message.separator.decode("latin-1").split()[2:]))
            yield Item(message.raw, seen, answered, flagged, when[0] if when else 0, shown(path), message.end)


def _status_flags(raw: bytes) -> tuple[bool, bool, bool]:
    """Seen, answered, flagged from the Status and X-Status headers that mbox writers leave."""
    front = raw[:65_536].replace(b"\r\n", b"\n").partition(b"\n\n")[0]
    letters = b"".join(_STATUS.findall(front)).upper()
    return b"R" in letters, b"A" in letters, b"F" in letters


def _file_item(source: SourceFile) -> Item:
    raw = source.path.read_bytes()
    seen, answered, flagged = _status_flags(raw)
    if source.kind == "maildir":
        _, _, letters = source.path.name.rpartition(":2,")
        letters = letters if ":2," in source.path.name else ""
        seen, answered, flagged = "S" in letters, "R" in letters, "F" in letters
    arrived = int(source.path.stat().st_mtime) if source.kind == "maildir" else 0
    return Item(raw, seen, answered, flagged, arrived, shown(source.path), max(source.size, 1))
