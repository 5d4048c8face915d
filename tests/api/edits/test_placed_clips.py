"""Clips in the run: trimmed, moved, split, removed; the cuts between them follow."""

import uuid

import pytest
from fastapi.testclient import TestClient

from idle_shimmer.jobs.snapshot_render import render_snapshot
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Render
from tests.api.edits.test_resources import messages, save


def names(edit: dict) -> list[str]:
    return [each["clip"]["name"] for each in edit["placed"]]


def test_a_clip_is_trimmed_inside_its_frames_and_around_its_windows(
    client: TestClient, edit: dict
) -> None:
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][1]['id']}"
    trimmed = client.patch(path, json={"in_frame": 20, "out_frame": 40}).json()
    placed = trimmed["placed"][1]
    assert (placed["in_frame"], placed["out_frame"], placed["spare_after"]) == (20, 40, 20)
    for change, message in (
        ({"out_frame": 61}, "has frames 0 to 60"),
        ({"in_frame": 40}, "the in frame must be before the out frame"),
        ({"in_frame": 30}, "leave no room for the windows on two (8 at its start, 8 at its end)"),
    ):
        refused = client.patch(path, json=change)
        assert refused.status_code == 422
        assert message in messages(refused)[0][1]


def test_a_cut_goes_with_its_outgoing_clip(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, recipe={"name": "Kept"})
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][2]['id']}"
    moved = client.patch(path, json={"position": 0}).json()
    assert names(moved) == ["three", "one", "two"]
    assert [each["recipe_name"] for each in moved["cuts"]] == ["Untitled", "Kept"]


def test_a_split_makes_a_cut_inside_one_shot(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, recipe={"name": "Kept"})
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][0]['id']}/split"
    made = client.post(path, json={"at_frame": 24}).json()
    assert names(made) == ["one", "one", "two", "three"]
    assert [(p["in_frame"], p["out_frame"]) for p in made["placed"][:2]] == [(12, 24), (24, 48)]
    assert [each["recipe_name"] for each in made["cuts"]] == ["Untitled", "Kept", "Untitled"]
    assert client.post(path, json={"at_frame": 24}).status_code == 422
    fits = [client.get(f"/api/cuts/{each['id']}").json() for each in made["cuts"]]
    assert all(each["before"] <= each["most_before"] for each in fits)


def test_an_accent_makes_its_own_cut_inside_one_shot_and_goes_with_one_undo(
    client: TestClient, edit: dict
) -> None:
    path, placed = f"/api/edits/{edit['id']}", edit["placed"][1]
    first = placed["in_frame"]
    accent = {
        "placed": placed["id"],
        "at_frame": first + 20,
        "recipe": {"name": "Blow", "filters": [{"kind": "flash"}]},
        "window": {"before": 1, "after": 25},
    }
    made = client.post(f"{path}/accents", json=accent).json()
    assert [each["recipe_name"] for each in made["cuts"]] == ["Untitled", "Blow", "Untitled"]
    assert made["frame_count"] == edit["frame_count"]
    one, other = made["placed"][1:3]
    assert (one["out_frame"], other["in_frame"]) == (first + 20, first + 20)
    cut = client.get(f"/api/cuts/{made['cuts'][1]['id']}").json()
    # As much of its window as the window on the clip's end leaves.
    room = placed["out_frame"] - (first + 20) - 8
    assert (cut["before"], cut["after"]) == (1, min(25, room))
    assert made["undo_label"] == "Add Blow"
    undone = client.post(f"{path}/undo", json={"version": made["version"]}).json()
    assert names(undone) == names(edit)


@pytest.mark.parametrize("at_frame", [0, 8, 10**6])
def test_an_accent_does_not_lie_in_another_transition(
    client: TestClient, edit: dict, at_frame: int
) -> None:
    placed = edit["placed"][1]
    accent = {"placed": placed["id"], "at_frame": placed["in_frame"] + at_frame}
    accent |= {"recipe": {"name": "Blow"}, "window": {"before": 1, "after": 25}}
    refused = client.post(f"/api/edits/{edit['id']}/accents", json=accent)
    assert refused.status_code == 422
    ((field, message),) = messages(refused)
    assert field == "at_frame"
    assert "lies in the window of a transition: choose one from" in message


@pytest.mark.parametrize("place", [0, 1, 2])
def test_a_removed_clip_leaves_whole_joins(client: TestClient, edit: dict, place: int) -> None:
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][place]['id']}"
    left = client.delete(path).json()
    assert len(left["cuts"]) == 1
    assert len(left["placed"]) == 2
    assert [each["position"] for each in left["placed"]] == [0, 1]
    assert client.delete(path).status_code == 404


def test_a_clip_is_framed_and_its_colours_matched(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    path = f"/api/edits/{edit['id']}/placed/{cut['incoming']['id']}"
    answer = client.patch(path, json={"framing": {"scale": 1.5, "turn": 3}})
    assert answer.status_code == 200
    framing = client.get(f"/api/cuts/{cut['id']}").json()["incoming"]["framing"]
    assert (framing["scale"], framing["turn"], framing["x"]) == (1.5, 3, 0)
    refused = client.patch(path, json={"framing": {"scale": 0}})
    assert refused.status_code == 422
    assert "framing.scale" in messages(refused)[0][0]
    # The test pictures differ in their number's pattern alone, so their colours fit already.
    match = client.post(
        f"/api/cuts/{cut['id']}/match", json={"what": "colours", "incoming": framing}
    )
    assert match.json()["framing"]["scale"] == 1.5
    assert match.json()["framing"]["gain"] == pytest.approx([1, 1, 1], abs=0.4)


def test_what_has_nothing_in_common_is_not_laid_over(client: TestClient, edit: dict) -> None:
    answer = client.post(f"/api/cuts/{edit['cuts'][0]['id']}/match", json={"what": "placement"})
    assert answer.status_code == 422
    assert "too little in common" in messages(answer)[0][1]


def test_a_render_shows_the_framing(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    path = f"/api/edits/{edit['id']}/placed/{cut['incoming']['id']}"
    client.patch(path, json={"framing": {"gain": [0.1, 0.1, 0.1]}})
    asked = client.post(
        "/api/renders", json={"cut": cut["id"], "handles": 2, "format": "ffv1"}
    ).json()
    with session_scope() as session:
        snapshot = session.get(Render, uuid.UUID(asked["id"])).snapshot
    out = settings().media / "framed.mkv"
    render_snapshot(snapshot, out, lambda _: True)
    with VideoReader(out) as reader:
        first, last = reader.read(0), reader.read(reader.index.count - 1)
    out.unlink()
    assert last.mean() < 0.15 * first.mean()
