"""The recipe book through the API: keep, rename, delete, cards, several cuts at once."""

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.edits.test_resources import messages

MINE = {
    "name": "Quay whip",
    "notes": "Mine.",
    "filters": [
        {"id": "roll", "kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": 1}}
    ],
}


def test_a_recipe_is_kept_overwritten_renamed_exported_and_deleted(client: TestClient) -> None:
    kept = client.post("/api/recipes", json={"recipe": MINE})
    assert kept.status_code == 201
    again = client.post("/api/recipes", json={"recipe": {**MINE, "shutter": 90}})
    assert again.status_code == 409
    assert "exists already" in messages(again)[0][1]
    body = {"recipe": {**MINE, "shutter": 90}, "overwrite": True}
    assert client.post("/api/recipes", json=body).json()["id"] == kept.json()["id"]
    path = f"/api/recipes/{kept.json()['id']}"
    renamed = client.put(path, json={"recipe": {**MINE, "name": "Pier whip"}})
    assert renamed.json()["name"] == "Pier whip"
    file = client.get(f"{path}/file")
    assert client.post("/api/recipes", json={"recipe": {**file.json(), "name": "Back"}}).is_success
    assert [each["name"] for each in client.get("/api/recipes").json()["own"]] == [
        "Back",
        "Pier whip",
    ]
    assert client.delete(path).status_code == 204
    assert client.delete(path).status_code == 404


@pytest.mark.parametrize(
    ("recipe", "field", "message"),
    [
        ({**MINE, "version": 2}, "recipe.version", "2 is not a version of format 1"),
        ({**MINE, "sparkle": 1}, "recipe.sparkle", "unknown field"),
        ({**MINE, "name": "  "}, "name", "give the recipe a name"),
    ],
)
def test_a_file_from_elsewhere_that_does_not_fit_is_refused(
    client: TestClient, recipe: dict, field: str, message: str
) -> None:
    answer = client.post("/api/recipes", json={"recipe": recipe})
    assert answer.status_code == 422
    assert messages(answer)[0][0] == field
    assert message in messages(answer)[0][1]


def test_a_card_shows_the_recipe_on_the_cuts_own_frames(client: TestClient, edit: dict) -> None:
    cut = edit["cuts"][0]["id"]
    frames = client.get("/api/recipes").json()["card_frames"]
    answer = client.get(f"/api/cuts/{cut}/cards/burn-through-white")
    assert answer.status_code == 200, answer.text
    picture = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
    cells = np.array_split(picture, frames, axis=1)
    brightness = [cell.mean() for cell in cells]
    assert max(brightness) == pytest.approx(255, abs=3)
    assert brightness[0] < 200
    assert client.get(f"/api/cuts/{cut}/cards/no-such").status_code == 422
    asked = [("key", "whip-left"), ("key", "burn-through-white"), ("key", "whip-left")]
    stills = client.get(f"/api/cuts/{cut}/stills", params=asked)
    picture = cv2.imdecode(np.frombuffer(stills.content, np.uint8), cv2.IMREAD_COLOR)
    one, burnt, again = np.array_split(picture, 3, axis=1)
    assert burnt.mean() == pytest.approx(255, abs=3)
    assert one.mean() < 200
    assert again.mean() == pytest.approx(one.mean(), abs=1)
    # A clip that stands differently is shown so, though its cut is the same.
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][1]['id']}"
    client.patch(path, json={"framing": {"gain": [0.1, 0.1, 0.1]}})
    dark = client.get(f"/api/cuts/{cut}/stills", params={"key": "whip-left"}).content
    darkened = cv2.imdecode(np.frombuffer(dark, np.uint8), cv2.IMREAD_COLOR)
    assert darkened.mean() < 0.5 * one.mean()


def test_a_recipe_goes_on_several_cuts_at_once_and_back(client: TestClient, edit: dict) -> None:
    whip = next(
        each for each in client.get("/api/recipes").json()["built_in"] if each["key"] == "whip-left"
    )
    seen = [{"cut": cut["id"], "version": cut["version"]} for cut in edit["cuts"]]
    body = {
        "cuts": seen[::-1],
        "recipe": whip["recipe"],
        "window": {"before": 5, "after": 5},
        "flip_alternate": "horizontal",
    }
    path = f"/api/edits/{edit['id']}/apply"
    applied = client.post(path, json=body).json()
    assert [cut["recipe_name"] for cut in applied["cuts"]] == ["Whip left"] * 2
    amounts = [
        client.get(f"/api/cuts/{cut['id']}").json()["recipe"]["filters"][0]["x"]["amount"]
        for cut in applied["cuts"]
    ]
    assert amounts == [-1, 1]
    late = client.post(path, json=body)
    assert late.status_code == 409
    assert applied["undo_label"] == "Apply Whip left"
    back = client.post(f"/api/edits/{edit['id']}/undo").json()
    assert [cut["recipe_name"] for cut in back["cuts"]] == ["Untitled"] * 2


def test_one_cut_changed_meanwhile_leaves_all_as_they_were(client: TestClient, edit: dict) -> None:
    seen = [{"cut": cut["id"], "version": cut["version"]} for cut in edit["cuts"]]
    seen[1]["version"] += 1
    answer = client.post(f"/api/edits/{edit['id']}/apply", json={"cuts": seen, "recipe": MINE})
    assert answer.status_code == 409
    now = client.get(f"/api/edits/{edit['id']}").json()
    assert [cut["recipe_name"] for cut in now["cuts"]] == ["Untitled"] * 2


def test_the_run_tells_the_worst_verdict_of_each_cut(client: TestClient, edit: dict) -> None:
    broken = {"filters": [{**MINE["filters"][0], "x": {"kind": "travel", "amount": 1.3}}]}  # type: ignore[index]
    seen = [{"cut": edit["cuts"][0]["id"], "version": edit["cuts"][0]["version"]}]
    client.post(f"/api/edits/{edit['id']}/apply", json={"cuts": seen, "recipe": broken})
    unchecked = client.get(f"/api/edits/{edit['id']}").json()["cuts"]
    assert [cut["worst"] for cut in unchecked] == [None, None]
    client.get(f"/api/edits/{edit['id']}/checks")
    cuts = client.get(f"/api/edits/{edit['id']}").json()["cuts"]
    assert [(cut["worst"]["id"], cut["worst"]["status"]) for cut in cuts] == [
        ("landing", "failed"),
        ("landing", "ok"),
    ]


@pytest.mark.parametrize(
    ("window", "duration", "made"),
    [((1, 3), 6, (2, 4)), ((6, 12), 2, (1, 1)), ((6, 12), 18, (6, 12))],
)
def test_a_duration_divides_the_window_as_the_command_does(
    client: TestClient, window: tuple[int, int], duration: int, made: tuple[int, int]
) -> None:
    recipe = {"name": "Quay", "window": {"before": window[0], "after": window[1]}}
    answer = client.post("/api/adjust", json={"recipe": recipe, "duration": duration}).json()
    found = answer["recipe"]["window"]
    assert (found["before"], found["after"]) == made


def test_a_whole_recipe_is_adjusted(client: TestClient) -> None:
    body = {"recipe": MINE, "strength": 3, "snap": 0.9, "flip": "horizontal"}
    made = client.post("/api/adjust", json=body).json()["recipe"]["filters"][0]["x"]
    assert (made["amount"], made["easing"]) == (-3, {"steepness": 0.9})


def test_suggested_windows_are_durations(client: TestClient) -> None:
    usual, twice = (
        client.get("/api/recipes", params={"rate": rate}).json()["built_in"]
        for rate in ("25", "50")
    )
    assert [(each["before"], each["after"]) for each in twice] == [
        (2 * each["before"], 2 * each["after"]) for each in usual
    ]


def test_a_filter_is_kept_as_a_preset_for_other_transitions(client: TestClient) -> None:
    recipe = {
        **MINE,
        "window": {"before": 5, "after": 5, "rate": "25"},
        "filters": [
            {
                **MINE["filters"][0],
                "x": {
                    "kind": "keyframes",
                    "keyframes": [
                        {"at": {"frames": -4}, "value": 0},
                        {"at": {"frames": 4}, "value": 1},
                    ],
                },
            }
        ],
    }
    kept = client.post("/api/presets", json={"name": " Long  roll ", "recipe": recipe})
    assert (kept.status_code, kept.json()["name"]) == (201, "Long roll")
    again = client.post("/api/presets", json={"name": "Long roll", "recipe": recipe})
    assert again.status_code == 409
    assert "exists already" in messages(again)[0][1]
    (listed,) = client.get("/api/presets?rate=50").json()
    assert listed["filter"]["kind"] == "roll"
    assert [each["at"]["frames"] for each in listed["filter"]["x"]["keyframes"]] == [-8, 8]
    body = {"name": "Two", "recipe": {"filters": [*MINE["filters"], {"kind": "bloom"}]}}
    assert "one filter, not 2" in messages(client.post("/api/presets", json=body))[0][1]
    path = f"/api/presets/{listed['id']}"
    assert [client.delete(path).status_code for _ in range(2)] == [204, 404]
