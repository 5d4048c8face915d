"""Sound in the API: accents alone, sounds as clips, the loop with accents."""

import io
import json
import wave
from pathlib import Path

import av
import numpy as np
import pytest
from fastapi.testclient import TestClient

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND
from idle_shimmer.jobs.tasks import beat_detection
from idle_shimmer.jobs.tasks.beat_detection import detect_beats
from idle_shimmer.media.sound.wave_files import wave_bytes
from tests.api.conftest import BYTES
from tests.api.edits.test_cut_detections import Steady
from tests.api.edits.test_resources import messages


def samples(data: bytes) -> np.ndarray:
    with wave.open(io.BytesIO(data)) as file:
        return np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, 2)


def loudest(sound: np.ndarray) -> int:
    return int(np.abs(sound.astype(int)).max(axis=1).argmax())


def bell(length_s: float = 0.5) -> np.ndarray:
    t = np.arange(round(length_s * SAMPLES_PER_SECOND)) / SAMPLES_PER_SECOND
    wave_form = 0.8 * np.sin(2 * np.pi * 500 * t) * np.exp(-(((t - 0.2) / 0.05) ** 2))
    return np.stack([wave_form] * 2, axis=1).astype(np.float32)


def encoded(folder: Path, ending: str, codec: str) -> bytes:
    path = folder / f"bell.{ending}"
    with av.open(path, "w") as container:
        stream = container.add_stream(codec, rate=SAMPLES_PER_SECOND, layout="stereo")
        frame = av.AudioFrame.from_ndarray(bell().T.copy(), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts = SAMPLES_PER_SECOND, 0
        resampler = av.AudioResampler(
            stream.format, "stereo", SAMPLES_PER_SECOND, stream.frame_size
        )
        for piece in [*resampler.resample(frame), *resampler.resample(None)]:
            container.mux(stream.encode(piece))
        container.mux(stream.encode(None))
    return path.read_bytes()


def test_an_accent_alone_peaks_where_the_header_says(client: TestClient) -> None:
    recipe = {"format": 2, "accent": {"sound": "hit", "gain_db": -6.0}}
    asked = {"recipe": recipe, "before": 10, "after": 10, "rate": "25"}
    answer = client.post("/api/accents", json=asked)
    first = int(answer.headers["Idle-Shimmer-First-Sample"])
    assert abs(first + loudest(samples(answer.content))) <= 1
    none = client.post("/api/accents", json={**asked, "recipe": {"format": 2}})
    assert len(samples(none.content)) == 0
    wrong = {"format": 2, "accent": {"sound": {"clip": "no-such"}}}
    refused = client.post("/api/accents", json={**asked, "recipe": wrong})
    assert refused.status_code == 422
    assert "choose an imported sound" in messages(refused)[0][1]


@pytest.mark.parametrize(
    ("ending", "codec"),
    [
        ("wav", "pcm_s16le"),
        ("mp3", "libmp3lame"),
        ("aac", "aac"),
        ("flac", "flac"),
        ("ogg", "libopus"),
    ],
)
def test_sounds_of_every_format_are_imported_and_used(
    client: TestClient, edit: dict, tmp_path: Path, ending: str, codec: str
) -> None:
    data = encoded(tmp_path, ending, codec)
    clip = client.post(f"/api/clips?name=bell.{ending}", content=data, headers=BYTES).json()
    assert (clip["is_sound"], clip["has_sound"], clip["width"]) == (True, True, 0)
    assert clip["duration_s"] == pytest.approx(0.5, abs=0.06)
    recipe = {"format": 2, "accent": {"sound": {"clip": clip["id"]}, "gain_db": -6.0}}
    asked = {"recipe": recipe, "before": 10, "after": 10, "rate": "25"}
    answer = client.post("/api/accents", json=asked)
    first = int(answer.headers["Idle-Shimmer-First-Sample"])
    assert abs(first + loudest(samples(answer.content))) <= 1
    # A sound has no pictures to be cut.
    placed = client.post(f"/api/edits/{edit['id']}/clips", json={"clip": clip["id"]})
    assert placed.status_code == 422
    assert "is a sound" in messages(placed)[0][1]


def test_a_hostile_sound_is_refused(client: TestClient, tmp_path: Path) -> None:
    whole = wave_bytes(bell())
    generator = np.random.default_rng(4)
    for n in range(12):
        data = bytearray(whole[: 60 + 40 * n])
        for place in generator.integers(4, len(data), 12):
            data[place] = generator.integers(0, 256)
        answer = client.post(f"/api/clips?name=broken-{n}.wav", content=bytes(data), headers=BYTES)
        assert answer.status_code in {201, 422}
    text = client.post("/api/clips?name=text.mp3", content=b"no sound at all" * 40, headers=BYTES)
    assert text.status_code == 422


def test_the_loop_has_the_accent_of_the_saved_recipe(client: TestClient, edit: dict) -> None:
    cut = edit["cuts"][0]["id"]
    now = client.get(f"/api/cuts/{cut}").json()
    for place in edit["placed"]:
        client.patch(f"/api/edits/{edit['id']}/placed/{place['id']}", json={"muted": True})
    now = client.get(f"/api/cuts/{cut}").json()
    body = {"version": now["version"], "before": 5, "after": 5, "label": "Accent"}
    recipe = {"format": 2, "accent": {"sound": "hit", "gain_db": -6.0, "start": 0, "fade_in": 0}}
    assert client.put(f"/api/cuts/{cut}", json={**body, "recipe": recipe}).status_code == 200
    heard = samples(client.get(f"/api/cuts/{cut}/sound?before=8&after=8").content)
    rate = float(edit["rate"])
    assert abs(loudest(heard) - round(8 * SAMPLES_PER_SECOND / rate)) <= 1


def clicks() -> np.ndarray:
    sound = np.zeros((12 * SAMPLES_PER_SECOND, 2), np.float32)
    for n in range(20):
        first = round((0.2 + n * 0.5) * SAMPLES_PER_SECOND)
        sound[first : first + 300] = 0.5
    return sound


def imported(client: TestClient, name: str, sound: np.ndarray) -> dict:
    answer = client.post(f"/api/clips?name={name}", content=wave_bytes(sound), headers=BYTES)
    return answer.json()


def test_music_is_set_heard_in_the_loop_kept_and_undone(client: TestClient, edit: dict) -> None:
    path, clip = f"/api/edits/{edit['id']}", imported(client, "clicks.wav", clicks())
    for place in edit["placed"]:
        client.patch(f"{path}/placed/{place['id']}", json={"muted": True})
    music = {"clip": clip["id"], "offset_s": -0.2, "gain_db": -6.0}
    made = client.put(f"{path}/music", json=music).json()
    assert made["music"]["clip"]["name"] == "clicks"
    assert (made["music"]["offset_s"], made["undo_label"]) == (-0.2, "Music")

    cut, rate = edit["cuts"][0]["id"], float(edit["rate"])
    heard = samples(client.get(f"/api/cuts/{cut}/sound?before=20&after=20").content)
    cut_frame = edit["placed"][0]["edit_frames"]
    begins = np.flatnonzero(np.abs(heard[:, 0].astype(int)) > 3000)
    first_s = (cut_frame - 20) / rate + begins[0] / SAMPLES_PER_SECOND
    # A click every half second from the edit's start on.
    assert abs(first_s - round(first_s * 2) / 2) < 2 / SAMPLES_PER_SECOND
    assert np.abs(heard).max() == pytest.approx(0.5 * 10 ** (-6 / 20) * 32767, rel=0.01)

    kept = client.request("DELETE", f"/api/clips/{clip['id']}")
    assert kept.status_code == 422
    played = client.get(f"/api/clips/{clip['id']}/sound")
    assert (played.headers["content-type"], played.content[:4]) == ("audio/wav", b"RIFF")
    timeline = json.loads(client.get(f"{path}/export/otio").text)
    tracks = timeline["tracks"]["children"]
    assert [each["name"] for each in tracks] == ["V1", "Music"]
    (track,) = tracks[1]["children"]
    assert track["media_references"]["DEFAULT_MEDIA"]["target_url"] == "clicks.wav"
    assert track["source_range"]["start_time"]["value"] == round(0.2 * rate)
    back = client.post(f"{path}/undo").json()
    assert back["music"] is None
    again = client.post(f"{path}/redo").json()
    assert again["music"]["gain_db"] == -6.0
    assert client.delete(f"{path}/music").json()["music"] is None
    silent = samples(client.get(f"/api/cuts/{cut}/sound?before=20&after=20").content)
    assert not silent.any()


def test_beats_are_detected_by_a_job_and_kept(client: TestClient) -> None:
    clip = imported(client, "clicks.wav", clicks())
    path = f"/api/clips/{clip['id']}/beats"
    assert client.get(path).status_code == 404
    assert client.post(path).json()["state"] == "waiting"
    detect_beats(Steady(), beats_of=clip["id"])  # type: ignore[arg-type]
    found = client.get(path).json()
    assert (found["state"], len(found["beats_s"])) == ("done", 20)
    assert found["bpm"] == pytest.approx(120, rel=0.01)
    assert client.post(path).json()["state"] == "done"

    noise = imported(client, "silence.wav", np.zeros_like(clicks()))
    client.post(f"/api/clips/{noise['id']}/beats")
    detect_beats(Steady(), beats_of=noise["id"])  # type: ignore[arg-type]
    failed = client.get(f"/api/clips/{noise['id']}/beats").json()
    assert failed["state"] == "failed"
    assert "Tap the tempo" in failed["message"]


def test_a_detection_of_beats_is_seen_and_cancelled(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    clip = imported(client, "clicks again.wav", clicks() * 0.9)
    path = f"/api/clips/{clip['id']}/beats"

    def at_work() -> list[str]:
        return [each["id"] for each in client.get("/api/activity").json()["beats"]]

    client.post(path)
    assert at_work() == [clip["id"]]
    assert client.post(f"{path}/cancel").json()["state"] == "cancelled"
    detect_beats(Steady(), beats_of=clip["id"])  # type: ignore[arg-type]
    assert client.get(path).json()["state"] == "cancelled"
    assert at_work() == []
    # While it runs: what was asked for meanwhile ends it.
    client.post(path)
    monkeypatch.setattr(
        beat_detection, "find_beats", lambda parts: (list(parts), client.post(f"{path}/cancel"))[0]
    )
    detect_beats(Steady(), beats_of=clip["id"])  # type: ignore[arg-type]
    ended = client.get(path).json()
    assert (ended["state"], ended["done_s"], ended["total_s"]) == ("cancelled", 12, 12)
