"""A shared store that is not mounted for a while: nothing is written beside it, jobs wait, and go on."""

import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from procrastinate.jobs import Job
from sqlalchemy import delete

from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.store_mark import MARK_FILE, StoreUnreachable
from idle_shimmer.jobs import patience
from idle_shimmer.jobs.blueprint import AGAIN
from idle_shimmer.jobs.tasks.edit_render import render
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.installation import guard_store
from idle_shimmer.store.tables import Installation
from tests.api.conftest import BYTES, application_here, clip_ids, edit, files
from tests.api.edits.test_cut_detections import Steady
from tests.support.shared_store import using_store

__all__ = ["clip_ids", "edit", "files"]


@pytest.fixture(scope="module")
def store(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    """The folder of the store that this process uses."""
    folder = tmp_path_factory.mktemp("shared") / "store"
    with using_store(f"file://{folder}", tmp_path_factory.mktemp("machine")):
        yield folder


@pytest.fixture(scope="module")
def client(store: Path) -> Iterator[TestClient]:
    with application_here() as made:
        yield made


@pytest.fixture
def away(store: Path, clip_ids: list[str]) -> Iterator[Path]:
    """The store's content while it is not mounted: its folder is there, and empty."""
    elsewhere = store.with_name("unmounted")
    store.rename(elsewhere)
    store.mkdir()
    yield elsewhere
    if elsewhere.exists():
        mount(store, elsewhere)


def mount(store: Path, elsewhere: Path) -> None:
    store.rmdir()
    elsewhere.rename(store)


def test_nothing_is_written_where_the_store_was(
    client: TestClient, clip_ids: list[str], files: list[Path], store: Path, away: Path
) -> None:
    assert client.get("/api/health").json()["store"] is False
    content = files[0].read_bytes() + b"more"
    refused = client.post("/api/clips?name=new.mp4", content=content, headers=BYTES)
    assert refused.status_code == 503
    assert "may not be mounted" in refused.json()["problems"][0]["message"]
    assert str(store) not in refused.text
    assert list(store.iterdir()) == []
    mount(store, away)
    found = client.get("/api/health").json()
    assert found["store"] is True
    accepted = client.post("/api/clips?name=new.mp4", content=content, headers=BYTES)
    assert accepted.status_code == 201


def test_a_store_that_was_never_marked_is_not_begun_anew_where_clips_are_known(
    client: TestClient, clip_ids: list[str], store: Path, away: Path
) -> None:
    """As at the first start of this version beside a folder that is not mounted."""
    with session_scope() as session:
        session.execute(delete(Installation))
    file_store.cache_clear()
    guard_store()
    with pytest.raises(StoreUnreachable, match="may not be mounted"):
        file_store().require()
    assert list(store.iterdir()) == []
    mount(store, away)
    (store / MARK_FILE).unlink()
    file_store().require()
    assert (store / MARK_FILE).read_text()


def test_another_store_is_not_taken_for_it_until_it_is_said_to_be(
    client: TestClient, clip_ids: list[str], store: Path, away: Path
) -> None:
    (store / MARK_FILE).write_text("of another installation")
    with pytest.raises(StoreUnreachable, match="fill-store"):
        file_store().require()
    file_store().become_own()
    file_store().require()
    (store / MARK_FILE).unlink()


def test_a_render_waits_for_the_store(
    client: TestClient,
    edit: dict,
    store: Path,
    away: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    pauses: list[float] = []

    def pause(seconds: float) -> None:
        pauses.append(seconds)
        if len(pauses) == 3:
            mount(store, away)

    monkeypatch.setattr(patience.time, "sleep", pause)
    asked = client.post("/api/renders", json={"cut": edit["cuts"][0]["id"]}).json()
    render(Steady(), asked["id"])  # type: ignore[arg-type]
    done = client.get(f"/api/renders/{asked['id']}").json()
    assert (done["state"], len(pauses)) == ("done", 3)
    assert [each.name for each in (store / "renders").glob(f"*{asked['id']}*.mp4")]


def test_a_render_is_put_back_where_the_store_stays_away(
    client: TestClient, edit: dict, away: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(patience, "_WAIT_S", 0.0)
    asked = client.post("/api/renders", json={"cut": edit["cuts"][0]["id"]}).json()
    with pytest.raises(StoreUnreachable):
        render(Steady(), asked["id"])  # type: ignore[arg-type]
    put_back = client.get(f"/api/renders/{asked['id']}").json()
    assert put_back["state"] == "waiting"
    job = Job(queue="renders", lock=None, queueing_lock=None, task_name=render.name)
    again = AGAIN.get_retry_decision(exception=StoreUnreachable("away"), job=job)
    assert again is not None
    assert again.retry_at is not None
    assert again.retry_at.timestamp() > time.time()
