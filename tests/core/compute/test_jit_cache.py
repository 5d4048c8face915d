"""Kernels on disk are used again, and compiled anew after a change to a helper in another file."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from numba.core.caching import IndexDataCacheFile

from idle_shimmer.core.compute import jit_cache
from tests.conftest import ROOT

# A kernel of one file, made of one of another.
ASK = """
import numpy as np
from idle_shimmer.core.kernels import blend
shares = np.zeros(9, np.float32)
blend._find_shares(np.full(3, 9, np.float32), (np.float32(1), np.float32(0)), shares)
print(shares[0], sum(blend._find_shares.stats.cache_hits.values()))
"""


def asked(folder: Path) -> list[str]:
    environment = {
        **os.environ,
        "PYTHONPATH": str(folder),
        "NUMBA_CACHE_DIR": str(folder / "cache"),
    }
    done = subprocess.run(
        [sys.executable, "-c", ASK], env=environment, capture_output=True, text=True, check=True
    )
    return done.stdout.split()


def test_a_change_to_a_helper_is_not_missed(tmp_path: Path) -> None:
    without = shutil.ignore_patterns("__pycache__")
    shutil.copytree(ROOT / "src" / "idle_shimmer", tmp_path / "idle_shimmer", ignore=without)
    assert asked(tmp_path) == ["1.0", "0"]
    assert asked(tmp_path) == ["1.0", "1"]
    helper = tmp_path / "idle_shimmer" / "core" / "picture" / "transfer.py"
    text = helper.read_text(encoding="utf-8")
    changed = text.replace("return min(np.float32(1), low)", "return min(np.float32(2), low)")
    assert changed != text
    helper.write_text(changed, encoding="utf-8")
    assert asked(tmp_path) == ["2.0", "0"]


def test_the_oldest_folders_of_a_mode_are_deleted_and_no_others(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path))
    other = tmp_path / f"plain-without-vectors-{'a' * 16}"
    other.mkdir()
    os.utime(other, (0, 0))
    for age in range(8):
        folder = tmp_path / f"plain-{age:016x}"
        folder.mkdir()
        os.utime(folder, (1000 - age, 1000 - age))
    made = Path(jit_cache.prepare("plain"))
    left = {each.name for each in tmp_path.iterdir()}
    assert left == {made.name, other.name, *(f"plain-{age:016x}" for age in range(3))}


WRITER = """
import sys
from numba.core.caching import IndexDataCacheFile
from idle_shimmer.core.compute.jit_cache import one_writer_at_a_time
if sys.argv[3] == "locked":
    one_writer_at_a_time()
print("ready", flush=True)
sys.stdin.readline()
for n in range(300):
    cache = IndexDataCacheFile(sys.argv[1], f"kernel-{n}", "stamp")
    cache.save(("signature", sys.argv[2]), f"code of {sys.argv[2]}")
"""


def test_processes_that_compile_at_once_keep_their_code_apart(tmp_path: Path) -> None:
    names = [str(n) for n in range(4)]
    command = [sys.executable, "-c", WRITER, str(tmp_path)]
    pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "text": True}
    writers = [subprocess.Popen([*command, name, "locked"], **pipes) for name in names]
    for each in writers:
        assert each.stdout.readline() == "ready\n"
    for each in writers:
        each.stdin.write("go\n")
        each.stdin.flush()
    assert [each.wait(120) for each in writers] == [0] * len(names)
    for n in range(300):
        cache = IndexDataCacheFile(str(tmp_path), f"kernel-{n}", "stamp")
        assert [cache.load(("signature", name)) for name in names] == [
            f"code of {name}" for name in names
        ]
