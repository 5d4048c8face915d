"""What the lanes ask about a curve, and values that read back as they were typed."""

import csv
import io
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.edits.test_resources import messages

CURVE = {
    "filter": "gaussian_blur",
    "parameter": "radius",
    "envelope": {"kind": "swell", "peak": 0.2},
    "before": 5,
    "after": 5,
    "times": "frames",
}


def asked(client: TestClient, path: str, **more: Any) -> Any:
    return client.post(f"/api/curves/{path}", json={"curve": CURVE, **more})


def test_a_value_typed_on_a_frame_is_a_keyframe_there(client: TestClient) -> None:
    envelope = asked(client, "value", offset=-2, value=0.25).json()["envelope"]
    assert envelope["kind"] == "keyframes"
    assert {"at": -0.3, "value": 0.25} in [
        {"at": each["at"], "value": each["value"]} for each in envelope["keyframes"]
    ]


def test_a_typed_value_reads_back_from_the_curves_as_csv(
    client: TestClient, edit: dict[str, Any]
) -> None:
    """A vertical blur of 25 % of the frame's height, seen on both frames beside the cut."""
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    assert cut["recipe"]["times"] == "frames"
    blur = {
        "id": "blur",
        "kind": "directional_blur",
        "angle": 90.0,
        "length": {"kind": "swell", "peak": 0.25},
    }
    recipe = {**cut["recipe"], "filters": [blur]}
    body = {"version": cut["version"], "before": 4, "after": 4, "recipe": recipe, "label": "Blur"}
    assert client.put(f"/api/cuts/{cut['id']}", json=body).is_success
    text = client.get(f"/api/cuts/{cut['id']}/curves.csv").text
    lengths = {
        int(row["frame"]): float(row["value"])
        for row in csv.DictReader(io.StringIO(text))
        if row["parameter"] == "length"
    }
    assert lengths[-1] == lengths[0] == 0.25
    assert max(lengths[k] for k in (-4, -3, -2, 1, 2, 3)) < 0.25


def test_a_side_is_copied_mirrored_or_repeated(client: TestClient) -> None:
    mirrored, repeated = (
        asked(client, "side", how=how).json()["envelope"] for how in ("mirrored", "repeated")
    )
    assert (mirrored["kind"], mirrored["fall"]) == ("swell", "ease-out")
    assert repeated["keyframes"][-1]["value"] == 0.2


@pytest.mark.parametrize(
    ("path", "more", "field"),
    [
        ("value", {"offset": 5, "value": 0.1}, "offset"),
        ("value", {"offset": 0, "value": 7.0}, "value"),
        ("value", {"offset": 0, "value": [0.5, 0.5]}, "value"),
        ("value", {"offset": 0, "curve": {**CURVE, "parameter": "axis"}}, "parameter"),
        ("value", {"offset": 0, "curve": {**CURVE, "filter": "none"}}, "parameter"),
        (
            "side",
            {"how": "mirrored", "curve": {**CURVE, "envelope": {"kind": "follow", "filter": "r"}}},
            "envelope",
        ),
    ],
)
def test_what_has_no_keyframes_is_refused(
    client: TestClient, path: str, more: dict[str, Any], field: str
) -> None:
    refused = asked(client, path, **more)
    assert refused.status_code == 422
    assert messages(refused)[0][0] == field


def test_a_recipe_of_another_rate_comes_with_its_frames_counted_at_that_of_the_edit(
    client: TestClient,
) -> None:
    mix = {"kind": "dissolve", "span": [{"frames": -2}, {"frames": 2}]}
    window = {"before": 5, "after": 5, "rate": "25"}
    saved = client.post(
        "/api/recipes", json={"recipe": {"name": "Four frames", "mix": mix, "window": window}}
    ).json()
    own = {rate: client.get(f"/api/recipes?rate={rate}").json()["own"][0] for rate in (25, 50)}
    assert own[50]["recipe"]["mix"]["span"] == [{"frames": -4.0}, {"frames": 4.0}]
    assert own[50]["recipe"]["window"] == {"before": 10, "after": 10, "rate": "50"}
    # Where it was saved it comes back as it was saved.
    file = client.get(f"/api/recipes/{saved['id']}/file").json()
    assert own[25]["recipe"] == file
    assert file["mix"]["span"] == mix["span"]
