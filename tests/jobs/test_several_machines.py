"""Several machines: workers with data folders of their own, and one store; here S3 as moto's server speaks it."""

import os
import signal
import subprocess
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import av
import fsspec
import numpy as np
import pytest
from fastapi.testclient import TestClient

from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.files.file_store import file_store
from idle_shimmer.jobs.snapshot_render import opened
from idle_shimmer.output.render_edit import render_edit
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import renders
from tests.api.conftest import application_here, clip_ids, files
from tests.cli.test_operating import doctor
from tests.jobs.test_segments import rows
from tests.jobs.test_workers import wait_for, workers
from tests.support.asking import asking
from tests.support.shared_store import object_store, using_store

__all__ = ["clip_ids", "files", "workers"]
# One segment of ten seconds at 25 frames a second.
SEGMENT = 250
# Of 60 frames each: seven segments.
CLIPS = 28


@pytest.fixture(scope="module")
def store() -> Iterator[str]:
    """The URL of a store that this process and those that it starts use, with a data folder of this process's own."""
    data = settings().idle_shimmer_data / "machine-0"
    data.mkdir()
    with object_store() as url, using_store(url, data):
        yield url


@pytest.fixture(scope="module")
def client(store: str) -> Iterator[TestClient]:
    with application_here() as made:
        yield made


@pytest.fixture
def machine(workers: Callable[..., Any]) -> Callable[[], "subprocess.Popen[bytes]"]:
    """Starts a worker with a data folder of its own."""
    count = 0

    def start() -> "subprocess.Popen[bytes]":
        nonlocal count
        count += 1
        folder = settings().idle_shimmer_data.resolve().with_name(f"machine-{count}")
        folder.mkdir(parents=True, exist_ok=True)
        return workers({**os.environ, "IDLE_SHIMMER_DATA": str(folder)})

    return start


def names(url: str) -> list[str]:
    scheme, _, root = url.partition("://")
    return fsspec.filesystem(scheme, skip_instance_cache=True).find(root)


def luma(file: Path) -> list[np.ndarray]:
    with av.open(str(file)) as container:
        return [each.to_ndarray(format="gray") for each in container.decode(video=0)]


def in_one_piece(render: dict[str, Any], out: Path) -> Path:
    """The same snapshot, rendered here in one piece."""
    with session_scope() as session:
        document = renders.render_by_id(session, uuid.UUID(render["id"])).snapshot
    snapshot = Snapshot.read(document)
    with opened(snapshot) as whole:
        render_edit(whole, "edit", snapshot.settings(), out, lambda: None)
    return out


def lossless(client: TestClient, clip_ids: list[str]) -> str:
    """A queued lossless render of a minute."""
    body = {"name": "Long", "clips": [clip_ids[n % 3] for n in range(CLIPS)]}
    made = client.post("/api/edits", json=body).json()
    asked = {"edit": made["id"], "format": "ffv1", "sound": True}
    return str(client.post("/api/renders", json=asked).json()["id"])


def test_three_workers_one_killed_one_stopped_one_late_render_one_film(
    client: TestClient, clip_ids: list[str], store: str, machine: Any, tmp_path: Path
) -> None:
    render = lossless(client, clip_ids)
    first, second = machine(), machine()
    wait_for(client, render, lambda found: found["workers"] == 2)
    starts: dict[int, int] = {}

    def is_done(found: dict[str, Any]) -> bool:
        starts.update({each.number: each.starts for each in rows(render)})
        return bool(found["state"] == "done")

    second.kill()
    machine()
    wait_for(client, render, lambda found: found["done_frames"] > 3 * SEGMENT)
    first.send_signal(signal.SIGSTOP)
    done = wait_for(client, render, is_done)
    assert done["done_frames"] == done["total_frames"]
    # The killed worker's segment was taken up, and that one alone besides the stopped one's.
    first.send_signal(signal.SIGCONT)
    assert sum(starts.values()) - len(starts) <= 2
    film = tmp_path / "film.mkv"
    film.write_bytes(client.get(f"/api/renders/{render}/file").content)
    found, wanted = luma(film), luma(in_one_piece(done, tmp_path / "whole.mkv"))
    assert len(found) == len(wanted) == done["total_frames"]
    assert all(np.array_equal(one, other) for one, other in zip(found, wanted, strict=True))
    next(_ for _ in asking() if not rows(render))
    assert [name for name in names(store) if "/segments/" in name] == []
    assert client.delete(f"/api/renders/{render}").status_code == 204
    assert [name for name in names(store) if render in name] == []


def test_what_a_machine_lacks_is_brought_and_what_the_store_lacks_is_told(
    client: TestClient, clip_ids: list[str], store: str
) -> None:
    local = list(settings().media.rglob("*.mp4"))
    assert len(local) == len(clip_ids)
    for file in local:
        file.unlink()
    picture = client.get(f"/api/clips/{clip_ids[0]}/pictures/5.jpg?height=90")
    assert picture.status_code == 200
    assert sum(each.exists() for each in local) == 1
    code, found = doctor()
    assert code == 0, found
    assert found["Store"]["message"] == store
    for file in local:
        file_store().delete(file)
    code, found = doctor()
    assert code == 1
    assert "3 clips" in found["Files"]["message"]
    assert [each["missing"] for each in client.get("/api/clips").json()] == [True] * 3
