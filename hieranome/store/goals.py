"""Where copies are to go and which marks are to be told: what is to do on servers, and what was begun of it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hieranome.store.copies import _COLUMNS, Copy, _copy, select
from hieranome.store.keywords import TO_TAG

_TO_MOVE = (
    "SELECT c.id FROM copies AS c INDEXED BY copies_to_move JOIN folders AS f ON f.id = c.folder"
    " WHERE c.goal IS NOT NULL AND f.account = ?1"
)


_UNDER_WAY = (
    "SELECT c.id FROM copies AS c INDEXED BY copies_under_way JOIN folders AS f ON f.id = c.folder"
    " WHERE c.stage <> '' AND f.account = ?1"
)


_TO_MARK = (
    "SELECT c.id FROM copies AS c INDEXED BY copies_to_mark JOIN folders AS f ON f.id = c.folder"
    " WHERE c.dirty = 1 AND f.account = ?1"
)


_TO_REMOVE = (
    "SELECT c.id FROM leaving AS l JOIN copies AS c ON c.message = l.message JOIN folders AS f ON f.id = c.folder"
    " WHERE f.role = 'trash' AND c.uid IS NOT NULL AND c.goal IS NULL AND f.account = ?1"
)


def to_move(db: sqlite3.Connection, account: int) -> list[Copy]:
    """The copies of a mailbox that are to go elsewhere and of which nothing was begun."""
    return select(
        db,
        "JOIN folders AS f ON f.id = c.folder WHERE f.account = ? AND c.goal IS NOT NULL AND c.stage = ''"
        " AND c.uid IS NOT NULL ORDER BY c.folder, c.goal, c.uid",
        account,
        by="copies_to_move",
    )


def under_way(db: sqlite3.Connection, account: int) -> list[Copy]:
    """The copies of a mailbox whose move was begun and not seen to end."""
    return select(
        db,
        "JOIN folders AS f ON f.id = c.folder WHERE f.account = ? AND c.stage <> '' ORDER BY c.folder, c.target, c.uid",
        account,
        by="copies_under_way",
    )


def expected(db: sqlite3.Connection, folder: int) -> set[int]:
    """UIDs of our own copies in a folder, whose originals are still to be taken away."""
    rows = db.execute(
        "SELECT target_uid FROM copies INDEXED BY copies_under_way"
        " WHERE stage <> '' AND stage = 'copied' AND target = ?",
        (folder,),
    )
    return {row[0] for row in rows}


def to_mark(db: sqlite3.Connection, account: int) -> list[tuple[Copy, bool, bool, bool]]:
    """The copies whose marks the server is to be told, each with seen, answered, flagged as they are here."""
    rows = db.execute(
        f"SELECT {_COLUMNS}, m.seen AS s, m.answered AS a, m.flagged AS f FROM copies AS c"
        " INDEXED BY copies_to_mark JOIN folders AS o ON o.id = c.folder JOIN messages AS m ON m.id = c.message"
        " WHERE c.dirty = 1 AND c.uid IS NOT NULL AND o.account = ? ORDER BY c.folder, c.uid",
        (account,),
    ).fetchall()
    return [
        (_copy(row), bool(row["s"]), bool(row["a"]), bool(row["f"]))
        for row in rows
    ]  # fmt: skip


def keep_marks(db: sqlite3.Connection, account: int) -> None:
    """Leave the marks on the server as they are, although more is known here."""
    db.execute(
        "UPDATE copies INDEXED BY copies_to_mark SET dirty = 0"
        " WHERE dirty = 1 AND folder IN (SELECT id FROM folders WHERE account = ?)",
        (account,),
    )


def anything_to_do(db: sqlite3.Connection, account: int) -> bool:
    """Whether the server is to be told anything."""
    for few in (_TO_MOVE, _UNDER_WAY, _TO_MARK, _TO_REMOVE, TO_TAG):
        if db.execute(f"{few} AND c.tries < 3 LIMIT 1", (account,)).fetchone() is not None:
            return True
    return False


def waiting(db: sqlite3.Connection, account: int) -> int:
    """How many copies of a mailbox are still to be moved."""
    row = db.execute(f"SELECT count(*) FROM ({_TO_MOVE} UNION {_UNDER_WAY})", (account,)).fetchone()
    return int(row[0])


def refused(db: sqlite3.Connection, account: int) -> bool:
    """Whether the server refused to move or remove any copy, and that was not done since."""
    asked = f"{_TO_MOVE} AND c.tries > 0 UNION ALL {_TO_REMOVE} AND c.tries > 0 LIMIT 1"
    return db.execute(asked, (account,)).fetchone() is not None


def begin(db: sqlite3.Connection, numbers: Iterable[int], stage: str, target: int, validity: int, uidnext: int) -> None:
    """Record, before it is done, that copies are moved, and how their target stood before."""
    db.executemany(
        "UPDATE copies SET stage = ?, target = ?, target_validity = ?, target_uidnext = ?, target_uid = 0 WHERE id = ?",
        [(stage, target, validity, uidnext, number) for number in numbers],
    )


def copied(db: sqlite3.Connection, pairs: Iterable[tuple[int, int]]) -> None:
    """Note the UIDs that copies have at their target, while they still stand where they were."""
    db.executemany(
        "UPDATE copies SET stage = 'copied', target_uid = ? WHERE id = ?", [(uid, number) for number, uid in pairs]
    )


def give_up(db: sqlite3.Connection, numbers: Iterable[int]) -> None:
    """Note that a move did not happen; it will be tried again, three times in all."""
    db.executemany(
        "UPDATE copies SET stage = '', target = NULL, tries = tries + 1 WHERE id = ?", [(n,) for n in numbers]
    )


def try_again(db: sqlite3.Connection, account: int) -> None:
    """Let what was given up be tried again."""
    db.execute(
        "UPDATE copies INDEXED BY copies_to_move SET tries = 0 WHERE tries > 0 AND goal IS NOT NULL"
        " AND folder IN (SELECT id FROM folders WHERE account = ?)",
        (account,),
    )
    db.execute(
        "UPDATE copies SET tries = 0 WHERE tries > 0 AND message IN (SELECT message FROM leaving)"
        " AND folder IN (SELECT id FROM folders WHERE account = ?)",
        (account,),
    )


def land(db: sqlite3.Connection, number: int, uid: int) -> None:
    """Note that a copy stands at its target now, under this UID, and where it is to go from there: to where its
    message was put meanwhile, or home where that was taken back."""
    db.execute("DELETE FROM copies WHERE folder = (SELECT target FROM copies WHERE id = ?) AND uid = ?", (number, uid))
    db.execute(
        "UPDATE copies SET folder = target, uid = ?, stage = '', target = NULL, tries = 0, missing = 0 WHERE id = ?",
        (uid, number),
    )
    db.execute(
        """
        UPDATE copies SET goal = iif(
            (SELECT m.decided_by IN ('history', 'waiting')
                OR (m.place = copies.home_place AND m.decided_by = copies.home_decided_by)
                FROM messages AS m WHERE m.id = copies.message),
            nullif(goal, folder),
            (SELECT nullif(t.id, copies.folder) FROM messages AS m, folders AS f JOIN folders AS t
                ON t.account = f.account JOIN accounts AS a ON a.id = f.account
            WHERE m.id = copies.message AND f.id = copies.folder AND a.routing = 1
                AND t.place = iif(m.place = 'undecided', 'desk', m.place) LIMIT 1))
        WHERE id = ? AND goal IS NOT NULL
        """,
        (number,),
    )


def aim(db: sqlite3.Connection, account: int, numbers: Sequence[int]) -> None:
    """Send the copies of messages that stand in a mailbox's inbox or buckets to where the messages were placed."""
    db.execute(
        """
        UPDATE copies SET tries = 0, goal = (
            SELECT nullif(t.id, copies.folder) FROM messages AS m JOIN folders AS t
                ON t.place = iif(m.place = 'undecided', 'desk', m.place)
            WHERE m.id = copies.message AND t.account = ? LIMIT 1)
        WHERE uid IS NOT NULL AND stage = ''
            AND folder IN (SELECT id FROM folders WHERE account = ? AND role IN ('inbox', 'bucket'))
            AND message IN (
                SELECT m.id FROM messages AS m JOIN places AS p ON p.name = m.place
                WHERE m.id IN (SELECT value FROM json_each(?)) AND (p.band >= 0 OR m.decided_by IN ('filed', 'rule')))
        """,
        (account, account, json.dumps(list(numbers))),
    )


def set_goals(db: sqlite3.Connection, goals: Iterable[tuple[int, int | None]]) -> None:
    """Send copies (by id) to folders, or let them stay."""
    db.executemany("UPDATE copies SET goal = ?2 WHERE id = ?1", list(goals))


def bring_back(db: sqlite3.Connection, account: int) -> None:
    """Send every copy in a bucket's folder to the inbox."""
    db.execute(
        """
        UPDATE copies SET tries = 0, goal = (SELECT id FROM folders WHERE account = ?1 AND role = 'inbox')
        WHERE uid IS NOT NULL AND stage = ''
            AND folder IN (SELECT id FROM folders WHERE account = ?1 AND role = 'bucket')
        """,
        (account,),
    )


def rest(db: sqlite3.Connection, account: int) -> None:
    """Let every copy of a mailbox stay where it stands; what was begun is still seen to its end."""
    db.execute(
        "UPDATE copies SET goal = NULL WHERE folder IN (SELECT id FROM folders WHERE account = ?) AND stage = ''",
        (account,),
    )
