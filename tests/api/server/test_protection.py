"""Strangers' pages are kept out: hosts, origins, content types, headers.

Sources: Fetch Standard (Origin, Sec-Fetch-Site), RFC 9110 section 7.2, RFC 6455 section 7.4.1,
Content Security Policy Level 3.
"""

from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from idle_shimmer.api.app import create_app
from idle_shimmer.api.server.protection import page_policy
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import messages

FOREIGN = {"Origin": "https://elsewhere.example"}


@pytest.mark.parametrize(
    "host", ["elsewhere.example", "localhost.elsewhere.example", "10.0.0.7:8350", ""]
)
def test_only_its_own_names_are_answered(client: TestClient, host: str) -> None:
    answer = client.get("/api/edits", headers={"Host": host})
    assert answer.status_code == 421
    assert "does not answer to the name" in messages(answer)[0][1]


@pytest.mark.parametrize("host", ["localhost", "localhost:8350", "127.0.0.1:9", "[::1]:8350"])
def test_loopback_names_are_answered(client: TestClient, host: str) -> None:
    assert client.get("/api/edits", headers={"Host": host}).status_code == 200


def test_a_page_of_another_website_changes_and_reads_nothing(
    client: TestClient, edit: dict
) -> None:
    path = f"/api/edits/{edit['id']}"
    tries = [
        client.post("/api/edits", json={"name": "Theirs", "clips": []}, headers=FOREIGN),
        client.patch(path, json={"name": "Theirs"}, headers=FOREIGN),
        client.delete(path, headers=FOREIGN),
        client.get(path, headers=FOREIGN),
        client.post(
            "/api/edits/import",
            params={"name": "a.otio"},
            content=b"{}",
            headers={**FOREIGN, **BYTES},
        ),
        client.delete(path, headers={"Origin": "null"}),
        client.delete(path, headers={"Origin": "https://localhost"}),
        client.get(path, headers={"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors"}),
    ]
    assert [each.status_code for each in tries] == [403] * len(tries)
    assert client.get(path).json()["name"] == edit["name"]


def test_a_link_from_another_website_opens_the_page(client: TestClient) -> None:
    headers = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"}
    assert client.get("/api/health", headers=headers).status_code == 200


def test_the_preview_of_another_website_is_refused(client: TestClient, edit: dict) -> None:
    path = f"/api/cuts/{edit['cuts'][0]['id']}/preview"
    with (
        pytest.raises(WebSocketDisconnect) as refused,
        client.websocket_connect(path, headers=FOREIGN),
    ):
        pass
    assert refused.value.code == 1008
    with client.websocket_connect(path, headers={"Origin": "http://testserver"}):
        pass


@pytest.mark.parametrize(
    "kind", ["text/plain", "application/x-www-form-urlencoded", "multipart/form-data", ""]
)
def test_bodies_that_a_foreign_form_can_send_are_refused(client: TestClient, kind: str) -> None:
    answer = client.post(
        "/api/edits", content=b'{"name": "Theirs", "clips": []}', headers={"Content-Type": kind}
    )
    assert answer.status_code == 415
    assert "content type must be application/json" in messages(answer)[0][1]


def test_every_answer_carries_its_headers(client: TestClient) -> None:
    for path in ("/api/edits", "/api/nothing", "/api/edits/x"):
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "same-origin"
        assert headers["cache-control"] == "no-store"


def test_the_page_allows_its_own_scripts_alone(tmp_path: Path) -> None:
    (tmp_path / "_app").mkdir()
    html = "<html><script>start()</script></html>"
    (tmp_path / "index.html").write_text(html, encoding="utf-8")
    with TestClient(create_app(tmp_path), base_url="http://localhost") as client:
        policy = client.get("/edits/1").headers["content-security-policy"]
    assert policy == page_policy(html)
    # The hash by: printf 'start()' | openssl dgst -sha256 -binary | base64
    own = "'sha256-DIm7WJS6ZKDYe5qFLPy+h4JFI9Bol5QmYC57mt3Fb00='"
    assert f"script-src 'self' {own};" in policy
    assert "frame-ancestors 'none'" in policy
    assert "unsafe-eval" not in policy
