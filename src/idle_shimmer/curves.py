"""What the lanes draw: every moving parameter's value at each frame, and its curve in between."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from idle_shimmer.core.passes.base import Pass
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.timing import Window

_MOST_CURVE_POINTS = 600
_POINTS_A_FRAME = 8


@dataclass(frozen=True)
class Curve:
    """One parameter of one pass (or of the mix, ``pass_id`` "mix").

    ``values`` are at the centres of the window's frames; ``times`` (frames from the cut) and
    ``line`` trace the curve. For a point, x and y are two curves, named ``centre.x``, ``centre.y``.
    """

    pass_id: str
    parameter: str
    values: list[float]
    times: list[float]
    line: list[float]


def curves_of(recipe: Recipe, window: Window) -> list[Curve]:
    """The curves of the mix's progress and of every number and point of every pass."""
    centres = [window.u_of_frame(offset) for offset in window.offsets]
    steps = min(_MOST_CURVE_POINTS, (window.before + window.after) * _POINTS_A_FRAME)
    times = np.linspace(-window.before, window.after, steps + 1)
    # The cut itself is approached from both sides: a jump there must show as a jump.
    times = np.sort(np.concatenate([times, [-1e-6, 1e-6]]))
    along = [window.u_at(float(t)) for t in times]
    shown_times = [round(float(t), 4) for t in times]
    found = [
        Curve(
            "mix",
            "progress",
            _rounded(map(recipe.mix.progress, centres)),
            shown_times,
            _rounded(map(recipe.mix.progress, along)),
        )
    ]
    for each in recipe.passes:
        at_frames, between = _samples(each, centres), _samples(each, along)
        found += [
            Curve(each.id, name, _rounded(values), shown_times, _rounded(between[name]))
            for name, values in at_frames.items()
        ]
    return found


def _samples(each: Pass, times: list[float]) -> dict[str, list[float]]:
    """Every numeric parameter's values at ``times``, points split into their coordinates."""
    columns: dict[str, list[float]] = {}
    for u in times:
        for name, value in each.values_at(u).items():
            for part, number in _parts(name, value):
                columns.setdefault(part, []).append(number)
    return columns


def _parts(name: str, value: Any) -> list[tuple[str, float]]:
    if isinstance(value, str):
        return []
    if isinstance(value, tuple):
        return [(f"{name}.x", value[0]), (f"{name}.y", value[1])]
    return [(name, value)]


def _rounded(values: Any) -> list[float]:
    return [round(float(value), 6) for value in values]
