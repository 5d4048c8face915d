"""Timecode of SMPTE ST 12-1: hh:mm:ss:ff, with drop-frame counting where the rate has it.

Drop-frame skips the frame numbers 0 and 1 (0 to 3 at 59.94) of each minute, except each tenth
(from memory).
"""

import re
from fractions import Fraction

from idle_shimmer.core.animation.timing import drops_frames


def timecode(frame: int, rate: Fraction) -> str:
    """Return the timecode of ``frame``, counted from 00:00:00:00; drop-frame is written with ``;``."""
    nominal = round(rate)
    separator = ":"
    if drops_frames(rate):
        separator = ";"
        skipped = nominal // 15
        in_minute, in_ten = 60 * nominal - skipped, 600 * nominal - 9 * skipped
        tens, rest = divmod(frame, in_ten)
        minutes = max(0, rest - skipped) // in_minute
        frame += skipped * (9 * tens + minutes)
    seconds, frames = divmod(frame, nominal)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours % 24:02}:{minutes:02}:{seconds:02}{separator}{frames:02}"


_TIMECODE = re.compile(r"(\d{2}):(\d{2}):(\d{2})[:;.](\d{2,3})")


def frame_at(text: str, rate: Fraction) -> int | None:
    """Return the frame that has a timecode, counted from 00:00:00:00; None where it is none at ``rate``.

    It is drop-frame where the last separator is ``;`` and the rate has such a count.
    """
    found = _TIMECODE.fullmatch(text.strip())
    if found is None:
        return None
    hours, minutes, seconds, frames = map(int, found.groups())
    nominal = round(rate)
    if minutes >= 60 or seconds >= 60 or frames >= nominal:
        return None
    minutes += 60 * hours
    frame = (minutes * 60 + seconds) * nominal + frames
    if ";" in text and drops_frames(rate):
        frame -= nominal // 15 * (minutes - minutes // 10)
    return frame
