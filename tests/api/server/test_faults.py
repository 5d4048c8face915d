"""What goes wrong below the API: answers in words, never a bare 500."""

import errno
import re
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient
from procrastinate.exceptions import ConnectorException
from psycopg.errors import DeadlockDetected
from sqlalchemy.exc import OperationalError

from idle_shimmer.api.server import health_routes as health
from idle_shimmer.edit import edit_list
from idle_shimmer.store.clips import clips
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import messages


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("patch", "", {"name": "Night\0tide"}),
        ("post", "/cuts/move", {"moves": [{"cut": "{cut}", "by": 100_000}]}),
        ("patch", "/placed/{placed}", {"in_frame": 10**12}),
        ("patch", "/placed/{placed}", {"out_frame": 10**30}),
        ("put", "/cuts/{cut}/window", {"before": 10**12, "after": 1}),
        ("patch", "", {"name": "x" * 100_000}),
        ("post", "/clips", {"clip": "\0"}),
    ],
)
def test_values_that_cannot_be_stored_are_refused(
    client: TestClient, edit: dict, method: str, path: str, body: dict[str, Any]
) -> None:
    places = {"cut": edit["cuts"][0]["id"], "placed": edit["placed"][0]["id"]}
    for move in body.get("moves", []):
        move["cut"] = places["cut"]
    answer = getattr(client, method)(f"/api/edits/{edit['id']}{path.format(**places)}", json=body)
    assert answer.status_code == 422
    assert messages(answer)
    assert client.get(f"/api/edits/{edit['id']}").json()["version"] == edit["version"]


def test_a_database_that_does_not_answer_is_said_and_to_be_tried_again(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> None:
        raise OperationalError("SELECT", {}, OSError("server closed the connection"))

    monkeypatch.setattr(edit_list, "edit_rows", fail)
    answer = client.get("/api/edits")
    assert (answer.status_code, answer.headers["retry-after"]) == (503, "2")
    assert "database does not answer" in messages(answer)[0][1]


@pytest.mark.parametrize("number", [errno.ENOSPC, errno.EDQUOT])
def test_a_full_disk_is_said(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, number: int
) -> None:
    def fail(*_: object) -> None:
        raise OSError(number, "no space")

    monkeypatch.setattr(clips, "register_clip", fail)
    answer = client.post("/api/clips", params={"name": "a.mp4"}, content=b"film", headers=BYTES)
    assert answer.status_code == 507
    assert re.search("the disk of the folder .* is full: .* are free", messages(answer)[0][1])


def test_a_fault_of_the_program_has_a_body_and_no_details(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> None:
        raise RuntimeError("secret")

    monkeypatch.setattr(edit_list, "edit_rows", fail)
    quiet = TestClient(client.app, base_url="http://localhost", raise_server_exceptions=False)
    answer = quiet.get("/api/edits")
    assert answer.status_code == 500
    assert "secret" not in answer.text
    assert messages(answer)


@pytest.mark.parametrize(
    ("cause", "status"), [(psycopg.OperationalError("gone"), 503), (DeadlockDetected(), 409)]
)
def test_an_error_of_the_queue_is_one_of_the_database(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, cause: Exception, status: int
) -> None:
    def fail(*_: object) -> None:
        raise ConnectorException from cause

    monkeypatch.setattr(edit_list, "edit_rows", fail)
    quiet = TestClient(client.app, base_url="http://localhost", raise_server_exceptions=False)
    answer = quiet.get("/api/edits")
    assert answer.status_code == status
    assert messages(answer)


def test_health_says_what_is_missing(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    found = client.get("/api/health").json()
    assert (found["state"], found["database"], found["worker_slots"]) == ("degraded", True, 0)
    assert found["disk_free_bytes"] > 0

    def fail() -> None:
        raise OperationalError("SELECT", {}, OSError("server closed the connection"))

    monkeypatch.setattr(health, "session_scope", fail)
    found = client.get("/api/health").json()
    assert (found["state"], found["database"], found["worker_slots"]) == ("degraded", False, None)
