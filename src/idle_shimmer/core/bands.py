"""Runs a compiled kernel over bands of rows, on as many threads as are allowed.

Kernels release the interpreter lock and take ``(…, first_row, end_row)`` last. This is used
instead of the compiler's own threads because several frames may be rendered at once, and instead
of the standard library's executor because handing it a band takes 0.1 ms longer: as long as some
filters take for a whole small picture.
"""

import os
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from queue import SimpleQueue
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

# A thread is woken in the time that it takes to do a few dozen rows of a small picture.
_FEWEST_ROWS_A_BAND = 64
_USUAL_WIDTH = 640
# More could not work at once; no thread waits for another inside a band.
_WORKING_THREADS = len(os.sched_getaffinity(0))


class _Threads:
    count = _WORKING_THREADS


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


@dataclass(slots=True)
class _Band:
    """Rows that another thread works on; ``done`` is held until it has."""

    kernel: Callable[..., None]
    arguments: tuple[Any, ...]
    done: threading.Lock = field(default_factory=threading.Lock)
    error: BaseException | None = None

    def __post_init__(self) -> None:
        self.done.acquire()

    def work(self) -> None:
        try:
            self.kernel(*self.arguments)
        except BaseException as error:  # noqa: BLE001  (raised again where it is waited for)
            self.error = error
        self.done.release()

    def wait(self) -> None:
        self.done.acquire()
        if self.error is not None:
            raise self.error


@cache
def _bands_to_do() -> "SimpleQueue[_Band]":
    """The queue that the working threads take their bands from; they live as long as the process."""
    queue: SimpleQueue[_Band] = SimpleQueue()

    def work() -> None:
        while True:
            queue.get().work()

    for number in range(_WORKING_THREADS):
        threading.Thread(target=work, name=f"band-{number}", daemon=True).start()
    return queue


def over_rows(
    kernel: Callable[..., None], rows: int, *arguments: Any, fewest: int = _FEWEST_ROWS_A_BAND
) -> None:
    """Call ``kernel(*arguments, first_row, end_row)`` until all ``rows`` are covered.

    ``fewest`` rows are worth a thread of their own. A kernel must not call this itself: all threads
    might wait for bands that none is left to work on.
    """
    arguments = tuple([_unlocked(each) for each in arguments])
    count = min(threads(), max(1, rows // fewest))
    if count == 1:
        kernel(*arguments, 0, rows)
        return
    limits = [rows * i // count for i in range(count + 1)]
    bands = [
        _Band(kernel, (*arguments, *limits[number : number + 2])) for number in range(1, count)
    ]
    for band in bands:
        _bands_to_do().put(band)
    try:
        kernel(*arguments, 0, limits[1])
    finally:
        # They write into the arguments: whatever happened here, they end first.
        for band in bands:
            band.wait()


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
