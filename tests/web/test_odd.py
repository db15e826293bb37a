"""Odd values in every place of every request: nothing is a failure of ours."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import cycle
from typing import Any
from urllib.parse import quote

from schemathesis.core import NotSet

from tests.support import SOAK
from tests.web.test_schema import ENDLESS, SchemaCase

ODD: tuple[Any, ...] = (
    2**63 - 1, 2**63, 2**64, -(2**63) - 1, 10**400, -1, 0, 1.5, float("nan"), float("inf"), True, None, "", "\x00", "\ud800", "a\udfffb", "~nouser",
    "~", "/%00", "%00", "../../etc/passwd", "x" * 5_000, "'; DROP TABLE messages; --", "\u202e", "²", "٣", [], {}, [[]], {"a": {"b": []}}, "1e999",
    "<1>", "desk", [2**70], ["\ud800"], "/proc/self/mem", "/dev/zero",
)  # fmt: skip


class OddTest(SchemaCase):
    def setUp(self) -> None:
        super().setUp()
        self.turn = cycle(ODD)

    def test_odd_values_in_every_place(self) -> None:
        """Numbers beyond 64 bits, lone surrogates, NaN, strange paths: in each parameter and each field, for each operation
        some of them in turn."""
        for path, operations in self.app.openapi()["paths"].items():
            if path == ENDLESS:
                continue
            for method, operation in operations.items():
                for value in ODD if SOAK else self.some():
                    for query, body, where in self.placed(operation, value, path):
                        self.send(method.upper(), where, query, body)
        self.assertEqual(self.failures, [])
        self.assertGreater(sum(self.statuses.values()), 2_000)

    def some(self) -> list[Any]:
        """The next of the odd values, so that each comes to many operations."""
        return [next(self.turn) for _ in range(len(ODD) // 6)]

    def placed(self, operation: dict[str, Any], value: Any, path: str) -> Iterator[tuple[dict[str, Any], Any, str]]:
        """Requests that carry an odd value in one place each."""
        text = str(value).encode("utf-8", "surrogatepass").decode("latin-1")[:3_000]
        plain = path
        while "{" in plain:
            plain = plain[: plain.index("{")] + "2" + plain[plain.index("}") + 1 :]
        for parameter in operation.get("parameters", ()):
            if parameter["in"] == "query":
                yield {parameter["name"]: text}, NotSet, plain
            elif parameter["in"] == "path" and "/" not in text:
                yield {}, NotSet, plain if "{" not in path else path[: path.index("{")] + quote(text, safe="%")
        fields = self.fields(operation)
        for name in fields:
            yield {}, {name: value}, plain
            yield {}, {name: [value]}, plain
        if fields:
            yield {}, dict.fromkeys(fields, value), plain
            yield {}, value, plain

    def fields(self, operation: dict[str, Any]) -> list[str]:
        content = operation.get("requestBody", {}).get("content", {}).get("application/json", {})
        name = content.get("schema", {}).get("$ref", "").rpartition("/")[2]
        return list(self.app.openapi()["components"]["schemas"].get(name, {}).get("properties", {}))

    def test_odd_paths_of_the_page(self) -> None:
        """Nothing, not our failure."""
        for path in (
            "/%00",
            "/a%00b",
            "/%ff%fe",
            "/" + "x" * 5_000,
            "/..%2f..%2fetc/passwd",
            "/assets/%00",
            "/api/%00",
        ):
            self.send("GET", path)
        self.assertEqual(self.failures, [])
