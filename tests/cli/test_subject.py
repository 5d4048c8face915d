"""A recipe that treats a subject apart, from the command line."""

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from typer.testing import CliRunner

from idle_shimmer.cli import app
from tests.support.clips import numbered, write_clip
from tests.support.composites import composite, drawn

FLIGHT = {
    "format": 2,
    "window": {"before": 4, "after": 4},
    "subject_layer": {"of": "incoming"},
    "filters": [
        {
            "kind": "transform",
            "side": "subject",
            "shift_x": {"kind": "travel", "from": 1.2, "amount": -1.2, "end": 0.0},
        }
    ],
}


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    made = tmp_path_factory.mktemp("subject")
    frames, truth = composite("coffee", "rocket", 5, 0, 0)
    write_clip(made / "one.mp4", [numbered(n) for n in range(20)])
    write_clip(made / "two.mp4", frames[:20])
    (made / "flight.json").write_text(json.dumps(FLIGHT))
    strokes = [json.loads(drawn(truth[8], 8).model_dump_json())]
    (made / "strokes.json").write_text(json.dumps(strokes))
    return made


def run(command: str, folder: Path, *more: object) -> tuple[int, str, str]:
    given = ["--outgoing", folder / "one.mp4", "--outgoing-out", 12, "--size", "192x108"]
    given += ["--incoming", folder / "two.mp4", "--incoming-in", 8]
    given += ["--recipe", folder / "flight.json", *more]
    done = CliRunner().invoke(app, [command, *map(str, given)])
    return done.exit_code, done.stdout, done.stderr


def test_without_strokes_it_says_to_mark_a_subject(folder: Path) -> None:
    code, _, problem = run("render", folder, "--out", folder / "none")
    assert code == 2
    assert "--incoming-strokes" in problem
    assert "none is marked there: mark it with strokes" in problem
    assert not (folder / "none").exists()
    code, listed, _ = run("check", folder, "--json")
    checks = {each["id"]: each["status"] for each in json.loads(listed)["checks"]}
    assert (code, checks["subject"]) == (1, "failed")


def test_with_strokes_the_subject_flies_in(folder: Path) -> None:
    marks = ("--incoming-strokes", folder / "strokes.json")
    code, _, problem = run("render", folder, *marks, "--margin", 0, "--out", folder / "made")
    assert code == 0, problem
    plain = {**FLIGHT, "subject_layer": None, "filters": []}
    (folder / "plain.json").write_text(json.dumps(plain))
    code, _, problem = run(
        "render",
        folder,
        "--recipe",
        folder / "plain.json",
        "--margin",
        0,
        "--out",
        folder / "plain",
    )
    assert code == 0, problem
    changed = [
        float(np.abs(frame(folder / "made", n).astype(int) - frame(folder / "plain", n)).mean())
        for n in range(8)
    ]
    # It comes nearer frame by frame; over its own picture it is left out.
    assert changed[0] < changed[1] < changed[3]
    assert max(changed[4:]) == 0


def frame(folder: Path, number: int) -> np.ndarray:
    return cv2.imread(str(folder / f"frame_{number:04}.png"))
