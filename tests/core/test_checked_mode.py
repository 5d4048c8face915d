"""The checked mode: every access of the vector steps is tested against its array's bounds."""

import os
import subprocess
import sys

# One kernel that reads or writes past the end of an array of 16 numbers.
READ = """
import numpy as np
from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.simd import {step}

@kernel
def use(one, other):
    {use}

use(np.zeros(16, np.float32), np.zeros(64, np.float32))
print("done")
"""


def run(step: str, use: str, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-c", READ.format(step=step, use=use)],
        env={**os.environ, "IDLE_SHIMMER_CHECKED": "1", **environment},
        capture_output=True,
        text=True,
        check=False,
    )
