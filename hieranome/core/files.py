"""Kinds of files that come with messages, in the words a search calls them by."""

from __future__ import annotations

from hieranome.core.facts import AttachmentFacts

KINDS = ("picture", "pdf", "table", "text", "archive", "calendar", "sound", "video", "message")
"""Every word :func:`kinds_of` gives."""
_BY_FAMILY = {"image": "picture", "audio": "sound", "video": "video", "message": "message", "text": "text"}
_BY_WORD = {
    "pdf": "pdf",
    "calendar": "calendar",
    "csv": "table",
    "excel": "table",
    "spreadsheet": "table",
    "spreadsheetml": "table",
    "msword": "text",
    "wordprocessingml": "text",
    "opendocument.text": "text",
    "zip": "archive",
    "gzip": "archive",
    "tar": "archive",
    "7z": "archive",
    "rar": "archive",
}
_BY_ENDING = {
    "pdf": "pdf",
    "ics": "calendar",
    "csv": "table",
    "xls": "table",
    "xlsx": "table",
    "ods": "table",
    "doc": "text",
    "docx": "text",
    "odt": "text",
    "txt": "text",
    "zip": "archive",
    "gz": "archive",
    "tgz": "archive",
    "7z": "archive",
    "rar": "archive",
    "jpg": "picture",
    "jpeg": "picture",
    "png": "picture",
    "heic": "picture",
    "mp3": "sound",
    "wav": "sound",
    "mp4": "video",
    "mov": "video",
    "eml": "message",
}


def kinds_of(file: AttachmentFacts) -> tuple[str, ...]:
    """What a file is, by its media type and by the ending of its name: none, one or, where they disagree, both of
    :data:`KINDS`."""
    family, _, subtype = file.media_type.lower().partition("/")
    said = next((kind for word, kind in _BY_WORD.items() if word in subtype), _BY_FAMILY.get(family, ""))
    named = _BY_ENDING.get(file.name.rpartition(".")[2].lower(), "") if "." in file.name else ""
    return tuple(dict.fromkeys(kind for kind in (said, named) if kind))
