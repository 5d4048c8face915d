"""Damaged files of every accepted format: each is taken or refused in words, and nothing else happens."""

import time

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, seed
from hypothesis import settings as how

from idle_shimmer.limits import limits
from idle_shimmer.settings import settings
from tests.api.conftest import BYTES, client
from tests.api.edits.test_resources import messages
from tests.faults.hostile_files import HostileFile, hostile_files, sound_files
from tests.faults.tally import TIMES, Tally

__all__ = ["client"]
FILES = 320
JSON = {"Content-Type": "application/json"}
# A decoder may take as long; here even the slowest is far from it.
LONGEST_S = 30.0


@pytest.fixture(scope="module")
def sound(tmp_path_factory: pytest.TempPathFactory) -> dict[str, bytes]:
    return sound_files(tmp_path_factory.mktemp("sound"))


def test_the_files_that_are_damaged_are_sound(client: TestClient, sound: dict[str, bytes]) -> None:
    for kind, content in sound.items():
        if kind not in ("otio", "edl", "recipe"):
            assert ask(client, HostileFile(kind, f"a.{kind}", content)).status_code == 201, kind
    # A recipe that is as it should be is taken.
    saved = ask(client, HostileFile("recipe", "a.json", sound["recipe"]))
    assert saved.status_code == 201, saved.text
    for name in ("one", "two"):
        client.post(
            "/api/clips", params={"name": f"{name}.mp4"}, content=sound["mp4"], headers=BYTES
        )


def test_damaged_files_of_every_format(client: TestClient, sound: dict[str, bytes]) -> None:
    tally = Tally("hostile files")
    before = set(settings().media.glob("upload-*"))

    @seed(20)
    @how(
        max_examples=FILES * TIMES,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(hostile_files(sound))
    def try_one(file: HostileFile) -> None:
        began = time.monotonic()
        answer = ask(client, file)
        took_s = time.monotonic() - began
        tally.add("tried")
        tally.add(f"tried as {file.kind}")
        assert answer.status_code in (201, 200, 400, 422), (file.name, answer.text)
        if answer.status_code >= 400:
            message = messages(answer)[0][1]
            assert message
            tally.add("refused")
            tally.add("decoder died", "made the decoder stop" in message)
            tally.add("took too long", "took longer than" in message)
        else:
            tally.add("taken")
            look_at(client, answer.json(), tally)
        assert took_s < LONGEST_S
        assert set(settings().media.glob("upload-*")) <= before

    try_one()
    # The server is as it was.
    assert client.get("/api/edits").status_code == 200
    clip = ask(client, HostileFile("mp4", "a.mp4", sound["mp4"])).json()
    assert client.get(f"/api/clips/{clip['id']}/pictures/0.jpg").status_code == 200
    tally.save()


def ask(client: TestClient, file: HostileFile):
    """Import the file the way that its kind is imported."""
    if file.kind == "recipe":
        return client.post("/api/recipes", content=file.content, headers=JSON)
    if file.kind in ("otio", "edl"):
        path, name = "/api/edits/import", f"hostile.{file.kind}"
    else:
        path, name = "/api/clips", file.name
    params = {"name": name}
    if file.kind == "png sequence":
        path, params = "/api/clips/sequence", {"name": "sequence", "rate": "25"}
    return client.post(path, params=params, content=file.content, headers=BYTES)


def look_at(client: TestClient, made: dict, tally: Tally) -> None:
    """What was taken can be looked at, or is refused in words."""
    if "edit" in made:
        return
    if "recipe" in made:
        assert client.get("/api/recipes").status_code == 200
        turned = client.post("/api/adjust", json={"recipe": made["recipe"], "turn": 90})
        assert turned.status_code in (200, 422), turned.text
        assert client.delete(f"/api/recipes/{made['key']}").status_code == 204
        tally.add("looked at and shown")
        return
    assert made["frame_count"] <= limits().max_pictures
    for path in ("pictures/0.jpg", f"pictures/{made['frame_count'] - 1}.jpg", "waveform"):
        answer = client.get(f"/api/clips/{made['id']}/{path}")
        assert answer.status_code in (200, 422), (path, answer.text)
        tally.add("looked at and shown" if answer.status_code == 200 else "looked at and refused")
