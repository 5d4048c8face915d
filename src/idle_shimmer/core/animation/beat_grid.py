"""The beats of an edit: at a steady tempo, or where they were heard, and cuts laid onto them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction


@dataclass(frozen=True)
class Beats:
    """Beats at ``per_minute``, one of them at ``offset_s`` seconds of the edit.

    ``heard_s`` are the beats one by one, ascending, where the tempo drifts: before the first and after the
    last of them they go on at the steady tempo.
    """

    per_minute: float
    offset_s: float
    heard_s: Sequence[float] = field(default=())

    @property
    def step_s(self) -> float:
        """The seconds of one beat at the steady tempo."""
        return 60 / self.per_minute

    def beat_s(self, number: int) -> float:
        """Return the time of beat ``number`` in seconds of the edit; 0 is the first heard, or that at the offset."""
        heard = self.heard_s
        if not heard:
            return self.offset_s + number * self.step_s
        if number < 0:
            return heard[0] + number * self.step_s
        if number >= len(heard):
            return heard[-1] + (number - len(heard) + 1) * self.step_s
        return heard[number]

    def first_from(self, time_s: float) -> int:
        """Return the number of the first beat at ``time_s`` or after it."""
        heard = self.heard_s
        start = heard[0] if heard else self.offset_s
        number = math.ceil((time_s - start) / self.step_s - 1e-9)
        while self.beat_s(number) < time_s - 1e-9:
            number += 1
        while self.beat_s(number - 1) >= time_s - 1e-9:
            number -= 1
        return number

    def until(self, end_s: float) -> list[float]:
        """Return the times of the beats from 0 to the first at ``end_s`` or after it, and the one before 0."""
        first, last = self.first_from(0) - 1, self.first_from(end_s)
        return [self.beat_s(number) for number in range(first, last + 1)]

    def nearest_frame(self, frame: int, rate: Fraction) -> int:
        """Return the frame at ``rate`` that lies nearest to the beat nearest to ``frame``."""
        number = self.first_from(float(frame / rate))
        before, after = (self.beat_s(each) * rate for each in (number - 1, number))
        return round(before if frame - before <= after - frame else after)


def cut_frames(
    beats: Beats, rate: Fraction, every: int, lengths: Sequence[tuple[int, int | None]]
) -> list[int]:
    """Return the frame of each cut so that cuts lie on every ``every``-th beat, as far as there are frames.

    ``lengths`` are for each clip but the last the fewest frames that it can be shown for, and the most
    (None is unlimited). A clip that is too short for so many beats ends on an earlier one, or where it has
    no more frames; one that must be longer ends on a later one.
    """
    found: list[int] = []
    at, number = 0, beats.first_from(0)
    for fewest, most in lengths:
        end = None if most is None else at + most
        wanted = number + every
        while round(beats.beat_s(wanted) * rate) - at < fewest:
            wanted += 1
        while end is not None and wanted > number + 1 and round(beats.beat_s(wanted) * rate) > end:
            wanted -= 1
        frame = round(beats.beat_s(wanted) * rate)
        if end is not None:
            frame = min(frame, end)
        at = max(frame, at + fewest)
        number = max(wanted, beats.first_from(float(at / rate)))
        found.append(at)
    return found
