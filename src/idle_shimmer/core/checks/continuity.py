"""Continuity: what zooms, turns or shifts goes on across the cut at the speed it has there."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from idle_shimmer.core.animation.easing import is_stepped
from idle_shimmer.core.animation.envelope import Keyframes, Swell, Travel
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    Operation,
    set_field,
)
from idle_shimmer.core.filters.base import Filter, MovingFilter
from idle_shimmer.core.parameters import Parameter

_MOST = 1.5
# How far from the cut the speed of each side is measured, in envelope time.
_BESIDE = 1e-4
# The handle of an easing that reaches a speed, in its own time.
_HANDLE, _RESTING_HANDLE = 0.4, 0.42
# Speeds for the whole of a half of the window that are too slow to be seen to change: a ratio of scales
# as its logarithm, turns, and frame widths or heights.
_NOTICEABLE = {"ratio": 0.05, "turns": 0.01, "width": 0.02, "height": 0.02}
# The parameters that are compared, with their units.
_COMPARED = (("scale", "ratio"), ("turns", "turns"), ("shift_x", "width"), ("shift_y", "height"))
_NOUNS = {"ratio": "zoom", "turns": "turn", "width": "shift", "height": "shift"}


@dataclass(frozen=True)
class _Half:
    """The curve of a parameter on one side of the cut, where it touches it."""

    place: int
    owner: Filter
    name: str
    parameter: Parameter
    is_before: bool

    @property
    def speed(self) -> float:
        """Its speed beside the cut, for the whole half of the window; of a scale, of its logarithm."""
        u = -_BESIDE if self.is_before else _BESIDE
        envelope, rest = getattr(self.owner, self.name), self.owner.rest_of(self.name)
        if not isinstance(envelope, Swell | Travel | Keyframes):
            return 0.0
        usual = self.parameter.interpolation
        speed: float = envelope.speed_at(u, rest, usual)
        if self.parameter.unit != "ratio":
            return speed
        return speed / max(envelope.value_at(u, rest, usual), 1e-6)


class Continuity(Check):
    """Zoom, turn and shift are as fast just after the cut as just before it, within a factor of 1.5.

    Where the movement turns round at the cut, a rebound, the message says so. Speeds are compared for a whole half of the window: where its halves differ, every curve changes its
    speed at the cut, as the editor chose. Only what moves on both sides is compared.
    """

    id = "continuity"
    title = "Continuity"
    order = 65

    def run(self, context: CheckContext) -> Finding:
        """Return the largest ratio of the two speeds."""
        found = [
            (_factor(before, after, unit), unit, before, after)
            for unit, before, after in _movements(context)
        ]
        if not found:
            return self.ok(1, "times", "Nothing moves on across the cut.")
        factor, unit, before, after = max(found, key=lambda each: each[0])
        if factor <= _MOST:
            turning = [
                _NOUNS[unit] for _, unit, one, other in found if _turns_round(one, other, unit)
            ]
            if not turning:
                return self.ok(factor, "times", "Movements go on across the cut.", 0)
            what = " and ".join(dict.fromkeys(turning))
            verb = "turns" if len(set(turning)) == 1 else "turn"
            message = f"The {what} {verb} round at the cut, a rebound, as fast as it came."
            return self.ok(factor, "times", message, 0)
        rebound = " (a rebound)" if _turns_round(before, after, unit) else ""
        slower = "before" if _total(before) < _total(after) else "after"
        return self.found(
            "warning",
            factor,
            "times",
            f"The {_NOUNS[unit]} is {factor:.1f} times slower just {slower} the cut than on its other"
            f" side{rebound}. Match the curves.",
            0,
            _fixes(before, after, unit),
        )


def _total(halves: list[_Half]) -> float:
    return abs(sum(each.speed for each in halves))


def _turns_round(before: list[_Half], after: list[_Half], unit: str) -> bool:
    """Whether what moves one way before the cut moves the other way after it, so that it is noticed."""
    one, other = (sum(each.speed for each in halves) for halves in (before, after))
    return one * other < 0 and min(abs(one), abs(other)) > _NOTICEABLE[unit]


def _factor(before: list[_Half], after: list[_Half], unit: str) -> float:
    speeds = sorted((_total(before), _total(after)))
    # Slower than can be noticed counts as that.
    low, high = (max(speed, _NOTICEABLE[unit]) for speed in speeds)
    return high / low


def _movements(context: CheckContext) -> Iterator[tuple[str, list[_Half], list[_Half]]]:
    """Yield (unit, halves before the cut, halves after it) of everything that moves on both sides."""
    for name, unit in _COMPARED:
        halves = [
            _Half(place, owner, name, owner.parameters()[name], is_before)
            for is_before in (True, False)
            for place, owner in _stated(context)
            if _is_compared(owner, name) and owner.side in _sides(is_before=is_before)
        ]
        moving = [each for each in halves if _moves(each)]
        before = [each for each in moving if each.is_before]
        after = [each for each in moving if not each.is_before]
        if before and after:
            yield unit, before, after


def _stated(context: CheckContext) -> Iterator[tuple[int, Filter]]:
    """Yield (place in the stack, filter) with curves as they are stated, not held over the cut's two frames."""
    filters = context.timeline.between_frames.filters
    return ((place, filters[place]) for place, _ in context.enabled())


def _is_compared(owner: Filter, name: str) -> bool:
    parameter = owner.parameters().get(name)
    return isinstance(owner, MovingFilter) and owner.directed and parameter is not None


def _sides(*, is_before: bool) -> tuple[str, str]:
    return ("outgoing" if is_before else "incoming"), "across"


def _moves(half: _Half) -> bool:
    """Whether the curve has other values anywhere on its side than at the cut; steps are meant."""
    envelope = getattr(half.owner, half.name)
    if not isinstance(envelope, Swell | Travel | Keyframes) or any(
        map(is_stepped, envelope.easings())
    ):
        return False
    rest, usual = half.owner.rest_of(half.name), half.parameter.interpolation
    sign = -1 if half.is_before else 1
    values = [envelope.value_at(sign * n / 16, rest, usual) for n in range(17)]
    if half.parameter.unit == "ratio":
        values = [math.log(max(each, 1e-6)) for each in values]
    return max(values) - min(values) > _NOTICEABLE[half.parameter.unit]


def _fixes(before: list[_Half], after: list[_Half], unit: str) -> list[Fix]:
    """Return easings with which one curve on each side meets the other at the mean of their speeds."""
    if len(before) != 1 or len(after) != 1:
        return []
    halves = before[0], after[0]
    legs = [_leg(each) for each in halves]
    if any(leg is None for leg in legs):
        return []
    known = [leg for leg in legs if leg is not None]
    # As fast as the mean pace of both halves, and half as fast again: soft at the outer ends.
    speed = 1.5 * math.sqrt(abs(known[0].pace) * abs(known[1].pace))
    if speed < _NOTICEABLE[unit]:
        return []
    patch: list[Operation] = []
    for half, leg in zip(halves, known, strict=True):
        slope = speed / abs(leg.pace)
        h = min(_HANDLE, 0.95 / slope)
        easing = (
            f"cubic-bezier({_RESTING_HANDLE:g},0,{1 - h:.4g},{1 - h * slope:.4g})"
            if half.is_before
            else f"cubic-bezier({h:.4g},{h * slope:.4g},{1 - _RESTING_HANDLE:g},1)"
        )
        patch.append(set_field(f"/filters/{half.place}/{half.name}/{leg.path}", easing))
    return [Fix("Match the curves", tuple(patch))]


@dataclass(frozen=True)
class _Leg:
    """The eased stretch of a curve that touches the cut: where its easing stands, and its mean speed."""

    path: str
    pace: float


def _leg(half: _Half) -> _Leg | None:
    """Return the stretch that ends at the cut, or begins there; None where one runs through it."""
    envelope: Any = getattr(half.owner, half.name)
    rest = half.owner.rest_of(half.name)
    for segment in envelope.segments(rest):
        touches = segment.end == 0 if half.is_before else segment.begin == 0
        if not touches:
            continue
        first, last = segment.first, segment.last
        way = math.log(last / first) if half.parameter.unit == "ratio" else last - first
        if way == 0:
            return None
        path = _path_of(envelope, segment.begin, is_before=half.is_before)
        return _Leg(path, way / (segment.end - segment.begin))
    return None


def _path_of(envelope: Any, begin: float, *, is_before: bool) -> str:
    if isinstance(envelope, Swell):
        return "rise" if is_before else "fall"
    if isinstance(envelope, Travel):
        return "easing"
    number = max(n for n, each in enumerate(envelope.keyframes) if each.at == begin)
    return f"keyframes/{number}/easing"
