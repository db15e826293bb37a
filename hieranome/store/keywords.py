"""Keywords of copies on servers: what was last told of them, and where tags are to be told."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.tags import DUE, may_be_tag


@dataclass(frozen=True, slots=True)
class ToTag:
    """A copy whose keywords may not be what its message's tags are: what to set on it and what to take off."""

    copy: int
    folder: int
    uid: int
    on: tuple[str, ...]
    off: tuple[str, ...]


def put(db: sqlite3.Connection, copy: int, told: Iterable[str]) -> None:
    """Note the keywords a server told of a copy."""
    db.execute("DELETE FROM copy_keywords WHERE copy = ?", (copy,))
    db.executemany("INSERT OR IGNORE INTO copy_keywords VALUES (?, ?)", [(copy, word) for word in told])


def of_copy(db: sqlite3.Connection, copy: int) -> frozenset[str]:
    """The keywords last told of a copy, in lower case."""
    rows = db.execute("SELECT keyword FROM copy_keywords WHERE copy = ?", (copy,))
    return frozenset(row[0].lower() for row in rows)


def in_folder(db: sqlite3.Connection, folder: int) -> dict[int, frozenset[str]]:
    """The keywords last told of the copies in a folder that have any, in lower case, by UID."""
    found: dict[int, set[str]] = {}
    rows = db.execute(
        "SELECT c.uid, k.keyword FROM copies AS c JOIN copy_keywords AS k ON k.copy = c.id"
        " WHERE c.folder = ? AND c.uid IS NOT NULL",
        (folder,),
    )
    for uid, keyword in rows:
        found.setdefault(uid, set()).add(keyword.lower())
    return {uid: frozenset(words) for uid, words in found.items()}


def at(db: sqlite3.Connection, folder: int, uid: int) -> int | None:
    """The copy that stands in a folder under a UID, or None."""
    row = db.execute("SELECT id FROM copies WHERE folder = ? AND uid = ?", (folder, uid)).fetchone()
    return int(row[0]) if row else None


def known(db: sqlite3.Connection) -> set[str]:
    """Every keyword that is on any copy, in lower case."""
    return {row[0].lower() for row in db.execute("SELECT DISTINCT keyword FROM copy_keywords")}


def foreign(db: sqlite3.Connection) -> list[tuple[str, int]]:
    """The keywords of other programs that may become tags, with how many messages have each, most first."""
    rows = db.execute(
        "SELECT k.keyword, count(DISTINCT c.message) FROM copy_keywords AS k JOIN copies AS c ON c.id = k.copy"
        " WHERE k.keyword NOT IN (SELECT keyword FROM tags) GROUP BY k.keyword ORDER BY 2 DESC, 1"
    ).fetchall()
    return [(row[0], row[1]) for row in rows if may_be_tag(row[0])]


def messages_with(db: sqlite3.Connection, keyword: str) -> list[int]:
    """The messages of which any copy has a keyword."""
    rows = db.execute(
        "SELECT DISTINCT c.message FROM copy_keywords AS k JOIN copies AS c ON c.id = k.copy JOIN messages AS m"
        " ON m.id = c.message WHERE k.keyword = ? AND m.place <> 'gone' ORDER BY 1",
        (keyword,),
    )
    return [row[0] for row in rows]


TO_TAG = (
    "SELECT c.id FROM copies AS c INDEXED BY copies_to_tag JOIN folders AS f ON f.id = c.folder"
    " WHERE c.retag = 1 AND f.keywords = 1 AND c.uid IS NOT NULL AND c.stage = '' AND f.account = ?1"
)
_TELLS = f"""
    SELECT c.id, c.folder, c.uid, (SELECT group_concat(keyword, ' ') FROM (
            SELECT g.keyword FROM tagged AS t JOIN tags AS g ON g.id = t.tag WHERE t.message = c.message
            UNION SELECT '{DUE}' FROM following WHERE kind = 'due' AND message = c.message)) AS wanted,
        (SELECT group_concat(keyword, ' ') FROM copy_keywords WHERE copy = c.id) AS told
    FROM copies AS c WHERE c.id
"""


def to_tag(db: sqlite3.Connection, account: int) -> list[ToTag]:
    """The copies of a mailbox whose tags the server may have to be told, by folder and by what is to be told."""
    ours = _ours(db)
    rows = db.execute(f"{_TELLS} IN ({TO_TAG})", (account,)).fetchall()
    found = [_to_tag(row, ours) for row in rows]
    return sorted(found, key=lambda one: (one.folder, one.on, one.off, one.uid))


def _ours(db: sqlite3.Connection) -> set[str]:
    return {row[0].lower() for row in db.execute("SELECT keyword FROM tags")} | {DUE}


def _to_tag(row: sqlite3.Row, ours: set[str]) -> ToTag:
    wanted = {word.lower(): word for word in (row["wanted"] or "").split()}
    told = {word.lower(): word for word in (row["told"] or "").split()}
    on = sorted(word for low, word in wanted.items() if low not in told)
    off = sorted(word for low, word in told.items() if low in ours and low not in wanted)
    return ToTag(row["id"], row["folder"], row["uid"], tuple(on), tuple(off))


def compare(db: sqlite3.Connection, copy: int) -> None:
    """Let the server be told the tags of a copy where its message carries any, or is due."""
    db.execute(
        "UPDATE copies SET retag = 1 WHERE id = ? AND (message IN (SELECT message FROM tagged)"
        " OR EXISTS (SELECT 1 FROM following WHERE kind = 'due' AND message = copies.message))",
        (copy,),
    )


def told(db: sqlite3.Connection, many: Iterable[ToTag]) -> None:
    """Note that the server knows the tags of copies now; what was tagged meanwhile is told by the next look."""
    ours = _ours(db)
    for one in many:
        db.executemany("INSERT OR IGNORE INTO copy_keywords VALUES (?, ?)", [(one.copy, word) for word in one.on])
        db.executemany("DELETE FROM copy_keywords WHERE copy = ? AND keyword = ?", [(one.copy, w) for w in one.off])
        row = db.execute(f"{_TELLS} = ?", (one.copy,)).fetchone()
        if row is not None:
            now = _to_tag(row, ours)
            db.execute("UPDATE copies SET retag = ? WHERE id = ?", (bool(now.on or now.off), one.copy))


def of_others(db: sqlite3.Connection, copy: int) -> frozenset[str]:
    """What was last told of the other copies a message has in the same mailbox, in lower case."""
    rows = db.execute(
        """
        SELECT k.keyword FROM copies AS c JOIN folders AS f ON f.id = c.folder
        JOIN copies AS o ON o.message = c.message AND o.id <> c.id JOIN folders AS g ON g.id = o.folder
        JOIN copy_keywords AS k ON k.copy = o.id WHERE c.id = ? AND g.account = f.account
        """,
        (copy,),
    ).fetchall()
    return frozenset(row[0].lower() for row in rows)


def kept_here(db: sqlite3.Connection, account: int) -> bool:
    """Whether the server takes no keywords in some folder that holds a bucket's mail, so that tags stay here."""
    row = db.execute(
        "SELECT 1 FROM folders WHERE account = ? AND keywords = 0 AND role IN ('inbox', 'bucket') LIMIT 1", (account,)
    ).fetchone()
    return row is not None
