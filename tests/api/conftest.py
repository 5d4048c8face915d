"""The application in this process, on an empty test database."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from idle_shimmer.api.app import create_app
from idle_shimmer.api.server.protection import LOOPBACK_HOSTS
from tests.support.clips import numbered, write_clip
from tests.support.server import empty_database

# The content type of a file as the body.
BYTES = {"Content-Type": "application/octet-stream"}


@contextmanager
def application_here() -> Iterator[TestClient]:
    empty_database()
    # The test client names its WebSockets so.
    hosts = (*LOOPBACK_HOSTS, "testserver")
    with TestClient(create_app(hosts=hosts), base_url="http://localhost") as made:
        yield made


@pytest.fixture(scope="module")
def client() -> Iterator[TestClient]:
    with application_here() as made:
        yield made


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    """Three numbered clips of 60 pictures."""
    folder = tmp_path_factory.mktemp("clips")
    return [
        write_clip(
            folder / f"{name}.mp4", [numbered(n + 1000 * k) for n in range(60)], tone=name == "one"
        )
        for k, name in enumerate(("one", "two", "three"))
    ]


@pytest.fixture(scope="module")
def clip_ids(client: TestClient, files: list[Path]) -> list[str]:
    """The files imported."""
    answers = [
        client.post("/api/clips", params={"name": f.name}, content=f.read_bytes(), headers=BYTES)
        for f in files
    ]
    assert [answer.status_code for answer in answers] == [201] * 3
    return [answer.json()["id"] for answer in answers]


@pytest.fixture
def edit(client: TestClient, clip_ids: list[str]) -> dict:
    """A fresh edit of the three clips."""
    return client.post("/api/edits", json={"name": "Three", "clips": clip_ids}).json()
