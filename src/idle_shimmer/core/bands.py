"""Runs a compiled kernel over bands of rows, on as many threads as are allowed.

Kernels release the interpreter lock and take ``(…, first_row, end_row)`` last. This is used
instead of the compiler's own threads because several frames may be rendered at once.
"""

import itertools
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, wait
from functools import lru_cache
from typing import Any

import cv2

_FEWEST_ROWS_A_BAND = 32


class _Threads:
    count = len(os.sched_getaffinity(0))


def set_threads(count: int) -> None:
    """Use ``count`` threads (at least 1) for kernels and for OpenCV alike."""
    _Threads.count = max(1, count)
    cv2.setNumThreads(_Threads.count)


def threads() -> int:
    """How many threads kernels use."""
    return _Threads.count


@lru_cache(maxsize=1)
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=32, thread_name_prefix="band")


def over_rows(kernel: Callable[..., None], rows: int, *arguments: Any) -> None:
    """Call ``kernel(*arguments, first_row, end_row)`` until all ``rows`` are covered."""
    bands = min(threads(), max(1, rows // _FEWEST_ROWS_A_BAND))
    if bands == 1:
        kernel(*arguments, 0, rows)
        return
    limits = [rows * i // bands for i in range(bands + 1)]
    waiting = [
        _pool().submit(kernel, *arguments, first, end)
        for first, end in itertools.pairwise(limits[1:])
    ]
    kernel(*arguments, limits[0], limits[1])
    wait(waiting)
    for done in waiting:
        done.result()
