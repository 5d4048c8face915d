"""Processes that are killed, stopped and started again while the application is in use."""

import os
import shutil
import signal
import subprocess
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx
import pytest

from idle_shimmer.settings import settings
from idle_shimmer.store.clips.clips import clip_by_id
from idle_shimmer.store.database import session_scope
from tests.api.conftest import BYTES
from tests.faults.tally import TIMES, Tally
from tests.jobs.test_workers import assert_whole
from tests.support.asking import asking
from tests.support.clips import numbered, write_clip
from tests.support.server import Application, empty_database

POSTGRES = os.environ.get("IDLE_SHIMMER_POSTGRES", "").split()
STOPPED_S = 60
SAVES = 30
# More than is kept free for the database.
DISK_MB = 260
ROUNDS = min(TIMES, 8)


@pytest.fixture(scope="module")
def application() -> Iterator[Application]:
    empty_database()
    with Application() as running:
        yield running


@pytest.fixture
def api(application: Application) -> Iterator[httpx.Client]:
    fresh = httpx.Limits(max_keepalive_connections=0)
    with httpx.Client(
        base_url=application.address, trust_env=False, timeout=60, limits=fresh
    ) as client:
        yield client


@pytest.fixture
def clip(api: httpx.Client, tmp_path: Path) -> str:
    content = write_clip(tmp_path / "a.mp4", [numbered(n) for n in range(60)]).read_bytes()
    answer = api.post("/api/clips", params={"name": "a.mp4"}, content=content, headers=BYTES)
    return str(answer.json()["id"])


def long_render(api: httpx.Client, clip: str, clips: int = 40) -> str:
    """A queued render of an edit of many clips."""
    edit = api.post("/api/edits", json={"name": "Long", "clips": [clip] * clips}).json()
    # What was chosen last is remembered: this says all of it.
    wanted = {"edit": edit["id"], "what": "edit", "format": "h264"}
    return str(api.post("/api/renders", json=wanted).json()["id"])


def when(
    api: httpx.Client, render: str, wanted: Callable[[dict[str, Any]], bool]
) -> dict[str, Any]:
    """The render as soon as it is as wanted; refusals for want of a database are waited out."""
    for _ in asking():
        answer = api.get(f"/api/renders/{render}")
        if answer.status_code == 503:
            assert int(answer.headers["retry-after"]) > 0
            continue
        found: dict[str, Any] = answer.json()
        if wanted(found):
            break
        assert found["state"] not in ("failed", "cancelled"), found["message"]
    return found


def is_done(render: dict[str, Any]) -> bool:
    return bool(render["state"] == "done")


@pytest.mark.skipif(not POSTGRES, reason="the database server is not ours to restart")
def test_a_restart_of_the_database_loses_nothing(
    application: Application, api: httpx.Client, clip: str
) -> None:
    """Requests meanwhile answer 503 with Retry-After; server and worker go on by themselves."""
    tally = Tally("restarts of the database")
    render = long_render(api, clip)
    edit = api.get("/api/edits").json()[0]["id"]
    for turn in range(ROUNDS):
        when(api, render, lambda found: found["done_frames"] > 0)
        restart = threading.Thread(target=restart_postgres)
        restart.start()
        answers: Counter[int] = Counter()
        while restart.is_alive():
            name = {"name": f"Long {turn}"}
            answers[api.patch(f"/api/edits/{edit}", json=name).status_code] += 1
        restart.join()
        assert set(answers) <= {200, 503}
        when(api, render, lambda found: found["state"] != "")
        name = {"name": f"Kept {turn}"}
        assert api.patch(f"/api/edits/{edit}", json=name).json()["name"] == f"Kept {turn}"
        tally.add("restarts")
        tally.add("requests answered 503 meanwhile", answers[503])
    assert_whole(when(api, render, is_done))
    assert application.processes_alive() == [True, True]
    tally.add("renders finished")
    tally.save()


def restart_postgres() -> None:
    folder, data, port = POSTGRES
    as_user = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
    options = f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
    command = f"{folder}/pg_ctl -D {data} -m immediate -w -l {data}/server.log restart -o".split()
    done = subprocess.run([*as_user, *command, options], cwd="/", capture_output=True, check=False)
    assert done.returncode == 0, done.stderr


def test_a_killed_server_loses_no_save_and_leaves_no_upload(
    application: Application, api: httpx.Client, clip: str
) -> None:
    """Killed while cuts are saved and a file is received: what was answered is there afterwards."""
    tally = Tally("kills of the server")
    for _ in range(ROUNDS):
        edit = api.post("/api/edits", json={"name": "Saves", "clips": [clip] * 2}).json()
        cut = edit["cuts"][0]["id"]
        answered = [0]
        with ThreadPoolExecutor(2) as threads:
            saving = threads.submit(save_until_it_ends, api, cut, answered)
            uploading = threads.submit(upload_without_end, application.address)
            while answered[0] < SAVES:
                assert not saving.done()
            application.kill_server()
            saving.result()
            uploading.result()
        assert list(settings().media.glob("upload-*"))
        application.start_server()
        assert not list(settings().media.glob("upload-*"))
        steps = api.get(f"/api/cuts/{cut}/history").json()["steps"]
        found = {each["label"] for each in steps}
        assert {f"save {n}" for n in range(answered[0])} <= found
        tally.add("kills")
        tally.add("saves answered before", answered[0])
        tally.add("saves lost", 0)
    tally.save()


def save_until_it_ends(api: httpx.Client, cut: str, answered: list[int]) -> None:
    seen = api.get(f"/api/cuts/{cut}").json()
    change = {"recipe": seen["recipe"], "before": 4, "after": 4}
    while True:
        body = {**change, "version": seen["version"], "label": f"save {answered[0]}"}
        try:
            seen = api.put(f"/api/cuts/{cut}", json=body).raise_for_status().json()
        except httpx.TransportError:
            return
        answered[0] += 1


def upload_without_end(address: str) -> None:
    def blocks() -> Iterator[bytes]:
        while True:
            yield b"x" * 100_000

    with pytest.raises(httpx.TransportError), httpx.Client(trust_env=False) as client:
        client.post(
            f"{address}/api/clips", params={"name": "a.mp4"}, content=blocks(), headers=BYTES
        )


def test_several_workers_write_each_render_once(
    application: Application, api: httpx.Client, clip: str
) -> None:
    """Three workers and five renders; one worker is killed at its work."""
    tally = Tally("several workers")
    others = [application.start_worker() for _ in range(2)]
    renders = [long_render(api, clip, clips=8) for _ in range(5 * min(TIMES, 4))]
    when(api, renders[0], lambda found: found["done_frames"] > 0)
    others[0].kill()
    for render in renders:
        assert_whole(when(api, render, is_done))
        tally.add("renders finished, one file each")
    others[1].terminate()
    others[1].wait(120)
    tally.add("workers killed")
    tally.save()


def mattes(api: httpx.Client, clip: str) -> str:
    """The address of a subject whose mattes are queued."""
    edit = api.post("/api/edits", json={"name": "Subject", "clips": [clip] * 2}).json()
    path = f"/api/cuts/{edit['cuts'][0]['id']}/subject/incoming"
    box = {"frame": 12, "box": [0.25, 0.2, 0.4, 0.6], "keep": [[[0.4, 0.4], [0.45, 0.6]]]}
    api.put(path, json={"strokes": [box]}).raise_for_status()
    return path


def detection(kind: str) -> Callable[[httpx.Client, str], str]:
    """What queues the detection of a clip's cuts or beats, and returns its address."""

    def ask(api: httpx.Client, clip: str) -> str:
        api.post(f"/api/clips/{clip}/{kind}").raise_for_status()
        return f"/api/clips/{clip}/{kind}"

    return ask


def round_trip(api: httpx.Client, clip: str) -> str:
    """The address of a queued round trip, which leaves as a timeline with its clips."""
    edit = api.post("/api/edits", json={"name": "Out", "clips": [clip] * 20}).json()
    blur = {"filters": [{"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.05}}]}
    seen = [{"cut": each["id"], "version": each["version"]} for each in edit["cuts"]]
    api.post(f"/api/edits/{edit['id']}/apply", json={"cuts": seen, "recipe": blur})
    asked = {"edit": edit["id"], "what": "round_trip", "format": "prores"}
    return f"/api/renders/{api.post('/api/renders', json=asked).json()['id']}"


JOBS = {
    "mattes": mattes,
    "cuts": detection("cuts"),
    "beats": detection("beats"),
    "round trip": round_trip,
}


@pytest.mark.skipif(TIMES == 1, reason="takes minutes: run scripts/faults")
@pytest.mark.parametrize("kind", JOBS)
def test_a_job_of_every_kind_outlives_its_worker(
    api: httpx.Client, application: Application, kind: str, tmp_path: Path
) -> None:
    """Its worker is killed as soon as it is at work; another one does it."""
    tally = Tally("jobs whose worker was killed")
    pictures = [numbered(n) for n in range(300)]
    content = write_clip(tmp_path / "long.mp4", pictures, tone=True).read_bytes()
    answer = api.post("/api/clips", params={"name": "long.mp4"}, content=content, headers=BYTES)
    application.worker.kill()
    application.worker.wait(120)
    application.worker = application.start_worker()
    address = JOBS[kind](api, str(answer.json()["id"]))

    def state() -> str:
        found = api.get(address).json()
        return str(found.get("matte", found)["state"])

    next(_ for _ in asking() if state() in ("running", "done"))
    was_at_work = state() == "running"
    application.worker.kill()
    application.worker.wait(120)
    application.worker = application.start_worker()
    next(_ for _ in asking() if state() not in ("waiting", "running"))
    assert state() == "done"
    tally.add(f"{kind} done by another worker", was_at_work)
    tally.add(f"{kind} done before the worker was killed", not was_at_work)
    tally.save()


@pytest.mark.skipif(TIMES == 1, reason="takes minutes: run scripts/faults")
def test_a_worker_that_is_stopped_for_a_minute_writes_nothing_afterwards(
    application: Application, api: httpx.Client, clip: str
) -> None:
    tally = Tally("workers stopped for a minute")
    render = long_render(api, clip, clips=90)
    when(api, render, lambda found: found["done_frames"] > 0)
    first = application.worker
    first.send_signal(signal.SIGSTOP)
    other = application.start_worker()
    stopped = time.monotonic()
    found = when(api, render, is_done)
    # What the stopped worker has begun lies there, hidden, until it goes on.
    content = next(settings().renders.glob(f"{render}*")).read_bytes()
    time.sleep(max(0.0, STOPPED_S - (time.monotonic() - stopped)))
    first.send_signal(signal.SIGCONT)
    after = long_render(api, clip, clips=4)
    assert_whole(when(api, after, is_done))
    assert_whole(found)
    assert next(settings().renders.glob(f"{render}*")).read_bytes() == content
    assert api.get(f"/api/renders/{render}").json() == found
    other.terminate()
    other.wait(120)
    tally.add("renders finished by another worker")
    tally.save()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root may mount a small disk")
def test_a_disk_that_is_really_full(tmp_path: Path, clip: str, api: httpx.Client) -> None:
    """On a disk that fills up while a file is received: refused in words, and all else goes on."""
    disk = tmp_path / "disk"
    disk.mkdir()
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m", "tmpfs", str(disk)],
        capture_output=True,
        check=False,
    )
    if mounted.returncode != 0:
        pytest.skip("this system does not let us mount a disk")
    tally = Tally("full disks")
    kept = os.environ["IDLE_SHIMMER_DATA"]
    try:
        with session_scope() as session:
            file = clip_by_id(session, uuid.UUID(clip)).file
        (disk / "media" / file).parent.mkdir(parents=True)
        shutil.copyfile(settings().media / file, disk / "media" / file)
        os.environ["IDLE_SHIMMER_DATA"] = str(disk)
        with (
            Application(worker=False) as small,
            httpx.Client(base_url=small.address, trust_env=False, timeout=60) as client,
        ):
            answer = client.post(
                "/api/clips",
                params={"name": "film.mp4"},
                content=(b"x" * 1_000_000 for _ in range(2 * DISK_MB)),
                headers=BYTES,
            )
            assert answer.status_code == 507
            assert "is full" in answer.json()["problems"][0]["message"]
            assert not list((disk / "media").glob("upload-*"))
            assert client.get("/api/edits").status_code == 200
            assert client.get(f"/api/clips/{clip}/pictures/3.jpg").status_code == 200
            tally.add("uploads refused")
    finally:
        os.environ["IDLE_SHIMMER_DATA"] = kept
        # Decoders of the last request may still end.
        subprocess.run(["umount", "--lazy", str(disk)], check=True)
    tally.save()
