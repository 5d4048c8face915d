"""Timecode, against OpenTimelineIO."""

from fractions import Fraction

import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from idle_shimmer.core.animation.timecode import frame_at, timecode
from idle_shimmer.core.animation.timing import drops_frames

RATES = ["24", "25", "30", "50", "60", "24000/1001", "30000/1001", "60000/1001"]


@given(st.integers(0, 3_000_000), st.sampled_from(RATES))
def test_every_frame_has_the_timecode_of_opentimelineio(frame: int, text: str) -> None:
    rate = Fraction(text)
    drops = drops_frames(rate)
    # Non-drop timecode counts at the next whole rate.
    counted = float(rate) if drops else float(round(rate))
    time = otio.opentime.RationalTime(frame % round(counted * 86_000), counted)
    code = timecode(int(time.value), rate)
    assert code == otio.opentime.to_timecode(time, counted, drops)
    assert frame_at(code, rate) == int(time.value)


@pytest.mark.parametrize(("frame", "code"), [(17_982, "00:10:00;00"), (107_892, "01:00:00;00")])
def test_drop_frame_keeps_up_with_the_clock(frame: int, code: str) -> None:
    """SMPTE ST 12-1 (from memory)."""
    assert timecode(frame, Fraction(30_000, 1001)) == code


@pytest.mark.parametrize(
    "text", ["", "1:2:3:4", "01:60:00:00", "00:00:00:25", "now", "00:00:61:00"]
)
def test_what_is_no_timecode_has_no_frame(text: str) -> None:
    assert frame_at(text, Fraction(25)) is None
