"""What commands print where nothing can be written, and what they leave when they are stopped."""

import os
import signal
import subprocess
import time
from pathlib import Path

import numpy as np
import pytest

from idle_shimmer.media.write.writer import frame_of, writing
from tests.support.edits import RATE, SIZE
from tests.support.server import COMMAND


@pytest.mark.skipif(not Path("/dev/full").exists(), reason="there is no device that is always full")
@pytest.mark.parametrize("command", [["recipes"], ["filters"], ["filters", "--json"], ["--help"]])
def test_an_output_that_is_full_is_one_line(command: list[str]) -> None:
    with Path("/dev/full").open("w") as full:
        done = subprocess.run(
            [COMMAND, *command], stdout=full, stderr=subprocess.PIPE, text=True, check=False
        )
    assert done.returncode == 2
    assert done.stderr.splitlines() == [
        "idle-shimmer: the output: the disk is full: free some space, or write to another disk"
    ]


def test_a_closed_pipe_ends_a_command_quietly() -> None:
    read, write = os.pipe()
    os.close(read)
    done = subprocess.run(
        [COMMAND, "filters", "--json"], stdout=write, stderr=subprocess.PIPE, text=True, check=False
    )
    os.close(write)
    assert done.stderr == ""


def test_a_render_that_is_stopped_leaves_no_file(tmp_path: Path) -> None:
    clip, recipe, out = (tmp_path / name for name in ("clip.mkv", "r.json", "out.mkv"))
    with writing(clip, SIZE, RATE) as writer:
        for n in range(400):
            writer.write(frame_of(np.full((SIZE[1], SIZE[0], 3), n % 200, np.uint8)))
    recipe.write_text('{"filters": [{"kind": "gaussian_blur", "radius": 0.05}]}', encoding="utf-8")
    options = ["--outgoing", clip, "--incoming", clip, "--recipe", recipe, "--out", out]
    options += [
        "--before",
        "190",
        "--after",
        "190",
        "--outgoing-out",
        "200",
        "--incoming-in",
        "200",
    ]
    process = subprocess.Popen([COMMAND, "render", *map(str, options)])
    unfinished = tmp_path / ".out.unfinished.mkv"
    while not unfinished.exists() and process.poll() is None:
        time.sleep(0.01)
    process.send_signal(signal.SIGTERM)
    assert process.wait(120) == 128 + signal.SIGTERM
    assert not unfinished.exists()
    assert not out.exists()
