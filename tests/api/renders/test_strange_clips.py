"""Clips of every strange kind on the incoming side of a treated cut, with handles: each frame is the right one."""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient
from numpy.typing import NDArray

from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.accent_files import whole_sound
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import save
from tests.api.renders.test_renders import rendered
from tests.media.read.test_reader import with_matrix, woven
from tests.support.clips import number_in, numbered, write_clip

COUNT, HANDLES, SIDE = 60, 3, 4
# What a blur leaves readable.
SEEN = {"filters": [{"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.002}}]}
TEN_BIT = {"pixels": "yuv420p10le", "options": {"crf": "4"}}
PQ, BT2020, HLG = 16, 9, 18


def _numbers(width: int = 192, height: int = 96) -> list[NDArray[np.uint8]]:
    return [numbered(n, width, height) for n in range(COUNT)]


def _turned(path: Path) -> Path:
    flat = write_clip(path.with_name("flat.mp4"), [np.rot90(each) for each in _numbers()])
    return with_matrix(flat, path, [0, 1 << 16, 0, -1 << 16, 0, 0, 0, 0, 1 << 30])


def _squeezed(path: Path) -> Path:
    pictures = [cv2.resize(each, (144, 96), interpolation=cv2.INTER_AREA) for each in _numbers()]
    return write_clip(path, pictures, marks={"sample_aspect_ratio": Fraction(4, 3)})


def _with_alpha(path: Path) -> Path:
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("qtrle", rate=25)
        stream.width, stream.height, stream.pix_fmt = 192, 96, "argb"
        for number, picture in enumerate(_numbers()):
            opaque = np.dstack([picture, np.full(picture.shape[:2], 255, np.uint8)])
            frame = av.VideoFrame.from_ndarray(opaque, format="rgba").reformat(format="argb")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def _with_surround(path: Path) -> Path:
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 192, 96, "bgr0"
        sound = container.add_stream("pcm_s16le", rate=48_000, layout="5.1")
        for number, picture in enumerate(_numbers()):
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(format="bgr0")
            frame.pts = number
            container.mux(stream.encode(frame))
            tone = (8000 * np.sin(np.arange(1920) * 0.06)).astype(np.int16)
            block = av.AudioFrame.from_ndarray(
                np.repeat(tone, 6)[None, :], format="s16", layout="5.1"
            )
            block.sample_rate, block.pts = 48_000, 1920 * number
            container.mux(sound.encode(block))
        container.mux(stream.encode(None))
        container.mux(sound.encode(None))
    return path


def _written(**how: Any) -> Callable[[Path], Path]:
    size = how.pop("size", (192, 96))
    return lambda path: write_clip(path, _numbers(*size), **how)


LOSSLESS = {"codec": "ffv1", "pixels": "bgr0", "options": {}}
KINDS: dict[str, Callable[[Path], Path]] = {
    "turned.mp4": _turned,
    "interlaced.mp4": _written(options={"crf": "8", "x264-params": "tff=1"}),
    "odd sides.mkv": _written(size=(191, 95), **LOSSLESS),
    "wide pixels.mp4": _squeezed,
    "alpha.mov": _with_alpha,
    "PQ.mp4": _written(marks={"color_trc": PQ, "color_primaries": BT2020}, **TEN_BIT),
    "HLG.mp4": _written(marks={"color_trc": HLG, "color_primaries": BT2020}, **TEN_BIT),
    "BT.2020.mp4": _written(marks={"color_primaries": BT2020}, **TEN_BIT),
    "mono.mp4": _written(tone=True),
    "surround.mkv": _with_surround,
    "negative start.mkv": _written(
        times=[40 * n - 400 for n in range(COUNT)], time_base=Fraction(1, 1000), **LOSSLESS
    ),
    "edit list.mp4": _written(times=[n + 30 for n in range(COUNT)]),
    "variable rate.mkv": _written(
        times=[40 * n + 15 * (n % 2) for n in range(COUNT)], time_base=Fraction(1, 1000), **LOSSLESS
    ),
}
WITH_SOUND = ("mono.mp4", "surround.mkv")


def _uploaded(client: TestClient, file: Path) -> str:
    answer = client.post(
        "/api/clips", params={"name": file.name}, content=file.read_bytes(), headers=BYTES
    )
    assert answer.status_code == 201, answer.text
    return str(answer.json()["id"])


@pytest.mark.parametrize("kind", KINDS)
def test_each_frame_of_a_window_with_handles_is_the_right_one(
    client: TestClient, clip_ids: list[str], kind: str, tmp_path: Path
) -> None:
    strange = _uploaded(client, KINDS[kind](tmp_path / kind))
    body = {"name": kind, "clips": [clip_ids[1], strange], "width": 192, "height": 96, "rate": "25"}
    made = client.post("/api/edits", json=body)
    assert made.status_code == 201, made.text
    edit = made.json()
    path = f"/api/edits/{edit['id']}/placed/{edit['placed'][1]['id']}"
    edit = client.patch(path, json={"in_frame": 10, "out_frame": 50}).json()
    cut = client.get(f"/api/cuts/{edit['cuts'][0]['id']}").json()
    save(client, cut, before=SIDE, after=SIDE, recipe=SEEN)
    asked = {"cut": cut["id"], "what": "window", "format": "ffv1", "handles": HANDLES}
    film = rendered(client, tmp_path, size="full", sound=True, name="{edit}", **asked)
    with VideoReader(film) as reader:
        assert reader.index.count == 2 * (SIDE + HANDLES)
        shown = [number_in(reader.read(n)) for n in range(reader.index.count)]
    out = edit["placed"][0]["out_frame"]
    outgoing = [1000 + n for n in range(out - SIDE - HANDLES, out)]
    assert shown == [*outgoing, *range(10, 10 + SIDE + HANDLES)]
    if kind in WITH_SOUND:
        sound = whole_sound(film)
        middle = len(sound) // 2
        assert np.abs(sound[: middle - 480]).max() < 1e-3
        assert np.abs(sound[middle + 480 : -480]).max() > 0.05


def test_an_interlaced_clip_is_deinterlaced_unless_it_is_switched_off(
    client: TestClient, clip_ids: list[str], tmp_path: Path
) -> None:
    file = write_clip(
        tmp_path / "woven.mp4",
        [woven(n) for n in range(COUNT)],
        options={"crf": "2", "x264-params": "tff=1"},
    )
    body = {"name": "Woven", "clips": [_uploaded(client, file), clip_ids[1]]}
    edit = client.post("/api/edits", json=body).json()
    first = edit["placed"][0]
    assert (first["clip"]["interlaced"], first["deinterlaced"]) == (True, True)
    path = f"/api/edits/{edit['id']}"

    def combs(name: str) -> float:
        asked = {"cut": edit["cuts"][0]["id"], "what": "window", "format": "ffv1", "handles": 0}
        (folder := tmp_path / name).mkdir()
        film = rendered(client, folder, size="full", sound=False, name="{edit}", **asked)
        with VideoReader(film) as reader:
            shown = reader.read(3).astype(int)
        return float(np.abs(shown[1:-1] * 2 - shown[:-2] - shown[2:]).mean())

    whole = combs("whole")
    off = client.patch(f"{path}/placed/{first['id']}", json={"deinterlaced": False}).json()
    assert off["undo_label"] == "Fields together: woven"
    assert off["placed"][0]["deinterlaced"] is False
    assert whole < 0.1 * combs("together")
    client.post(f"{path}/undo")
    assert combs("undone") == whole
