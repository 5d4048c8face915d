"""A clip with few keyframes: a job makes its proxy, which goes with it."""

from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import text

from idle_shimmer.jobs.tasks.clip_proxy import make_proxy
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from tests.api.conftest import BYTES
from tests.api.edits.test_cut_detections import Steady
from tests.media.previews.test_proxy_video import COUNT, ONE_KEYFRAME
from tests.support.clips import numbered, write_clip


def imported(client: TestClient, file: Path) -> dict[str, Any]:
    answer = client.post(
        "/api/clips", params={"name": file.name}, content=file.read_bytes(), headers=BYTES
    )
    return answer.json()


def test_a_job_makes_the_proxy_of_a_clip_and_it_goes_with_it(
    client: TestClient, tmp_path: Path
) -> None:
    slow = write_clip(
        tmp_path / "slow.mp4", [numbered(n) for n in range(COUNT)], options=ONE_KEYFRAME
    )
    clip = imported(client, slow)
    # Only a clip that turns out to be slow gets one.
    for number in (2, 120, 130):
        assert client.get(f"/api/clips/{clip['id']}/pictures/{number}.jpg").status_code == 200
    with session_scope() as session:
        asked = session.execute(
            text(
                "SELECT args, queue_name FROM procrastinate_jobs WHERE task_name LIKE '%make_proxy'"
            )
        ).all()
    assert [(row[0], row[1]) for row in asked] == [({"proxy_of": clip["id"]}, "proxies")]
    before = client.get("/api/storage").json()["media_bytes"]
    for _ in range(2):
        make_proxy(Steady(), clip["id"])  # type: ignore[arg-type]
    (made,) = settings().proxies.iterdir()
    assert client.get("/api/storage").json()["media_bytes"] == before + made.stat().st_size
    assert client.delete(f"/api/clips/{clip['id']}").status_code == 204
    assert list(settings().proxies.iterdir()) == []
    make_proxy(Steady(), clip["id"])  # type: ignore[arg-type]


def test_one_with_many_keyframes_gets_none(client: TestClient, tmp_path: Path) -> None:
    quick = write_clip(tmp_path / "quick.mp4", [numbered(n) for n in range(40)])
    clip = imported(client, quick)
    make_proxy(Steady(), clip["id"])  # type: ignore[arg-type]
    assert not settings().proxies.is_dir() or list(settings().proxies.iterdir()) == []
