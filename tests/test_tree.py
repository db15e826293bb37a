"""The tree of the code keeps its laws."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from hieranome.core.arranged import THINGS

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT / "hieranome"
LONG_MODULE, LONG_FUNCTION = 300, 50
FLOORS = (
    "access room",
    "emptying filing lines reading record rows searching uses",
    "following lists pictures renewing second_look shaping_tags trial",
    "tagging",
    "teaching topics trays writing",
    "bulk owner_settings queues rules",
    "away exporting routines said viewing",
    "arrival at_server said_table",
    "mailbox sending",
    "arranging",
    "service",
)
"""The floors of the use cases, from the ground up: a part knows those on floors below its own, and no other."""
OWN_STORES = {"standin/postbox.py"}
"""Modules besides the store that keep a file of their own, with its SQL."""


@cache
def sources() -> dict[str, ast.Module]:
    """Every module of the package by its path below it."""
    found = {}
    for path in PACKAGE.rglob("*.py"):
        name = path.relative_to(PACKAGE).as_posix()
        if not name.startswith("web/static"):
            found[name] = ast.parse(path.read_text(encoding="utf-8"))
    return found


def calls(tree: ast.Module, *names: str) -> Iterator[ast.Call]:
    """Calls of methods of these names."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in names:
            yield node


def imported(tree: ast.Module, known: dict[str, str]) -> set[str]:
    """The modules of the package that a module imports when it is loaded."""
    found = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("hieranome"):
            found |= {f"{node.module}.{alias.name}" for alias in node.names} | {node.module}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
    return {known[name] for name in found if name in known}


class TreeTest(unittest.TestCase):
    def test_sql_stands_in_the_store(self) -> None:
        """Nobody else executes a statement or writes one down."""
        for name, tree in sources().items():
            if name.startswith("store/") or name in OWN_STORES:
                continue
            found = [call.lineno for call in calls(tree, "execute", "executemany", "executescript")]
            for node in ast.walk(tree):
                said = node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
                if re.match(r"\s*(SELECT .+ FROM|INSERT INTO|UPDATE .+ SET|DELETE FROM) ", said):
                    found.append(node.lineno)
            self.assertEqual(found, [], name)

    def test_transactions_are_begun_in_the_room(self) -> None:
        """All others change things by the mailroom's change()."""
        for name, tree in sources().items():
            if not name.startswith(("store/", "app/room/")) and name not in OWN_STORES:
                self.assertEqual([call.lineno for call in calls(tree, "atomic", "commit", "rollback")], [], name)

    def test_nothing_imports_in_a_circle(self) -> None:
        """Whoever imports is not imported by what it imports, over any number of steps."""
        known = {}
        for name in sources():
            module = "hieranome." + name.removesuffix(".py").replace("/", ".")
            known[module.removesuffix(".__init__")] = name
        graph = {name: imported(tree, known) - {name} for name, tree in sources().items()}
        done: set[str] = set()

        def walk(name: str, way: tuple[str, ...]) -> None:
            self.assertNotIn(name, way, " imports ".join((*way, name)))
            if name not in done:
                for other in sorted(graph[name]):
                    walk(other, (*way, name))
                done.add(name)

        for name in graph:
            walk(name, ())

    def test_use_cases_stand_on_floors(self) -> None:
        """A part of the use cases imports from the floors below its own alone: none above it, none beside it."""
        floor = {part: number for number, parts in enumerate(FLOORS) for part in parts.split()}
        told = set()
        for name, tree in sources().items():
            if not name.startswith("app/") or name == "app/__init__.py":
                continue
            part = name.split("/")[1].removesuffix(".py")
            told.add(part)
            named = [
                (alias.name, node.lineno)
                for node in ast.walk(tree)
                if isinstance(node, ast.Import)
                for alias in node.names
            ]
            for node in ast.walk(tree):
                if isinstance(node, ast.ImportFrom) and node.module:
                    named += [(f"{node.module}.{alias.name}", node.lineno) for alias in node.names]
            for module, line in named:
                other = module.removeprefix("hieranome.app.").split(".")[0]
                if module.startswith("hieranome.app.") and other != part:
                    self.assertLess(floor[other], floor[part], f"{name}:{line} imports {module}")
        self.assertEqual(told, set(floor))

    def test_routers_know_use_cases_alone(self) -> None:
        """What parses and answers requests asks the use cases, never the store or the wire to a server."""
        for name, tree in sources().items():
            if name.startswith("web/routers/"):
                modules = [node.module for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)]
                self.assertEqual([one for one in modules if one and one.startswith("hieranome.store")], [], name)

    def test_functions_are_short(self) -> None:
        """None has more than fifty lines."""
        for name, tree in sources().items():
            for node in ast.walk(tree):
                if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                    lines = (node.end_lineno or node.lineno) - node.lineno + 1
                    self.assertLessEqual(lines, LONG_FUNCTION, f"{name}: {node.name}")

    def test_long_modules_say_why(self) -> None:
        """One of more than three hundred lines gives its reason in its docstring."""
        for name, tree in sources().items():
            lines = len((PACKAGE / name).read_text(encoding="utf-8").splitlines())
            if lines > LONG_MODULE:
                self.assertIn("It is long because", ast.get_docstring(tree) or "", f"{name} has {lines} lines")

    def test_what_is_told_is_listed_for_the_page(self) -> None:
        """Every kind of event the server publishes stands in the page's list, and no other does."""
        told = {"hello", "reset", *(facets.event for facets in THINGS.values())}
        for tree in sources().values():
            for call in calls(tree, "tell", "publish"):
                first = call.args[0] if call.args else None
                if isinstance(first, ast.Constant) and isinstance(first.value, str):
                    told.add(first.value)
        listed = (ROOT / "frontend" / "src" / "lib" / "told.ts").read_text(encoding="utf-8")
        body = listed.partition("export interface Told {")[2].partition("\n}")[0]
        self.assertEqual(set(re.findall(r"^  (\w+):", body, re.MULTILINE)), told)

    def test_the_ways_the_architecture_tells_exist(self) -> None:
        """Every path named in its table of where to change what leads to a file."""
        text = (ROOT / "docs" / "architecture.md").read_text(encoding="utf-8")
        table = text.partition("## Where to change what")[2].partition("##")[0]
        named = re.findall(r"`([\w/]+\.(?:py|ts|scss|vue))`", table)
        self.assertGreaterEqual(len(named), 7)
        for path in named:
            self.assertTrue((PACKAGE / path).exists() or (ROOT / path).exists(), path)

    def test_files_the_rooms_name_exist(self) -> None:
        """Every file that the pages of the rooms name is there: by its path, or by a name that some file has."""
        sources = ROOT / "frontend" / "src"
        held = {path.name for folder in (PACKAGE, sources) for path in folder.rglob("*") if path.is_file()}
        for document in (ROOT / "docs" / "rooms").glob("*.md"):
            for path in re.findall(r"`([\w/]+\.(?:py|ts|vue|sql))`", document.read_text("utf-8")):
                there = any((base / path).is_file() for base in (PACKAGE, ROOT, sources))
                self.assertTrue(there if "/" in path else path in held, f"{document.name}: {path}")

    def test_modules_the_architecture_names_exist(self) -> None:
        """Dotted names of ours in the documents lead to a module."""
        for document in (ROOT / "docs").rglob("*.md"):
            for name in re.findall(r"`((?:app|core|mail|store|standin|web)(?:\.\w+)+)", document.read_text("utf-8")):
                parts = name.split(".")
                held = any(
                    (PACKAGE / "/".join(parts[:end])).with_suffix(".py").exists()
                    or (PACKAGE / "/".join(parts[:end])).is_dir()
                    for end in range(len(parts), 1, -1)
                )
                self.assertTrue(held, f"{document.name}: {name}")


if __name__ == "__main__":
    unittest.main()
