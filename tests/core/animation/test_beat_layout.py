"""Cuts laid onto beats, steady and drifting."""

import bisect
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idle_shimmer.core.animation.beat_grid import Beats, cut_frames

RATE = Fraction(25)
STEADY = Beats(100, 0.2)


def test_cuts_lie_on_every_nth_beat_from_the_first() -> None:
    """At 100 BPM and 25 fps a beat comes every 15 frames, the first at frame 5."""
    assert cut_frames(STEADY, RATE, 4, [(10, 500)] * 3) == [65, 125, 185]
    assert cut_frames(STEADY, RATE, 1, [(1, None)] * 3) == [20, 35, 50]


def test_a_short_clip_ends_on_an_earlier_beat_or_where_it_ends() -> None:
    assert cut_frames(STEADY, RATE, 4, [(10, 40), (10, 500)]) == [35, 95]
    assert cut_frames(STEADY, RATE, 4, [(10, 12), (10, 500)]) == [12, 80]


def test_a_clip_with_a_long_window_ends_on_a_later_beat() -> None:
    assert cut_frames(STEADY, RATE, 1, [(30, 500), (1, 500)]) == [35, 50]


heard = st.lists(st.floats(0.3, 0.9), min_size=8, max_size=60)
clips = st.lists(st.tuples(st.integers(1, 40), st.none() | st.integers(40, 300)), max_size=8)


@given(heard, clips, st.integers(1, 6))
def test_every_cut_is_on_a_beat_or_at_the_end_of_its_clip(
    steps: list[float], lengths: list[tuple[int, int | None]], every: int
) -> None:
    times = [sum(steps[: n + 1]) for n in range(len(steps))]
    beats = Beats(60 / (sum(steps) / len(steps)), 0.0, times)
    found = cut_frames(beats, RATE, every, lengths)
    frames = {round(beats.beat_s(n) * RATE) for n in range(-2, len(times) + 900)}
    at = 0
    for frame, (fewest, most) in zip(found, lengths, strict=True):
        length = frame - at
        assert fewest <= length
        assert most is None or length <= most
        assert frame in frames or length in (most, fewest)
        at = frame


@given(heard, st.floats(-5, 40))
def test_the_first_beat_from_a_time_is_found(steps: list[float], time_s: float) -> None:
    times = [sum(steps[: n + 1]) for n in range(len(steps))]
    beats = Beats(100, 0.0, times)
    number = beats.first_from(time_s)
    assert beats.beat_s(number - 1) < time_s <= beats.beat_s(number) + 1e-6
    if times[0] <= time_s <= times[-1]:
        assert number == bisect.bisect_left(times, time_s - 1e-9)


@pytest.mark.parametrize(
    ("beats", "frame", "nearest"),
    [
        (Beats(100, 0.0), 7, 0),
        (Beats(100, 0.0), 8, 15),
        (Beats(100, 0.2), 22, 20),
        (Beats(100, 0.0, (0.1, 0.72, 1.36)), 12, 18),
        (Beats(100, 0.0, (0.1, 0.72, 1.36)), 25, 18),
        # Beyond the last beat that was heard they go on at the steady tempo.
        (Beats(100, 0.0, (0.1, 0.72, 1.36)), 48, 49),
        (Beats(100, 0.0, (1.0,)), 4, 10),
    ],
)
def test_the_nearest_beat_is_that_of_the_grid(beats: Beats, frame: int, nearest: int) -> None:
    assert beats.nearest_frame(frame, RATE) == nearest
    listed = [round(each * RATE) for each in beats.until(frame / 25 + 5)]
    assert min(listed, key=lambda at: abs(at - frame)) == nearest
