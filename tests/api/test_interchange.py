"""Edits out as files and in again, through the API."""

import csv
import io

from fastapi.testclient import TestClient

from tests.api.conftest import BYTES
from tests.api.test_resources import BLUR, messages, save


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
