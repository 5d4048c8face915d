"""Long renders in segments: rendered by several workers, whole whatever happens to them."""

import subprocess
import uuid
from collections.abc import Callable

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select, text

from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.jobs import segmented_render as segments
from idle_shimmer.jobs.tasks import edit_render
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import ClaimLost
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import render_segments, renders
from idle_shimmer.store.tables import Render, RenderSegment
from tests.api.conftest import client, clip_ids, edit, files
from tests.api.edits.test_cut_detections import Steady
from tests.api.edits.test_resources import save
from tests.jobs.test_workers import queued, wait_for, workers
from tests.support.asking import asking

__all__ = ["client", "clip_ids", "edit", "files", "workers"]
Start = Callable[[], "subprocess.Popen[bytes]"]
# Longer than what is rendered in one piece.
LONG_CLIPS = 28


def rows(render: str) -> list[RenderSegment]:
    with session_scope() as session:
        wanted = select(RenderSegment).where(RenderSegment.render_id == uuid.UUID(render))
        return list(session.scalars(wanted.order_by(RenderSegment.number)))


def test_a_cancelled_render_leaves_no_segments(
    client: TestClient, clip_ids: list[str], workers: Start
) -> None:
    render = queued(client, clip_ids, LONG_CLIPS)
    workers()
    wait_for(client, render, lambda found: found["done_frames"] > 0)
    client.post(f"/api/renders/{render}/cancel")
    for _ in asking():
        if client.get(f"/api/renders/{render}").json()["state"] == "cancelled":
            break
    assert rows(render) == []
    assert not list(settings().segments.glob(f"*{render}*"))


@pytest.fixture
def at_work(client: TestClient, clip_ids: list[str]) -> uuid.UUID:
    """A render that is claimed, with three segments planned."""
    render = uuid.UUID(queued(client, clip_ids, 2))
    with session_scope() as session:
        session.execute(text("DELETE FROM procrastinate_jobs"))
        session.get_one(Render, render).state = "running"
    render_segments.plan(render, [range(250), range(250, 500), range(500, 510)])
    return render


def test_each_segment_has_one_worker_and_a_lost_one_changes_nothing(at_work: uuid.UUID) -> None:
    claims = [render_segments.take(at_work, f"quay-{n}", ".mkv", ".wav") for n in range(4)]
    assert [claim and claim.number for claim in claims] == [0, 1, 2, None]
    first = claims[0]
    assert first is not None
    assert render_segments.report(first, 100)
    assert render_segments.progress(at_work).done_frames == 100
    # Its worker is stopped; another one takes it up.
    with session_scope() as session:
        session.get_one(RenderSegment, first.id).seen_at = None
        session.execute(
            text("UPDATE render_segment SET seen_at = now() - interval '1 minute' WHERE number = 0")
        )
    again = render_segments.take(at_work, "quay-9", ".mkv", ".wav")
    assert again is not None
    assert (again.number, again.claim) == (0, first.claim + 1)
    assert again.file != first.file
    with pytest.raises(ClaimLost):
        render_segments.report(first, 200)
    assert not render_segments.finish(first)
    assert render_segments.finish(again)
    assert render_segments.progress(at_work).states == {"done": 1, "running": 2}


def test_a_render_whose_segments_are_done_is_joining(
    client: TestClient, at_work: uuid.UUID
) -> None:
    def shown() -> tuple[int, bool]:
        found = client.get(f"/api/renders/{at_work}").json()
        return found["workers"], found["is_joining"]

    assert shown() == (1, False)
    claims = [render_segments.take(at_work, f"quay-{n}", ".mkv", ".wav") for n in range(3)]
    assert shown() == (3, False)
    for claim in claims:
        assert claim is not None
        assert render_segments.finish(claim)
    assert shown() == (1, True)


def test_what_is_done_is_kept_for_another_attempt(at_work: uuid.UUID) -> None:
    claim = render_segments.take(at_work, "quay-1", ".mkv", ".wav")
    assert claim is not None
    claim.file.parent.mkdir(exist_ok=True)
    claim.file.write_bytes(b"part")
    render_segments.finish(claim)
    parts = [range(250), range(250, 500), range(500, 510)]
    render_segments.plan(at_work, parts)
    assert render_segments.progress(at_work).states == {"done": 1, "waiting": 2}
    claim.file.unlink()
    render_segments.plan(at_work, parts)
    assert render_segments.progress(at_work).states == {"waiting": 3}
    render_segments.plan(at_work, parts[:2])
    assert render_segments.progress(at_work).states == {"waiting": 2}


def test_a_segment_that_fails_fails_the_render_with_its_reason(at_work: uuid.UUID) -> None:
    claim = render_segments.take(at_work, "quay-1", ".mkv", ".wav")
    assert claim is not None
    render_segments.fail(claim, "the file is gone")
    with pytest.raises(render_segments.SegmentFailed, match="the file is gone"):
        render_segments.progress(at_work)


def test_short_renders_stay_in_one_piece(client: TestClient, clip_ids: list[str]) -> None:
    def snapshot(clips: int) -> Snapshot:
        render = uuid.UUID(queued(client, clip_ids, clips))
        with session_scope() as session:
            return Snapshot.read(renders.render_by_id(session, render).snapshot)

    assert not segments.is_divided(snapshot(3))
    assert segments.is_divided(snapshot(LONG_CLIPS))


@pytest.mark.parametrize("clips", [3, LONG_CLIPS])
def test_ramps_that_leave_no_frames_between_them_are_refused_at_any_length(
    client: TestClient, clip_ids: list[str], clips: int
) -> None:
    """Both use frames of the second clip: 2 times 8 shown at three times the speed, of 36."""
    body = {"name": "Ramps", "clips": [clip_ids[n % 3] for n in range(clips)]}
    edit = client.post("/api/edits", json=body).json()
    for cut, side in zip(edit["cuts"][:2], ("incoming", "outgoing"), strict=True):
        ramp = {"retime": {side: {"speed": 3.0, "in_edit": "ripple"}}}
        saved = save(client, client.get(f"/api/cuts/{cut['id']}").json(), recipe=ramp)
        assert saved.status_code == 200
    asked = client.post("/api/renders", json={"edit": edit["id"]})
    assert asked.status_code == 201, asked.text
    render = uuid.UUID(asked.json()["id"])
    with session_scope() as session:
        document = renders.render_by_id(session, render).snapshot
    assert segments.is_divided(Snapshot.read(document)) == (clips == LONG_CLIPS)
    edit_render.render(Steady(), str(render))  # type: ignore[arg-type]
    failed = client.get(f"/api/renders/{render}").json()
    assert failed["state"] == "failed"
    assert "frames more than it has between them" in failed["message"]
