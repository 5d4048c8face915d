"""Which frames of a file a foreign timeline shows: its numbers may count from a timecode."""

from dataclasses import dataclass, field, replace
from fractions import Fraction

from idle_shimmer.core.animation.timecode import timecode
from idle_shimmer.interchange.timelines import TimelineClip

_HOUR_S = 3600


@dataclass(frozen=True)
class PlacedRange:
    """Frames ``first`` … ``end`` (exclusive) of a clip, and sentences about what had to be changed."""

    first: int
    end: int
    notes: list[str] = field(default_factory=list)


def placed_range(
    name: str, shot: TimelineClip, count: int | None, rate: Fraction, start: int = 0
) -> PlacedRange:
    """Return the frames of a clip with ``count`` frames (None is unlimited) that ``shot`` shows.

    Where the shot counts as its media's timecode does, that is known to begin at ``start``. Where the numbers lie beyond the clip, they are taken to count from the full hour before them, as
    timecode of cameras and programmes often does (common practice). What is still beyond the clip is cut
    off; a shot of which nothing is left is placed from the clip's start, as long as it can be.
    """
    if shot.is_timecode and start and shot.in_frame >= start:
        shot = replace(shot, in_frame=shot.in_frame - start, out_frame=shot.out_frame - start)
    if count is None or shot.out_frame <= count:
        return PlacedRange(shot.in_frame, shot.out_frame)
    first, end, notes = shot.in_frame, shot.out_frame, []
    hour = round(_HOUR_S * rate)
    if first >= hour:
        begun = first // hour * hour
        first, end = first - begun, end - begun
        notes.append(f"{name}: its frames are counted from {timecode(begun, rate)}.")
    if first >= count:
        length = end - first
        first, end = 0, min(length, count)
        notes.append(
            f"{name} ends before {timecode(shot.in_frame, rate)}: it is placed from its first frame."
        )
    if end > count:
        notes.append(f"{name} has {end - count} frames fewer than the timeline shows of it.")
        end = count
    return PlacedRange(first, end, list(dict.fromkeys(notes)))
