"""What the lanes draw: every moving parameter's value at each frame, and its curve in between."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from idle_shimmer.core.envelope import is_moving
from idle_shimmer.core.passes.base import Pass
from idle_shimmer.core.retime import Retime
from idle_shimmer.core.timeline import Timeline

_MOST_CURVE_POINTS = 600
_POINTS_A_FRAME = 8


@dataclass(frozen=True)
class Curve:
    """One parameter of one pass, of the mix (``pass_id`` "mix"), or a speed ramp ("retime").

    ``values`` are at the centres of the window's frames; ``times`` (frames from the cut) and
    ``line`` trace the curve. For a point, x and y are two curves, named ``centre.x``, ``centre.y``.
    """

    pass_id: str
    parameter: str
    values: list[float]
    times: list[float]
    line: list[float]


def curves_of(timeline: Timeline) -> list[Curve]:
    """The curves of the mix's progress, the speed ramps, and all numbers and points of the passes."""
    recipe, window = timeline.recipe, timeline.window
    centres = [offset + 0.5 for offset in window.offsets]
    steps = min(_MOST_CURVE_POINTS, (window.before + window.after) * _POINTS_A_FRAME)
    times = np.linspace(-window.before, window.after, steps + 1)
    # The cut itself is approached from both sides: a jump there must show as a jump.
    along = [float(t) for t in np.sort(np.concatenate([times, [-1e-6, 1e-6]]))]
    shown_times = _rounded(along)
    progress = [
        _rounded(recipe.mix.progress(window.u_at(t)) for t in moments)
        for moments in (centres, along)
    ]
    found = [Curve("mix", "progress", progress[0], shown_times, progress[1])]
    for side, retime in recipe.retime:
        if not retime.rests:
            speeds = (_speeds(retime, side, timeline, moments) for moments in (centres, along))
            values, line = map(_rounded, speeds)
            found.append(Curve("retime", side, values, shown_times, line))
    for each in recipe.passes:
        at_frames, between = _samples(timeline, each, centres), _samples(timeline, each, along)
        found += [
            Curve(each.id, name, _rounded(values), shown_times, _rounded(between[name]))
            for name, values in at_frames.items()
        ]
    return found


def _speeds(retime: Retime, side: str, timeline: Timeline, times: list[float]) -> list[float]:
    """The speed on its own side of the cut; beyond it the clip runs as it is."""
    return [
        retime.speed_at(timeline.window.u_at(t)) if (t < 0) == (side == "outgoing") else 1.0
        for t in times
    ]


def _samples(timeline: Timeline, each: Pass, times: list[float]) -> dict[str, list[float]]:
    """Every numeric parameter's values at ``times``, points split into their coordinates.

    What is held is answered once: only moving parameters are asked at every time.
    """
    first = timeline.values(each, times[0])
    columns: dict[str, list[float]] = {}
    moving = {name for name in each.facts() if is_moving(getattr(each, name))}
    # A streak that follows a movement turns with it.
    moving |= {name for name, fact in each.facts().items() if fact.follow and each.follows()}
    asked = [timeline.values(each, t) for t in times] if moving else []
    for name, value in first.items():
        values = [now[name] for now in asked] if name in moving else [value] * len(times)
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
