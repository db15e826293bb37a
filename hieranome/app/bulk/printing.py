"""An edition written out: as plain text, Markdown and HTML, to be read anywhere. The same edition is the same bytes.

A message is linked by its Message-ID (RFC 2392, ``mid:``), which any program that has the mailbox can follow.
"""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterator
from datetime import datetime
from html import escape
from urllib.parse import quote

from hieranome.app.bulk.content import Content
from hieranome.app.room.zones import zone_of
from hieranome.core.editions import Entry, Group

WIDTH = 76
_DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip
_MARKDOWN = re.compile(r"([\\`*_{}\[\]()<>#+\-.!|~&])")


def title(content: Content) -> str:
    """What an edition is called: its plan and when it was due."""
    return f"{content.name}, {_when(content.due, content.zone)}"


def _when(at: int, zone: str) -> str:
    moment = datetime.fromtimestamp(at, zone_of(zone))
    return f"{_DAYS[moment.weekday()]} {moment.day} {_MONTHS[moment.month - 1]} {moment.year}, {moment:%H:%M}"


def _short(at: int, zone: str) -> str:
    moment = datetime.fromtimestamp(at, zone_of(zone))
    return f"{_DAYS[moment.weekday()][:3]} {moment.day} {_MONTHS[moment.month - 1][:3]} {moment:%H:%M}"


def _count(number: int, one: str, many: str = "") -> str:
    return f"{number} {one if number == 1 else many or one + 's'}"


def summary(content: Content) -> str:
    """How much stands in it, in a line."""
    told = f"{_count(len(content.entries), 'message')} in {_count(len(content.groups), 'group')}"
    return f"{told}; {content.left_over} more wait for the next edition" if content.left_over else told


def _end_lines(content: Content) -> Iterator[tuple[str, list[str]]]:
    """The end of an edition: headings, each with its lines."""
    end = content.end
    came = ", ".join(f"{name} {count}" for name, count in end.came)
    yield f"Since {_when(end.since, content.zone)}", [f"Came: {came}." if came else "Nothing came."]
    moved = [f"{_short(one.at, content.zone)}: {one.title} ({_count(one.messages, 'message')})" for one in end.steps]
    if end.more_steps:
        moved.append(f"and {_count(end.more_steps, 'more step')} in the journal")
    yield "Moved, and why", moved or ["Nothing was moved but what came."]
    yield "Learned", [_count(end.lessons, "lesson") if end.lessons else "No lesson was given."]
    waiting = list(end.questions)
    if end.asked > len(waiting):
        waiting.append(f"and {end.asked - len(waiting)} more")
    yield "Waiting in Your call", waiting or ["Nothing."]
    if end.leaving:
        yield "Leaving the Drain this week", [_count(end.leaving, "message")]


def plain(content: Content) -> str:
    """An edition as text."""
    lines = [title(content), summary(content), ""]
    for group in content.groups:
        lines += [group.title, "-" * min(WIDTH, max(3, len(group.title))), ""]
        lines += [
            *textwrap.wrap(_subject(group.newest), WIDTH),
            f"{group.newest.sender}, {_short(group.newest.time, content.zone)}",
        ]
        for said in group.newest.sentences:
            lines += textwrap.wrap(said, WIDTH, initial_indent="  ", subsequent_indent="  ")
        if group.others:
            lines += ["", f"{_count(len(group.others), 'more message')}:"]
            lines += [f"  {_subject(one)}" for one in group.others]
        lines.append("")
    lines += ["=" * WIDTH, ""]
    for heading, told in _end_lines(content):
        lines += [heading, *(f"  {one}" for one in told), ""]
    return "\n".join(lines)


def markdown(content: Content) -> str:
    """An edition as Markdown."""
    lines = [f"# {_marked(title(content))}", "", _marked(summary(content)), ""]
    for group in content.groups:
        lines += [f"## {_marked(group.title)}", "", _marked_entry(group.newest, content.zone, strong=True), ""]
        lines += [f"> {_marked(said)}" for said in group.newest.sentences]
        if group.newest.sentences:
            lines.append("")
        lines += [f"- {_marked_entry(one, content.zone)}" for one in group.others]
        if group.others:
            lines.append("")
    lines += ["---", ""]
    for heading, told in _end_lines(content):
        lines += [f"### {_marked(heading)}", "", *(f"- {_marked(one)}" for one in told), ""]
    return "\n".join(lines)


def _marked(text: str) -> str:
    return _MARKDOWN.sub(r"\\\1", " ".join(text.split()))


def _marked_entry(one: Entry, zone: str, *, strong: bool = False) -> str:
    subject = f"**{_marked(_subject(one))}**" if strong else _marked(_subject(one))
    linked = f"[{subject}](<{_mid(one)}>)" if one.message_id else subject
    return f"{linked}, {_marked(one.sender)}, {_marked(_short(one.time, zone))}"


def _subject(one: Entry) -> str:
    return " ".join(one.subject.split()) or "(no subject)"


def _mid(one: Entry) -> str:
    return "mid:" + quote(one.message_id.strip("<>"), safe="@.!$&'*+=-_~")


def html(content: Content) -> str:
    """An edition as a page of HTML without anything to be fetched."""
    groups = "\n".join(_html_group(group, content.zone) for group in content.groups)
    end = "\n".join(
        f"<h3>{escape(heading)}</h3>\n<ul>{''.join(f'<li>{escape(one)}</li>' for one in told)}</ul>"
        for heading, told in _end_lines(content)
    )
    return (
        '<!doctype html>\n<html lang="en"><head><meta charset="utf-8">'
        f"<title>{escape(title(content))}</title>\n<style>{_STYLE}</style></head>\n<body>\n"
        f"<h1>{escape(title(content))}</h1>\n<p>{escape(summary(content))}</p>\n{groups}\n<hr>\n{end}\n</body></html>\n"
    )


_STYLE = (
    "body{max-width:42em;margin:2em auto;padding:0 1em;font:1rem/1.5 Georgia,serif;color:#1b2422;background:#fdfbf6}"
    "h1{font-size:1.5rem}h2{font-size:1.1rem;margin:2em 0 .3em;border-bottom:1px solid #dbd3c3}h3{font-size:1rem}"
    "a{color:#1f6b60}strong{font-weight:600}.who{color:#56615d;font-size:.85rem}"
    "blockquote{margin:.4em 0 .4em 1em}ul{padding-left:1.2em}"
)


def _html_group(group: Group, zone: str) -> str:
    said = "".join(f"<blockquote>{escape(one)}</blockquote>" for one in group.newest.sentences)
    others = "".join(f"<li>{_html_entry(one, zone)}</li>" for one in group.others)
    more = f"<p>{_count(len(group.others), 'more message')}:</p><ul>{others}</ul>" if others else ""
    return f"<h2>{escape(group.title)}</h2>\n<p>{_html_entry(group.newest, zone)}</p>\n{said}{more}"


def _html_entry(one: Entry, zone: str) -> str:
    subject = escape(_subject(one))
    linked = f'<a href="{escape(_mid(one))}">{subject}</a>' if one.message_id else subject
    who = f"{escape(one.sender)}, {escape(_short(one.time, zone))}"
    return f'<strong>{linked}</strong><br><span class="who">{who}</span>'
