"""Whatever is asked of the API, the answer is never our own failure: requests made from its description, in form and
out of form, and odd values in every place."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator
from typing import Any
from unittest import mock
from urllib.parse import quote

import schemathesis
from fastapi.testclient import TestClient
from httpx2 import InvalidURL
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import Case, GenerationMode
from schemathesis.core import NotSet

from hieranome.app.service import Service
from hieranome.core.errors import ServerUnreachable
from hieranome.mail.finding import Finder
from hieranome.mail.imap import Imap
from hieranome.web.application import build
from tests.support import MARK, SOAK, RoomCase, letter, offer

EXAMPLES = 400 if SOAK else 28
"""Requests for each operation, in form and out of form."""
LEAST = 5_000
ENDLESS = "/api/events"
"""A stream without end; tests of its own listen to it."""
WORLD = frozenset({502, 503, 507})
"""What the world may answer: a server that cannot be reached."""
ODD: tuple[Any, ...] = (
    2**63 - 1, 2**63, 2**64, -(2**63) - 1, 10**400, -1, 0, 1.5, float("nan"), float("inf"), True, None, "", "\x00", "\ud800", "a\udfffb", "~nouser",
    "~", "/%00", "%00", "../../etc/passwd", "x" * 5_000, "'; DROP TABLE messages; --", "\u202e", "²", "٣", [], {}, [[]], {"a": {"b": []}}, "1e999",
    "<1>", "desk", [2**70], ["\ud800"], "/proc/self/mem", "/dev/zero",
)  # fmt: skip


class SchemaCase(RoomCase):
    """A server with some mail, a bucket, a lesson and a draft, and nobody to sign in."""

    def setUp(self) -> None:
        super().setUp()
        self.served = Service.of(self.room, open_to_all=True, demo=True)
        self.app = build(self.served, hosts=("testserver",))
        self.client = TestClient(self.app, headers=MARK, raise_server_exceptions=False)
        self.client.__enter__()
        self.addCleanup(self.client.__exit__, None, None, None)
        resolver = mock.Mock()
        resolver.resolve.side_effect = OSError("There is no network here.")
        self.served.finder = Finder(resolver, mock.Mock(side_effect=OSError("There is no network here.")))
        unreachable = ServerUnreachable("There is no network here.")
        patch = mock.patch.object(Imap, "connect", side_effect=unreachable)
        patch.start()
        self.addCleanup(patch.stop)
        for number in range(8):
            self.take(offer(number))
            self.take(letter(f"Letter {number}"))
        self.client.post("/api/verdicts", json={"messages": [1], "belongs": "shelf", "reach": "learn"})
        self.client.post("/api/searches", json={"name": "one", "line": "from:ilse"})
        self.statuses: Counter[int] = Counter()
        self.failures: list[str] = []

    def send(
        self, method: str, path: str, query: dict[str, Any] | None = None, body: Any = NotSet, kind: str = ""
    ) -> None:
        """Ask, and note what was answered; what cannot be sent over HTTP at all is left out."""
        given: dict[str, Any] = {}
        if "multipart" in kind:
            given["files"] = {"files": ("a.mbox", json.dumps(body, default=str).encode())}
        elif not (body is NotSet or isinstance(body, NotSet)):
            try:
                given["content"] = json.dumps(body).encode()
            except (TypeError, ValueError):
                return
            given["headers"] = {"content-type": "application/json"}
        try:
            answer = self.client.request(method, path, params=query, **given)
        except (UnicodeError, ValueError, TypeError, InvalidURL):
            return
        self.statuses[answer.status_code] += 1
        if answer.status_code >= 500 and answer.status_code not in WORLD:
            self.failures.append(f"{answer.status_code} {method} {path} {query!r:.80} {body!r:.200}")


class DescribedTest(SchemaCase):
    def test_requests_made_from_the_description(self) -> None:
        """At least five thousand, in form and out of form, to every operation: no failure of ours."""
        schema = schemathesis.openapi.from_dict(self.app.openapi())
        for found in schema.get_all_operations():
            operation = found.ok()
            if operation.path == ENDLESS:
                continue
            for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):
                with self.subTest(operation=operation.label, mode=mode.value):
                    self.ask(operation.as_strategy(generation_mode=mode))
        self.assertEqual(self.failures, [])
        self.assertGreaterEqual(sum(self.statuses.values()), LEAST)
        self.assertGreater(self.statuses[200], 300)

    def ask(self, cases: Any) -> None:
        @seed(20261125)
        @settings(
            max_examples=EXAMPLES, database=None, deadline=None, suppress_health_check=list(HealthCheck),
            phases=[Phase.generate],
        )  # fmt: skip
        @given(case=cases)
        def one(case: Case) -> None:
            path = case.formatted_path
            self.send(case.method, path, case.query, case.body, case.media_type or "")
            for name in ("number", "step"):  # what is there is hit too
                if name in (case.path_parameters or {}):
                    self.send(
                        case.method, case.path.replace(f"{{{name}}}", "2"), case.query, case.body, case.media_type or ""
                    )

        try:
            one()
        except Unsatisfiable:
            return  # an operation that takes nothing has nothing out of form


class OddTest(SchemaCase):
    def test_odd_values_in_every_place(self) -> None:
        """Numbers beyond 64 bits, lone surrogates, NaN, strange paths: in each parameter and each field."""
        for path, operations in self.app.openapi()["paths"].items():
            if path == ENDLESS:
                continue
            for method, operation in operations.items():
                for value in ODD:
                    for query, body, where in self.placed(operation, value, path):
                        self.send(method.upper(), where, query, body)
        self.assertEqual(self.failures, [])
        self.assertGreater(sum(self.statuses.values()), 3_000)

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
