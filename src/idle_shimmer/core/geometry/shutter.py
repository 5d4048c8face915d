"""The shutter: how many moments a movement needs to blur without gaps.

Source of the exposure: shutter angle / 360 / frame rate, so over one frame the shutter is open for
angle / 360 of it, here centred on the frame's sampling time.
"""

import math
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.stages import Stage

MOST_MOMENTS = 512
_PROBE_TIMES = 9
_PROBE_SIDE = 5
_PIXELS_PER_MOMENT = 1.0


def moments(
    stages_at: Callable[[float], Sequence[Stage]],
    t: float,
    shutter_deg: float,
    width: int,
    height: int,
) -> list[Sequence[Stage]]:
    """The sets of stages to average for a frame sampled at ``t`` (frames from the cut).

    One moment per pixel of the longest movement among a grid of points while the shutter is open,
    at most MOST_MOMENTS. With a shutter of 0, the one moment at ``t``.
    """
    if shutter_deg == 0:
        return [stages_at(t)]
    span = shutter_deg / 360
    probes = [
        _shown_points(stages_at(t + span * (i / (_PROBE_TIMES - 1) - 0.5)), width, height)
        for i in range(_PROBE_TIMES)
    ]
    steps = np.linalg.norm(np.diff(np.array(probes), axis=0), axis=2)
    longest_px = float(steps.sum(axis=0).max())
    count = min(MOST_MOMENTS, max(1, math.ceil(longest_px / _PIXELS_PER_MOMENT)))
    return [stages_at(t + span * ((i + 0.5) / count - 0.5)) for i in range(count)]


def _shown_points(stages: Sequence[Stage], width: int, height: int) -> NDArray[np.float64]:
    """Where a grid of output points looks, (n, 2) in pixels, without folding at the edges."""
    x, y = np.meshgrid(np.linspace(0, width, _PROBE_SIDE), np.linspace(0, height, _PROBE_SIDE))
    shades = np.ones(x.shape, np.float32)
    for stage in reversed(stages):
        stage.warp(x, y, shades, stage.parameters)
    return np.stack([x.ravel(), y.ravel()], axis=1)
