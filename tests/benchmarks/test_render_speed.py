"""A whole render as a process, beside libavfilter's chain for the same with the same encoder settings."""

import json
import os
import statistics
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import av
import pytest

from tests.benchmarks.large_clips import SIZE, write_large
from tests.conftest import ROOT
from tests.support.server import COMMAND

COUNT, SIDE = 80, 25
ROUNDS = 3
# Decode, dissolve and six filters.
RECIPE: dict[str, Any] = {
    "mix": {"kind": "dissolve"},
    "filters": [
        {"kind": "roll", "y": {"kind": "travel", "amount": -2}},
        {"kind": "transform", "turns": {"kind": "travel", "amount": 1}},
        {"kind": "directional_blur", "angle": 90, "length": {"kind": "swell", "peak": 0.1}},
        {"kind": "bloom", "gain": {"kind": "swell", "peak": 1.0}, "radius": 0.02},
        {"kind": "channel_split", "distance": {"kind": "swell", "peak": 0.01}},
        {"kind": "vignette", "stops": {"kind": "swell", "peak": 1.0}},
    ],
}


LARGE = (3840, 2160)


def run(command: list[object]) -> tuple[float, float]:
    """The seconds and the most memory in MB that a process takes."""
    begun = time.perf_counter()
    process = subprocess.Popen([str(each) for each in command], cwd=ROOT, env=os.environ)
    _, status, used = os.wait4(process.pid, 0)
    assert status == 0
    return time.perf_counter() - begun, used.ru_maxrss / 1e3


def write_pair(folder: Path, size: tuple[int, int] = SIZE, pixels: str = "yuv420p") -> Path:
    """A folder with two clips and the recipe."""
    folder.mkdir()
    for place, name in ((3, "a"), (4, "b")):
        write_large(
            folder / f"{name}.mp4",
            place,
            COUNT,
            {"preset": "veryfast", "crf": "18"},
            size=size,
            pixels=pixels,
        )
    (folder / "r.json").write_text(json.dumps(RECIPE), encoding="utf-8")
    return folder


def render(folder: Path, side: int = SIDE) -> list[object]:
    """The command that renders ``side`` frames on both sides of the cut."""
    command: list[object] = [COMMAND, "render", "--recipe", folder / "r.json", "--margin", 0]
    command += [
        "--quality",
        "draft",
        "--outgoing",
        folder / "a.mp4",
        "--incoming",
        folder / "b.mp4",
    ]
    command += ["--before", side, "--after", side, "--outgoing-out", 50, "--incoming-in", 30]
    return [*command, "--out", folder / "ours.mp4"]


def test_a_render_of_six_filters(tmp_path: Path, report: Any) -> None:
    folder = write_pair(tmp_path / "clips")
    chain = [sys.executable, Path(__file__).with_name("render_chain.py"), folder, 2 * SIDE]
    # One after the other, so that both meet the same machine.
    ratios = [run(chain)[0] / run(render(folder))[0] for _ in range(ROUNDS)]
    with av.open(str(folder / "chain.mp4")) as made:
        assert sum(1 for _ in made.decode(video=0)) == 2 * SIDE
    shown = ", ".join(f"{each:.2f}" for each in ratios)
    report(
        "render of six filters at 1920x1080, whole processes",
        f"{statistics.median(ratios):.2f} times as fast as libavfilter's chain (goal 1.5; {shown})",
    )


@pytest.mark.parametrize(("size", "side", "goal"), [(SIZE, SIDE, 500), (LARGE, 6, 1600)])
def test_memory(tmp_path: Path, size: tuple[int, int], side: int, goal: int, report: Any) -> None:
    folder = write_pair(tmp_path / "clips", size)
    most_mb = max(run(render(folder, side))[1] for _ in range(2))
    what = f"most memory of a render of six filters at {size[0]}x{size[1]}"
    report(what, f"{most_mb:.0f} MB (goal {goal})")


def test_ten_bits(tmp_path: Path, report: Any) -> None:
    """What a frame takes: the time of a long window less that of a short one."""
    pixels = ("yuv420p", "yuv420p10le")
    folders = [write_pair(tmp_path / each, pixels=each) for each in pixels]
    ratios = []
    for _ in range(ROUNDS):
        eight, ten = (run(render(each))[0] - run(render(each, 2))[0] for each in folders)
        ratios.append(ten / eight)
    shown = ", ".join(f"{each:.2f}" for each in ratios)
    report(
        "a frame of sources of 10 bits at 1920x1080",
        f"{statistics.median(ratios):.2f} times that of 8 bits (goal 1.3; {shown})",
    )
