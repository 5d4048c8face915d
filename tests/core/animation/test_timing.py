"""Rates, windows, timecode."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idle_shimmer.core.animation.timing import Window, parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("25", Fraction(25)),
        ("30000/1001", Fraction(30000, 1001)),
        ("29.97", Fraction(30000, 1001)),
        ("23.976", Fraction(24000, 1001)),
        ("12.5", Fraction(25, 2)),
    ],
)
def test_rates_are_exact_fractions(text: str, rate: Fraction) -> None:
    assert parse_rate(text) == rate
    assert parse_rate(rate_text(rate)) == rate


@pytest.mark.parametrize("text", ["", "fast", "0", "25/0", "-25", "nan", "2000", "1e3"])
def test_a_rate_that_is_none_is_refused_by_name(text: str) -> None:
    with pytest.raises(InvalidValue, match=r"^rate: "):
        parse_rate(text)


@given(st.integers(1, 200), st.integers(1, 200))
def test_frames_are_sampled_at_their_centres_on_either_side_of_the_cut(
    before: int, after: int
) -> None:
    window = Window(before, after)
    times = [window.u_of_frame(offset) for offset in window.offsets]
    assert times == sorted(times)
    assert times[0] == pytest.approx(-1 + 0.5 / before)
    assert times[-1] == pytest.approx(1 - 0.5 / after)
    assert [t < 0 for t in times] == [True] * before + [False] * after


def test_a_window_side_without_frames_is_refused_by_name() -> None:
    with pytest.raises(InvalidValue, match=r"window\.after"):
        Window(3, 0)
