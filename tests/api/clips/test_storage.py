"""What is held on the disk: clips that nothing uses, what ended processes left, files that are gone."""

import os
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from idle_shimmer.settings import settings
from idle_shimmer.store import sweeping as files
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import renders
from idle_shimmer.store.sweeping import upload_lock
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import messages, save
from tests.support.clips import numbered, write_clip


@pytest.fixture
def lonely(client: TestClient, tmp_path: Path, request: pytest.FixtureRequest) -> dict[str, Any]:
    """A clip that nothing uses yet."""
    number = sum(request.node.name.encode()) % 4096
    path = write_clip(tmp_path / "lonely.mp4", [numbered(number)] * 50)
    answer = client.post(
        "/api/clips", params={"name": path.name}, content=path.read_bytes(), headers=BYTES
    )
    found: dict[str, Any] = answer.json()
    return found


def held(client: TestClient) -> dict[str, Any]:
    found: dict[str, Any] = client.get("/api/storage").json()
    return found


def test_unused_clips_are_deleted_with_their_files(
    client: TestClient, edit: dict, lonely: dict[str, Any]
) -> None:
    before = held(client)
    assert before["unused_clips"] >= 1
    deleted = client.delete("/api/clips/unused").json()
    assert deleted == {"clips": before["unused_clips"], "size_bytes": before["unused_bytes"]}
    after = held(client)
    assert (after["unused_clips"], after["unused_bytes"]) == (0, 0)
    assert after["media_bytes"] == before["media_bytes"] - before["unused_bytes"]
    assert lonely["id"] not in [each["id"] for each in client.get("/api/clips").json()]
    kept = [each["clip"]["id"] for each in client.get(f"/api/edits/{edit['id']}").json()["placed"]]
    assert set(kept) <= {each["id"] for each in client.get("/api/clips").json()}


def test_a_clip_in_use_is_not_deleted(
    client: TestClient, edit: dict, lonely: dict[str, Any]
) -> None:
    """In an edit, also a deleted one; in its history; as a matte of a recipe."""
    path = f"/api/clips/{lonely['id']}"
    grown = client.post(f"/api/edits/{edit['id']}/clips", json={"clip": lonely["id"]}).json()
    refused = client.delete(path)
    assert refused.status_code == 422
    assert "lonely is used in Three: remove it there first" in messages(refused)[0][1]
    placed = grown["placed"][-1]["id"]
    client.delete(f"/api/edits/{edit['id']}/placed/{placed}")
    assert "used by a recipe" in messages(client.delete(path))[0][1]
    client.delete(f"/api/edits/{edit['id']}")
    assert client.delete(path).status_code == 422
    assert client.delete(f"/api/edits/{edit['id']}/permanently").status_code == 204
    assert client.post(f"/api/edits/{edit['id']}/restore").status_code == 404
    matte = {"mix": {"kind": "wipe", "matte": {"image": lonely["id"]}}, "name": "Matte"}
    saved = client.post("/api/recipes", json={"recipe": matte})
    assert saved.status_code == 201, saved.text
    assert client.delete(path).status_code == 422
    client.delete(f"/api/recipes/{saved.json()['id']}")
    assert client.delete(path).status_code == 204
    assert client.delete(path).status_code == 404


def test_only_a_deleted_edit_is_deleted_permanently(client: TestClient, edit: dict) -> None:
    path = f"/api/edits/{edit['id']}"
    assert client.delete(f"{path}/permanently").status_code == 404
    assert client.get(path).status_code == 200


def test_a_clip_whose_file_is_gone_says_so_and_comes_back(
    client: TestClient, edit: dict, files: list[Path]
) -> None:
    clip = edit["placed"][0]["clip"]
    place = next(settings().media.rglob(f"{_sha(files[0])}*"))
    kept = place.read_bytes()
    place.unlink()
    shown = client.get(f"/api/edits/{edit['id']}").json()["placed"][0]["clip"]
    assert (shown["missing"], clip["missing"]) == (True, False)
    answer = client.post(
        "/api/clips", params={"name": "again.mp4"}, content=kept, headers=BYTES
    ).json()
    assert (answer["id"], answer["missing"]) == (clip["id"], False)


def _sha(file: Path) -> str:
    import hashlib

    return hashlib.sha256(file.read_bytes()).hexdigest()


def test_what_ended_processes_left_is_swept_and_nothing_else(
    client: TestClient, edit: dict
) -> None:
    media, rendered = settings().media, settings().renders
    rendered.mkdir(exist_ok=True)
    in_use = {path: path.read_bytes() for path in media.rglob("*") if path.is_file()}
    under_way, abandoned = media / "upload-now", media / "upload-dead"
    for folder in (under_way, abandoned):
        folder.mkdir()
        (folder / "film.mp4").write_bytes(b"half")
    asked = client.post("/api/renders", json={"edit": edit["id"]}).json()["id"]
    first, second = renders.begin(asked), renders.begin(asked)
    assert first is not None
    assert second is not None
    lost = rendered / f".{Path(renders.file_name(first, '.mp4')).stem}.unfinished.mp4"
    current = rendered / f".{Path(renders.file_name(second, '.mp4')).stem}.unfinished.mp4"
    unknown = rendered / "00000000-0000-4000-8000-000000000000-1.mp4"
    stranger, fresh = media / "ab" / "stranger.mp4", media / "ab" / "fresh.mp4"
    stranger.parent.mkdir(exist_ok=True)
    for file in (lost, current, unknown, stranger, fresh):
        file.write_bytes(b"film")
    old = time.time() - 7200
    for file in (unknown, stranger):
        os.utime(file, (old, old))
    with upload_lock(under_way), session_scope() as session:
        assert sweep_count(session) == 4
    assert under_way.is_dir()
    assert not abandoned.exists()
    assert current.is_file()
    assert fresh.is_file()
    assert not any(file.exists() for file in (lost, unknown, stranger))
    # Finished files that no row knows are set aside first: the database may have been restored.
    aside = settings().idle_shimmer_data / "set-aside"
    assert {each.name for each in aside.iterdir()} >= {unknown.name, stranger.name}
    assert all(path.read_bytes() == content for path, content in in_use.items())
    for file in (current, fresh, *aside.iterdir()):
        file.unlink()


def sweep_count(session: Any) -> int:
    return files.sweep(session)


def test_the_list_of_edits_counts_and_pages(client: TestClient, edit: dict) -> None:
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    roll = {"kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": 1.5}}
    save(client, cut, recipe={"filters": [roll]})
    unchecked = next(each for each in client.get("/api/edits").json() if each["id"] == edit["id"])
    assert (unchecked["unchecked_cuts"], unchecked["worst"]) == (2, None)
    client.get(f"/api/edits/{edit['id']}/checks")
    listed = client.get("/api/edits").json()
    found = next(each for each in listed if each["id"] == edit["id"])
    assert (found["clip_count"], found["cut_count"], found["frame_count"]) == (3, 2, 3 * 36)
    assert (found["unresolved_cuts"], found["failed_cuts"], found["worst"]) == (1, 1, "landing")
    assert (found["unchecked_cuts"], found["unreadable_cuts"]) == (0, 0)
    assert [each["in_frame"] for each in found["first"]] == [12] * 3
    pages = [client.get(f"/api/edits?limit=1&offset={n}").json() for n in range(len(listed) + 1)]
    assert [page[0]["id"] for page in pages[:-1]] == [each["id"] for each in listed]
    assert pages[-1] == []
