"""The whole edit as it plays: its frames and its sound are those of a render; cuts on beats; levels."""

import asyncio
import io
import struct
import wave
from fractions import Fraction
from typing import Any, Literal

import cv2
import numpy as np
from fastapi.testclient import TestClient

from idle_shimmer.api.renders.render_requests import NewRender, Prepared
from idle_shimmer.output.opened_edit import opened_here
from idle_shimmer.store.database import session_scope
from tests.api.edits.test_resources import messages, save
from tests.conftest import code_psnr

# JPEG, and averages that are made at the preview's size.
ALIKE_DB = 30.0
LOUDEST = 32767


def films(client: TestClient, edit: str, **query: int) -> list[np.ndarray]:
    answer = client.get(f"/api/edits/{edit}/film/frames", params=query)
    assert answer.status_code == 200, answer.text
    found, at = [], 0
    while at < len(answer.content):
        (length,) = struct.unpack_from(">I", answer.content, at)
        data = np.frombuffer(answer.content[at + 4 : at + 4 + length], np.uint8)
        found.append(cv2.cvtColor(cv2.imdecode(data, cv2.IMREAD_COLOR), cv2.COLOR_BGR2RGB))
        at += 4 + length
    return found


def sound(client: TestClient, edit: str, first: int, frames: int) -> np.ndarray:
    answer = client.get(f"/api/edits/{edit}/film/sound", params={"first": first, "frames": frames})
    assert answer.status_code == 200, answer.text
    with wave.open(io.BytesIO(answer.content)) as file:
        return np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, 2)


def opened(edit: str) -> Any:
    with session_scope() as session:
        plan = Prepared(session, NewRender(edit=edit, what="edit")).plan
    return opened_here(plan, plan.size)


def transitions(client: TestClient, edit: dict) -> None:
    """A blur with a dissolve and an accent on the first cut, a ramp on the second."""
    blur = {"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.05}}
    ramp = {"outgoing": {"speed": {"kind": "swell", "peak": 2.0}}}
    recipes = (
        {"mix": {"kind": "dissolve"}, "filters": [blur], "accent": {"sound": "hit"}},
        {"retime": ramp},
    )
    for cut, recipe in zip(edit["cuts"], recipes, strict=True):
        save(client, client.get(f"/api/cuts/{cut['id']}").json(), before=5, after=6, recipe=recipe)


def test_every_frame_is_that_of_the_whole_edit(client: TestClient, edit: dict) -> None:
    transitions(client, edit)
    with opened(edit["id"]) as whole:
        pictures = [each.codes(8) for each in whole.edit_pictures()]
    for first, step in ((0, 1), (7, 5)):
        numbers = range(first, len(pictures), step)
        found = [
            picture
            for start in range(0, len(numbers), 60)
            for picture in films(client, edit["id"], first=numbers[start], count=60, step=step)
        ]
        assert len(found) == len(numbers)
        for number, picture in zip(numbers, found, strict=True):
            assert code_psnr(picture, pictures[number]) > ALIKE_DB, number


def test_a_change_is_seen_and_frames_beyond_the_end_are_left_out(
    client: TestClient, edit: dict
) -> None:
    count = client.get(f"/api/edits/{edit['id']}").json()["frame_count"]
    middle = edit["placed"][0]["edit_frames"] - 2
    (before,) = films(client, edit["id"], first=middle, count=1)
    transitions(client, edit)
    (after,) = films(client, edit["id"], first=middle, count=1)
    assert code_psnr(before, after) < ALIKE_DB
    assert len(films(client, edit["id"], first=count - 2, count=9)) == 2
    assert films(client, edit["id"], first=count + 2, count=9) == []


def test_each_picture_takes_its_turn_among_those_of_the_previews(
    client: TestClient, edit: dict
) -> None:
    class Turns(asyncio.Semaphore):
        taken = 0

        async def acquire(self) -> Literal[True]:
            self.taken += 1
            return await super().acquire()

    app: Any = client.app
    turns = app.state.preview_load.slots = Turns(1)
    assert len(films(client, edit["id"], first=3, count=4)) == turns.taken == 4
    assert not turns.locked()


def test_an_edit_of_one_clip_plays_as_well(client: TestClient, edit: dict) -> None:
    for placed in edit["placed"][1:]:
        assert client.delete(f"/api/edits/{edit['id']}/placed/{placed['id']}").status_code == 200
    with opened(edit["id"]) as whole:
        pictures = [each.codes(8) for each in whole.edit_pictures()]
    found = films(client, edit["id"], first=5, count=3)
    for number, picture in enumerate(found, 5):
        assert code_psnr(picture, pictures[number]) > ALIKE_DB
    assert len(films(client, edit["id"], first=len(pictures) - 1, count=5)) == 1


def test_any_part_of_the_sound_is_that_of_the_whole(client: TestClient, edit: dict) -> None:
    transitions(client, edit)
    first = edit["placed"][0]
    levels = {"gain_db": -4.0, "crossfade": 6}
    path = f"/api/edits/{edit['id']}/placed/{first['id']}"
    assert client.patch(path, json=levels).status_code == 200
    with opened(edit["id"]) as whole:
        wanted = np.concatenate(list(whole.sound.whole()))
    count, per_frame = edit["frame_count"], 48_000 // 25
    for begin, frames in ((0, 30), (20, 45), (count - 11, 40)):
        part = sound(client, edit["id"], begin, frames)
        same = wanted[begin * per_frame : (begin + frames) * per_frame]
        assert len(part) == len(same)
        assert np.abs(part / LOUDEST - same).max() < 2e-4
    refused = client.get(path.split("/placed")[0] + "/film/sound?first=0&frames=99999")
    assert refused.status_code == 422
    assert "at most 60 s of sound" in messages(refused)[0][1]


def test_levels_are_one_step_of_the_history_each(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][0]['id']}"
    assert client.patch(path, json={"gain_db": -9}).json()["undo_label"] == "Level of one"
    changed = client.patch(path, json={"crossfade": 12}).json()
    assert changed["undo_label"] == "Crossfade after one"
    undone = client.post(f"/api/edits/{edit['id']}/undo").json()["placed"][0]
    assert (undone["gain_db"], undone["crossfade"]) == (-9, 0)
    copy = client.post(f"/api/edits/{edit['id']}/duplicate").json()
    assert copy["placed"][0]["gain_db"] == -9
    for wrong in ({"gain_db": 13}, {"crossfade": -1}, {"crossfade": 201}):
        assert client.patch(path, json=wrong).status_code == 422


def test_cuts_are_laid_on_every_nth_beat_and_back(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    refused = client.post(f"{path}/cuts/on-beats", json={"every": 2})
    assert (refused.status_code, messages(refused)[0][0]) == (422, "every")
    client.patch(path, json={"beats_per_minute": 150, "beat_offset_s": 0.2})
    answer = client.post(f"{path}/cuts/on-beats", json={"every": 2}).json()
    lengths = [each["edit_frames"] for each in answer["edit"]["placed"]]
    # At 150 BPM and 25 fps a beat has 10 frames; windows of 8 | 8 need 16.
    assert (lengths[:2], answer["stayed"]) == ([25, 20], [])
    assert answer["edit"]["undo_label"] == "Cut every 2 beats"
    undone = client.post(f"{path}/undo").json()
    assert [each["edit_frames"] for each in undone["placed"]] == [
        each["edit_frames"] for each in edit["placed"]
    ]
    far = client.post(f"{path}/cuts/on-beats", json={"every": 40}).json()
    assert all("has no more frames" in each for each in far["stayed"])


def test_cuts_are_moved_to_the_nearest_beats(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    assert client.get(f"{path}/beats").json() == {"frames": []}
    client.patch(path, json={"beats_per_minute": 150, "beat_offset_s": 0.2})
    beats = client.get(f"{path}/beats").json()["frames"]
    assert beats[:3] == [-5, 5, 15]
    answer = client.post(f"{path}/cuts/to-beats", json={"cuts": [edit["cuts"][0]["id"]]}).json()
    lengths = [each["edit_frames"] for each in answer["edit"]["placed"]]
    was = [each["edit_frames"] for each in edit["placed"]]
    assert lengths[0] in beats
    assert abs(lengths[0] - was[0]) <= 5
    assert sum(lengths) == sum(was)
    assert lengths[2] == was[2]
    assert answer["edit"]["undo_label"] == "Snap cuts to beats"


def test_beats_that_drift_are_kept_until_a_tempo_is_typed(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    heard = [0.1, 0.71, 1.36, 2.05]
    changed = client.patch(
        path, json={"beats_per_minute": 95, "beat_offset_s": 0.1, "beat_times_s": heard}
    )
    assert changed.json()["beat_times_s"] == heard
    answer = client.post(f"{path}/cuts/on-beats", json={"every": 1}).json()
    cut = answer["edit"]["placed"][0]["edit_frames"]
    assert cut in {round(Fraction(each).limit_denominator(1000) * 25) for each in heard}
    assert client.patch(path, json={"beats_per_minute": 90}).json()["beat_times_s"] is None
    wrong = client.patch(path, json={"beat_times_s": [0.5, 0.5]})
    assert wrong.status_code == 422
