"""Peaks, plateaus and keyframes at the centres of frames, so that frames show the stated values."""

import itertools
from collections.abc import Iterable, Iterator
from typing import Any

from idle_shimmer.core.animation.times import Placing

# A time in u, and the keyframe that is there.
_Timed = tuple[float, Any]


def plateau_on_frames(
    placing: Placing, start: float, full_from: float, full_to: float, end: float
) -> tuple[float, float]:
    """Return where a swell's plateau begins and ends, so that frames show the peak.

    Where it begins or ends in no time, that is a border between frames and stays. At the cut it covers
    the frames on both sides.
    """
    rises_at_once, falls_at_once = start == full_from, full_to == end
    if full_from == full_to != 0 and not (rises_at_once or falls_at_once):
        at = placing.nearest_frame(full_from) if placing.is_inside(full_from) else full_from
        return at, at
    first, last = full_from, full_to
    if placing.is_inside(full_from) and not rises_at_once:
        is_point = full_from in (0, full_to)
        first = (
            placing.frame_beside(full_from, is_before=True)
            if is_point
            else placing.nearest_frame(full_from)
        )
    if placing.is_inside(full_to) and not falls_at_once:
        is_point = full_to in (0, full_from)
        last = (
            placing.frame_beside(full_to, is_before=False)
            if is_point
            else placing.nearest_frame(full_to)
        )
    return first, max(first, last)


def keyframes_on_frames(placing: Placing, keyframes: Iterable[_Timed]) -> Iterator[_Timed]:
    """Yield keyframes, given in order, at the centres of frames.

    One on the cut covers both frames beside it. Of several at one border, where the value jumps, the first
    is what the frame before it shows, the last what the frame after it shows.
    """
    for at, grouped in itertools.groupby(keyframes, key=lambda pair: pair[0]):
        group = [each for _, each in grouped]
        if not placing.is_inside(at) or (len(group) > 1 and not placing.is_border(at)):
            yield from ((at, each) for each in group)
        elif len(group) == 1 and at != 0:
            yield placing.nearest_frame(at), group[0]
        else:
            held = [each.model_copy(update={"easing": "linear"}) for each in group]
            yield placing.frame_beside(at, is_before=True), held[0]
            yield from ((at, each) for each in held if len(held) > 1)
            yield placing.frame_beside(at, is_before=False), group[-1]
