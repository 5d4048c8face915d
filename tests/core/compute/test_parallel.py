"""Kernels over bands of rows: every row once, errors reported, several callers at once."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.compute import parallel
from idle_shimmer.core.compute.interruption import interruptible
from idle_shimmer.core.compute.parallel import parallel_rows, set_threads, threads


@pytest.fixture
def four_threads() -> Iterator[None]:
    before = threads()
    set_threads(4)
    yield
    set_threads(before)


def count_up(rows: NDArray[np.int64], first: int, end: int) -> None:
    rows[first:end] += 1


@pytest.mark.parametrize("rows", [0, 1, 3, 4, 999])
def test_every_row_is_worked_on_once(four_threads: None, rows: int) -> None:
    seen = np.zeros(rows, np.int64)
    parallel_rows(count_up, rows, seen, min_rows=1)
    assert (seen == 1).all()


@pytest.mark.parametrize("faulty", [0, 60, 99])
def test_an_error_in_a_band_is_told_once_all_bands_have_ended(
    four_threads: None, faulty: int
) -> None:
    def fails(rows: NDArray[np.int64], first: int, end: int) -> None:
        if first <= faulty < end:
            raise ValueError(f"row {faulty}")
        count_up(rows, first, end)

    seen = np.zeros(100, np.int64)
    with pytest.raises(ValueError, match=f"row {faulty}"):
        parallel_rows(fails, 100, seen, min_rows=1)
    assert seen.sum() == 75


def test_many_frames_may_be_rendered_at_once(four_threads: None) -> None:
    pictures = [np.zeros(400, np.int64) for _ in range(64)]
    with ThreadPoolExecutor(16) as callers:
        list(callers.map(lambda rows: parallel_rows(count_up, 400, rows, min_rows=1), pictures))
    assert all((rows == 1).all() for rows in pictures)


def test_protected_arrays_are_taken_as_they_are(four_threads: None) -> None:
    source, out = np.arange(100.0), np.empty(100)
    source.flags.writeable = False

    def double(values: NDArray, doubled: NDArray, first: int, end: int) -> None:
        doubled[first:end] = 2 * values[first:end]

    parallel_rows(double, 100, source, out, min_rows=1)
    np.testing.assert_array_equal(out, 2 * source)
    assert not source.flags.writeable


def test_all_bands_end_and_the_first_error_is_raised_where_several_fail(four_threads: None) -> None:
    """A band that fails leaves no other unwaited: none still writes when the call has ended."""
    ended: list[int] = []

    def fails(_rows: NDArray[np.int64], first: int, end: int) -> None:
        ended.append(first)
        if first in (25, 75):
            raise ValueError(f"band {first}")

    for _ in range(50):
        ended.clear()
        with pytest.raises(ValueError, match="band 25"):
            parallel_rows(fails, 100, np.zeros(100, np.int64), min_rows=1)
        assert sorted(ended) == [0, 25, 50, 75]


def test_a_large_picture_is_computed_in_portions_and_can_be_stopped_between_them(
    four_threads: None,
) -> None:
    seen = np.zeros((2160, 3840 * 3), np.int8)
    asked: list[int] = []

    def ask() -> None:
        asked.append(int((seen[:, 0] == 1).sum()))

    with interruptible(ask):
        parallel_rows(count_up, len(seen), seen)
    assert (seen == 1).all()
    # How many there are follows from what they take; the first is a sixteenth.
    assert asked[:2] == [0, 135]
    often = len(asked)

    def stop() -> None:
        if (seen[:, 0] == 2).any():
            raise InterruptedError

    with interruptible(stop), pytest.raises(InterruptedError):
        parallel_rows(count_up, len(seen), seen)
    assert (seen[:135] == 2).all()
    assert (seen[135:] == 1).all()
    parallel_rows(count_up, len(seen), seen)
    assert len(asked) == often


def test_rows_that_take_long_are_computed_few_at_a_time(four_threads: None) -> None:
    """However dear a row is, whoever waits is asked again after about as long."""
    seen = np.zeros((2160, 3840 * 3), np.int8)
    rows: list[int] = []

    def slow(seen: Any, first: int, end: int) -> None:
        rows.append(end - first)
        clock.now += (end - first) * 1.0

    clock = SimpleNamespace(now=0.0, monotonic=lambda: clock.now)
    with pytest.MonkeyPatch.context() as patch, interruptible(lambda: None):
        patch.setattr(parallel, "time", clock)
        parallel_rows(slow, len(seen), seen)
    assert sum(rows) == len(seen)
    assert set(rows[4:]) == {1}
