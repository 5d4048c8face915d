"""Edits out as files and in again, through the API."""

import csv
import io
import json

import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import BYTES
from tests.api.edits.test_resources import BLUR, messages, save


def send(client: TestClient, name: str, text: str, **more: str) -> object:
    return client.post(
        "/api/edits/import", params={"name": name, **more}, content=text.encode(), headers=BYTES
    )


def test_an_edit_comes_back_from_its_own_file(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][1]['id']}").json()
    save(client, cut, before=5, recipe={"name": "Kept", "filters": [BLUR]})
    text = client.get(f"/api/edits/{edit['id']}/export/otio").text
    made = send(client, "back.otio", text).json()["edit"]  # type: ignore[attr-defined]
    assert made["id"] != edit["id"]
    for side in ("in_frame", "out_frame"):
        assert [p[side] for p in made["placed"]] == [p[side] for p in edit["placed"]]
    assert [c["recipe_name"] for c in made["cuts"]] == ["Untitled", "Kept"]
    back = client.get(f"/api/cuts/{made['cuts'][1]['id']}").json()
    assert (back["before"], back["recipe"]["filters"][0]["radius"]) == (5, 0.02)


def test_all_that_is_placed_comes_back_and_others_read_what_is_shown(
    client: TestClient, edit: dict
) -> None:
    """Ramps, framing, levels, strokes, accents: kept beside what OpenTimelineIO can say."""
    first, second = edit["placed"][:2]
    path = f"/api/edits/{edit['id']}/placed"
    changes = {"framing": {"scale": 1.5}, "gain_db": -6.0, "crossfade": 8}
    for change in changes.items():
        assert client.patch(f"{path}/{first['id']}", json=dict([change])).status_code == 200
    assert client.patch(f"{path}/{second['id']}", json={"muted": True}).status_code == 200
    strokes = [{"frame": 20, "box": [0.2, 0.2, 0.5, 0.5]}]
    marked = client.put(
        f"/api/cuts/{edit['cuts'][0]['id']}/subject/outgoing", json={"strokes": strokes}
    )
    assert marked.status_code == 200, marked.text
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    recipe = {
        "name": "Ramp",
        "retime": {"outgoing": {"speed": {"kind": "swell", "peak": 2.0}}},
        "accent": {"sound": "hit"},
    }
    save(client, cut, before=5, recipe=recipe)
    shown = client.get(f"/api/edits/{edit['id']}").json()["placed"]
    text = client.get(f"/api/edits/{edit['id']}/export/otio").text

    timeline = otio.adapters.read_from_string(text, "otio_json")
    ranges = [clip.source_range for clip in timeline.tracks[0].find_clips()]
    assert [each.start_time.value for each in ranges] == [each["first_shown"] for each in shown]
    assert ranges[0].start_time.value < first["in_frame"]
    (track,) = [each for each in timeline.tracks if each.name == "Accents"]
    accent = track[-1]
    assert accent.media_reference.parameters["sound"] == "hit"
    start = accent.range_in_parent().start_time
    cut_s = shown[0]["edit_frames"] / 25
    assert start.to_seconds() == pytest.approx(cut_s - 5 / 25, abs=1e-4)

    made = send(client, "back.otio", text).json()["edit"]  # type: ignore[attr-defined]
    facts = ("in_frame", "out_frame", "muted", "gain_db", "crossfade", "framing", "first_shown")
    for one, other in zip(shown, made["placed"], strict=True):
        assert [other[name] for name in facts] == [one[name] for name in facts]
    found = client.get(f"/api/cuts/{made['cuts'][0]['id']}/subject/outgoing").json()["strokes"]
    assert [each["frame"] for each in found] == [20]


def test_frames_that_another_program_changed_count_and_wrong_keepings_are_refused(
    client: TestClient, edit: dict
) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    speed = {"outgoing": {"speed": {"kind": "swell", "peak": 2.0}}}
    save(client, cut, before=5, recipe={"name": "Ramp", "retime": speed})
    timeline = json.loads(client.get(f"/api/edits/{edit['id']}/export/otio").text)
    clip = timeline["tracks"]["children"][0]["children"][0]
    clip["source_range"]["duration"]["value"] -= 3
    clip["source_range"]["start_time"]["value"] = 2
    made = send(client, "cut.otio", json.dumps(timeline)).json()["edit"]  # type: ignore[attr-defined]
    assert made["placed"][0]["in_frame"] == 2
    for wrong in ({"gain_db": 99}, {"strokes": [{"frame": -1}]}, {"window": 3}):
        clip["metadata"]["idle_shimmer"]["placed"] = wrong
        refused = send(client, "wrong.otio", json.dumps(timeline))
        assert refused.status_code == 422  # type: ignore[attr-defined]
        assert "what the file keeps of" in messages(refused)[0][1]


def test_a_list_says_what_it_leaves_out_and_finds_its_clips_by_name(
    client: TestClient, edit: dict
) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, recipe={"filters": [BLUR]})
    path = f"/api/edits/{edit['id']}/export/edl"
    notes = client.get(f"{path}/notes").json()["notes"]
    assert notes[0] == "The filters of cuts 1 are left out."
    made = send(client, "back.edl", client.get(path).text, rate="25").json()["edit"]  # type: ignore[attr-defined]
    assert [p["clip"]["name"] for p in made["placed"]] == ["one", "two", "three"]


def test_missing_media_is_listed_and_nothing_is_made(client: TestClient, edit: dict) -> None:
    text = client.get(f"/api/edits/{edit['id']}/export/otio").text.replace("two.mp4", "lost.mov")
    count = len(client.get("/api/edits").json())
    answer = send(client, "night.otio", text).json()  # type: ignore[attr-defined]
    assert answer == {"edit": None, "missing": ["lost.mov"], "notes": []}
    assert len(client.get("/api/edits").json()) == count
    refused = send(client, "night.otio", "junk")
    assert refused.status_code == 422  # type: ignore[attr-defined]
    assert "night.otio cannot be read" in messages(refused)[0][1]


def test_curves_are_numbers_by_frame(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, recipe={"filters": [{**BLUR, "radius": {"kind": "swell", "peak": 0.1}}]})
    text = client.get(f"/api/cuts/{cut['id']}/curves.csv").text
    rows = [row for row in csv.DictReader(io.StringIO(text)) if row["parameter"] == "radius"]
    assert [int(row["frame"]) for row in rows] == list(range(-cut["before"], cut["after"]))
    values = [float(row["value"]) for row in rows]
    assert max(values) == max(values[cut["before"] - 1], values[cut["before"]])


def test_nested_brackets_do_not_end_the_server(client: TestClient) -> None:
    """50 kB of them overflow the stack of the native parser."""
    answer = send(client, "deep.otio", "[" * 25_000 + "]" * 25_000)
    assert answer.status_code == 422
    assert "levels deep" in messages(answer)[0][1]
    assert client.get("/api/health").status_code == 200
