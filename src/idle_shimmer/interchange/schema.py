"""Names and times that reading and writing of timelines share."""

from fractions import Fraction
from typing import Any

import opentimelineio as otio

# Under which our own facts are kept in a timeline's metadata.
KEY = "idle_shimmer"
DISSOLVE = "SMPTE_Dissolve"


def time_of(frames: float, rate: Fraction) -> Any:
    """Return ``frames`` frames at ``rate`` as an OpenTimelineIO time."""
    return otio.opentime.RationalTime(frames, float(rate))


def range_of(first: int, end: int, rate: Fraction) -> Any:
    """Return frames ``first`` … ``end`` (exclusive) as an OpenTimelineIO range."""
    return otio.opentime.TimeRange(time_of(first, rate), time_of(end - first, rate))
