"""A long file: how soon it can be worked on, and how soon any frame of it is seen."""

# Fixtures are arguments of the name under which they are imported.
# ruff: noqa: F811

import random
import statistics
import time
from pathlib import Path
from typing import Any

import av
import httpx
import pytest

from idle_shimmer.settings import settings
from tests.api.conftest import BYTES
from tests.benchmarks.large_clips import write_large
from tests.browser.conftest import address, api  # noqa: F401
from tests.support.asking import asking

FRAMES_A_ROUND, ROUNDS = 250, 60
LOOKS = 40
# What had no proxy is asked for one again by then.
ASKED_AGAIN_S = 11


def write_long(path: Path, gop: int) -> None:
    """Ten minutes at 25 frames a second: ten seconds of the harbour, their packets again and again."""
    part = path.with_name("part.mp4")
    options = {"preset": "veryfast", "crf": "21", "g": str(gop)}
    write_large(part, 5, FRAMES_A_ROUND, options)
    with av.open(str(part)) as source, av.open(str(path), "w") as target:
        stream = source.streams.video[0]
        copied = target.add_stream_from_template(stream)
        packets = [packet for packet in source.demux(stream) if packet.size]
        length = round(FRAMES_A_ROUND / 25 / stream.time_base)
        for number in range(ROUNDS):
            for packet in packets:
                again = av.Packet(bytes(packet))
                again.pts = packet.pts + number * length
                again.dts = packet.dts + number * length
                again.duration, again.time_base = packet.duration, packet.time_base
                again.is_keyframe, again.stream = packet.is_keyframe, copied
                target.mux(again)


def seen_ms(api: httpx.Client, clip: dict[str, Any], looks: int) -> list[float]:
    """How long pictures anywhere in the clip took."""
    chosen = random.Random(looks)
    took_ms = []
    for _ in range(looks):
        number = chosen.randrange(clip["frame_count"])
        begun = time.perf_counter()
        answer = api.get(f"/api/clips/{clip['id']}/pictures/{number}.jpg", params={"height": 360})
        took_ms.append((time.perf_counter() - begun) * 1000)
        assert answer.status_code == 200
    return took_ms


@pytest.mark.parametrize("gop", [25, 250])
def test_ten_minutes(gop: int, api: httpx.Client, tmp_path: Path, report: Any) -> None:
    path = tmp_path / f"Ten minutes, {gop}.mp4"
    write_long(path, gop)
    begun = time.perf_counter()
    with path.open("rb") as file:
        clip = api.post(
            "/api/clips", params={"name": path.name}, content=file, headers=BYTES
        ).json()
    took = time.perf_counter() - begun
    assert clip["frame_count"] == FRAMES_A_ROUND * ROUNDS
    megabytes = path.stat().st_size / 1e6
    title = f"ten minutes at 1920x1080, a keyframe every {gop} frames"
    report(f"{title}: ready to work on", f"{took:.1f} s for {megabytes:.0f} MB (goal: seconds)")
    if gop > 100:
        begun = time.perf_counter()
        seen_ms(api, clip, 1)
        next(_ for _ in asking() if list(settings().proxies.glob("[!.]*.mkv")))
        report(
            f"{title}: its proxy made", f"{time.perf_counter() - begun:.0f} s, in the background"
        )
        time.sleep(ASKED_AGAIN_S)
    took_ms = seen_ms(api, clip, LOOKS)
    slowest = sorted(took_ms)[int(0.95 * LOOKS)]
    report(
        f"{title}: any frame seen",
        f"median {statistics.median(took_ms):.0f} ms (goal 150), 95th {slowest:.0f} ms",
    )
