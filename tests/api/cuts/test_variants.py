"""The history of a cut, its pinned variants and its sound through the API."""

import io
import wave

import numpy as np
from fastapi.testclient import TestClient

from tests.api.edits.test_resources import BLUR, messages, save


def test_any_step_of_the_history_can_be_gone_to(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    path = f"/api/cuts/{cut['id']}/history"
    for frames in (5, 4, 3):
        cut = save(client, cut, before=frames, label=f"{frames} frames before").json()
    history = client.get(path).json()
    assert history["current"] == 4
    assert [step["label"] for step in history["steps"]] == [
        "New cut",
        "5 frames before",
        "4 frames before",
        "3 frames before",
    ]
    back = client.post(f"{path}/2", json={"version": cut["version"]}).json()
    assert (back["before"], back["redo_label"]) == (5, "4 frames before")
    assert client.post(f"{path}/2", json={"version": cut["version"]}).status_code == 409
    assert client.post(f"{path}/9", json={"version": back["version"]}).status_code == 404
    changed = save(client, back, before=7, label="7 frames before").json()
    assert [step["number"] for step in client.get(path).json()["steps"]] == [1, 2, 3]
    assert changed["redo_label"] is None


def test_four_variants_are_pinned_and_let_go(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    path = f"/api/cuts/{cut['id']}/variants"
    pinned = [
        client.post(path, json={"before": n, "after": 2, "recipe": {"filters": [BLUR]}})
        for n in (1, 2, 3, 4)
    ]
    assert [answer.status_code for answer in pinned] == [201] * 4
    refused = client.post(path, json={"before": 5, "after": 5, "recipe": {}})
    assert refused.status_code == 422
    assert "Four variants are pinned. Unpin one first." in messages(refused)[0][1]
    assert client.delete(f"{path}/{pinned[1].json()['id']}").status_code == 204
    assert client.delete(f"{path}/{pinned[1].json()['id']}").status_code == 404
    assert [(v["name"], v["before"]) for v in client.get(path).json()] == [
        ("A", 1),
        ("C", 3),
        ("D", 4),
    ]
    assert client.post(path, json={"before": 6, "after": 5, "recipe": {}}).json()["name"] == "B"
    # Pinning changes nothing of the cut itself.
    assert client.get(f"/api/cuts/{cut['id']}").json()["version"] == cut["version"]


def test_the_sound_around_the_cut_is_the_two_clips_own(client: TestClient, edit: dict) -> None:
    path = f"/api/cuts/{edit['cuts'][0]['id']}/sound"
    answer = client.get(path, params={"before": 10, "after": 5})
    with wave.open(io.BytesIO(answer.content)) as file:
        assert (file.getframerate(), file.getnchannels()) == (48_000, 2)
        samples = np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, 2)
    assert len(samples) == 15 * 48_000 // 25
    # Only the outgoing clip has a tone.
    assert np.abs(samples[:15_000]).mean() > 500
    assert np.abs(samples[-8_000:]).max() < 5
    assert client.get(path, params={"before": 0, "after": 5}).status_code == 422
