"""The core stays pure."""

import ast
import unittest
from pathlib import Path

import hieranome.core

ALLOWED = {
    "__future__", "abc", "bisect", "calendar", "collections", "collections.abc", "dataclasses", "datetime", "enum",
    "functools", "itertools", "math", "operator", "numpy", "numpy.typing", "re", "typing", "unicodedata", "zlib",
}  # fmt: skip


def imports_of(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found.update(alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            found.add(node.module or "")
    return found


class PurityTest(unittest.TestCase):
    def test_core_imports_only_computation(self) -> None:
        """Clock, file, socket, SQL and web stay outside the core."""
        for path in Path(hieranome.core.__file__).parent.glob("*.py"):
            foreign = {name for name in imports_of(path) if not name.startswith("hieranome.core")} - ALLOWED
            self.assertEqual(foreign, set(), path.name)

    def test_core_never_asks_what_time_it_is(self) -> None:
        """Times are given to the core; it computes with them and reads no clock."""
        for path in Path(hieranome.core.__file__).parent.glob("*.py"):
            called = {
                node.attr for node in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(node, ast.Attribute)
            }
            self.assertEqual(called & {"now", "utcnow", "today", "fromtimestamp", "astimezone"}, set(), path.name)

    def test_rooms_import_only_inwards(self) -> None:
        """Mail knows the core alone, the store the core alone, and neither knows the use cases or the web."""
        root = Path(hieranome.core.__file__).parent.parent
        inner = {"mail": ("core", "mail"), "store": ("core", "store"), "app": ("core", "mail", "store", "app")}
        for room, known in inner.items():
            for path in (root / room).rglob("*.py"):
                ours = {n.split(".")[1] for n in imports_of(path) if n.startswith("hieranome.")}
                self.assertLessEqual(ours, set(known), f"{room}/{path.name}")


if __name__ == "__main__":
    unittest.main()
