"""The dials over several cuts, and the history of an edit returned to by its steps."""

from typing import Any

from fastapi.testclient import TestClient

from tests.api.edits.test_resources import BLUR, messages

SWELL = {**BLUR, "radius": {"kind": "swell", "peak": 0.02}}
RECIPE = {"name": "Soft", "filters": [SWELL]}


def applied(client: TestClient, edit: dict) -> list[dict[str, Any]]:
    """Apply one recipe to every cut; return the cuts as an adjustment names them."""
    path = f"/api/edits/{edit['id']}"
    body = {
        "cuts": seen(edit),
        "recipe": RECIPE,
        "window": {"before": 4, "after": 4, "rate": edit["rate"]},
    }
    assert client.post(f"{path}/apply", json=body).status_code == 200
    return seen(client.get(path).json())


def seen(edit: dict) -> list[dict[str, Any]]:
    return [{"cut": each["id"], "version": each["version"]} for each in edit["cuts"]]


def documents(client: TestClient, edit: dict) -> list[dict[str, Any]]:
    return [client.get(f"/api/cuts/{each['id']}").json() for each in edit["cuts"]]


def peaks(client: TestClient, edit: dict) -> list[float]:
    return [
        round(each["recipe"]["filters"][0]["radius"]["peak"], 6) for each in documents(client, edit)
    ]


def test_dials_change_several_cuts_in_one_step(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    cuts = applied(client, edit)
    body = {"cuts": cuts, "strength": 1.5, "shutter": 180, "duration": 6}
    now = client.post(f"{path}/adjust", json=body).json()["edit"]
    assert now["undo_label"] == "Strength 150 %, Duration 6 frames, Shutter 180°: 2 cuts"
    assert [(each["before"], each["after"]) for each in now["cuts"]] == [(3, 3)] * 2
    assert peaks(client, edit) == [0.03, 0.03]
    assert {each["recipe"]["shutter"] for each in documents(client, edit)} == {180}
    client.post(f"{path}/undo")
    assert peaks(client, edit) == [0.02, 0.02]


def test_a_dial_that_is_turned_on_stays_one_step_and_does_not_drift(
    client: TestClient, edit: dict
) -> None:
    path = f"/api/edits/{edit['id']}"
    cuts = applied(client, edit)
    for place, strength in enumerate((1.5, 0.5, 2)):
        body = {"cuts": cuts, "strength": strength, "again": place > 0}
        now = client.post(f"{path}/adjust", json=body).json()["edit"]
        cuts = seen(now)
        assert peaks(client, edit) == [0.02 * strength] * 2
    steps = client.get(f"{path}/history").json()["steps"]
    assert [each["label"] for each in steps] == ["Apply Soft", "Strength 200 %: 2 cuts"]


def test_end_frames_are_held_where_spare_frames_are_missing(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    dissolve = {"mix": {"kind": "dissolve"}, "filters": []}
    now = client.post(f"{path}/apply", json={"cuts": seen(edit), "recipe": dissolve}).json()
    body = {"cuts": seen(now)[:1], "hold_frames": True}
    held = client.post(f"{path}/adjust", json=body).json()["edit"]
    assert held["undo_label"] == "Hold end frames: 1 cut"
    found = [each["recipe"]["hold_frames"] for each in documents(client, edit)]
    assert found == [True, False]


def test_every_second_cut_is_flipped(client: TestClient, edit: dict) -> None:
    roll = {"id": "roll", "kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": 1}}
    path = f"/api/edits/{edit['id']}"
    body = {"cuts": seen(edit), "recipe": {"filters": [roll]}}
    now = client.post(f"{path}/apply", json=body).json()
    body = {"cuts": seen(now), "flip": "horizontal", "every_second": True}
    assert client.post(f"{path}/adjust", json=body).status_code == 200
    amounts = [each["recipe"]["filters"][0]["x"]["amount"] for each in documents(client, edit)]
    assert amounts == [1, -1]


def test_a_window_without_room_is_said(client: TestClient, edit: dict) -> None:
    cuts = applied(client, edit)
    answer = client.post(
        f"/api/edits/{edit['id']}/adjust", json={"cuts": cuts, "duration": 200}
    ).json()
    assert all(each["before"] + each["after"] < 200 for each in answer["edit"]["cuts"])
    assert answer["notes"][0].startswith("Cut 1: the window has ")


def test_cuts_changed_meanwhile_are_not_adjusted(client: TestClient, edit: dict) -> None:
    cuts = applied(client, edit)
    body = {"cuts": [*cuts[:1], {**cuts[1], "version": 1}], "strength": 2}
    answer = client.post(f"/api/edits/{edit['id']}/adjust", json=body)
    assert answer.status_code == 409
    assert peaks(client, edit) == [0.02, 0.02]


def test_any_step_of_an_edit_is_returned_to(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    for name in ("Quay", "Pier", "Mole"):
        client.patch(path, json={"name": name})
    history = client.get(f"{path}/history").json()
    assert [each["label"] for each in history["steps"]] == [
        "Rename to Quay",
        "Rename to Pier",
        "Rename to Mole",
    ]
    numbers = [each["number"] for each in history["steps"]]
    assert history["current"] == numbers[-1]
    names = [
        client.post(f"{path}/history/{number}").json()["name"]
        for number in (numbers[0], 0, numbers[2], numbers[1])
    ]
    assert names == ["Quay", edit["name"], "Mole", "Pier"]
    after = client.get(f"{path}/history").json()
    assert (after["current"], len(after["steps"])) == (numbers[1], 3)
    refused = client.post(f"{path}/history/{numbers[2] + 1000}")
    assert refused.status_code == 404
    assert "load the history again" in messages(refused)[0][1]
