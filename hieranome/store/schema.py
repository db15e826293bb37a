"""Writes the schema of the store as all migrations together make it, each table and trigger with a line of why:
``python -m hieranome.store.schema docs/schema.sql``."""

from __future__ import annotations

import re
import sqlite3
import sys
import tempfile
from pathlib import Path

from hieranome.store.database import Database

_LATER = re.compile(r", (?=[a-z_]+ (?:INTEGER|TEXT|REAL|BLOB)\b)")
WHY = {
    "accounts": "Mailboxes on servers: how they are reached, and how far they are read.",
    "addresses": "What the owner said of an address of theirs: what it is for, whom it was given to.",
    "answers": "Ids of mail that an answer of the owner's was seen to, before that mail itself came.",
    "arranged": "What a step did with things the owner arranges: what each was before and behind it, as JSON.",
    "attachments": "Files of drafts.",
    "away_told": "Who got an away notice, when, from which circle; or why nobody got one.",
    "checkers": "Servers whose results stand in mail, and in how much of it: offered to be believed.",
    "copies": "Every copy of a message in a folder of a server: the marks last told, where it is to go, and how far"
    " that got.",
    "copy_keywords": "The keywords last told of a copy, by which it is seen what another program set or cleared.",
    "discarded": "Drafts that were discarded, whole, so that undoing the step brings them back.",
    "draft_copies": "Versions of drafts that stand in a mailbox's Drafts.",
    "drafts": "What the owner writes, and what waits, goes or failed to go from the outbox.",
    "draining": "Since when a message stands in the Drain (0: not dated yet), by which it is let go.",
    "edition_items": "Which messages an edition holds, so that none stands in two of a plan.",
    "ended": "What was said for always of a sender, list or domain and holds no more.",
    "editions": "Editions as they were put together.",
    "folders": "Folders of servers: which place each is, and how far it was read.",
    "followed": "How what is noted in `following` was before a step and behind it, so that the step can be undone.",
    "following": "One row for each message and kind: due, parked, awaited, back, let go.",
    "forwarded": "Copies that rules sent on, so that none goes twice and a day has its bound.",
    "identities": "Addresses the owner writes as.",
    "import_files": "How far each file of an import was read, so that it goes on there.",
    "import_skipped": "What an import left out, and why.",
    "imports": "Imports, and how far they are.",
    "laid": "Drafts that a step or a rule began, as they were then: undone where nobody wrote on.",
    "leaving": "What is taken out of the Trash for good and still stands on a server.",
    "left_out": "Sources that stand in no edition.",
    "left_standing": "Messages the second look offered and the owner left where they stand.",
    "lessons": "What the owner said of messages: the vector, where it stood and belongs, how far it reaches.",
    "marks": "Marks of messages before a step, and as it wanted them.",
    "mentions": "Ids that messages of a thread name, by which later mail finds its thread.",
    "messages": "Every message: what a row shows, where it stands, by what, with which scores.",
    "migrations": "Which migrations were applied.",
    "moves": "Where each message of a step stood, and where the step put it.",
    "no_edition": "Messages that a rule keeps out of editions.",
    "phrase_files": "Files that go along with a phrase.",
    "phrase_uses": "For which message a phrase was used: by that it is offered.",
    "phrases": "The phrasebook.",
    "pictured": "Senders whose pictures are loaded.",
    "places": "Buckets, folders and the places at the side, with how much stands in each.",
    "plans": "Plans of editions.",
    "proposals": "Kin of a lesson that were offered, and what was answered.",
    "proposed": "The messages of such an offer.",
    "queue_states": "The states of a queue, in order; each is a tag.",
    "queues": "Queues: of which mail, and within how many days a case is to be done.",
    "raw": "The bytes of each message as they came, compressed.",
    "retagged": "A tag before a step that changed, merged or removed it, and behind it.",
    "routines": "Routines.",
    "raised": "Mail the owner put on the Desk by hand and has not read since: it is never dealt with.",
    "raised_by_hand": "Notes what is put on the Desk by hand.",
    "raised_no_more": "Forgets that of what leaves the Desk.",
    "rule_hits": "Which rules held for which message and what that did: the ledger.",
    "rules": "Rules, in their order.",
    "said_times": "Times that were typed, by how often: offered again.",
    "scripts": "What was put at a mailbox's server as Sieve, by which it is seen that somebody changed it.",
    "searches": "Saved searches.",
    "settings": "Everything there is one of, as JSON.",
    "silences": "Messages that were looked past, and how much that says.",
    "sources": "Sums of a place by sender or list, so that a list of them need not read the mail.",
    "steps": "The journal: what was done, by whom, whether it was undone.",
    "sums": "What was seen of senders, lists and domains: received, read, answered, written.",
    "tagged": "Which messages carry which tag, and since when where no step says so.",
    "tagging": "Tags a step put on or took off.",
    "tags": "Tags. One that was deleted keeps its row, so that steps can bring it back.",
    "threads": "Threads, and whether the owner wrote in them.",
    "topic_answers": "The owner's answers about a topic; each belongs to a step, so that undoing it takes them back.",
    "topic_found": "Mail a topic found, and what it asks about.",
    "topics": "Topics: a tag with what was said of it.",
    "unsubscribed": "Requests to unsubscribe, and what came of each.",
    "vectors": "The vector of each message, by which it is weighed again.",
    "vouched": "Senders and domains the owner vouches for.",
    "weekly": "Sums of bulk mail by source, address it came to and week, from which subscriptions are told.",
    "words": "The words of each message, as the index takes them.",
    "words_index": "The full-text index over `words`.",
    "words_terms": "The terms of the index, by which searches are completed.",
    "back_answered": "A rule of the job: what came back because nobody had answered is done once it is answered.",
    "back_moved": "A rule of the job: what came back to the Desk is back no more once it leaves the Desk.",
    "copies_follow": "A rule of the job: a copy on a server goes where its message goes, decided in the same change.",
    "copies_marked": "A copy whose marks differ from its message's is to be marked.",
    "draining_came": "What arrives in the Drain is dated later, by the room's clock.",
    "draining_moved": "What is put into the Drain is dated; what leaves it is not let go.",
    "due_cleared": "What is due no more has its keyword taken off on servers.",
    "due_done": "A rule of the job: whoever takes the flag off a message is done with it.",
    "due_set": "What is due gets its keyword on servers.",
    "following_gone": "A message without bytes is followed no more.",
    "leaving_stays": "What is taken out of the Trash stays.",
    "messages_counted": "Counts of places follow what arrives.",
    "messages_gone": "Counts of places follow what is deleted.",
    "messages_moved": "Counts of places follow moves and reading.",
    "sources_counted": "Sums by sender follow what arrives.",
    "sources_gone": "Sums by sender follow what is deleted.",
    "sources_moved": "Sums by sender follow moves.",
    "sources_read": "Sums by sender follow reading.",
    "tagged_gone": "A message without bytes carries no tag.",
    "tagged_off": "Counts of tags, and keywords on servers, follow tags taken off.",
    "tagged_on": "Counts of tags, and keywords on servers, follow tags put on.",
    "weekly_counted": "Sums of bulk mail follow what arrives.",
    "weekly_gone": "Sums of bulk mail follow what is deleted.",
    "weekly_marked": "Sums of bulk mail follow reading and answers.",
    "weekly_moved": "Sums of bulk mail follow whatever changes which of them a message belongs to.",
    "words_gone": "The index follows words that are deleted.",
}
"""Why each table and trigger is there."""
HEAD = """-- The store, as all migrations together make it. Made by `make schema`; a test compares it.
-- Tables first, each with its indexes and triggers.
"""


def schema() -> str:
    """The schema as SQL, stable from run to run."""
    with tempfile.TemporaryDirectory() as folder:
        store = Database(Path(folder))
        try:
            return HEAD + "".join(map(_table, _tables(store.reader())))
        finally:
            store.close()


Table = tuple[str, str, list[tuple[str, str]]]


def _tables(db: sqlite3.Connection) -> list[Table]:
    """Every table with its statement, and its indexes and triggers by name with theirs."""
    own = "sql IS NOT NULL AND name NOT GLOB 'words_index_*' AND name <> 'sqlite_sequence'"
    found: list[Table] = []
    for name, made in db.execute(f"SELECT name, sql FROM sqlite_master WHERE type = 'table' AND {own} ORDER BY name"):
        beside = db.execute(
            f"SELECT name, sql FROM sqlite_master WHERE tbl_name = ? AND type IN ('index', 'trigger') AND {own}"
            " ORDER BY type, name",
            (name,),
        )
        found.append((name, made, beside.fetchall()))
    return found


def _table(table: Table) -> str:
    name, made, beside = table
    # Columns that came later stand in one line behind the others.
    made = _LATER.sub(",\n    ", made.replace("\n, ", ",\n    "))
    said = f"\n-- {WHY[name]}\n{made};\n"
    for other, statement in beside:
        said += f"\n-- {WHY[other]}\n{statement};\n" if other in WHY else f"{statement};\n"
    return said


if __name__ == "__main__":
    if len(sys.argv) > 1:
        Path(sys.argv[1]).write_text(schema(), encoding="utf-8")
    else:
        sys.stdout.write(schema())
