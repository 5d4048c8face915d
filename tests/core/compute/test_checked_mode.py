"""The checked mode: every access of a kernel is tested against the bounds of its array.

``./test`` also runs the tests of the kernels in this mode.
"""

import os
import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = """
import numpy as np
from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.simd import RGB_BLOCK, merge_channels, mix_pixels
from idle_shimmer.core.picture.resampling import add_cubic

ONE = np.float32(1)
WEIGHTS = (ONE, ONE, ONE, ONE)

@kernel
def use(source, target):
    {use}

use(np.zeros(240, np.float32), np.zeros(240, np.float32))
print("done")
"""
STEPS = {
    "mix_pixels": "mix_pixels(source, np.int64({at}), ONE, ONE, target, np.int64(0))",
    "add_cubic": (
        "add_cubic(source, np.int64({at}), np.int64(60), (ONE, WEIGHTS), target, np.int64(0))"
    ),
    "merge_channels": (
        "merge_channels((source, source, source), (WEIGHTS, WEIGHTS), target, np.int64({at}))"
    ),
    "plain": "target[0] = source[{at}]",
}


def run(folder: Path, step: str, at: int) -> subprocess.CompletedProcess[str]:
    script = folder / f"{step}{at}.py"
    script.write_text(SCRIPT.format(use=STEPS[step].format(at=at)), encoding="utf-8")
    return subprocess.run(
        [sys.executable, str(script)],
        env={**os.environ, "IDLE_SHIMMER_CHECKED": "1", "NUMBA_CACHE_DIR": str(folder)},
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.mark.parametrize("step", STEPS)
def test_an_access_outside_an_array_raises(tmp_path: Path, step: str) -> None:
    assert run(tmp_path, step, 0).stdout == "done\n"
    for at in (-300, 240):
        outside = run(tmp_path, step, at)
        assert outside.returncode != 0
        assert "IndexError" in outside.stderr
