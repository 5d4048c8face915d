"""Shots: of an edit made from a finished video, each clip keeps to its own."""

import json
import uuid

import pytest
from fastapi.testclient import TestClient

from idle_shimmer.edit.scene import Scene
from idle_shimmer.edit.snapshot_making import snapshot_of
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits.edits import edit_by_id
from idle_shimmer.store.tables import CutDetection
from tests.api.conftest import BYTES

# Of a clip of 60 pictures: the first pictures of its shots, and a weaker one.
CUTS, WEAK = (20, 40), 30


@pytest.fixture
def detected(client: TestClient, clip_ids: list[str]) -> str:
    """A clip whose cuts have been detected."""
    clip = clip_ids[0]
    scores = [1.0 if n in CUTS else 0.3 if n == WEAK else 0.0 for n in range(60)]
    with session_scope() as session:
        session.merge(
            CutDetection(
                clip_id=uuid.UUID(clip),
                state="done",
                done_frames=60,
                total_frames=60,
                scores=scores,
                claim=1,
                starts=1,
            )
        )
    return clip


def cut_up(client: TestClient, clip: str, frames: list[int]) -> dict:
    answer = client.post(f"/api/clips/{clip}/edit", json={"name": "Evening", "frames": frames})
    assert answer.status_code == 201, answer.text
    return answer.json()


def spare(edit: dict) -> list[tuple[int, int]]:
    return [(each["spare_before"], each["spare_after"]) for each in edit["placed"]]


def test_spare_frames_end_with_the_shot_but_a_clip_can_be_trimmed_beyond(
    client: TestClient, detected: str
) -> None:
    edit = cut_up(client, detected, [20, 40])
    assert spare(edit) == [(0, 0), (0, 0), (0, 0)]
    assert [(each["room_before"], each["room_after"]) for each in edit["placed"]] == [
        (0, 40),
        (20, 20),
        (40, 0),
    ]
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    dissolve = {**cut["recipe"], "mix": {"kind": "dissolve"}}
    body = {"version": cut["version"], "before": 6, "after": 6, "recipe": dissolve, "label": "Mix"}
    client.put(f"/api/cuts/{cut['id']}", json=body).raise_for_status()
    checked = client.get(f"/api/edits/{edit['id']}/checks").json()[0]["worst"]
    assert (checked["id"], checked["status"]) == ("spare_frames", "failed")
    assert "its shot has 0" in checked["message"]
    # The preview, and what a render reads.
    shown = Scene(uuid.UUID(cut["id"])).saved_transition()
    assert (shown.available("outgoing"), shown.available("incoming")) == (range(20), range(20, 40))
    moved = client.post(
        f"/api/edits/{edit['id']}/cuts/move", json={"moves": [{"cut": cut["id"], "by": -2}]}
    ).json()["edit"]
    assert spare(moved)[:2] == [(0, 2), (0, 0)]
    with session_scope() as session:
        plan = snapshot_of(session, edit_by_id(session, uuid.UUID(edit["id"]))).plan()
    assert [(each.shot.first, each.shot.end) for each in plan.placed] == [
        (0, 20),
        (18, 40),
        (40, 60),
    ]


def test_what_is_excluded_or_added_by_hand_ends_no_shot(client: TestClient, detected: str) -> None:
    assert spare(cut_up(client, detected, [40])) == [(0, 0), (0, 0)]
    # 10 was added by hand; 30 is a weak cut that was wanted.
    edit = cut_up(client, detected, [10, 20, 30])
    assert spare(edit) == [(0, 10), (10, 0), (0, 0), (0, 0)]


def test_shots_follow_through_splits_copies_undo_and_files(
    client: TestClient, detected: str
) -> None:
    edit = cut_up(client, detected, [20, 40])
    path = f"/api/edits/{edit['id']}"
    middle = edit["placed"][1]["id"]
    split = client.post(f"{path}/placed/{middle}/split", json={"at_frame": 30}).json()
    assert spare(split) == [(0, 0), (0, 10), (10, 0), (0, 0)]
    back = client.post(f"{path}/undo").json()
    again = client.post(f"{path}/redo").json()
    assert (spare(back), spare(again)) == (spare(edit), spare(split))
    copy = client.post(f"{path}/duplicate").json()
    assert spare(copy) == spare(split)
    text = client.get(f"{path}/export/otio").text
    assert "shot" in json.dumps(json.loads(text))
    imported = client.post("/api/edits/import?name=evening.otio", content=text, headers=BYTES)
    assert spare(imported.json()["edit"]) == spare(split)
