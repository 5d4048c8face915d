"""A subject from strokes to preview and render, through the API; its truth is a disc that moves.

Mattes overlap the truth by 0.9 or more: the least that is asked of strokes on one frame.
"""

import json
import uuid
import zipfile
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient
from skimage import data

from idle_shimmer.jobs.snapshot_render import render_snapshot
from idle_shimmer.jobs.tasks.subject_matte import make_matte
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Render
from tests.api.conftest import BYTES
from tests.support.clips import write_clip

SIZE = (320, 180)
LAYER = {"format": 2, "subject_layer": {"of": "incoming"}}


class Steady:
    """A job that nobody stops."""

    def should_abort(self) -> bool:
        return False


def disc(number: int) -> np.ndarray:
    """The truth, float (H, W)."""
    mask = np.zeros((SIZE[1], SIZE[0]), np.uint8)
    cv2.circle(mask, (120 + number, 90), 44, 255, -1, cv2.LINE_AA)
    return mask.astype(np.float32) / 255


def picture(number: int) -> np.ndarray:
    ground = cv2.resize(data.grass(), SIZE, interpolation=cv2.INTER_AREA)[..., None]
    alpha = disc(number)[..., None]
    return np.rint(ground * (1 - alpha) + np.array([40, 190, 220]) * alpha).astype(np.uint8)


@pytest.fixture(scope="module")
def clip(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> dict:
    file = tmp_path_factory.mktemp("subject") / "disc.mp4"
    write_clip(file, [picture(n) for n in range(40)])
    return client.post("/api/clips?name=disc.mp4", content=file.read_bytes(), headers=BYTES).json()


@pytest.fixture
def cut(client: TestClient, clip: dict, clip_ids: list[str]) -> str:
    """A cut from another clip into frame 10 of the disc."""
    edit = client.post("/api/edits", json={"name": "Disc", "clips": [clip_ids[0], clip["id"]]})
    placed = edit.json()["placed"][1]["id"]
    made = client.patch(
        f"/api/edits/{edit.json()['id']}/placed/{placed}", json={"in_frame": 10, "out_frame": 40}
    )
    return made.json()["cuts"][0]["id"]


def strokes(frame: int = 10, **more: object) -> dict:
    return {
        "frame": frame,
        "box": [0.25, 0.22, 0.36, 0.56],
        "keep": [[[0.4, 0.35], [0.42, 0.65]]],
        **more,
    }


def marked(client: TestClient, cut: str, *given: dict) -> dict:
    """The subject after its mattes are made."""
    path = f"/api/cuts/{cut}/subject/incoming"
    answer = client.put(path, json={"strokes": list(given)})
    assert answer.status_code == 200, answer.text
    make_matte(Steady(), answer.json()["matte"]["id"])  # type: ignore[arg-type]
    return client.get(path).json()


def decoded(content: bytes) -> np.ndarray:
    return cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)[..., ::-1]


def shape(seen: np.ndarray) -> np.ndarray:
    return cv2.resize(seen, SIZE, interpolation=cv2.INTER_AREA)[..., 0] > 127


def overlap(found: np.ndarray, number: int) -> float:
    truth = disc(number) > 0.5
    return float((found & truth).sum() / (found | truth).sum())


def test_strokes_become_mattes_of_the_window_and_a_margin(client: TestClient, cut: str) -> None:
    path = f"/api/cuts/{cut}/subject/incoming"
    empty = client.get(path).json()
    assert (empty["strokes"], empty["matte"], empty["at_cut"]) == ([], None, 10)
    body = {**save_body(client, cut), "recipe": LAYER}
    assert client.put(f"/api/cuts/{cut}", json=body).status_code == 200
    found = marked(client, cut, strokes())
    matte = found["matte"]
    assert matte["state"] == "done"
    assert matte["done_frames"] == matte["total_frames"]
    assert len(matte["doubtful"]) <= 5
    # The window shows pictures 5 to 14, its spare frames included.
    assert (found["first_shown"], found["last_shown"]) == (5, 14)
    assert (matte["first"], matte["last"]) == (0, 26)
    for number in (0, 10, 26):
        body = {"picture": number, "strokes": found["strokes"], "view": "matte"}
        seen = client.post(f"{path}/look", json=body)
        assert seen.headers["content-type"] == "image/jpeg"
        assert overlap(shape(decoded(seen.content)), number) > 0.9


def save_body(client: TestClient, cut: str) -> dict:
    now = client.get(f"/api/cuts/{cut}").json()
    return {"version": now["version"], "before": 5, "after": 5, "label": "Subject"}


def test_the_same_strokes_have_the_same_mattes_and_others_others(
    client: TestClient, cut: str
) -> None:
    path = f"/api/cuts/{cut}/subject/incoming"
    first = marked(client, cut, strokes())["matte"]
    again = client.put(path, json={"strokes": [strokes()]}).json()["matte"]
    assert (again["id"], again["state"]) == (first["id"], "done")
    other = client.put(path, json={"strokes": [strokes(12)]}).json()["matte"]
    assert (other["id"] == first["id"], other["state"]) == (False, "waiting")
    # Going back stops the other one, and has the first one at once.
    back = client.put(path, json={"strokes": [strokes()]}).json()["matte"]
    assert (back["id"], back["state"]) == (first["id"], "done")
    for file in settings().mattes.glob("*.mkv"):
        file.unlink()
    lost = client.post(f"{path}/mattes").json()["matte"]
    assert (lost["id"], lost["state"]) == (first["id"], "waiting")
    stopped = client.post(f"{path}/mattes/cancel").json()["matte"]
    assert stopped["state"] == "cancelled"
    assert client.put(path, json={"strokes": []}).json()["matte"] is None


def test_a_stroke_is_seen_at_once_before_anything_is_made(client: TestClient, cut: str) -> None:
    path = f"/api/cuts/{cut}/subject/incoming/look"
    tried = client.post(path, json={"picture": 20, "strokes": [strokes(20)], "view": "matte"})
    assert overlap(shape(decoded(tried.content)), 20) > 0.9
    plain = client.post(path, json={"picture": 20, "strokes": [], "view": "matte"})
    assert np.abs(decoded(plain.content).astype(int) - picture(20)).mean() < 12
    for view in ("cut_out", "overlay", "edge"):
        seen = client.post(path, json={"picture": 20, "strokes": [strokes(20)], "view": view})
        assert seen.status_code == 200
        assert np.abs(decoded(seen.content).astype(int) - picture(20)).mean() > 1


@pytest.mark.parametrize(
    ("given", "message"),
    [
        ([strokes(40)], "has pictures 0 to 39, but there are strokes on picture 40"),
        ([strokes(), strokes()], "frame 10 has strokes twice"),
        ([{"frame": 3, "remove": [[[0.1, 0.1]]]}], "draw a keep stroke or a box"),
    ],
)
def test_wrong_strokes_are_named_and_change_nothing(
    client: TestClient, cut: str, given: list[dict], message: str
) -> None:
    path = f"/api/cuts/{cut}/subject/incoming"
    answer = client.put(path, json={"strokes": given})
    assert answer.status_code == 422
    assert message in answer.text
    assert client.get(path).json()["strokes"] == []


def shown(client: TestClient, cut: str, offset: int, subjects: list[str | None] | None) -> Any:
    ask = {"id": 1, "before": 5, "after": 5, "recipe": LAYER, "shown": offset, "rest": False}
    if subjects is not None:
        ask["subjects"] = subjects
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        socket.send_text(json.dumps(ask))
        while True:
            message = socket.receive()
            if message.get("bytes"):
                length = int.from_bytes(message["bytes"][:4], "big")
                return decoded(message["bytes"][4 + length :])


def test_preview_and_render_show_the_subject_alike(
    client: TestClient, cut: str, tmp_path: Path
) -> None:
    """Picture 7 of the disc over the outgoing clip, three frames ahead of the cut."""
    body = {**save_body(client, cut), "recipe": LAYER}
    assert client.put(f"/api/cuts/{cut}", json=body).status_code == 200
    refused = client.post("/api/renders", json={"cut": cut, "format": "png8"})
    assert refused.status_code == 422
    assert "needs the subject of the incoming clip disc" in refused.text
    edit = client.get(f"/api/cuts/{cut}").json()["edit_id"]
    checked = client.get(f"/api/edits/{edit}/checks").json()
    assert checked[0]["worst"]["id"] in ("subject", "abrupt")

    matte = marked(client, cut, strokes())["matte"]
    seen = cv2.resize(shown(client, cut, -3, [None, matte["id"]]), SIZE).astype(int)
    inside = disc(7) == 1
    assert np.abs(seen[inside] - [40, 190, 220]).mean() < 8
    unmade = cv2.resize(shown(client, cut, -3, [None, None]), SIZE).astype(int)
    assert np.abs(unmade[inside] - [40, 190, 220]).mean() > 40

    render = client.post("/api/renders", json={"cut": cut, "format": "png8", "handles": 0}).json()
    with session_scope() as session:
        row = session.get(Render, uuid.UUID(render["id"]))
        assert row is not None
        snapshot = row.snapshot
    out = tmp_path / "window.zip"
    render_snapshot(snapshot, out, lambda _: True)
    written = frames_in(out)[2]
    assert np.abs(cv2.resize(written, SIZE).astype(int)[inside] - [40, 190, 220]).mean() < 8
    # A render makes the mattes that are not there.
    snapshot["placed"][1]["subject"]["file"] = ""
    render_snapshot(snapshot, tmp_path / "again.zip", lambda _: True)
    again = frames_in(tmp_path / "again.zip")[2]
    assert np.abs(again.astype(int) - written).mean() < 0.5


def frames_in(file: Path) -> list[np.ndarray]:
    with zipfile.ZipFile(file) as archive:
        names = sorted(name for name in archive.namelist() if name.endswith(".png"))
        return [decoded(archive.read(name)) for name in names]


def test_strokes_stay_when_the_edit_goes_back_and_are_copied_with_it(
    client: TestClient, cut: str
) -> None:
    marked(client, cut, strokes())
    edit = client.get(f"/api/cuts/{cut}").json()["edit_id"]
    client.patch(f"/api/edits/{edit}", json={"name": "Renamed"})
    client.post(f"/api/edits/{edit}/undo")
    assert client.get(f"/api/cuts/{cut}/subject/incoming").json()["strokes"]
    copy = client.post(f"/api/edits/{edit}/duplicate").json()["cuts"][0]["id"]
    copied = client.get(f"/api/cuts/{copy}/subject/incoming").json()
    assert copied["matte"]["state"] == "done"


def test_strokes_of_two_windows_never_overwrite_each_other(client: TestClient, cut: str) -> None:
    path = f"/api/cuts/{cut}/subject/incoming"
    seen = client.get(path).json()["version"]
    mine = client.put(path, json={"strokes": [strokes()], "version": seen}).json()
    refused = client.put(path, json={"strokes": [strokes(12)], "version": seen})
    assert refused.status_code == 409
    assert "marked in another window" in refused.json()["problems"][0]["message"]
    assert client.get(path).json()["strokes"] == mine["strokes"]
    again = client.put(path, json={"strokes": [strokes(12)], "version": mine["version"]})
    assert again.status_code == 200
