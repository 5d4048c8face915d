"""A whole render as a process, beside libavfilter's chain for the same with the same encoder settings."""

import json
import os
import resource
import statistics
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import av

from tests.benchmarks.large_clips import write_large
from tests.conftest import ROOT
from tests.server import COMMAND

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


def timed(command: list[object]) -> float:
    begun = time.perf_counter()
    subprocess.run([str(each) for each in command], check=True, cwd=ROOT, env=os.environ)
    return time.perf_counter() - begun


def test_a_render_of_six_filters(tmp_path: Path, report: Any) -> None:
    for place, name in ((3, "a"), (4, "b")):
        write_large(tmp_path / f"{name}.mp4", place, COUNT, {"preset": "veryfast", "crf": "18"})
    recipe = tmp_path / "r.json"
    recipe.write_text(json.dumps(RECIPE), encoding="utf-8")
    ours: list[object] = [COMMAND, "render", "--recipe", recipe, "--quality", "draft"]
    ours += ["--outgoing", tmp_path / "a.mp4", "--incoming", tmp_path / "b.mp4", "--margin", 0]
    ours += ["--before", SIDE, "--after", SIDE, "--outgoing-out", 50, "--incoming-in", 30]
    ours += ["--out", tmp_path / "ours.mp4"]
    chain = [sys.executable, Path(__file__).with_name("render_chain.py"), tmp_path, 2 * SIDE]
    # One after the other, so that both meet the same machine.
    ratios = [timed(chain) / timed(ours) for _ in range(ROUNDS)]
    with av.open(str(tmp_path / "chain.mp4")) as made:
        assert sum(1 for _ in made.decode(video=0)) == 2 * SIDE
    most_mb = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1e3
    shown = ", ".join(f"{each:.2f}" for each in ratios)
    report(
        "render of six filters at 1920x1080, whole processes",
        f"{statistics.median(ratios):.2f} times as fast as libavfilter's chain (goal 1.5; {shown})",
    )
    report("most memory of one process until then", f"{most_mb:.0f} MB")
