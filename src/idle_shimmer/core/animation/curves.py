"""What the lanes draw: every parameter's value at each frame, and its curve in between."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from idle_shimmer.core.animation.envelope import is_animated
from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import Filter

_MAX_CURVE_POINTS = 600
_POINTS_PER_FRAME = 8
# The cut is approached from both sides: a jump there must show as a jump.
_CUT = (-1e-6, 1e-6)


@dataclass(frozen=True)
class Curve:
    """One parameter of a filter, of the mix (``filter_id`` "mix"), or a speed ramp ("retime").

    ``values`` are at the centres of the window's frames; ``times`` (frames from the cut) and
    ``line`` trace the curve: a constant by its ends and the cut. For a point, x and y are two curves,
    named ``centre.x``, ``centre.y``; those of an animated region are ``region.centre.x`` and so on.
    """

    filter_id: str
    parameter: str
    values: list[float]
    times: list[float]
    line: list[float]


def curves_of(timeline: Timeline) -> list[Curve]:
    """Return the curves of the mix's progress, the speed ramps, and all numbers and points."""
    recipe, window = timeline.recipe, timeline.window
    centres = [offset + 0.5 for offset in window.offsets]
    along = _times_along(window)
    shown_times = _rounded(along)
    progress = [
        _rounded(recipe.mix.progress(window.u_at(t)) for t in times) for times in (centres, along)
    ]
    found = [Curve("mix", "progress", progress[0], shown_times, progress[1])]
    for side in CLIP_SIDES:
        ramp = recipe.retime.ramp(side, window)
        if not ramp.retime.is_normal:
            values, line = (_rounded(map(ramp.speed_at, times)) for times in (centres, along))
            found.append(Curve("retime", side, values, shown_times, line))
    ends = _rounded((along[0], *_CUT, along[-1]))
    for each in recipe.filters:
        at_frames, between = _moving(timeline, each, centres), _moving(timeline, each, along)
        lines = _region_at(timeline, each, along)
        for part, values in _region_at(timeline, each, centres).items():
            line = _rounded(lines[part])
            found.append(Curve(each.id, part, _rounded(values), shown_times, line))
        for part, value in _numbers(timeline.values(each, centres[0])):
            if part in at_frames:
                values, line = _rounded(at_frames[part]), _rounded(between[part])
                found.append(Curve(each.id, part, values, shown_times, line))
            else:
                (still,) = _rounded([value])
                values = [still] * len(centres)
                found.append(Curve(each.id, part, values, ends, [still] * len(ends)))
    return found


def _times_along(window: Window) -> list[float]:
    steps = min(_MAX_CURVE_POINTS, (window.before + window.after) * _POINTS_PER_FRAME)
    times = np.linspace(-window.before, window.after, steps + 1)
    return [float(t) for t in np.sort(np.concatenate([times, _CUT]))]


def _moving(timeline: Timeline, each: Filter, times: list[float]) -> dict[str, list[float]]:
    """Return the values at ``times`` of the numeric parameters that may change."""
    parameters = each.parameters()
    animated = {name for name in parameters if is_animated(getattr(each, name))}
    # With one follower, every parameter that can follow may change with the movement.
    animated |= {
        name for name, parameter in parameters.items() if parameter.follow and each.follows()
    }
    columns: dict[str, list[float]] = {}
    for t in times if animated else ():
        now = timeline.values(each, t)
        for part, number in _numbers({name: now[name] for name in animated}):
            columns.setdefault(part, []).append(number)
    return columns


def _region_at(timeline: Timeline, each: Filter, times: list[float]) -> dict[str, list[float]]:
    """Return the animated coordinates of a filter's region at ``times``."""
    if each.region is None:
        return {}
    animated = [name for name, part in each.region.envelopes().items() if is_animated(part)]
    columns: dict[str, list[float]] = {}
    for t in times if animated else ():
        now = each.region.values_at(timeline.window.u_at(t))
        for part, number in _numbers({f"region.{name}": now[name] for name in animated}):
            columns.setdefault(part, []).append(number)
    return columns


def _numbers(values: dict[str, Any]) -> Iterator[tuple[str, float]]:
    """Yield the numbers among values, points split into their coordinates."""
    for name, value in values.items():
        if isinstance(value, tuple):
            yield f"{name}.x", value[0]
            yield f"{name}.y", value[1]
        elif not isinstance(value, str | bool):
            yield name, value


def _rounded(values: Any) -> list[float]:
    return [round(float(value), 6) for value in values]
