"""Whatever is asked of the API, the answer is never our own failure: requests made from its description, in form and
out of form, and odd values in every place."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any
from unittest import mock

import schemathesis
from fastapi.testclient import TestClient
from httpx2 import InvalidURL, Response
from hypothesis import HealthCheck, Phase
from hypothesis.errors import Unsatisfiable
from schemathesis import Case, GenerationMode
from schemathesis.checks import Failure, FailureGroup
from schemathesis.core import NotSet
from schemathesis.specs.openapi.checks import negative_data_rejection, positive_data_acceptance

from hieranome.app.service import Service
from hieranome.core.errors import ServerUnreachable
from hieranome.mail.finding import Finder
from hieranome.mail.imap import Imap
from hieranome.web.application import build
from tests.generated import given, seed, settings
from tests.support import MARK, SOAK, RoomCase, letter, offer

EXAMPLES = 400 if SOAK else 3
"""Requests for each operation, in form and out of form."""
LEAST = 5_000 if SOAK else 500
ENDLESS = "/api/events"
"""A stream without end; tests of its own listen to it."""
NOT_OURS = [positive_data_acceptance, negative_data_rejection]
"""What is not held against an answer: that something in form was refused, since it has to make sense too (a search line
that says nothing, a message that is not there), and that something out of form was taken, where HTTP itself makes it
one of form (a number as text, an unknown parameter)."""
WORLD = frozenset({502, 503, 507})
"""What the world may answer: a server that cannot be reached."""


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
    ) -> Response | None:
        """Ask, and note what was answered; what cannot be sent over HTTP at all is left out."""
        given: dict[str, Any] = {}
        if "multipart" in kind:
            given["files"] = {"files": ("a.mbox", json.dumps(body, default=str).encode())}
        elif not (body is NotSet or isinstance(body, NotSet)):
            try:
                given["content"] = json.dumps(body).encode()
            except (TypeError, ValueError):
                return None
            given["headers"] = {"content-type": "application/json"}
        try:
            answer = self.client.request(method, path, params=query, **given)
        except (UnicodeError, ValueError, TypeError, InvalidURL):
            return None
        self.statuses[answer.status_code] += 1
        if answer.status_code >= 500 and answer.status_code not in WORLD:
            self.failures.append(f"{answer.status_code} {method} {path} {query!r:.80} {body!r:.200}")
        return answer


class DescribedTest(SchemaCase):
    def test_requests_made_from_the_description(self) -> None:
        """Thousands, in form and out of form, to every operation: no failure of ours."""
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
        self.assertGreater(self.statuses[200], LEAST // 17)

    def ask(self, cases: Any) -> None:
        @seed(20261125)
        @settings(
            max_examples=EXAMPLES, database=None, suppress_health_check=list(HealthCheck),
            phases=[Phase.generate],
        )  # fmt: skip
        @given(case=cases)
        def one(case: Case) -> None:
            path = case.formatted_path
            answer = self.send(case.method, path, case.query, case.body, case.media_type or "")
            if answer is not None:
                self.hold_to_the_description(case, answer)
            for name in ("number", "step"):  # what is there is hit too
                if name in (case.path_parameters or {}):
                    self.send(
                        case.method, case.path.replace(f"{{{name}}}", "2"), case.query, case.body, case.media_type or ""
                    )

        try:
            one()
        except Unsatisfiable:
            return  # an operation that takes nothing has nothing out of form

    def hold_to_the_description(self, case: Case, answer: Response) -> None:
        """Note where an answer is none that the description tells of: its status, its type, its form."""
        try:
            case.validate_response(answer, excluded_checks=NOT_OURS)
        except (Failure, FailureGroup) as exc:
            self.failures.append(f"{case.method} {case.path}: {exc!r:.600}")
