"""The preview sharpens once nothing changes: larger pictures of the same frame, the large loop whole."""

import json
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
import pytest
import skimage.data
from fastapi.testclient import TestClient

from tests.api.conftest import BYTES
from tests.api.preview.test_preview import ask, parsed
from tests.conftest import code_psnr
from tests.support.clips import write_clip

FULL, MIDDLE, QUICK = (720, 1280), (540, 960), (360, 640)
# A recipe looks the same at two sizes of a photograph; the quick picture is coded as JPEG as well.
ALIKE_DB = 32.0


@pytest.fixture(scope="module")
def cut(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> str:
    """A cut between two photographs that move, 1280 by 720."""
    folder, ids = tmp_path_factory.mktemp("photographs"), []
    for name, photo in (("quay", skimage.data.coffee()), ("sail", skimage.data.astronaut())):
        large = cv2.resize(photo, FULL[::-1], interpolation=cv2.INTER_AREA)
        frames = [np.roll(large, 4 * n, axis=1) for n in range(24)]
        file = write_clip(folder / f"{name}.mp4", frames)
        sent = client.post(
            "/api/clips", params={"name": file.name}, content=file.read_bytes(), headers=BYTES
        )
        ids.append(sent.json()["id"])
    made = client.post("/api/edits", json={"name": "Photographs", "clips": ids}).json()
    return made["cuts"][0]["id"]


Receive = Callable[[], dict[str, Any]]


def until(receive: Receive, kind: str, count: int = 1) -> list[dict[str, Any]]:
    """Receive up to ``count`` answers of a kind; return all that came."""
    found: list[dict[str, Any]] = []
    while sum(each["kind"] == kind for each in found) < count:
        found.append(receive())
    return found


def test_the_shown_frame_comes_again_as_large_as_it_is_seen(client: TestClient, cut: str) -> None:
    for area, size in (((1280, 720), FULL), ((1920, 1000), FULL), ((900, 506), MIDDLE)):
        with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
            socket.send_text(ask(1, area=area))
            answers = until(lambda: parsed(socket.receive()), "sharp")
        quick, sharp = answers[0], answers[-1]
        assert (quick["kind"], quick["offset"], quick["picture"].shape[:2]) == ("frame", 2, QUICK)
        assert (sharp["id"], sharp["offset"], sharp["picture"].shape[:2]) == (1, 2, size)
        averaged = cv2.resize(sharp["picture"], QUICK[::-1], interpolation=cv2.INTER_AREA)
        assert code_psnr(averaged, quick["picture"]) > ALIKE_DB
        # No jump in brightness: less than half a code.
        assert abs(float(averaged.mean()) - float(quick["picture"].mean())) < 0.5


def test_originals_that_are_compared_sharpen_too(client: TestClient, cut: str) -> None:
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        socket.send_text(ask(1, area=(1280, 720), sources=[2]))
        answers = until(lambda: parsed(socket.receive()), "sharp")
    (original,) = [each for each in answers if each["kind"] == "sharp_source"]
    assert (original["offset"], original["picture"].shape[:2]) == (2, FULL)


def test_where_the_quick_picture_fills_the_area_nothing_follows(
    client: TestClient, cut: str
) -> None:
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        socket.send_text(ask(1, area=(640, 360)))
        receive = lambda: parsed(socket.receive())  # noqa: E731
        answers = until(receive, "checks", 2)
    assert {each["kind"] for each in answers} >= {"frame", "thumb", "checks"}
    assert not [each for each in answers if each["kind"].startswith("sharp")]


def test_a_newer_state_is_answered_quickly_first(client: TestClient, cut: str) -> None:
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        socket.send_text(ask(1, area=(1280, 720)))
        until(lambda: parsed(socket.receive()), "sharp")
        socket.send_text(ask(2, area=(1280, 720)))
        answers = until(lambda: parsed(socket.receive()), "sharp")
    newer = [each["kind"] for each in answers if each["id"] == 2]
    assert newer[0] == "frame"
    assert newer[-1] == "sharp"


def test_the_large_loop_is_made_whole(client: TestClient, cut: str) -> None:
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        socket.send_text(ask(1, run_up=2))
        receive = lambda: parsed(socket.receive())  # noqa: E731
        until(receive, "frame")
        look = {"id": 1, "shown": 2, "sources": [], "area": (1280, 720), "sharp_frames": 100}
        socket.send_text(json.dumps(look))
        answers = until(receive, "sharp", 14)
    sharp = [each["offset"] for each in answers if each["kind"] == "sharp"]
    assert sorted(sharp) == list(range(-6, 8))


def test_as_many_frames_of_the_loop_are_sharp_as_the_page_keeps(
    client: TestClient, cut: str
) -> None:
    """From the shown one outward, however long the loop is."""
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        socket.send_text(ask(1, run_up=60, area=(1280, 720), sharp_frames=5))
        answers = until(lambda: parsed(socket.receive()), "checks", 2)
    sharp = [each["offset"] for each in answers if each["kind"] == "sharp"]
    assert sorted(sharp) == [0, 1, 2, 3, 4]


def test_areas_that_no_page_has_are_refused(client: TestClient, cut: str) -> None:
    with client.websocket_connect(f"/api/cuts/{cut}/preview") as socket:
        for area in ((0, 10), (10, 10**6), "wide"):
            socket.send_text(ask(1, area=area))
            assert parsed(socket.receive())["kind"] == "problem"
