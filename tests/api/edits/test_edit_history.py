"""The history of edits: undo, redo, versions; moving cuts, beats, muting and the waveform."""

import uuid
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import event, select, text

from idle_shimmer.edit.states import edit_state
from idle_shimmer.store.database import reading_scope, session_scope
from idle_shimmer.store.edits.edits import edit_by_id
from idle_shimmer.store.tables import CutRevision, EditHistoryStep
from tests.api.edits.test_resources import BLUR, messages, save
from tests.faults.tally import TIMES, Tally


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


@pytest.mark.parametrize(
    ("change", "lost"),
    [
        (lambda client, path, placed: client.patch(path(placed[2]), json={"position": 0}), 1),
        (lambda client, path, placed: client.delete(path(placed[0])), 0),
        (lambda client, path, placed: client.delete(path(placed[2])), 1),
    ],
    ids=["a clip becomes the last", "a clip goes", "the last clip goes"],
)
def test_a_cut_comes_back_with_its_history_and_variants(
    client: TestClient, edit: dict, change: Any, lost: int
) -> None:
    cut_path = f"/api/cuts/{edit['cuts'][lost]['id']}"
    first = client.get(cut_path).json()
    save(client, first, before=4, label="four before")
    pinned = {"before": 2, "after": 2, "recipe": {"filters": [BLUR]}}
    assert client.post(f"{cut_path}/variants", json=pinned).status_code == 201
    saved = save(client, client.get(cut_path).json(), before=5, label="five before").json()
    steps, variants = (client.get(f"{cut_path}/{each}").json() for each in ("history", "variants"))
    path = f"/api/edits/{edit['id']}"
    assert (
        change(client, lambda one: f"{path}/placed/{one['id']}", edit["placed"]).status_code == 200
    )
    assert client.get(cut_path).status_code == 404
    assert client.post(f"{path}/undo").status_code == 200
    back = client.get(cut_path).json()
    assert (back["before"], back["undo_label"]) == (5, saved["undo_label"])
    assert client.get(f"{cut_path}/history").json() == steps
    assert client.get(f"{cut_path}/variants").json() == variants
    client.post(f"{path}/redo")
    client.post(f"{path}/undo")
    assert client.get(f"{cut_path}/history").json() == steps


def test_a_cut_is_moved_and_all_else_stays(client: TestClient, edit: dict) -> None:
    cut = edit["cuts"][0]["id"]
    before = client.get(f"/api/cuts/{cut}").json()
    path = f"/api/edits/{edit['id']}/cuts/move"
    now = client.post(path, json={"moves": [{"cut": cut, "by": -5}]}).json()["edit"]
    assert client.get(f"/api/cuts/{cut}").json()["edit_frame"] == before["edit_frame"] - 5
    assert now["undo_label"] == "Move cut by -5 frames"
    assert run_of(now)[:2] == [("one", 12, 43), ("two", 7, 48)]
    assert now["frame_count"] == edit["frame_count"]
    refused = client.post(path, json={"moves": [{"cut": cut, "by": -8}]})
    assert refused.status_code == 422
    assert "the incoming clip two has no more" in messages(refused)[0][1]


def test_several_cuts_move_in_one_step_and_those_without_room_stay(
    client: TestClient, edit: dict
) -> None:
    path = f"/api/edits/{edit['id']}"
    moves = [{"cut": cut["id"], "by": by} for cut, by in zip(edit["cuts"], (3, -40), strict=True)]
    answer = client.post(f"{path}/cuts/move", json={"moves": moves}).json()
    assert len(answer["stayed"]) == 1
    assert run_of(answer["edit"])[0] == ("one", 12, 51)
    assert run_of(client.post(f"{path}/undo").json()) == run_of(edit)


def test_what_is_undone_can_be_redone_until_something_new_is_done(
    client: TestClient, edit: dict
) -> None:
    """Names, beats, windows and recipes on cuts are steps like any other."""
    path = f"/api/edits/{edit['id']}"
    cut = edit["cuts"][0]
    client.patch(path, json={"name": "Night tide"})
    client.patch(path, json={"beats_per_minute": 120})
    window = f"{path}/cuts/{cut['id']}/window"
    assert client.put(window, json={"before": 5, "after": 7}).status_code == 200
    client.patch(f"{path}/placed/{edit['placed'][0]['id']}", json={"muted": True})
    done = client.get(path).json()
    assert done["undo_label"].startswith("Mute")
    for _ in range(4):
        back = client.post(f"{path}/undo").json()
    assert back["undo_label"] is None
    assert back["redo_label"] == "Rename to Night tide"
    first = [(each["name"], each["beats_per_minute"]) for each in (edit, back)]
    assert first[0] == first[1]
    assert back["cuts"][0]["before"] == cut["before"]
    for _ in range(4):
        again = client.post(f"{path}/redo").json()
    for fact in ("name", "beats_per_minute"):
        assert again[fact] == done[fact]
    assert (again["cuts"][0]["before"], again["cuts"][0]["after"]) == (5, 7)
    assert again["placed"][0]["muted"]
    assert client.post(f"{path}/redo").status_code == 404
    client.post(f"{path}/undo")
    assert client.patch(path, json={"name": "Another"}).json()["redo_label"] is None


def test_a_transition_changed_since_a_step_keeps_its_newer_state(
    client: TestClient, edit: dict
) -> None:
    path = f"/api/edits/{edit['id']}"
    cut = edit["cuts"][0]["id"]
    client.put(f"{path}/cuts/{cut}/window", json={"before": 5, "after": 7})
    save(client, client.get(f"/api/cuts/{cut}").json(), before=6, label="on the bench")
    back = client.post(f"{path}/undo").json()
    assert back["cuts"][0]["before"] == 6


def test_a_change_of_an_outdated_edit_is_refused(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    placed = f"{path}/placed/{edit['placed'][0]['id']}"
    seen = {"version": edit["version"]}
    first = client.patch(placed, json={"out_frame": 40}, params=seen).json()
    assert first["version"] == edit["version"] + 1
    requests = [
        client.patch(placed, json={"out_frame": 41}, params=seen),
        client.patch(path, json={"name": "Late"}, params=seen),
        client.post(f"{placed}/split", json={"at_frame": 30}, params=seen),
        client.delete(placed, params=seen),
        client.post(f"{path}/undo", params=seen),
    ]
    assert [each.status_code for each in requests] == [409] * 5
    assert "changed in another window" in messages(requests[0])[0][1]
    now = client.get(path).json()
    assert now["version"] == first["version"]
    assert run_of(now) == run_of(first)


def test_an_edit_is_read_as_it_was_at_one_moment(client: TestClient, edit: dict) -> None:
    """A clip is added between reading the clips and reading the cuts."""
    number = uuid.UUID(edit["id"])
    with reading_scope() as session:
        found = edit_by_id(session, number)
        client.post(
            f"/api/edits/{edit['id']}/clips", json={"clip": edit["placed"][0]["clip"]["id"]}
        )
        assert len(edit_state(found).rows) == len(found.placed) - 1 == 2
    with reading_scope() as session:
        found = edit_by_id(session, number)
        assert len(edit_state(found).rows) == len(found.placed) - 1 == 3


def test_arranging_in_parallel_leaves_an_edit_that_can_be_read(
    client: TestClient, edit: dict
) -> None:
    """Split beside remove beside add, eight rounds: each answers, and the edit stays whole."""
    path = f"/api/edits/{edit['id']}"
    tally = Tally("arranging in parallel")
    with ThreadPoolExecutor(4) as pool:
        for _ in range(8 * min(TIMES, 16)):
            now = client.get(path).json()
            *_, last = now["placed"]
            one = max(now["placed"], key=lambda each: each["out_frame"] - each["in_frame"])
            middle = (one["in_frame"] + one["out_frame"]) // 2
            tries = [
                pool.submit(
                    client.post, f"{path}/placed/{one['id']}/split", json={"at_frame": middle}
                ),
                pool.submit(client.delete, f"{path}/placed/{last['id']}"),
                pool.submit(client.post, f"{path}/clips", json={"clip": last["clip"]["id"]}),
                pool.submit(client.patch, path, json={"name": "In parallel"}),
            ]
            assert {each.result().status_code for each in tries} <= {200, 404, 422}
            after = client.get(path).json()
            assert [each["position"] for each in after["placed"]] == list(
                range(len(after["placed"]))
            )
            assert len(after["cuts"]) == len(after["placed"]) - 1
            tally.add("rounds of four changes at once")
            tally.add("edits broken", 0)
    tally.save()


def test_changes_in_reversed_orders_never_wait_for_each_other(
    client: TestClient, edit: dict
) -> None:
    """Applying to both cuts beside undoing the edit and either cut: no deadlock, no lost lock."""
    path = f"/api/edits/{edit['id']}"
    with ThreadPoolExecutor(4) as pool:
        for number in range(10 * min(TIMES, 16)):
            cuts = client.get(path).json()["cuts"]
            seen = [{"cut": each["id"], "version": each["version"]} for each in cuts]
            body = {"cuts": seen[:: 1 if number % 2 else -1], "recipe": {"name": f"R{number}"}}
            tries = [
                pool.submit(client.post, f"{path}/apply", json=body),
                pool.submit(client.post, f"{path}/undo"),
                *(
                    pool.submit(
                        client.post,
                        f"/api/cuts/{each['cut']}/undo",
                        json={"version": each["version"]},
                    )
                    for each in seen
                ),
            ]
            assert {each.result().status_code for each in tries} <= {200, 404, 409}


def test_a_save_beside_an_apply_is_kept_or_refused_never_lost(
    client: TestClient, edit: dict
) -> None:
    """Twenty rounds: what answered 200 is in the history of the cut."""
    path = f"/api/edits/{edit['id']}"
    recipe = {"name": "Whip", "filters": []}
    tally = Tally("saves beside applying")
    with ThreadPoolExecutor(3) as pool:
        for number in range(20 * min(TIMES, 16)):
            cuts = client.get(path).json()["cuts"]
            seen = {"cuts": [{"cut": each["id"], "version": each["version"]} for each in cuts]}
            cut = client.get(f"/api/cuts/{cuts[0]['id']}").json()
            body = {
                "version": cut["version"],
                "before": cut["before"],
                "after": cut["after"],
                "recipe": {"name": f"Saved {number}", "filters": []},
                "label": f"save {number}",
            }
            tries = {
                "apply": pool.submit(client.post, f"{path}/apply", json={**seen, "recipe": recipe}),
                "again": pool.submit(client.post, f"{path}/apply", json={**seen, "recipe": recipe}),
                "save": pool.submit(client.put, f"/api/cuts/{cut['id']}", json=body),
            }
            codes = {name: each.result().status_code for name, each in tries.items()}
            assert sorted(codes.values()) == [200, 409, 409], codes
            now = client.get(f"/api/cuts/{cut['id']}").json()
            saved = codes["save"] == 200
            assert now["recipe"]["name"] == (f"Saved {number}" if saved else "Whip")
            labels = [
                step["label"]
                for step in client.get(f"/api/cuts/{cut['id']}/history").json()["steps"]
            ]
            assert (f"save {number}" in labels) == saved
            tally.add("rounds")
            tally.add("saves kept", saved)
            tally.add("saves refused", not saved)
            tally.add("saves lost", 0)
    tally.save()


def test_an_edit_that_cannot_be_shown_does_not_hide_the_others(
    client: TestClient, edit: dict, clip_ids: list[str]
) -> None:
    other = client.post("/api/edits", json={"name": "Sound", "clips": clip_ids}).json()
    with session_scope() as session:
        session.execute(
            text("UPDATE placed_clip SET position = position + 40 WHERE edit_id = :edit"),
            {"edit": edit["id"]},
        )
        session.execute(
            text("UPDATE edit SET rate = 'no rate' WHERE id = :edit"), {"edit": other["id"]}
        )
    try:
        listed = [each["id"] for each in client.get("/api/edits").json()]
        assert edit["id"] in listed
        assert other["id"] not in listed
        # Gaps between positions are nothing special.
        assert client.get(f"/api/cuts/{edit['cuts'][0]['id']}").status_code == 200
    finally:
        with session_scope() as session:
            session.execute(
                text("UPDATE edit SET rate = '25' WHERE id = :edit"), {"edit": other["id"]}
            )


def test_the_parts_of_one_clip_are_numbered(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    after = client.post(
        f"{path}/placed/{edit['placed'][0]['id']}/split", json={"at_frame": 30}
    ).json()
    assert [each["name"] for each in after["placed"]] == [
        "one, shot 1",
        "one, shot 2",
        "two",
        "three",
    ]


def test_a_deleted_edit_is_listed_until_it_is_restored(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    client.delete(path)
    listed = client.get("/api/edits/deleted").json()
    assert edit["id"] in [each["id"] for each in listed]
    client.post(f"{path}/restore")
    assert edit["id"] not in [each["id"] for each in client.get("/api/edits/deleted").json()]


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


def test_a_step_keeps_what_it_changed_alone(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    first = edit["placed"][0]["id"]
    client.patch(f"{path}/placed/{first}", json={"in_frame": edit["placed"][0]["in_frame"] + 1})
    cuts = [{"cut": each["id"], "version": each["version"]} for each in edit["cuts"]]
    blur = {"filters": [{"kind": "gaussian_blur", "radius": 0.02}]}
    assert client.post(f"{path}/apply", json={"cuts": cuts, "recipe": blur}).status_code == 200
    client.post(f"{path}/placed/{first}/split", json={"at_frame": 30})
    with session_scope() as session:
        wanted = select(EditHistoryStep).where(EditHistoryStep.edit_id == uuid.UUID(edit["id"]))
        steps = session.scalars(wanted.order_by(EditHistoryStep.id)).all()
        kept = [[each["id"] for each in step.before["placed"]] for step in steps]
    # The trimmed clip; none where only transitions changed; the clip that was split.
    assert kept == [[first], [], [first]]
    arranged = [each["id"] for each in client.get(path).json()["placed"]]
    for _ in range(3):
        undone = client.post(f"{path}/undo").json()
    for name in ("id", "in_frame", "out_frame"):
        assert [each[name] for each in undone["placed"]] == [each[name] for each in edit["placed"]]
    assert [each["recipe_name"] for each in undone["cuts"]] == ["Untitled", "Untitled"]
    assert not any(each["filter_count"] for each in undone["cuts"])
    for _ in range(3):
        redone = client.post(f"{path}/redo").json()
    assert [each["id"] for each in redone["placed"]] == arranged
    assert all(
        each["filter_count"] == 1
        for each in redone["cuts"]
        if each["id"] in {c["id"] for c in edit["cuts"]}
    )


def test_a_long_history_of_a_cut_is_not_read_to_change_it(client: TestClient, edit: dict) -> None:
    """A cut may have hundreds of revisions, each with a whole recipe."""
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][0]['id']}"
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    for frames in range(3, 9):
        cut = save(client, cut, before=frames).json()
    read: list[int] = []

    def count(revision: CutRevision, _: object) -> None:
        read.append(revision.number)

    event.listen(CutRevision, "load", count)
    try:
        assert save(client, cut, before=2).json()["before"] == 2
        assert client.get(f"/api/cuts/{cut['id']}").json()["undo_label"] == "tested"
        assert read == []
        assert client.patch(path, json={"out_frame": 40}).status_code == 200
        assert sorted(read) == [1, 8]  # The revisions in force of both cuts.
    finally:
        event.remove(CutRevision, "load", count)
