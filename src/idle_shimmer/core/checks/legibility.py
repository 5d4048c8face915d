"""Legibility: a movement is slow enough that one sees which way it goes."""

from dataclasses import replace
from math import ceil
from typing import Any

from idle_shimmer.core.animation.envelope import Travel
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window, divided
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    apply_fix,
    movers,
    plural,
    set_field,
)
from idle_shimmer.core.filters.base import MovingFilter

# From half a frame a frame on, a picture that repeats seems to stand still or to go backwards: the sampling
# theorem, for frames in time.
_MOST = 0.5
# So much is rounding.
_MARGIN = 1e-6
_MOST_FRAMES = 1 / 3
# How many durations, or numbers of units, are tried from the likely one on.
_TRIED = 4


class Legibility(Check):
    """The picture moves by at most half a frame a frame, in at least two thirds of the window.

    Movements across and down are judged apart, each by its own side of the frame. Random movements are left
    out: they have no direction.
    """

    id = "legibility"
    title = "Legibility"
    order = 105

    def run(self, context: CheckContext) -> Finding:
        """Return in how many frames the direction cannot be seen."""
        speeds = _speeds(context.timeline)
        fast = sum(speed > _MOST + _MARGIN for speed in speeds)
        fastest = max(range(len(speeds)), key=speeds.__getitem__)
        frame = context.timeline.window.offsets[fastest]
        if speeds[fastest] < _MARGIN:
            return self.ok(0, "frames", "Nothing moves across the frame.")
        if fast == 0:
            return self.ok(0, "frames", "The direction of every movement can be seen.", frame)
        many = f"more than half a frame per frame in {fast} of {plural(len(speeds), 'frame')}"
        if fast <= _MOST_FRAMES * len(speeds):
            return self.ok(fast, "frames", f"The picture moves by {many}, no more.", frame)
        fixes = [*_slower(context), *_fewer(context)]
        ways = ", or ".join(each.label for each in fixes)
        advice = f" {ways[0]}{ways[1:].lower()}." if ways else ""
        message = f"The picture moves by {many}, so its direction cannot be seen.{advice}"
        return self.found("warning", fast, "frames", message, frame, fixes)


def is_legible(timeline: Timeline) -> bool:
    """Whether the direction is seen in at least two thirds of the frames."""
    speeds = _speeds(timeline)
    return sum(speed > _MOST + _MARGIN for speed in speeds) <= _MOST_FRAMES * len(speeds)


def _speeds(timeline: Timeline) -> list[float]:
    """Return how far the picture moves in each frame of the window, as a share of the frame's side."""
    moving = [each for each in movers(CheckContext(timeline)) if each.side != "subject"]
    aspect = timeline.size[0] / timeline.size[1]
    found = []
    for k in timeline.window.offsets:
        movements = [timeline.movement(each.id, k + 0.5) for each in moving if k in each.frames]
        right = sum(each.right for each in movements) / aspect
        found.append(max(abs(right), abs(sum(each.down for each in movements))))
    return found


def _excess(timeline: Timeline) -> float:
    """Return how many times too fast the movement is in the third of the frames that may be fastest."""
    speeds = sorted(_speeds(timeline), reverse=True)
    return speeds[int(_MOST_FRAMES * len(speeds))] / _MOST


def _slower(context: CheckContext) -> list[Fix]:
    """Return the shortest longer window in which the direction is seen, its sides as they are to each other."""
    window = context.timeline.window
    now = window.before + window.after
    # The same movement in twice the time is half as fast; where frames lie in it makes a little difference.
    likely = max(now + 1, ceil(now * _excess(context.timeline)))
    for length in range(max(now + 1, likely - 1), likely + _TRIED):
        sides = divided(length, window.before, window.after)
        if max(sides) > MAX_SIDE_FRAMES:
            return []
        longer = Window(*sides)
        if is_legible(replace(context.timeline, window=longer)):
            return [Fix(f"Lengthen the window to {length} frames", window=longer)]
    return []


def _fewer(context: CheckContext) -> list[Fix]:
    """Return the most whole units of the one travel that moves the picture, with which the direction is seen."""
    travels = [
        (place, owner, name, parameter)
        for place, owner in context.enabled()
        for name, parameter in owner.parameters().items()
        if isinstance(owner, MovingFilter) and parameter.period and parameter.unit != "turns"
        if isinstance(getattr(owner, name), Travel)
    ]
    if len(travels) != 1:
        return []
    place, owner, name, parameter = travels[0]
    assert parameter.period is not None
    envelope: Any = getattr(owner, name)
    period, sign = parameter.period(owner), 1 if envelope.amount > 0 else -1
    likely = int(abs(envelope.amount) / period / _excess(context.timeline)) + 1
    for units in range(likely, max(likely - _TRIED, 0), -1):
        amount = sign * units * period
        fix = Fix(
            f"Use {plural(abs(amount), 'roll')}",
            (set_field(f"/filters/{place}/{name}/amount", amount),),
        )
        if is_legible(replace(context.timeline, given=apply_fix(context.timeline.given, fix))):
            return [fix]
    return []
