"""Renders through the API: what is chosen, remembered, estimated, written and named."""

import io
import json
import uuid
import wave
import zipfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import event

from idle_shimmer.jobs.snapshot_render import render_snapshot
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.sound_parts import read_sound
from idle_shimmer.media.write.output_formats import FORMATS
from idle_shimmer.settings import settings
from idle_shimmer.store.database import engine, session_scope
from idle_shimmer.store.tables import Render
from tests.api.edits.test_resources import BLUR, messages, save
from tests.support.clips import number_in

RAMP = {"outgoing": {"speed": 2.0}}
RIPPLE = {"outgoing": {"speed": 2.0, "in_edit": "ripple"}}


def cut_of(client: TestClient, edit: dict, place: int = 0) -> dict:
    return client.get(f"/api/cuts/{edit['cuts'][place]['id']}").json()


def rendered(client: TestClient, folder: Path, **body: object) -> Path:
    """The file of a render, made in this process."""
    answer = client.post("/api/renders", json=body)
    assert answer.status_code == 201, answer.text
    with session_scope() as session:
        row = session.get(Render, uuid.UUID(answer.json()["id"]))
        assert row is not None
        snapshot, name = row.snapshot, row.settings["file_name"]
    out = folder / name
    render_snapshot(snapshot, out, lambda _: True)
    return out


def numbers_in(path: Path) -> list[int]:
    with VideoReader(path) as reader:
        return [number_in(reader.read(n)) for n in range(reader.index.count)]


def test_what_is_left_out_is_the_last_choice(client: TestClient, edit: dict) -> None:
    cut = edit["cuts"][0]["id"]
    chosen = {"format": "hevc", "quality": "draft", "size": "half", "handles": 5, "sound": False}
    first = client.post("/api/renders", json={"cut": cut, **chosen, "name": "{edit} {cut}"}).json()
    assert (first["title"], first["what"], first["total_frames"]) == (
        "Three 01.mp4",
        "window",
        8 + 8 + 2 * 5,
    )
    assert (first["width"], first["height"]) == (96, 48)
    last = client.get("/api/renders/choices").json()["last"]
    assert {name: last[name] for name in chosen} == chosen
    again = client.post("/api/renders", json={"cut": cut}).json()
    for name in ("title", "format", "quality", "width", "total_frames"):
        assert again[name] == first[name]
    whole = client.post("/api/renders", json={"edit": edit["id"], "format": "ffv1"}).json()
    assert (whole["what"], whole["title"], whole["total_frames"]) == ("edit", "Three.mkv", 108)


def test_every_format_is_offered_with_what_it_has(client: TestClient) -> None:
    offered = client.get("/api/renders/choices").json()["formats"]
    assert [each["id"] for each in offered] == list(FORMATS)
    assert all(each["suffix"] == FORMATS[each["id"]].suffix for each in offered)


@pytest.mark.parametrize("output", FORMATS)
def test_an_estimate_says_what_a_render_would_be(
    client: TestClient, edit: dict, output: str
) -> None:
    body = {"cut": edit["cuts"][0]["id"], "format": output, "size": "full", "handles": 4}
    before = len(client.get("/api/renders").json())
    found = client.post("/api/renders/estimate", json=body).json()
    assert (found["width"], found["height"], found["frames"]) == (192, 96, 8 + 8 + 8)
    assert found["file_name"].endswith(FORMATS[output].suffix)
    assert found["bytes"] > 0
    assert found["seconds"] > 0
    assert len(client.get("/api/renders").json()) == before


@pytest.mark.parametrize(
    ("change", "field", "message"),
    [
        ({"cut": None}, "edit", "choose an edit or a cut"),
        ({"format": "avi"}, "format", "'avi' is not a format: use one of h264"),
        ({"handles": 101}, "handles", "less than or equal to 100"),
        ({"name": "{artist}"}, "name", "{artist} is not part of a name: use {edit}, {cut}"),
        ({"name": "{"}, "name", "has a lone brace"),
        ({"what": "film"}, "what", "'window', 'windows', 'edit' or 'round_trip'"),
        ({"what": "round_trip", "format": "png8"}, "format", "needs a video format"),
        ({"margin": 3}, "margin", "unknown field"),
    ],
)
def test_a_wrong_choice_is_refused_and_not_remembered(
    client: TestClient, edit: dict, change: dict, field: str, message: str
) -> None:
    last = client.get("/api/renders/choices").json()["last"]
    body = {"cut": edit["cuts"][0]["id"], **change}
    answer = client.post("/api/renders", json={k: v for k, v in body.items() if v is not None})
    assert answer.status_code == 422
    assert any(field in str(name) and message in text for name, text in messages(answer)), (
        answer.text
    )
    assert client.get("/api/renders/choices").json()["last"] == last


def test_an_edit_without_transitions_has_no_windows(client: TestClient, edit: dict) -> None:
    answer = client.post("/api/renders", json={"edit": edit["id"], "what": "windows"})
    assert messages(answer)[0] == (
        "what",
        "no cut of this edit has a filter or a mix: give one a recipe first",
    )


def test_each_treated_window_is_a_file_of_its_own(
    client: TestClient, edit: dict, tmp_path: Path
) -> None:
    for place in (0, 1):
        save(client, cut_of(client, edit, place), recipe={"name": "Blur/out", "filters": [BLUR]})
    path = rendered(
        client,
        tmp_path,
        edit=edit["id"],
        what="windows",
        format="ffv1",
        size="full",
        handles=2,
        name="{edit} cut {cut} {recipe}",
    )
    assert path.name == "Three windows.zip"
    with zipfile.ZipFile(path) as archive:
        names = archive.namelist()
        archive.extractall(tmp_path)
    assert names == ["Three cut 01 Blur_out.mkv", "Three cut 02 Blur_out.mkv"]
    for name in names:
        with VideoReader(tmp_path / name) as reader:
            assert reader.index.count == 8 + 8 + 4


@pytest.mark.parametrize(("output", "bits"), [("png8", np.uint8), ("png16", np.uint16)])
def test_pictures_come_with_their_index_and_sound(
    client: TestClient, edit: dict, tmp_path: Path, output: str, bits: type
) -> None:
    path = rendered(
        client,
        tmp_path,
        cut=edit["cuts"][0]["id"],
        format=output,
        size="full",
        handles=1,
        sound=True,
    )
    with zipfile.ZipFile(path) as archive:
        index = json.loads(archive.read("index.json"))
        archive.extractall(tmp_path)
    assert [each["offset"] for each in index["frames"]] == list(range(-9, 9))
    assert (index["rate"], index["size"], index["timecode"]) == ("25", [192, 96], "00:00:01:02")
    with VideoReader(tmp_path / "frame_0000.png", deep=True) as reader:
        assert reader.read(0).dtype == bits
        assert number_in((reader.read(0) / (257 if bits is np.uint16 else 1)).astype(np.uint8))
    assert (tmp_path / "sound.wav").stat().st_size == 44 + 18 * 1920 * 4


def test_a_round_trip_comes_back_as_an_edit(client: TestClient, edit: dict, tmp_path: Path) -> None:
    save(client, cut_of(client, edit), recipe={"name": "Soft", "filters": [BLUR]})
    path = rendered(
        client, tmp_path, edit=edit["id"], what="round_trip", format="ffv1", handles=3, size="full"
    )
    with zipfile.ZipFile(path) as archive:
        timeline = otio.adapters.read_from_string(archive.read("Three.otio").decode(), "otio_json")
        clip = io.BytesIO(
            archive.read(next(name for name in archive.namelist() if name.startswith("media/")))
        )
    (tmp_path / "window.mkv").write_bytes(clip.getvalue())
    shown = timeline.tracks[0][1].trimmed_range()
    available = timeline.tracks[0][1].media_reference.available_range
    assert (round(shown.duration.value), round(available.duration.value)) == (16, 22)
    with VideoReader(tmp_path / "window.mkv") as reader:
        assert reader.index.count == 22
    assert round(timeline.duration().value) == 108


def test_a_ramp_that_ripples_changes_the_length_everywhere(
    client: TestClient, edit: dict, tmp_path: Path
) -> None:
    """Eight frames at twice the speed: what the page, the list and the file say."""
    save(client, cut_of(client, edit), recipe={"retime": RIPPLE})
    now = client.get(f"/api/edits/{edit['id']}").json()
    assert now["frame_count"] == 108 - 8
    assert now["placed"][0]["edit_frames"] == edit["placed"][0]["edit_frames"] - 8
    assert cut_of(client, edit, 1)["edit_frame"] == 72 - 8
    listed = client.get("/api/edits").json()
    assert next(each for each in listed if each["id"] == edit["id"])["frame_count"] == 100
    path = rendered(client, tmp_path, edit=edit["id"], what="edit", format="ffv1", size="full")
    numbers = numbers_in(path)
    assert len(numbers) == 100
    # Every frame up to the window, then every other frame.
    assert numbers[:29] == [*range(12, 32), 33, 35, 37, 39, 41, 43, 45, 47, 1012]


def test_a_ramp_that_slips_shows_earlier_frames_at_the_far_end(
    client: TestClient, edit: dict, tmp_path: Path
) -> None:
    """In the second clip, whose other end is a cut: the page, that cut's bench and the file agree."""
    save(client, cut_of(client, edit, 1), recipe={"retime": RAMP})
    now = client.get(f"/api/edits/{edit['id']}").json()
    second = now["placed"][1]
    assert now["frame_count"] == 108
    assert (second["in_frame"], second["first_shown"], second["end_shown"]) == (12, 4, 48)
    assert cut_of(client, edit)["incoming"]["first_shown"] == 4
    path = rendered(client, tmp_path, edit=edit["id"], what="edit", format="ffv1", size="full")
    numbers = numbers_in(path)
    assert len(numbers) == 108
    assert numbers[36:64] == [1000 + n for n in range(4, 32)]
    window = rendered(
        client, tmp_path, cut=edit["cuts"][0]["id"], format="ffv1", handles=2, size="full"
    )
    assert numbers_in(window) == numbers[36 - 10 : 36 + 10]


def test_the_loop_and_the_render_sound_the_same(
    client: TestClient, edit: dict, tmp_path: Path
) -> None:
    """Sample for sample, under a ramp."""
    save(client, cut_of(client, edit), recipe={"retime": RAMP, "filters": [BLUR]})
    path = rendered(
        client,
        tmp_path,
        cut=edit["cuts"][0]["id"],
        format="ffv1",
        handles=4,
        size="full",
        sound=True,
    )
    loop = client.get(
        f"/api/cuts/{edit['cuts'][0]['id']}/sound", params={"before": 12, "after": 12}
    )
    with wave.open(io.BytesIO(loop.content)) as file:
        heard = np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, 2)
    written = np.rint(read_sound(path, Fraction(0), Fraction(24, 25)) * 32768)
    assert np.abs(heard).max() > 1000
    # The loop is written at 32767 for 1, the file at 32768: one step apart at most.
    assert np.abs(written - heard).max() <= 1


def test_a_slip_that_lacks_frames_is_refused_with_the_remedy(
    client: TestClient, edit: dict
) -> None:
    fast = {"outgoing": {"speed": 4.0}}
    save(client, cut_of(client, edit), recipe={"retime": fast})
    answer = client.post("/api/renders", json={"cut": edit["cuts"][0]["id"]})
    assert messages(answer)[0] == (
        "retime",
        (
            "cut 1: The speed ramp uses 24 spare frames before the in point of one; it has 12. Lower"
            " the speed, or let the ramp change the edit's length."
        ),
    )


def test_the_file_is_named_and_typed(client: TestClient, edit: dict) -> None:
    render = client.post(
        "/api/renders", json={"cut": edit["cuts"][0]["id"], "format": "prores", "name": "A: {cut}"}
    ).json()
    settings().renders.mkdir(exist_ok=True)
    file = settings().renders / f"{render['id']}-1.mov"
    file.write_bytes(b"film")
    with session_scope() as session:
        row = session.get(Render, uuid.UUID(render["id"]))
        assert row is not None
        row.state, row.file = "done", file.name
    answer = client.get(f"/api/renders/{render['id']}/file")
    file.unlink()
    assert answer.headers["content-type"] == "video/quicktime"
    assert "A_%2001.mov" in answer.headers["content-disposition"] or (
        'filename="A_ 01.mov"' in answer.headers["content-disposition"]
    )


def test_an_estimate_asks_the_database_as_often_however_long_the_edit_is(
    client: TestClient, clip_ids: list[str]
) -> None:
    def queries_for(clips: int) -> int:
        body = {"name": "Long", "clips": [clip_ids[n % 3] for n in range(clips)]}
        made = client.post("/api/edits", json=body).json()
        asked: list[str] = []

        def count(*arguments: Any) -> None:
            asked.append(arguments[2])

        event.listen(engine(), "before_cursor_execute", count)
        try:
            assert (
                client.post("/api/renders/estimate", json={"edit": made["id"]}).status_code == 200
            )
        finally:
            event.remove(engine(), "before_cursor_execute", count)
        return len(asked)

    assert queries_for(24) == queries_for(3)
