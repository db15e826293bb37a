"""Rules, and which messages they took."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from hieranome.core.deciders import Decider
from hieranome.core.errors import NotFound
from hieranome.core.rules import Rule
from hieranome.store.doings import packed, unpacked
from hieranome.store.messages import RECEIVED

_COLUMNS = "id, name, enabled, runs, days, counted, last_of_day, line, excepted, actions"


@dataclass(frozen=True, slots=True)
class Hit:
    """A message a rule took: where it put it, or what was stronger."""

    rule: int
    message: int
    put: str = ""
    lost_to: str = ""


@dataclass(frozen=True, slots=True)
class Tally:
    """What a rule did so far: messages it took, when last (0: never), how many it put somewhere."""

    hits: int = 0
    last: int = 0
    put: int = 0


def _rule(row: sqlite3.Row) -> Rule:
    number, name, enabled, runs, days, counted, last_of_day, line, excepted, actions = row
    done = unpacked(actions)
    return Rule(number, name, bool(enabled), runs, days, counted, bool(last_of_day), line, excepted, done)


def every(db: sqlite3.Connection) -> list[Rule]:
    """All rules in the owner's order."""
    rows = db.execute(f"SELECT {_COLUMNS} FROM rules WHERE removed = 0 ORDER BY position, id")
    return [_rule(row) for row in rows]


def get(db: sqlite3.Connection, number: int, *, removed: bool = False) -> Rule:
    """One rule; with ``removed`` also one that was. Raises :class:`NotFound`."""
    row = db.execute(f"SELECT {_COLUMNS} FROM rules WHERE id = ? AND removed <= ?", (number, removed)).fetchone()
    if row is None:
        raise NotFound(f"There is no rule {number}. Load the list again.")
    return _rule(row)


def put(db: sqlite3.Connection, rule: Rule, at: int) -> int:
    """Store a rule, at the end of the order where it is new (id 0); its id."""
    values = (
        rule.name, rule.enabled, rule.when, rule.days, rule.counted, rule.last_of_day, rule.line, rule.excepted,
        packed(rule.actions),
    )  # fmt: skip
    if rule.id:
        db.execute(
            "UPDATE rules SET name = ?, enabled = ?, runs = ?, days = ?, counted = ?, last_of_day = ?, line = ?,"
            " excepted = ?, actions = ? WHERE id = ?",
            (*values, rule.id),
        )
        return rule.id
    (last,) = db.execute("SELECT coalesce(max(position), 0) FROM rules").fetchone()
    number = db.execute(
        "INSERT INTO rules (name, enabled, runs, days, counted, last_of_day, line, excepted, actions, position,"
        " made_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (*values, last + 1, at),
    ).lastrowid
    assert number is not None
    return number


def remove(db: sqlite3.Connection, number: int) -> None:
    """Remove a rule; what it did stays told."""
    db.execute("UPDATE rules SET removed = 1 WHERE id = ?", (number,))


def arrange(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """Put rules in an order."""
    db.executemany("UPDATE rules SET position = ? WHERE id = ?", [(at, number) for at, number in enumerate(numbers)])


def note(db: sqlite3.Connection, hits: Iterable[Hit], at: int, step: int | None = None) -> None:
    """Note which messages rules took; what one took before stands, unless it was undone."""
    db.executemany(
        "INSERT INTO rule_hits (rule, message, at, put, lost_to, step) VALUES (?, ?, ?, ?, ?, ?)"
        " ON CONFLICT DO UPDATE SET at = excluded.at, put = excluded.put, lost_to = excluded.lost_to,"
        " step = excluded.step, undone = 0 WHERE undone = 1",
        [(one.rule, one.message, at, one.put, one.lost_to, step) for one in hits],
    )


def undo(db: sqlite3.Connection, step: int) -> None:
    """Note that a step was undone, and let editions have the mail it kept out of them."""
    db.execute("UPDATE rule_hits INDEXED BY rule_hits_by_step SET undone = 1 WHERE step = ?", (step,))
    db.execute("DELETE FROM no_edition WHERE step = ?", (step,))


def keep_out(db: sqlite3.Connection, messages: Sequence[int], step: int | None = None) -> None:
    """Let messages stand in no edition."""
    db.executemany("INSERT OR IGNORE INTO no_edition VALUES (?, ?)", [(number, step) for number in messages])


def note_forwarded(db: sqlite3.Connection, rule: int, message: int, address: str, at: int) -> None:
    """Note that a rule sent a copy of a message on."""
    db.execute("INSERT OR IGNORE INTO forwarded VALUES (?, ?, ?, ?)", (rule, message, address, at))


def forwarded_since(db: sqlite3.Connection, since: int) -> int:
    """How many copies rules sent on since some time."""
    return int(db.execute("SELECT count(*) FROM forwarded WHERE at > ?", (since,)).fetchone()[0])


def in_editions(db: sqlite3.Connection, numbers: Sequence[int]) -> list[int]:
    """Those of some messages that no rule keeps out of editions yet."""
    out = {row[0] for row in db.execute("SELECT message FROM no_edition")}
    return [number for number in numbers if number not in out]


def tallies(db: sqlite3.Connection) -> dict[int, Tally]:
    """What each rule that took anything did."""
    rows = db.execute("SELECT rule, count(*), max(at), sum(put <> '') FROM rule_hits WHERE undone = 0 GROUP BY rule")
    return {row[0]: Tally(row[1], row[2], row[3]) for row in rows}


def received(db: sqlite3.Connection, numbers: Sequence[int]) -> list[int]:
    """Those of some messages a rule may do anything to: received mail that is not thrown away."""
    rows = db.execute(
        f"SELECT m.id FROM messages AS m WHERE m.id IN (SELECT value FROM json_each(?)) AND {RECEIVED} ORDER BY m.id",
        (json.dumps(list(numbers)),),
    )
    return [row[0] for row in rows]


def movable(
    db: sqlite3.Connection, numbers: Sequence[int], place: str, decided_by: Iterable[Decider], *, assured: bool
) -> list[tuple[int, str, Decider]]:
    """Those of some messages that stand elsewhere than in a place, and by what may be moved: id, place, by what. With
    ``assured`` those alone whose sender is."""
    rows = db.execute(
        f"""
        SELECT m.id, m.place, m.decided_by FROM messages AS m WHERE m.id IN (SELECT value FROM json_each(?))
            AND {RECEIVED} AND m.place <> ? AND m.decided_by IN (SELECT value FROM json_each(?)) AND m.assured >= ?
            AND NOT EXISTS (SELECT 1 FROM lessons AS l WHERE l.message = m.id AND l.undone = 0) ORDER BY m.id
        """,
        (json.dumps(list(numbers)), place, json.dumps(sorted(decided_by)), int(assured)),
    )
    return [(row[0], row[1], Decider(row[2])) for row in rows]


def standing(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[int, str, str, int, float]]:
    """Where each of some messages stands: id, place, by what, whether it was answered, score."""
    return db.execute(
        "SELECT id, place, decided_by, answered, score FROM messages WHERE id IN (SELECT value FROM json_each(?))"
        " ORDER BY time DESC, id DESC",
        (json.dumps(list(numbers)),),
    ).fetchall()


def ages(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[int, str, int, int]]:
    """How old each of some messages is: id, source, when it came, when the newest message of its thread did."""
    return db.execute(
        "SELECT m.id, m.source, m.time, (SELECT max(time) FROM messages WHERE thread = m.thread) FROM messages AS m"
        " WHERE m.id IN (SELECT value FROM json_each(?)) ORDER BY m.time DESC, m.id DESC",
        (json.dumps(list(numbers)),),
    ).fetchall()


def taken(db: sqlite3.Connection, rule: int) -> set[int]:
    """The messages a rule took, those it was undone for among them."""
    return {row[0] for row in db.execute("SELECT message FROM rule_hits WHERE rule = ?", (rule,))}


def hidden(db: sqlite3.Connection, since: int, least: float, most: int) -> list[tuple[Rule, int]]:
    """Messages of at least some importance that a rule took since a time (Unix seconds) and put where nobody looks at
    once, or marked read, wherever they stand; with the rule, the latest first. What the owner let stand is none of
    it."""
    rows = db.execute(
        """
        SELECT h.rule, h.message FROM rule_hits AS h JOIN rules AS r ON r.id = h.rule
        JOIN messages AS m ON m.id = h.message JOIN places AS p ON p.name = m.place
        WHERE h.at >= ? AND h.undone = 0 AND r.removed = 0 AND m.score >= ?
            AND m.place NOT IN ('sent', 'drafts', 'gone', 'undecided')
            AND (p.important = 0 AND h.put <> '' AND m.place = h.put AND m.decided_by = 'rule'
                OR m.seen = 1 AND m.seen_by = 'rule')
            AND NOT EXISTS (SELECT 1 FROM left_standing AS l WHERE l.message = m.id)
        ORDER BY h.at DESC, h.message DESC LIMIT ?
        """,
        (since, least, most),
    ).fetchall()
    return [(get(db, row[0], removed=True), row[1]) for row in rows]


def placing(db: sqlite3.Connection, message: int) -> int:
    """The rule that put a message somewhere last, or 0 where none did, or it was removed."""
    row = db.execute(
        "SELECT h.rule FROM rule_hits AS h JOIN rules AS r ON r.id = h.rule"
        " WHERE h.message = ? AND h.undone = 0 AND h.put <> '' AND r.removed = 0 ORDER BY h.at DESC LIMIT 1",
        (message,),
    ).fetchone()
    return int(row[0]) if row else 0


def of_message(db: sqlite3.Connection, message: int) -> list[tuple[Rule, Hit]]:
    """The rules that took a message, in the order they stand in."""
    rows = db.execute(
        "SELECT h.rule, h.put, h.lost_to FROM rule_hits AS h JOIN rules AS r ON r.id = h.rule"
        " WHERE h.message = ? AND h.undone = 0 ORDER BY r.position, r.id",
        (message,),
    ).fetchall()
    return [(get(db, row[0], removed=True), Hit(row[0], message, row[1], row[2])) for row in rows]


def lost(db: sqlite3.Connection, since: int) -> list[tuple[int, str, int]]:
    """(rule, what was stronger, how often) where rules wanted to put mail somewhere and did not, since some time."""
    rows = db.execute(
        "SELECT h.rule, h.lost_to, count(*) FROM rule_hits AS h JOIN rules AS r ON r.id = h.rule"
        " WHERE h.lost_to <> '' AND h.undone = 0 AND h.at >= ? AND r.removed = 0 GROUP BY 1, 2 ORDER BY 3 DESC, 1, 2",
        (since,),
    )
    return [(row[0], row[1], row[2]) for row in rows]


def corrected(db: sqlite3.Connection, since: int) -> list[tuple[int, int, int]]:
    """(rule, how many, one of them): messages a rule put somewhere that the owner put elsewhere afterwards."""
    rows = db.execute(
        """
        SELECT h.rule, count(*), max(h.message) FROM rule_hits AS h JOIN rules AS r ON r.id = h.rule
        JOIN lessons AS l ON l.message = h.message
        WHERE h.put <> '' AND h.undone = 0 AND l.undone = 0 AND l.at >= h.at AND l.belongs <> h.put AND h.at >= ?
            AND r.removed = 0 AND r.enabled = 1
        GROUP BY h.rule ORDER BY 2 DESC
        """,
        (since,),
    )
    return [(row[0], row[1], row[2]) for row in rows]
