"""Finished videos: their cuts found by a job, and made into edits."""

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from idle_shimmer.jobs.tasks.cut_detection import detect_cuts
from idle_shimmer.media.cut_scores import cuts_above
from idle_shimmer.media.detection import score_cuts
from idle_shimmer.media.sound.wave_files import wave_bytes
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import messages
from tests.support.finished import write_finished


@pytest.fixture(scope="module")
def finished(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, list[int]]:
    path = tmp_path_factory.mktemp("finished") / "evening.mp4"
    return path, write_finished(path)


def test_a_sound_is_no_video(client: TestClient, tmp_path: Path) -> None:
    sound = tmp_path / "take1.wav"
    sound.write_bytes(wave_bytes(np.zeros((48_000, 2), np.float32)))
    answer = client.post(
        "/api/clips", params={"name": sound.name}, content=sound.read_bytes(), headers=BYTES
    )
    clip = answer.json()["id"]
    for path in ("cuts", "edit"):
        refused = client.post(f"/api/clips/{clip}/{path}", json={"name": "Take", "frames": []})
        assert (refused.status_code, "is a sound" in refused.text) == (422, True), path
    listed = (
        "001  TAKE1  V  C  00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n"
        "* FROM CLIP NAME: TAKE1\n"
    )
    imported = client.post("/api/edits/import?name=x.edl", content=listed, headers=BYTES)
    assert imported.json()["missing"] == ["TAKE1"]


def test_every_hard_cut_is_found_and_no_other(finished: tuple[Path, list[int]]) -> None:
    """Precision and recall 1 on hard cuts, with a dissolve and a flash that are none."""
    path, cuts = finished
    progress: list[tuple[int, int]] = []
    scores = score_cuts(path, lambda done, total: progress.append((done, total)))
    assert [each.frame for each in cuts_above(scores, 0.5)] == cuts
    assert progress[-1] == (len(scores), len(scores))


class Steady:
    """What a task needs to know of its job: that it may go on."""

    def should_abort(self) -> bool:
        return False


def test_a_finished_video_becomes_an_edit_with_its_cuts(
    client: TestClient, finished: tuple[Path, list[int]]
) -> None:
    path, cuts = finished
    clip = client.post(
        "/api/clips", params={"name": path.name}, content=path.read_bytes(), headers=BYTES
    ).json()
    assert client.get(f"/api/clips/{clip['id']}/cuts").status_code == 404
    assert client.post(f"/api/clips/{clip['id']}/cuts").json()["state"] == "waiting"
    detect_cuts(Steady(), clip["id"])  # type: ignore[arg-type]
    found = client.get(f"/api/clips/{clip['id']}/cuts").json()
    assert (found["state"], found["done_frames"]) == ("done", clip["frame_count"])
    assert [each["frame"] for each in found["cuts"]] == cuts
    looser = client.get(f"/api/clips/{clip['id']}/cuts?threshold=0").json()
    assert len(looser["cuts"]) >= len(cuts)
    body = {"name": "Evening", "frames": cuts}
    edit = client.post(f"/api/clips/{clip['id']}/edit", json=body).json()
    assert [each["in_frame"] for each in edit["placed"]] == [0, *cuts]
    assert len(edit["cuts"]) == len(cuts)
    refused = client.post(f"/api/clips/{clip['id']}/edit", json={"name": "x", "frames": [30, 31]})
    assert "shot at frame 30 has one frame" in messages(refused)[0][1]
