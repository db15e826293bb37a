"""The page, its messages and the guide speak in words everybody has: those that were given up come back nowhere."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGE, PAGE = ROOT / "hieranome", ROOT / "frontend" / "src"
GIVEN_UP = (
    r"\bkin\b",
    r"\btold\b",
    r"\blets? go\b",
    r"\bheed(s|ed)?\b",
    r"\bweigh-?in\b",
    r"\bkept apart\b",
    r"\bnever mind\b",
    r"^look (now|again)$",
    r"\b(leave|take) ((it|this|them|one of them) )?out\b",
    r"^a new one$",
    r"^make it$",
    r"\bcalled$",
    r"\bstands below (it|another)\b",
    r"\blet another take\b",
    r"\blets you in\b",
    r"\bhow readily\b",
    r"\blearn no more\b",
    r"\ba message too many\b",
    r"\b(they owe you|you owe them)\b",
    r"\bwithout it$",
    r"^keep( the\b.*)?$",
    r"\b1 messages\b",
)
"""What is said otherwise now: as it would stand in a sentence or on a button."""
DOCUMENTS = (
    ROOT / "README.md",
    ROOT / "CONTRIBUTING.md",
    *(ROOT / "docs" / f"{name}.md" for name in ("api", "architecture", "engine", "formats", "guide")),
    *sorted((ROOT / "docs" / "rooms").glob("*.md")),
)
"""What is read to use the program or its code; notes and the change log say what was said then."""
KEYS = {"let go"}
"""What is stored in folders as a key, and never shown."""
WRONG = re.compile("|".join(GIVEN_UP), re.IGNORECASE)
TEXT = re.compile(
    r">([^<>{}]*[A-Za-z][^<>{}]*)<"
    r"|(?:aria-label|title|placeholder|label|alt)=\"([^\"]+)\""
    r"|'([^'\n]*[a-z] [^'\n]*|[A-Z][a-z]+)'"
    r"|`([^`\n]*[a-z] [^`\n]*)`"
)
STATEMENT = re.compile(r"\s*(SELECT|INSERT|UPDATE|DELETE|AND|FROM|WHERE|\()")
CODE = re.compile(r"\$\{[^}]*\}|\{\{.*?\}\}", re.DOTALL)


def page_texts() -> Iterator[tuple[str, str]]:
    """What components show: text, labels, sentences in their code."""
    for path in [*PAGE.rglob("*.vue"), *PAGE.rglob("*.ts")]:
        if path.name == "schema.ts":
            continue
        text = CODE.sub("", path.read_text(encoding="utf-8"))
        text = re.sub(r"//[^\n]*|/\*.*?\*/|^import [^\n]*", "", text, flags=re.DOTALL | re.MULTILINE)
        for found in TEXT.finditer(text):
            said = " ".join(next(one for one in found.groups() if one).split())
            yield path.relative_to(ROOT).as_posix(), said


def message_texts() -> Iterator[tuple[str, str]]:
    """What errors, journal lines and tables of words say."""
    for room in ("app", "core", "mail", "web/routers"):
        for path in sorted((PACKAGE / room).rglob("*.py")):
            for where, said in strings_of(ast.parse(path.read_text(encoding="utf-8"))):
                if " " in said.strip() and not STATEMENT.match(said):
                    yield f"{path.relative_to(ROOT).as_posix()}:{where}", said


def strings_of(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """The strings of a module that are no docstrings, nor stand within what a formatted string computes."""
    documents = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    computed = {id(part) for node in ast.walk(tree) if isinstance(node, ast.FormattedValue) for part in ast.walk(node)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in documents | computed:
            yield node.lineno, node.value


class WordsTest(unittest.TestCase):
    def test_on_the_page(self) -> None:
        """No label, sentence or note says what was given up."""
        texts = list(page_texts())
        self.assertGreater(len(texts), 1_000)
        self.assertEqual([(where, said) for where, said in texts if WRONG.search(said)], [])

    def test_in_messages(self) -> None:
        """No error or line of the journal does."""
        texts = list(message_texts())
        self.assertGreater(len(texts), 600)
        self.assertEqual([(where, said) for where, said in texts if WRONG.search(said) and said not in KEYS], [])

    def test_in_the_guide(self) -> None:
        """No label the guide names does."""
        guide = (ROOT / "docs" / "guide.md").read_text(encoding="utf-8")
        named = re.findall(r"(?<!\*)\*([^*\n]+)\*(?!\*)", guide)
        self.assertEqual([said for said in named if WRONG.search(said)], [])

    def test_in_the_documents(self) -> None:
        """No sentence of the documents does, apart from names of code and of words that are explained."""
        found = []
        for path in DOCUMENTS:
            text = re.sub(r"```.*?```|`[^`\n]*`", "", path.read_text(encoding="utf-8"), flags=re.DOTALL)
            for number, line in enumerate(text.splitlines(), 1):
                if WRONG.search(line) and not line.startswith("| kin |"):
                    found.append((path.name, number, line))
        self.assertEqual(found, [])


if __name__ == "__main__":
    unittest.main()
