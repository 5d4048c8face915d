"""Runs a compiled kernel over bands of rows, on as many threads as are allowed.

Kernels release the interpreter lock and take ``(…, first_row, end_row)`` as their last arguments.
Our own threads are used instead of the compiler's because several frames may be rendered at once,
and instead of the standard library's executor because submitting a band to it takes 0.1 ms longer:
as long as some filters take for a whole preview picture.
"""

import os
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from queue import SimpleQueue
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.interruption import asked

# Waking a thread takes about as long as a memory-bound kernel takes for this many rows of 640 pixels.
_MIN_ROWS = 64
_REFERENCE_WIDTH = 640
# The numbers of a picture of 1920 by 1080: larger ones are computed in portions where they may be interrupted.
_WHOLE = 1920 * 1080 * 3
# A kernel may take thousands of times longer for a row than another: portions follow what they took.
_PORTION_S = 0.2
_FIRST_SHARE = 16
# More threads could not run at once; a band never waits for another band.
_WORKER_COUNT = len(os.sched_getaffinity(0))


class _Threads:
    count = _WORKER_COUNT


def set_threads(count: int) -> None:
    """Use ``count`` threads (at least 1) for our kernels and for OpenCV."""
    _Threads.count = max(1, count)
    cv2.setNumThreads(_Threads.count)


def threads() -> int:
    """Return how many threads kernels use."""
    return _Threads.count


def min_rows_per_thread(width: int) -> int:
    """Return how many rows of ``width`` pixels justify a thread, for memory-bound kernels."""
    return max(_MIN_ROWS, _MIN_ROWS * _REFERENCE_WIDTH // max(width, 1))


@dataclass(slots=True)
class _Band:
    """Rows for another thread; ``done`` stays locked until the kernel has returned."""

    kernel: Callable[..., None]
    arguments: tuple[Any, ...]
    done: threading.Lock = field(default_factory=threading.Lock)
    error: BaseException | None = None

    def __post_init__(self) -> None:
        self.done.acquire()

    def run(self) -> None:
        try:
            self.kernel(*self.arguments)
        except BaseException as error:  # noqa: BLE001  (raised again in the calling thread)
            self.error = error
        self.done.release()

    def wait(self) -> BaseException | None:
        """Return the error of the kernel, or None, once it has ended."""
        self.done.acquire()
        return self.error


@cache
def _queue() -> "SimpleQueue[_Band]":
    """The queue that the worker threads read; they live as long as the process."""
    queue: SimpleQueue[_Band] = SimpleQueue()

    def work() -> None:
        while True:
            queue.get().run()

    for number in range(_WORKER_COUNT):
        threading.Thread(target=work, name=f"band-{number}", daemon=True).start()
    return queue


def parallel_rows(
    kernel: Callable[..., None], rows: int, *arguments: Any, min_rows: int = _MIN_ROWS
) -> None:
    """Call ``kernel(*arguments, first_row, end_row)`` so that all ``rows`` are covered once.

    No thread is given fewer than ``min_rows`` rows. All bands have ended when this returns or
    raises, because they write into the arguments; with several errors, the first band's is raised.
    A kernel must not call this function: every thread might wait for bands that none is free to run.
    """
    arguments = tuple([_writeable_view(argument) for argument in arguments])
    ask = asked()
    if ask is None:
        _in_bands(kernel, range(rows), arguments, min_rows)
        return
    if max((each.size for each in arguments if isinstance(each, np.ndarray)), default=0) <= _WHOLE:
        ask()
        _in_bands(kernel, range(rows), arguments, min_rows)
        return
    _in_portions(kernel, rows, arguments, ask)


def _in_portions(
    kernel: Callable[..., None], rows: int, arguments: tuple[Any, ...], ask: Callable[[], None]
) -> None:
    """Run a kernel over ``rows`` in portions of about ``_PORTION_S``; ``ask`` is called before each."""
    step, first = max(threads(), rows // _FIRST_SHARE), 0
    while first < rows:
        ask()
        end, began = min(first + step, rows), time.monotonic()
        _in_bands(kernel, range(first, end), arguments, min_rows=1)
        took_s = max(time.monotonic() - began, _PORTION_S / 4)
        step, first = max(threads(), int(step * _PORTION_S / took_s)), end


def _in_bands(
    kernel: Callable[..., None], rows: range, arguments: tuple[Any, ...], min_rows: int
) -> None:
    """Run a kernel over ``rows``, a band for each thread."""
    count = min(threads(), max(1, len(rows) // min_rows))
    if count == 1:
        kernel(*arguments, rows.start, rows.stop)
        return
    limits = [rows.start + len(rows) * i // count for i in range(count + 1)]
    bands = [
        _Band(kernel, (*arguments, *limits[number : number + 2])) for number in range(1, count)
    ]
    for band in bands:
        _queue().put(band)
    try:
        kernel(*arguments, rows.start, limits[1])
    finally:
        errors = [band.wait() for band in bands]
    for error in errors:
        if error is not None:
            raise error


class _ArrayMemory:
    """The memory of an array, described as writeable."""

    def __init__(self, array: NDArray[Any]) -> None:
        self._array = array
        interface = dict(array.__array_interface__)
        self.__array_interface__ = {**interface, "data": (interface["data"][0], False)}


def _writeable_view(argument: Any) -> Any:
    """Read-only arrays would be compiled for separately; kernels write to their outputs alone."""
    if isinstance(argument, np.ndarray) and not argument.flags.writeable:
        return np.asarray(_ArrayMemory(argument))
    return argument
