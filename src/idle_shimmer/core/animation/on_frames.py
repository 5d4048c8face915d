"""Peaks, plateaus and keyframes at the centres of frames, so that frames show the stated values."""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from idle_shimmer.core.animation.times import Placing


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
            placing.centre_outside(full_from, is_before=True)
            if is_point
            else placing.nearest_frame(full_from)
        )
    if placing.is_inside(full_to) and not falls_at_once:
        is_point = full_to in (0, full_from)
        last = (
            placing.centre_outside(full_to, is_before=False)
            if is_point
            else placing.nearest_frame(full_to)
        )
    return first, max(first, last)


@dataclass(frozen=True, slots=True)
class Seen:
    """Where the keyframe ``number`` is, in u: on a frame, or (``holds``) keeping its value up to a border."""

    u: float
    number: int
    holds: bool = False

    @property
    def changes(self) -> dict[str, float | str]:
        """The fields of the keyframe that are others there."""
        return {"at": self.u, "easing": "linear"} if self.holds else {"at": self.u}


def keyframes_on_frames(placing: Placing, times: Sequence[float]) -> Iterator[Seen]:
    """Yield where keyframes are whose times, in u, are given in order: at the centres of frames.

    One on the cut covers both frames beside it. Of several at one time between centres, where the value jumps, the first
    is what the frame before it shows, the last what the frame after it shows.
    """
    for at, grouped in itertools.groupby(range(len(times)), key=times.__getitem__):
        numbers = list(grouped)
        is_jump = len(numbers) > 1
        if not placing.is_inside(at) or (is_jump and not placing.is_border(at)):
            yield from (Seen(at, number) for number in numbers)
        elif at != 0 and not is_jump:
            yield Seen(placing.nearest_frame(at), numbers[0])
        else:
            yield Seen(placing.centre_outside(at, is_before=True), numbers[0], holds=True)
            yield from (Seen(at, number, holds=True) for number in numbers if is_jump)
            yield Seen(placing.centre_outside(at, is_before=False), numbers[-1])
