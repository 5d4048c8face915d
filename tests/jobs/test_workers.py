"""Renders under faults: workers that are killed, stopped and replaced; claims that are lost."""

import errno
import os
import signal
import subprocess
import uuid
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from idle_shimmer.jobs.tasks import edit_render
from idle_shimmer.jobs.worker import defer_render, requeue_forgotten
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import MAX_STARTS, Claim, ClaimLost
from idle_shimmer.store.clips import cut_detections
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import renders
from idle_shimmer.store.tables import Render
from tests.api.conftest import client, clip_ids, edit, files
from tests.api.edits.test_cut_detections import Steady
from tests.conftest import ROOT
from tests.support.asking import asking
from tests.support.server import COMMAND

__all__ = ["client", "clip_ids", "edit", "files"]
# Small frames, but enough of them to be interrupted.
MANY_CLIPS = 28


@pytest.fixture
def workers() -> Iterator[Callable[..., "subprocess.Popen[bytes]"]]:
    """Starts workers; those that still run end with the test."""
    started: list[subprocess.Popen[bytes]] = []

    def start(environment: Mapping[str, str] = os.environ) -> "subprocess.Popen[bytes]":
        started.append(subprocess.Popen([COMMAND, "worker"], cwd=ROOT, env=environment))
        return started[-1]

    yield start
    for process in started:
        process.send_signal(signal.SIGCONT)
        process.kill()
        process.wait(120)


def queued(client: TestClient, clip_ids: list[str], clips: int = MANY_CLIPS) -> str:
    """Return the id of a queued render of a long edit."""
    body = {"name": "Long", "clips": [clip_ids[n % 3] for n in range(clips)]}
    made = client.post("/api/edits", json=body).json()
    return str(client.post("/api/renders", json={"edit": made["id"]}).json()["id"])


def wait_for(
    client: TestClient, render: str, wanted: Callable[[dict[str, Any]], bool]
) -> dict[str, Any]:
    """Return the render as soon as it is as wanted."""
    for _ in asking():
        found: dict[str, Any] = client.get(f"/api/renders/{render}").json()
        if wanted(found):
            break
        assert found["state"] not in ("failed", "cancelled"), found["message"]
    return found


def is_under_way(render: dict[str, Any]) -> bool:
    return render["state"] == "running" and render["done_frames"] > 0


def is_done(render: dict[str, Any]) -> bool:
    return bool(render["state"] == "done")


def assert_whole(render: dict[str, Any]) -> None:
    """The one file of the render is whole."""
    found = list(settings().renders.glob(f"*{render['id']}*"))
    assert len(found) == 1
    with VideoReader(found[0]) as reader:
        assert reader.facts.frame_count == render["total_frames"]


def test_a_render_whose_worker_is_stopped_waits_for_the_next_one(
    client: TestClient, clip_ids: list[str], workers: Any
) -> None:
    """Nobody cancelled it: it goes back to waiting and is done by another worker."""
    render = queued(client, clip_ids)
    first = workers()
    wait_for(client, render, is_under_way)
    first.terminate()
    first.wait(120)
    assert client.get(f"/api/renders/{render}").json()["state"] == "waiting"
    workers()
    assert_whole(wait_for(client, render, is_done))


def test_a_render_whose_worker_is_killed_is_taken_up_by_another(
    client: TestClient, clip_ids: list[str], workers: Any
) -> None:
    """Within forty seconds, while the other worker is busy with another render."""
    render = queued(client, clip_ids)
    first = workers()
    wait_for(client, render, is_under_way)
    first.kill()
    first.wait(120)
    other = queued(client, clip_ids, clips=12)
    workers()
    for each in (render, other):
        wait_for(client, each, is_done)
    # What the killed worker had begun may lie there; nothing of it is in the result.
    found = [
        path for path in settings().renders.glob(f"*{render}*") if ".unfinished" not in path.name
    ]
    assert len(found) == 1


def test_cancel_and_retry_of_a_waiting_render_queue_one_job(
    client: TestClient, clip_ids: list[str], workers: Any
) -> None:
    render = queued(client, clip_ids, clips=3)
    for _ in range(4):
        assert client.post(f"/api/renders/{render}/cancel").json()["state"] == "cancelled"
        assert client.post(f"/api/renders/{render}/retry").json()["state"] == "waiting"
    workers()
    done = wait_for(client, render, is_done)
    assert_whole(done)
    assert (
        settings().renders / renders.file_name(Claim(uuid.UUID(render), 1, {}), ".mp4")
    ).is_file()


def test_a_worker_that_lost_its_claim_changes_nothing(
    client: TestClient, clip_ids: list[str]
) -> None:
    """It was stopped for a while, and another one took the render up."""
    render = uuid.UUID(queued(client, clip_ids, clips=3))
    first = renders.begin(render)
    second = renders.begin(render)
    assert first is not None
    assert second is not None
    assert renders.file_name(first, ".mp4") != renders.file_name(second, ".mp4")
    with pytest.raises(ClaimLost):
        renders.report_progress(first, 10)
    assert renders.report_progress(second, 4)
    assert not renders.finish(first, "failed", message="late")
    renders.release(first)
    now = client.get(f"/api/renders/{render}").json()
    assert (now["state"], now["done_frames"], now["message"]) == ("running", 4, "")
    assert renders.finish(second, "done", file="film.mp4")


def test_a_render_that_ends_its_worker_each_time_is_given_up(
    client: TestClient, clip_ids: list[str]
) -> None:
    render = uuid.UUID(queued(client, clip_ids, clips=3))
    for _ in range(MAX_STARTS):
        assert renders.begin(render) is not None
    assert renders.begin(render) is None
    given_up = client.get(f"/api/renders/{render}").json()
    assert given_up["state"] == "failed"
    assert "started 5 times" in given_up["message"]
    assert client.post(f"/api/renders/{render}/retry").json()["state"] == "waiting"
    assert renders.begin(render) is not None


def test_a_deleted_render_leaves_no_file(
    client: TestClient, clip_ids: list[str], workers: Any
) -> None:
    render = queued(client, clip_ids, clips=3)
    assert client.delete(f"/api/renders/{render}").status_code == 422
    workers()
    wait_for(client, render, is_done)
    assert client.delete(f"/api/renders/{render}").status_code == 204
    assert not list(Path(settings().renders).glob(f"*{render}*"))
    assert client.get(f"/api/renders/{render}").status_code == 404


def test_a_render_and_its_job_are_made_together_or_not_at_all(
    client: TestClient, clip_ids: list[str]
) -> None:
    def jobs(session: Session) -> int:
        return session.scalar(text("SELECT count(*) FROM procrastinate_jobs")) or 0

    with session_scope() as session:
        before = jobs(session)
    render = uuid.uuid4()

    def make_and_fail(session: Session) -> None:
        session.add(Render(id=render, title="x", snapshot={}, total_frames=1))
        defer_render(session, str(render))
        # A second job for it would wait in vain; the transaction goes on.
        defer_render(session, str(render))
        assert jobs(session) == before + 1
        assert session.get(Render, render) is not None
        session.rollback()

    with session_scope() as session:
        make_and_fail(session)
    with session_scope() as session:
        assert (jobs(session), session.get(Render, render)) == (before, None)


def test_a_render_that_has_lost_its_job_is_queued_again(
    client: TestClient, clip_ids: list[str]
) -> None:
    render = uuid.UUID(queued(client, clip_ids, clips=3))
    with session_scope() as session:
        assert renders.without_job(session) == []
        session.execute(text("DELETE FROM procrastinate_jobs"))
        assert render in renders.without_job(session)
    requeue_forgotten()
    with session_scope() as session:
        assert renders.without_job(session) == []
    client.post(f"/api/renders/{render}/cancel")


def test_a_detection_has_one_worker_too(client: TestClient, clip_ids: list[str]) -> None:
    clip = uuid.UUID(clip_ids[0])
    client.post(f"/api/clips/{clip}/cuts")
    first, second = cut_detections.begin(clip), cut_detections.begin(clip)
    assert first is not None
    assert second is not None
    with pytest.raises(ClaimLost):
        cut_detections.report_progress(first, 10)
    cut_detections.finish(first, "failed", message="late")
    assert cut_detections.report_progress(second, 4)
    cut_detections.release(second)
    state = client.get(f"/api/clips/{clip}/cuts").json()
    assert (state["state"], state["done_frames"], state["message"]) == ("waiting", 0, "")
    client.post(f"/api/clips/{clip}/cuts/cancel")


def test_a_full_disk_fails_the_render_with_what_it_needs_and_can_be_retried(
    client: TestClient, clip_ids: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    render = queued(client, clip_ids, clips=3)

    def full(_snapshot: object, out: Path, go_on: Callable[[int], bool]) -> None:
        go_on(27)
        out.with_name(f".{out.stem}.unfinished.mp4").write_bytes(b"x" * 1_000_000)
        raise OSError(errno.ENOSPC, "no space")

    with monkeypatch.context() as broken:
        broken.setattr(edit_render, "render_snapshot", full)
        edit_render.render(Steady(), render)  # type: ignore[arg-type]
    failed = client.get(f"/api/renders/{render}").json()
    assert failed["state"] == "failed"
    assert "is full" in failed["message"]
    assert "The render needs 4 MB" in failed["message"]
    assert client.post(f"/api/renders/{render}/retry").json()["state"] == "waiting"
    for left in settings().renders.glob("*unfinished*"):
        left.unlink()
    edit_render.render(Steady(), render)  # type: ignore[arg-type]
    assert_whole(client.get(f"/api/renders/{render}").json())
