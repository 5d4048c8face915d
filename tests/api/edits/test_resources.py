"""Clips, edits, cuts and renders through the API."""

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from idle_shimmer.settings import settings
from tests.api.conftest import BYTES
from tests.support.clips import number_in, numbered, png

BLUR = {"id": "b", "kind": "gaussian_blur", "radius": 0.02}


def messages(answer: object) -> list[tuple[str | None, str]]:
    return [(p["field"], p["message"]) for p in answer.json()["problems"]]  # type: ignore[attr-defined]


def save(client: TestClient, cut: dict, **change: object) -> object:
    body = {name: cut[name] for name in ("version", "before", "after", "recipe")}
    return client.put(f"/api/cuts/{cut['id']}", json={**body, "label": "tested", **change})


@pytest.mark.parametrize("name", ["Night\u202egnp", "Night\ntide", "Night\u2066", "  "])
def test_names_that_mislead_are_refused(client: TestClient, edit: dict, name: str) -> None:
    assert client.patch(f"/api/edits/{edit['id']}", json={"name": name}).status_code == 422
    render = {"edit": edit["id"], "name": name}
    assert client.post("/api/renders", json=render).status_code == 422
    upload = client.post("/api/clips", params={"name": name}, content=b"x", headers=BYTES)
    assert upload.status_code == 422


def test_a_clip_tells_its_facts_and_its_pictures_by_number(
    client: TestClient, clip_ids: list[str]
) -> None:
    clip = client.get("/api/clips").json()[-1]
    assert (clip["width"], clip["height"], clip["rate"], clip["frame_count"]) == (192, 96, "25", 60)
    answer = client.get(f"/api/clips/{clip_ids[0]}/pictures/37.jpg?height=96")
    picture = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
    assert number_in(picture) == 37
    assert client.get(f"/api/clips/{clip_ids[0]}/pictures/60.jpg").status_code == 422


def test_the_same_file_is_stored_once(client: TestClient, files: list, clip_ids: list[str]) -> None:
    again = client.post(
        "/api/clips", params={"name": "copy.mp4"}, content=files[0].read_bytes(), headers=BYTES
    )
    assert again.json()["id"] == clip_ids[0]
    assert len(client.get("/api/clips").json()) == 3


@pytest.mark.parametrize(
    ("name", "content", "message"),
    [
        ("junk.mp4", b"junk" * 999, "junk.mp4 is not a video or picture that can be read"),
        ("empty.mp4", b"", "empty.mp4 is empty: it has 0 bytes"),
        ("../../up.mp4", b"junk" * 999, "up.mp4 is not a video"),
    ],
)
def test_a_file_that_is_no_video_is_refused_and_leaves_nothing(
    client: TestClient, name: str, content: bytes, message: str
) -> None:
    before = sorted(settings().media.rglob("*"))
    answer = client.post("/api/clips", params={"name": name}, content=content, headers=BYTES)
    assert answer.status_code == 422
    assert message in messages(answer)[0][1]
    assert sorted(settings().media.rglob("*")) == before


def test_an_edit_has_a_cut_wherever_two_clips_meet(client: TestClient, edit: dict) -> None:
    assert len(edit["cuts"]) == 2
    assert [(p["in_frame"], p["out_frame"]) for p in edit["placed"]] == [(12, 48)] * 3
    assert edit["placed"][0]["spare_after"] == 12
    renamed = client.patch(f"/api/edits/{edit['id']}", json={"name": " Evening "}).json()
    assert renamed["name"] == "Evening"
    grown = client.post(
        f"/api/edits/{edit['id']}/clips", json={"clip": edit["placed"][0]["clip"]["id"]}
    )
    assert len(grown.json()["cuts"]) == 3
    assert client.delete(f"/api/edits/{edit['id']}").status_code == 204
    gone = client.get(f"/api/edits/{edit['id']}")
    assert (gone.status_code, messages(gone)) == (
        404,
        [("edit", "there is no such edit: it may have been deleted")],
    )


def test_a_deleted_edit_is_brought_back_as_it_was(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    client.delete(path)
    assert edit["id"] not in [each["id"] for each in client.get("/api/edits").json()]
    back = client.post(f"{path}/restore").json()
    assert back == client.get(path).json() == edit


def test_a_duplicate_has_the_transitions_and_its_own_life(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, before=3, recipe={"name": "Soft", "filters": [BLUR]})
    copy = client.post(f"/api/edits/{edit['id']}/duplicate").json()
    assert copy["name"] == "Three, copy"
    assert [p["clip"]["id"] for p in copy["placed"]] == [p["clip"]["id"] for p in edit["placed"]]
    twin = client.get(f"/api/cuts/{copy['cuts'][0]['id']}").json()
    assert (twin["before"], twin["recipe"]["name"]) == (3, "Soft")
    save(client, twin, recipe={"name": "Other"})
    assert client.get(f"/api/cuts/{cut['id']}").json()["recipe"]["name"] == "Soft"


def test_an_edit_is_made_at_a_chosen_size_and_rate(client: TestClient, clip_ids: list[str]) -> None:
    new = {"name": "x", "clips": clip_ids, "size": {"width": 720, "height": 1280}, "rate": "50"}
    made = client.post("/api/edits", json=new).json()
    assert (made["width"], made["height"], made["rate"]) == (720, 1280, "50")
    assert made["placed"][0]["out_frame"] - made["placed"][0]["in_frame"] == 120 - 2 * 12
    wrong = client.post("/api/edits", json={**new, "rate": "fast"})
    assert (wrong.status_code, messages(wrong)[0][0]) == (422, "rate")


def test_numbered_pictures_become_one_clip(client: TestClient) -> None:
    pictures = b"".join(png(numbered(n)) for n in range(12))
    asked = {"name": "lanterns", "rate": "12"}
    clip = client.post("/api/clips/sequence", params=asked, content=pictures, headers=BYTES).json()
    assert (clip["name"], clip["rate"], clip["frame_count"]) == ("lanterns", "12", 12)
    broken = client.post("/api/clips/sequence", params=asked, content=pictures[:-9], headers=BYTES)
    assert broken.status_code == 422
    assert "picture 12 of the sequence is truncated" in messages(broken)[0][1]


def test_a_save_that_races_another_is_refused_and_says_so(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    first = save(client, cut, recipe={"filters": [BLUR]})
    assert first.json()["version"] == 2  # type: ignore[attr-defined]
    second = save(client, cut, recipe={"name": "lost?"})
    assert second.status_code == 409  # type: ignore[attr-defined]
    assert "changed in another window" in messages(second)[0][1]
    kept = client.get(f"/api/cuts/{cut['id']}").json()
    assert kept["recipe"]["filters"][0]["radius"] == 0.02


def test_changes_are_undone_and_done_again_and_a_new_one_drops_what_was_undone(
    client: TestClient, edit: dict
) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    for before in (5, 6, 7):
        cut = save(client, cut, before=before, label=f"to {before}").json()  # type: ignore[attr-defined]

    def step(way: str) -> dict:
        return client.post(f"/api/cuts/{cut['id']}/{way}", json={"version": cut["version"]}).json()

    cut = step("undo")
    assert (cut["before"], cut["undo_label"], cut["redo_label"]) == (6, "to 6", "to 7")
    cut = step("undo")
    cut = step("redo")
    assert cut["before"] == 6
    cut = save(client, cut, before=9, label="to 9").json()  # type: ignore[attr-defined]
    assert cut["redo_label"] is None
    cut = step("undo")
    assert cut["before"] == 6


@pytest.mark.parametrize(
    ("change", "field", "message"),
    [
        (
            {"recipe": {"filters": [{**BLUR, "radius": -1}]}},
            "recipe.filters[0].radius",
            "must be 0 to 2, not -1",
        ),
        (
            {"recipe": {"filters": [{**BLUR, "blurr": 1}]}},
            "recipe.filters[0].blurr",
            "unknown field",
        ),
        ({"before": 0}, "before", "greater than or equal to 1"),
        ({"before": 37}, "before", "use at most 36"),
        ({"after": 35}, "after", "use at most 28"),
    ],
)
def test_a_wrong_save_names_the_field_and_changes_nothing(
    client: TestClient, edit: dict, change: dict, field: str, message: str
) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    answer = save(client, cut, **change)
    assert answer.status_code == 422  # type: ignore[attr-defined]
    assert messages(answer)[0][0] == field
    assert message in messages(answer)[0][1]
    assert client.get(f"/api/cuts/{cut['id']}").json() == cut


def test_nan_in_a_save_is_refused_by_field(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    body = '{"version": 1, "before": 4, "after": 4, "recipe": {"shutter": NaN}}'
    answer = client.put(
        f"/api/cuts/{cut['id']}", content=body, headers={"Content-Type": "application/json"}
    )
    assert (answer.status_code, messages(answer)[0][0]) == (422, "recipe.shutter")


def test_a_render_without_its_spare_frames_is_refused_with_the_fix(
    client: TestClient, edit: dict
) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, before=20, after=20, recipe={"mix": {"kind": "dissolve"}})
    answer = client.post("/api/renders", json={"cut": cut["id"]})
    assert answer.status_code == 422
    assert messages(answer)[0][0] == "mix.span"
    assert "Shorten the span to [-0.6, 0.6]" in messages(answer)[0][1]
    assert client.get("/api/renders").json() == []


def test_a_waiting_render_can_be_cancelled_and_tried_again(client: TestClient, edit: dict) -> None:
    asked = client.post("/api/renders", json={"edit": edit["id"]}).json()
    assert (asked["state"], asked["total_frames"]) == ("waiting", 108)
    path = f"/api/renders/{asked['id']}"
    assert client.post(f"{path}/cancel").json()["state"] == "cancelled"
    assert client.get(f"{path}/file").status_code == 404
    assert client.post(f"{path}/retry").json()["state"] == "waiting"
    again = client.post(f"{path}/retry")
    assert (again.status_code, messages(again)[0][0]) == (422, "state")
