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
import numpy as np
from numpy.typing import NDArray

# A thread is woken in the time that it takes to do a few dozen rows of a small picture.
_FEWEST_ROWS_A_BAND = 64
_USUAL_WIDTH = 640


class _Threads:
    count = len(os.sched_getaffinity(0))


def set_threads(count: int) -> None:
    """Use ``count`` threads (at least 1) for kernels and for OpenCV alike."""
    _Threads.count = max(1, count)
    cv2.setNumThreads(_Threads.count)


def threads() -> int:
    """How many threads kernels use."""
    return _Threads.count


def worth_a_thread(width: int) -> int:
    """How many rows of a picture of this width it takes, for steps as quick as memory itself."""
    return max(_FEWEST_ROWS_A_BAND, _FEWEST_ROWS_A_BAND * _USUAL_WIDTH // max(width, 1))


@lru_cache(maxsize=1)
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=32, thread_name_prefix="band")


def over_rows(
    kernel: Callable[..., None], rows: int, *arguments: Any, fewest: int = _FEWEST_ROWS_A_BAND
) -> None:
    """Call ``kernel(*arguments, first_row, end_row)`` until all ``rows`` are covered.

    ``fewest`` rows are worth a thread of their own.
    """
    arguments = tuple(_unlocked(each) for each in arguments)
    bands = min(threads(), max(1, rows // fewest))
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


class _Unlocked:
    """The memory of an array, without its protection against writing."""

    def __init__(self, array: NDArray[Any]) -> None:
        self._array = array
        interface = dict(array.__array_interface__)
        self.__array_interface__ = {**interface, "data": (interface["data"][0], False)}


def _unlocked(argument: Any) -> Any:
    """A kernel would be compiled once more for protected arrays; it writes to its outputs alone."""
    if isinstance(argument, np.ndarray) and not argument.flags.writeable:
        return np.asarray(_Unlocked(argument))
    return argument
