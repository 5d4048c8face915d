"""The checked mode: every access of a kernel is tested against the bounds of its array.

``./test`` also runs the tests of the kernels in this mode.
"""

import os
import subprocess
import sys

import pytest

# One process for all: each kernel is compiled in it, which takes longest.
SCRIPT = """
import numpy as np
from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.simd import RGB_BLOCK, merge_channels, mix_pixels
from idle_shimmer.core.picture.resampling import add_cubic

ONE = np.float32(1)
WEIGHTS = (ONE, ONE, ONE, ONE)

@kernel
def use_mix_pixels(source, target, at):
    mix_pixels(source, at, ONE, ONE, target, np.int64(0))

@kernel
def use_add_cubic(source, target, at):
    add_cubic(source, at, np.int64(60), (ONE, WEIGHTS), target, np.int64(0))

@kernel
def use_merge_channels(source, target, at):
    merge_channels((source, source, source), (WEIGHTS, WEIGHTS), target, at)

@kernel
def use_plain(source, target, at):
    target[0] = source[at]

for use in (use_mix_pixels, use_add_cubic, use_merge_channels, use_plain):
    for at in (0, -300, 240):
        try:
            use(np.zeros(240, np.float32), np.zeros(240, np.float32), np.int64(at))
            print(use.__name__, at, "done")
        except IndexError:
            print(use.__name__, at, "refused")
"""
STEPS = ("mix_pixels", "add_cubic", "merge_channels", "plain")


@pytest.fixture(scope="module")
def outcomes(tmp_path_factory: pytest.TempPathFactory) -> set[str]:
    folder = tmp_path_factory.mktemp("checked")
    # Kernels are kept by their file.
    script = folder / "steps.py"
    script.write_text(SCRIPT, encoding="utf-8")
    done = subprocess.run(
        [sys.executable, str(script)],
        env={**os.environ, "IDLE_SHIMMER_CHECKED": "1", "NUMBA_CACHE_DIR": str(folder)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-3000:]
    return set(done.stdout.splitlines())


@pytest.mark.parametrize("step", STEPS)
def test_an_access_outside_an_array_raises(outcomes: set[str], step: str) -> None:
    expected = {f"use_{step} 0 done", *(f"use_{step} {at} refused" for at in (-300, 240))}
    assert expected <= outcomes
