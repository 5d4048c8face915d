"""What the lanes draw: every parameter's value at each frame, and its curve in between."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from idle_shimmer.core.animation.envelope import is_animated
from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.filters.base import Filter

_MAX_CURVE_POINTS = 600
_POINTS_PER_FRAME = 8


@dataclass(frozen=True)
class Curve:
    """One parameter of a filter, of the mix (``filter_id`` "mix"), or a speed ramp ("retime").

    ``values`` are at the centres of the window's frames; ``times`` (frames from the cut) and
    ``line`` trace the curve. For a point, x and y are two curves, named ``centre.x``, ``centre.y``.
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
    steps = min(_MAX_CURVE_POINTS, (window.before + window.after) * _POINTS_PER_FRAME)
    times = np.linspace(-window.before, window.after, steps + 1)
    # The cut itself is approached from both sides: a jump there must show as a jump.
    along = [float(t) for t in np.sort(np.concatenate([times, [-1e-6, 1e-6]]))]
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
    for each in recipe.filters:
        at_frames, between = _samples(timeline, each, centres), _samples(timeline, each, along)
        found += [
            Curve(each.id, name, _rounded(values), shown_times, _rounded(between[name]))
            for name, values in at_frames.items()
        ]
    return found


def _samples(timeline: Timeline, each: Filter, times: list[float]) -> dict[str, list[float]]:
    """Return every numeric parameter's values at ``times``, points split into their coordinates.

    Only animated parameters are evaluated at every time.
    """
    first = timeline.values(each, times[0])
    columns: dict[str, list[float]] = {}
    parameters = each.parameters()
    animated = {name for name in parameters if is_animated(getattr(each, name))}
    # With one follower, every parameter that can follow may change with the movement.
    animated |= {
        name for name, parameter in parameters.items() if parameter.follow and each.follows()
    }
    at_times = [timeline.values(each, t) for t in times] if animated else []
    for name, value in first.items():
        values = [now[name] for now in at_times] if name in animated else [value] * len(times)
        for now in values:
            for part, number in _parts(name, now):
                columns.setdefault(part, []).append(number)
    return columns


def _parts(name: str, value: Any) -> list[tuple[str, float]]:
    if isinstance(value, str | bool):
        return []
    if isinstance(value, tuple):
        return [(f"{name}.x", value[0]), (f"{name}.y", value[1])]
    return [(name, value)]


def _rounded(values: Any) -> list[float]:
    return [round(float(value), 6) for value in values]
