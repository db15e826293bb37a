"""Rules as Sieve and back: what is said is what Pigeonhole does, what cannot be said is named, what cannot be read is
refused with its line."""

from __future__ import annotations

import random
import re
import shutil
import subprocess
import unittest
from dataclasses import asdict
from datetime import datetime, timedelta, timezone

from hieranome.app.reading.incoming import words_of
from hieranome.core.matching import Mail
from hieranome.core.query import read_query
from hieranome.core.rules import Action, Read, Rule, narrowest, ruled
from hieranome.core.values import Names
from hieranome.demo import mailgen
from hieranome.mail.reading import read
from hieranome.mail.sieve_reading import Known, ScriptRefused, rules_of
from hieranome.mail.sieve_writing import OnServer, quoted, script_of
from tests.generated import given, settings, st
from tests.mail.pigeonhole import PigeonholeCase
from tests.patience import PATIENCE
from tests.support import crlf

LDA = "/usr/lib/dovecot/dovecot-lda"
ZONE = timezone(timedelta(hours=1))
NOW = datetime(2026, 3, 11, 15, 30, tzinfo=ZONE)
FOLDERS = {
    "desk": "INBOX", "shelf": "Hieranome/Shelf", "digest": 'Hieranome/The "Digest"', "folder-1": "Überseefracht",
    "archive": "Archive", "trash": "Trash",
}  # fmt: skip
TAGS = {"1": "Visas", "2": "Carnets_2"}
ON_SERVER = OnServer(FOLDERS, TAGS, ZONE)
_VERBS = {"folder-1": "folder", "archive": "archive", "trash": "trash"}
KNOWN = Known(
    {
        folder: Action(_VERBS.get(place, "bucket"), "" if place in ("archive", "trash") else place)  # type: ignore[arg-type]
        for place, folder in FOLDERS.items()
    },
    {keyword.lower(): tag for tag, keyword in TAGS.items()},
    ZONE,
)
NAMES = Names({name: name for name in FOLDERS}, NOW, {"Visas": frozenset({1})})


def rule(line: str, *actions: tuple[str, str], excepted: str = "", when: str = "arrives") -> Read:
    """A rule, understood."""
    done = tuple(Action(verb, target) for verb, target in actions)  # type: ignore[arg-type]
    one = Rule(0, line, True, when, 3 if when == "ages" else 0, "came", False, line, excepted, done)  # type: ignore[arg-type]
    return reads(one)


def reads(one: Rule) -> Read:
    """A rule with its lines understood."""
    node = read_query(one.line, NAMES).node
    return Read(one, node, read_query(one.excepted, NAMES).node if one.excepted else None, narrowest(node))


def mail_of(raw: bytes) -> Mail:
    """A message as rules look at it when it arrives."""
    reading = read(raw)
    facts = reading.facts
    numbers = {"seen": 0, "answered": 0, "flagged": 0, "attachments": facts.attached, "size": facts.size}
    numbers |= {"time": facts.sent_at, "score": 0, "certainty": 0}
    names = {"address": facts.sender.address, "domain": facts.sender.domain, "list": facts.list_id}
    return Mail(asdict(words_of(facts, reading.text)), numbers, names, "desk")


def random_rules(rng: random.Random, mail: list[bytes]) -> list[Read]:
    """Rules that Sieve can say, about mail like some."""
    found = []
    for _ in range(rng.randint(1, 6)):
        facts = [read(rng.choice(mail)).facts for _ in range(3)]
        terms = []
        for one in facts:
            word = rng.choice(re.findall(r"[A-Za-z]{3,}", one.subject) or ["nothing"])
            domain, day = one.sender.domain, f"{datetime.fromtimestamp(one.sent_at, ZONE):%Y-%m-%d}"
            terms += [
                f"from:{one.sender.address}", f"from:@{domain}", f'subject:"*{word[:4]}*"', f'from:"*{domain[:5]}*"',
                f"larger:{one.size - 5}B", f"smaller:{one.size + 3}B", f"since:{day}", f"before:{day}",
            ]  # fmt: skip
            terms += [f"list:{one.list_id}"] if one.list_id else []
        few = [rng.choice(["", "", "", "-"]) + rng.choice(terms) for _ in range(rng.randint(1, 3))]
        line = rng.choice([" ", " or "]).join(few)
        marks = [("tag", "1"), ("tag", "2"), ("untag", "1"), ("flag", ""), ("read", ""), ("forward", "a@b.example")]
        actions = rng.sample(marks, rng.randint(0, 2))
        place = rng.choice(list(FOLDERS))
        if not actions or rng.random() < 0.6:
            verb = _VERBS.get(place, "bucket")
            actions.append((verb, "" if verb in ("archive", "trash") else place))
        actions += [("stop", "")] if rng.random() < 0.3 else []
        excepted = f'subject:"*{rng.choice("aeiou")}*"' if rng.random() < 0.3 else ""
        found.append(rule(line, *actions, excepted=excepted))
    return found


def expected(rules: list[Read], raw: bytes) -> tuple[str, frozenset[str], frozenset[str]]:
    """The folder, flags and addresses rules say of a message."""
    said = ruled(rules, mail_of(raw))
    place = said.placing.rule.place if said.placing else "desk"
    flags = {TAGS[str(tag)] for tag in said.tags} | ({"\\Flagged"} if said.flagged else set())
    flags |= {"\\Seen"} if said.seen else set()
    return FOLDERS[place], frozenset(flag.lower() for flag in flags), frozenset(address for _, address in said.forward)


class PigeonholeTest(PigeonholeCase):
    """What the scripts do at a real interpreter."""

    def done(self, script: str, raw: bytes) -> tuple[str, frozenset[str], frozenset[str]]:
        """The folder, the flags and the addresses Pigeonhole names for a message."""
        text = self.carried_out(script, raw)
        folders = re.findall(r"store message in folder: (.*)", text)
        self.assertEqual(len(folders), 1, text)
        flags = re.findall(r"add(?:ing)? (?:IMAP )?flags: (.*)", text)
        addresses = re.findall(r"redirect message to: <(.*)>", text)
        named = frozenset(word.lower() for line in flags for word in line.split())
        return folders[0].strip(), named, frozenset(addresses)

    def test_five_hundred_messages_are_filed_as_our_own_interpreter_files_them(self) -> None:
        """Fifty random sets of rules, ten messages each: folder, flags and copies are the same."""
        rng = random.Random(8)
        mail = [crlf(one.raw) for one in mailgen.generate(400, 9) if one.belongs != "sent"]
        filed = marked = 0
        for _ in range(50):
            rules = random_rules(rng, mail)
            script, left = script_of(rules, ON_SERVER)
            self.assertEqual(left, [])
            for raw in rng.sample(mail, 10):
                wanted = expected(rules, raw)
                self.assertEqual(self.done(script, raw), wanted, script)
                filed += wanted[0] != "INBOX"
                marked += bool(wanted[1])
        self.assertGreater(filed, 100)
        self.assertGreater(marked, 60)

    def delivered(self, script: str, raws: list[bytes]) -> dict[str, list[tuple[bytes, str]]]:
        """What stands in each folder after delivery: subject lines and the letters of system flags."""
        (self.folder / "script.sieve").write_text(script, encoding="utf-8")
        shutil.rmtree(self.folder / "mail", ignore_errors=True)
        for raw in raws:
            subprocess.run(
                [LDA, "-c", str(self.folder / "conf"), "-e"], input=raw, check=True, timeout=PATIENCE, cwd=self.folder,
                user=self.owner.pw_uid, group=self.owner.pw_gid, extra_groups=[],
                env={"HOME": str(self.folder), "USER": "maren"}, capture_output=True,
            )  # fmt: skip
        found: dict[str, list[tuple[bytes, str]]] = {}
        for one in (self.folder / "mail").rglob("*"):
            if one.is_file() and one.parent.name in ("new", "cur"):
                folder = one.parent.parent.name.lstrip(".").replace(".", "/").replace("mail", "INBOX")
                flags = one.name.partition(":2,")[2] if one.parent.name == "cur" else ""
                head = one.read_bytes().partition(b"\n\n")[0]
                subject = re.search(rb"(?im)^Message-ID:.*$", head)
                system = "".join(letter for letter in flags if letter.isupper())
                found.setdefault(folder, []).append((subject[0].strip() if subject else b"", system))
        return {folder: sorted(those) for folder, those in found.items()}

    def test_delivered_mail_stands_where_the_rules_say(self) -> None:
        """A hundred messages handed to a server's own delivery: folders and marks are the same."""
        rng = random.Random(21)
        mail = [crlf(one.raw) for one in mailgen.generate(160, 12) if one.belongs != "sent"]
        plain = {place: folder for place, folder in FOLDERS.items() if folder.isascii() and '"' not in folder}
        for _ in range(5):
            rules = [
                one
                for one in random_rules(rng, mail)
                if (one.rule.place or "desk") in plain and not one.rule.targets("forward")
            ]
            script, left = script_of(rules, ON_SERVER)
            raws = rng.sample(mail, 20)
            wanted: dict[str, list[tuple[bytes, str]]] = {}
            for raw in raws:
                folder, flags, _ = expected(rules, raw)
                letters = ("F" if "\\flagged" in flags else "") + ("S" if "\\seen" in flags else "")
                number = re.search(rb"(?im)^Message-ID:.*$", raw)
                wanted.setdefault(folder, []).append((number[0].strip() if number else b"", letters))
            self.assertEqual(left, [])
            found = self.delivered(script or "keep;", raws)
            self.assertEqual(found, {folder: sorted(those) for folder, those in wanted.items()}, script)

    def test_what_comes_in_goes_out_the_same(self) -> None:
        """In, out and in again: the second script is the first, and means at Pigeonhole what the rules mean."""
        rng = random.Random(9)
        mail = [crlf(one.raw) for one in mailgen.generate(200, 10) if one.belongs != "sent"]
        for _ in range(30):
            script, _ = script_of(random_rules(rng, mail), ON_SERVER)
            again, left = script_of([reads(one) for one in rules_of(script, KNOWN)], ON_SERVER)
            self.assertEqual(left, [])
            third, _ = script_of([reads(one) for one in rules_of(again, KNOWN)], ON_SERVER)
            self.assertEqual(third, again)
            for raw in rng.sample(mail, 3):
                self.assertEqual(self.done(again, raw), self.done(script, raw), f"{script}\n{again}")


class SayingTest(unittest.TestCase):
    """What is said and what is not."""

    def test_what_cannot_be_said_is_named_and_left_here(self) -> None:
        """Each with why; the others are said all the same."""
        for one, why in (
            (rule("subject:visa", ("archive", "")), "whole words"),
            (rule("score:>50 from:a@b.example", ("archive", "")), "score"),
            (rule("mark:unread from:a@b.example", ("archive", "")), "marked after"),
            (rule("file:any", ("archive", "")), "attachments"),
            (rule("bucket:shelf", ("archive", "")), "stands"),
            (rule("tag:visas", ("archive", "")), "tagged"),
            (rule("account:tours", ("archive", "")), "mailbox"),
            (rule("due:2026-12 from:a@b.example", ("archive", "")), "due dates"),
            (rule("since:2w from:a@b.example", ("archive", "")), "from today"),
            (rule("from:a@b.example", ("archive", ""), excepted="on:yesterday"), "from today"),
            (rule("from:a@b.example", ("no-edition", "")), "editions"),
            (rule("from:a@b.example", ("tag", "9")), "keyword"),
            (rule("from:a@b.example", ("folder", "folder-9")), "no folder"),
            (rule("from:a@b.example", ("archive", ""), when="ages"), "old"),
        ):
            with self.subTest(why):
                said = rule("from:kept@b.example", ("trash", ""))
                script, left = script_of([one, said], ON_SERVER)
                self.assertEqual([(unsaid.rule, why in unsaid.why) for unsaid in left], [(one.rule, True)], left)
                self.assertIn("kept@b.example", script)
                self.assertNotIn('"a@b.example"', script)

    @settings(max_examples=200)
    @given(st.text(st.characters(exclude_characters="\r\n\0", exclude_categories=["Cs"]), max_size=40))
    def test_no_text_breaks_out_of_its_string(self, text: str) -> None:
        """Whatever a folder is called, the script has one command and files there."""
        folders = FOLDERS | {"folder-1": f"F{text}"}
        script, _ = script_of([rule("from:a@b.example", ("folder", "folder-1"))], OnServer(folders, TAGS, ZONE))
        self.assertIn(quoted(f"F{text}"), script)
        known = Known({f"F{text}": Action("folder", "folder-1")}, {}, ZONE)
        (one,) = rules_of(script, known)
        self.assertEqual((one.line, one.actions), ("from:a@b.example", (Action("folder", "folder-1"),)))

    def test_scripts_written_by_hand_are_read(self) -> None:
        """The common forms become rules that read as they do."""
        script = """require ["fileinto", "imap4flags"];
            # freight
            if address :is "from" ["counter4@freight.example", "desk@freight.example"] {
                addflag "Carnets_2"; fileinto "Archive"; stop;
            }
            if allof (header :contains "subject" "visa", not size :over 2M) { addflag ["\\\\Flagged", "Visas"]; }
            elsif header :contains "list-id" "<news.union.example>" { fileinto "Trash"; }
            else { addflag "\\\\Seen"; }
        """
        found = rules_of(script, KNOWN)
        self.assertEqual(
            [(one.line, one.excepted, [action.verb for action in one.actions]) for one in found],
            [
                ("(from:counter4@freight.example or from:desk@freight.example)", "", ["tag", "archive", "stop"]),
                ('subject:"*visa*" -(larger:2097152B)', "", ["flag", "tag"]),
                ("list:news.union.example", '(subject:"*visa*" -(larger:2097152B))', ["trash"]),
                ('-(subject:"*visa*" -(larger:2097152B)) -(list:news.union.example)', "", ["read"]),
            ],
        )
        for one in found:
            self.assertEqual(read_query(one.line, NAMES).hints, ())

    def test_what_cannot_be_read_is_refused_whole_with_its_line(self) -> None:
        """Malformed scripts, and those that say what rules cannot."""
        head = 'require ["fileinto", "imap4flags", "copy", "vacation", "body", "reject"];\n'
        for body, line, why in (
            ('if header :contains "subject" "x" { fileinto "Archive" }', 2, ""),
            ('if header :contains "subject" "x" { fileinto "Archive"; ', 2, ""),
            ('if header "subject { stop; }', 2, ""),
            ('\n\nif nothing "x" { stop; }', 4, "unknown"),
            ("if size :over 9999X { stop; }", 2, ""),
            ("}", 2, ""),
            ("keep;", 2, "by itself"),
            ("if true { keep; }", 2, "true"),
            ('\nif header :contains "subject" "x" {\n  discard;\n}', 4, "discard"),
            ('if header :contains "subject" "x" { fileinto "Nowhere"; }', 2, "no folder Nowhere"),
            ('if header :contains "subject" "x" { addflag "Unknown"; }', 2, "no tag"),
            ('if header :contains "subject" "x" { redirect "a@b.example"; }', 2, "without :copy"),
            ('if header :is "subject" "x" { stop; }', 2, "subject"),
            ('if header :contains "x-spam" "yes" { stop; }', 2, "x-spam"),
            ('if body :contains "x" { stop; }', 2, "body"),
            ('if address :localpart "from" "x" { stop; }', 2, "localpart"),
            ('if address "to" "a@b.example" { stop; }', 2, "From alone"),
            ('if address :domain :matches "from" ["a.example", "b.example"] { stop; }', 2, "all below"),
            ('if header :comparator "i;octet" :contains "subject" "x" { stop; }', 2, "any case"),
            ('if header :contains "subject" "x" {\n if size :over 1 { stop; }\n}', 3, "“if”"),
            ('if size :over 1 { fileinto "Archive"; }\n\nif size :over 2 { fileinto "Trash"; }', 4, "line 2"),
            ('if size :over 1 { fileinto "Archive"; fileinto "Trash"; }', 2, "two folders"),
            ('if size :over 1 { fileinto "Archive"; addflag "Visas"; }', 2, "after it was filed"),
            (f"if {'not ' * 2_000}true {{ stop; }}", 2, "deep"),
            (f"if {'anyof(' * 900}size :over 1{')' * 900} {{ stop; }}", 2, "deep"),
            (f"if size :over {'9' * 5_000} {{ stop; }}", 2, "digits"),
            (f"if size :over {'9' * 5_000}K {{ stop; }}", 2, "digits"),
        ):
            with self.subTest(body):
                with self.assertRaisesRegex(ScriptRefused, why) as refused:
                    rules_of(head + body, KNOWN)
                self.assertEqual(refused.exception.line, line, str(refused.exception))
                self.assertIn("Nothing was taken over", str(refused.exception))
        with self.assertRaisesRegex(ScriptRefused, "bytes"):
            rules_of("#" * 600_000, KNOWN)
        chain = "".join(f'elsif size :over {n} {{ addflag "Visas"; }}\n' for n in range(2_000))
        with self.assertRaisesRegex(ScriptRefused, "more than 2000 characters"):
            rules_of(f'{head}if size :over 1 {{ addflag "Visas"; }}\n{chain}', KNOWN)

    @settings(max_examples=300)
    @given(st.text(st.sampled_from('if header"subject\\ :is[]{}();stop,allof not#/*text:.\n01K '), max_size=120))
    def test_no_script_does_harm(self, script: str) -> None:
        """Whatever stands in a script, it is read or refused."""
        try:
            rules_of(script, KNOWN)
        except ScriptRefused as exc:
            self.assertGreater(exc.line, 0)
