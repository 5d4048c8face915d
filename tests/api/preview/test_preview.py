"""The live preview: order of work, stale work dropped, problems reported."""

import json
from typing import Any

import cv2
import numpy as np
from fastapi.testclient import TestClient

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from tests.conftest import code_psnr
from tests.support.clips import numbered
from tests.support.frames import render_frame

JPEG_DB = 30.0


def parsed(message: dict[str, Any]) -> dict[str, Any]:
    """What an answer holds: the JSON, or the head with the decoded picture."""
    if message.get("text"):
        return json.loads(message["text"])
    data = message["bytes"]
    length = int.from_bytes(data[:4], "big")
    picture = cv2.imdecode(np.frombuffer(data[4 + length :], np.uint8), cv2.IMREAD_COLOR)
    return {**json.loads(data[4 : 4 + length]), "picture": picture[..., ::-1]}


def ask(number: int, **more: object) -> str:
    recipe = {
        "filters": [{"id": "b", "kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.2}}]
    }
    return json.dumps({"id": number, "before": 4, "after": 6, "recipe": recipe, "shown": 2, **more})


def test_the_shown_frame_comes_first_then_the_strip_outward(client: TestClient, edit: dict) -> None:
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1, run_up=2))
        answers: list[dict[str, Any]] = []
        while sum(each["kind"] == "frame" for each in answers) < 14:
            answers.append(parsed(socket.receive()))
    assert (answers[0]["kind"], answers[0]["offset"]) == ("frame", 2)
    thumbs = [each["offset"] for each in answers if each["kind"] == "thumb"]
    assert sorted(thumbs) == list(range(-4, 6))
    assert [abs(k - 2) for k in thumbs] == sorted(abs(k - 2) for k in thumbs)
    kinds = [each["kind"] for each in answers]
    assert kinds.index("changes") < len(kinds) - 1 - kinds[::-1].index("frame")
    assert sorted(each["offset"] for each in answers if each["kind"] == "frame") == list(
        range(-6, 8)
    )
    changes = next(each["changes"] for each in answers if each["kind"] == "changes")
    assert len(changes) == 10
    assert int(np.argmax(changes)) == 4


def test_the_shown_frame_is_what_the_core_renders(client: TestClient, edit: dict) -> None:
    recipe = recipe_from_json(json.loads(ask(1))["recipe"])
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1, shown=0, rest=False))
        shown = parsed(socket.receive())["picture"]
    expected = render_frame(recipe, Window(4, 6), 0, numbered(48), numbered(1012))
    assert code_psnr(shown, expected) > JPEG_DB


def test_only_the_latest_request_is_worked_on(client: TestClient, edit: dict) -> None:
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        for number in range(1, 9):
            socket.send_text(ask(number, run_up=6))
        answers = []
        while not answers or answers[-1]["kind"] != "changes":
            answers.append(parsed(socket.receive()))
    assert answers[-1]["id"] == 8
    assert len([each for each in answers if each["id"] < 8]) < 20


def test_problems_are_told_and_the_connection_stays(client: TestClient, edit: dict) -> None:
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1, recipe={"shutter": -5}))
        answer = parsed(socket.receive())
        assert (answer["kind"], answer["id"], answer["problems"][0]["field"]) == (
            "problem",
            1,
            "recipe.shutter",
        )
        socket.send_text("nonsense")
        assert parsed(socket.receive())["kind"] == "problem"
        socket.send_text(ask(2, rest=False))
        assert parsed(socket.receive())["kind"] == "frame"


def test_the_checks_follow_once_the_strip_is_whole(client: TestClient, edit: dict) -> None:
    """Those on the recipe first; those of rendered frames and of sound last."""
    roll = {"id": "r", "kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": 1.5}}
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1, recipe={"filters": [roll]}))
        answers: list[dict[str, Any]] = []
        while not any(each["kind"] == "checks" and not each["pending"] for each in answers):
            answers.append(parsed(socket.receive()))
    kinds = [each["kind"] for each in answers]
    assert kinds.index("checks") > kinds.index("changes")
    first, last = (each["checks"] for each in answers if each["kind"] == "checks")
    assert "flashes" not in [each["id"] for each in first]
    assert {each["id"] for each in last} >= {"flashes", "loudness"}
    landing = first[0]
    assert (landing["id"], landing["status"], landing["value"]) == ("landing", "failed", 96)


def answers_until(socket: Any, kind: str, **more: object) -> list[dict[str, Any]]:
    """The answers up to the answer of ``kind`` with these members."""
    answers: list[dict[str, Any]] = []
    while True:
        answers.append(parsed(socket.receive()))
        if {"kind": kind, **more}.items() <= answers[-1].items():
            return answers


def test_another_frame_of_the_same_state_is_made_next(client: TestClient, edit: dict) -> None:
    """Looking elsewhere neither begins the strip anew nor waits for its end."""
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1, run_up=2))
        answers = answers_until(socket, "thumb")
        socket.send_text(json.dumps({"id": 1, "shown": -4, "sources": [-4]}))
        answers += answers_until(socket, "frame", offset=-4)
        received = [(each["kind"], each["offset"]) for each in answers if "offset" in each]
        assert ("source", -4) in received
        # At most what was in the making came ahead of it.
        thumbs = [each for each in received if each[0] == "thumb"]
        assert len(thumbs) < 10
        answers += answers_until(socket, "changes")
    thumbs = [each["offset"] for each in answers if each["kind"] == "thumb"]
    assert sorted(thumbs) == list(range(-4, 6))


def test_a_look_at_an_older_state_changes_nothing(client: TestClient, edit: dict) -> None:
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(2, rest=False))
        answers = answers_until(socket, "curves")
        socket.send_text(json.dumps({"id": 1, "shown": 5, "sources": [5]}))
        socket.send_text(ask(3, rest=False, shown=0))
        answers += answers_until(socket, "curves", id=3)
    assert [each["offset"] for each in answers if each["kind"] == "frame"] == [2, 0]
    assert not any(each["kind"] == "source" for each in answers)


def test_slow_checks_of_an_older_state_are_told_no_more(client: TestClient, edit: dict) -> None:
    with client.websocket_connect(f"/api/cuts/{edit['cuts'][0]['id']}/preview") as socket:
        socket.send_text(ask(1))
        answers = answers_until(socket, "checks", id=1, pending=["flashes", "ghosting", "loudness"])
        socket.send_text(ask(2))
        answers += answers_until(socket, "checks", id=2, pending=[])
    whole = [each["id"] for each in answers if each["kind"] == "checks" and not each["pending"]]
    assert whole == [2]
    flashes = next(each for each in answers[-1]["checks"] if each["id"] == "flashes")
    # The bits of the numbered test pictures flash twice in a second.
    assert (flashes["status"], flashes["value"]) == ("ok", 2)
