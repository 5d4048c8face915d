"""The way back from arranging, moving cuts, beats, muting and the waveform."""

import pytest
from fastapi.testclient import TestClient

from tests.api.test_resources import messages, save


def run_of(edit: dict) -> list[tuple[str, int, int]]:
    return [(each["clip"]["name"], each["in_frame"], each["out_frame"]) for each in edit["placed"]]


def test_every_step_of_arranging_is_undone(client: TestClient, edit: dict) -> None:
    first = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, first, before=4, label="four before")
    path = f"/api/edits/{edit['id']}"
    places = [f"{path}/placed/{each['id']}" for each in edit["placed"]]
    client.patch(places[0], json={"out_frame": 40})
    client.post(f"{places[1]}/split", json={"at_frame": 30})
    client.patch(places[2], json={"position": 0})
    after = client.delete(places[0]).json()
    assert after["undo_label"] == "Remove clip"
    labels = []
    while (edit_now := client.get(path).json())["undo_label"]:
        labels.append(edit_now["undo_label"])
        assert client.post(f"{path}/undo").status_code == 200
    assert labels == ["Remove clip", "Move three", "Split clip", "Trim one"]
    assert run_of(edit_now) == run_of(edit)
    assert [cut["id"] for cut in edit_now["cuts"]] == [cut["id"] for cut in edit["cuts"]]
    assert edit_now["cuts"][0]["before"] == 4
    assert client.post(f"{path}/undo").status_code == 404


def test_a_cut_is_moved_and_all_else_stays(client: TestClient, edit: dict) -> None:
    path = f"/api/cuts/{edit['cuts'][0]['id']}"
    before = client.get(path).json()
    moved = client.post(f"{path}/move", json={"by": -5}).json()
    assert moved["edit_frame"] == before["edit_frame"] - 5
    now = client.get(f"/api/edits/{edit['id']}").json()
    assert run_of(now)[:2] == [("one", 12, 43), ("two", 7, 48)]
    assert now["frame_count"] == edit["frame_count"]
    refused = client.post(f"{path}/move", json={"by": -8})
    assert refused.status_code == 422
    assert "the incoming clip two has no more" in messages(refused)[0][1]


def test_the_beats_of_an_edit_are_set_and_taken_away(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    set_ = client.patch(path, json={"beats_per_minute": 128.5, "beat_offset_s": 0.2}).json()
    assert (set_["beats_per_minute"], set_["beat_offset_s"]) == (128.5, 0.2)
    assert client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()["beats_per_minute"] == 128.5
    assert client.patch(path, json={"beats_per_minute": 0}).json()["beats_per_minute"] is None
    assert client.patch(path, json={"beats_per_minute": 900}).status_code == 422


def test_a_muted_clip_is_silent_around_its_cut(client: TestClient, edit: dict) -> None:
    sound = f"/api/cuts/{edit['cuts'][0]['id']}/sound?before=10&after=5"
    loud = client.get(sound).content
    placed = edit["placed"][0]["id"]
    client.patch(f"/api/edits/{edit['id']}/placed/{placed}", json={"muted": True})
    silent = client.get(sound).content
    assert len(silent) == len(loud)
    assert max(loud[100:-3000:2]) > 0
    assert not any(silent[44:])


def test_the_waveform_is_as_loud_as_the_tone(client: TestClient, clip_ids: list[str]) -> None:
    waveform = client.get(f"/api/clips/{clip_ids[0]}/waveform").json()
    # 60 pictures at 25 a second; AAC pads the end of a file.
    assert len(waveform["peaks"]) == pytest.approx(60, abs=4)
    middle = waveform["peaks"][10:50]
    assert max(middle) - min(middle) < 0.1
    assert min(middle) > 0.05
    assert client.get(f"/api/clips/{clip_ids[1]}/waveform").json()["peaks"] == []
