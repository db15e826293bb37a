"""A world of mail that arrives while its owner is away: each message with whether RFC 3834 lets it be answered."""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import UTC, datetime
from email.utils import format_datetime

ME = "maren@posthorn.example"
ALIASES = ("booking@posthorn.example", "m.velde@posthorn.example")
OWN = (ME, *ALIASES)
DOMAINS = ("salthall.example", "quillmark.example", "posthorn.example", "harbour.example")
TEXTS = {
    "en": "Can you tell me by when you need the stage plan? We would like to know before the week is over.",
    "de": "Kannst du mir sagen, bis wann ihr den Plan braucht? Wir wüssten es gern, bevor die Woche um ist.",
    "fr": "Pouvez-vous me dire pour quand il vous faut le plan ? Nous voudrions le savoir avant la fin de la semaine.",
    "": "0123 4567",
}


@dataclass(frozen=True, slots=True)
class Case:
    """A message: its bytes, the envelope it came in, in which language it is, why it must not be answered (empty: it
    may be), and whether a server sees that otherwise."""

    raw: bytes
    sender: str
    envelope: str
    language: str
    why: str
    here_alone: bool = False


@dataclass
class _Draft:
    sender: str
    head: list[tuple[str, str]]
    envelope: str | None
    why: str = ""
    here_alone: bool = False
    body: str = ""
    kind: str = "text/plain; charset=utf-8"


def person(rng: random.Random) -> str:
    """Somebody of some hundreds who write."""
    return f"person{rng.randint(1, 300)}@{rng.choice(DOMAINS)}"


def _list(rng: random.Random, one: _Draft) -> None:
    name = rng.choice(["List-Id", "List-Unsubscribe", "List-Post", "List-Help", "List-Archive", "list-owner"])
    one.head.append((name, "<crew.lists.example>" if name == "List-Id" else "<https://lists.example/crew>"))
    one.why = "list"


def _bulk(rng: random.Random, one: _Draft) -> None:
    one.head.append(("Precedence", rng.choice(["bulk", "junk", "list", "Bulk"])))
    one.why = "bulk"


def _auto(rng: random.Random, one: _Draft) -> None:
    value = rng.choice(
        ["auto-generated", "auto-replied", "Auto-Replied; owner-email=a@b.example", "auto-notified", "yes"]
    )
    one.head.append(("Auto-Submitted", value))
    one.why = "machine"


def _reply_of_others(rng: random.Random, one: _Draft) -> None:
    one.head.append((rng.choice(["X-Autoreply", "X-Autorespond", "X-Autoresponder"]), "yes"))
    one.why = "machine"


def _bounce(rng: random.Random, one: _Draft) -> None:
    one.envelope = ""
    one.sender = f"mailer-daemon@{rng.choice(DOMAINS)}" if rng.random() < 0.5 else one.sender
    one.why = "report"


def _report(rng: random.Random, one: _Draft) -> None:
    one.kind = 'multipart/report; report-type=disposition-notification; boundary="b"'
    one.body = "--b\r\nContent-Type: text/plain\r\n\r\nIt was shown.\r\n--b--\r\n"
    one.why = "machine"


def _unattended(rng: random.Random, one: _Draft) -> None:
    local = rng.choice(["noreply", "no-reply", "donotreply", "owner-crew", "crew-owner", "crew-request", "listserv",
                        "majordomo", "shop-bounces", "bounce+77", "bounces", "MAILER-DAEMON", "x-relay"])  # fmt: skip
    if rng.random() < 0.5:
        one.envelope = f"{local}@shop.example"
    else:
        one.sender = one.envelope = f"{local}@shop.example"
    one.why = "unattended"


def _not_named(rng: random.Random, one: _Draft) -> None:
    one.head[0] = ("To", rng.choice(["undisclosed-recipients:;", "crew@salthall.example", "maren@elsewhere.example"]))
    one.why = "not named"


def _own(rng: random.Random, one: _Draft) -> None:
    own = rng.choice(OWN)
    if rng.random() < 0.4:
        one.sender, one.envelope = own, own
    elif rng.random() < 0.5:
        one.sender = own  # somebody who poses as the owner
    else:
        one.envelope = own
    one.why = "own"


def _suppressed(rng: random.Random, one: _Draft) -> None:
    one.head.append(("X-Auto-Response-Suppress", rng.choice(["All", "OOF", "DR, OOF, AutoReply"])))
    one.why = "declined"


def _forged(rng: random.Random, one: _Draft) -> None:
    domain = one.sender.rpartition("@")[2]
    result = f"mx.posthorn.example; spf=fail smtp.mailfrom={domain}; dkim=none; dmarc=fail header.from={domain}"
    one.head.insert(0, ("Authentication-Results", result))
    one.why, one.here_alone = "forged", True


def _no_path(rng: random.Random, one: _Draft) -> None:
    one.envelope = None
    one.why, one.here_alone = "no path", True


def _named_elsewhere(rng: random.Random, one: _Draft) -> None:
    """May be answered: the owner is named in another header, or among many."""
    name = rng.choice(["Cc", "Resent-To", "Resent-Cc", "Bcc"])
    one.head[0] = ("To", "crew@salthall.example")
    one.head.append((name, f"Maren <{rng.choice(OWN)}>"))


def _said_no(rng: random.Random, one: _Draft) -> None:
    """May be answered: it says that no machine wrote it."""
    value = rng.choice(["no", "No", "no; x=1"])
    one.head.append(("Auto-Submitted", value))
    one.here_alone = ";" in value  # servers know the bare word alone, and leave it unanswered


FORBIDDEN = (
    _list, _bulk, _auto, _reply_of_others, _bounce, _report, _unattended, _not_named, _own, _suppressed, _forged,
    _no_path,
)  # fmt: skip
ALLOWED = (_named_elsewhere, _said_no)


def world(count: int, seed: int, since: int, until: int) -> list[Case]:
    """So many messages between two times, in order; half of them may be answered."""
    rng = random.Random(seed)
    times = sorted(rng.randint(since, until) for _ in range(count))
    return [_made(rng, number, at) for number, at in enumerate(times)]


def _made(rng: random.Random, number: int, at: int) -> Case:
    who = person(rng)
    envelope = who.replace("@", f"+{rng.randint(1, 9)}@") if rng.random() < 0.1 else who
    one = _Draft(who, [("To", f"Maren <{rng.choice(OWN)}>")], envelope)
    if rng.random() < 0.5:
        rng.choice(FORBIDDEN)(rng, one)
    elif rng.random() < 0.3:
        rng.choice(ALLOWED)(rng, one)
    language = rng.choice(list(TEXTS))
    body = one.body or TEXTS[language]
    path = [] if one.envelope is None else [("Return-Path", f"<{one.envelope}>")]
    head = [
        *path, ("From", f"Somebody <{one.sender}>"), *one.head, ("Subject", f"Stage plan {number}"),
        ("Date", format_datetime(datetime.fromtimestamp(at, UTC))), ("Message-ID", f"<{number}.{at}@made.example>"),
        ("MIME-Version", "1.0"), ("Content-Type", one.kind), ("Content-Transfer-Encoding", "8bit"),
    ]  # fmt: skip
    raw = "".join(f"{name}: {value}\r\n" for name, value in head) + f"\r\n{body}\r\n"
    return Case(raw.encode(), one.sender, one.envelope or "", language, one.why, one.here_alone)
