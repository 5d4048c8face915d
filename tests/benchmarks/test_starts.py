"""How soon the command line answers, beside the time that its libraries take to be imported."""

import json
import statistics
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from tests.support.clips import numbered, write_clip
from tests.support.server import COMMAND

ROUNDS = 7
IMPORTS = [sys.executable, "-c", "import numpy, numba, cv2, av"]
SIZE, SIDE = "640x360", 10


def seconds(command: list[Any]) -> float:
    begun = time.perf_counter()
    subprocess.run([str(each) for each in command], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


@pytest.mark.parametrize(
    ("arguments", "goal"), [(["--help"], 0.35), (["recipes"], 0.7)], ids=["help", "recipes"]
)
def test_an_answer(arguments: list[str], goal: float, report: Any) -> None:
    ours = [COMMAND, *arguments]
    for each in (IMPORTS, ours):
        seconds(each)
    # One after the other, so that both meet the same machine.
    ratios = [seconds(ours) / seconds(IMPORTS) for _ in range(ROUNDS)]
    report(
        f"{arguments[-1]}, whole process",
        f"{statistics.median(ratios):.2f} times the imports (goal {goal:g})",
    )


def test_a_short_render(tmp_path: Path, report: Any) -> None:
    for name in ("a", "b"):
        write_clip(tmp_path / f"{name}.mp4", [numbered(n) for n in range(40)])
    recipe = {"filters": [{"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.05}}]}
    (tmp_path / "r.json").write_text(json.dumps(recipe), encoding="utf-8")

    def render(number: int) -> float:
        given: list[Any] = ["--outgoing", tmp_path / "a.mp4", "--incoming", tmp_path / "b.mp4"]
        given += ["--recipe", tmp_path / "r.json", "--before", SIDE, "--after", SIDE]
        given += ["--size", SIZE, "--out", tmp_path / f"out-{number}"]
        return seconds([COMMAND, "render", *given])

    render(0)
    took = [render(n) for n in range(1, ROUNDS)]
    report("a render of 22 frames at 640x360", f"{statistics.median(took):.2f} s (goal 2.5)")
