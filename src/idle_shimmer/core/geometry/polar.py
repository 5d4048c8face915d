"""Movements about a centre that depend on the distance from it alone: lens, bulge, ball, twirl.

The offset of a point from the centre, taken as a complex number, is multiplied by a complex factor
of its squared distance: the modulus pulls or pushes, the argument turns. The factor is tabulated
evenly in the squared distance and interpolated linearly.
"""

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.edges import Edge
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.kernel import kernel

Distances = NDArray[np.float64]
# A step of the table in squared pixels of distance, 0.07 px at the corners of 1920x1080, and how
# many steps there may be: a small frame needs fewer for the same accuracy in pixels.
_STEP_PX2 = 160.0
_FEWEST_STEPS, _MOST_STEPS = 1024, 8192


@kernel
def _polar(xs: Any, ys: Any, shades: Any, parameters: Any) -> None:
    centre_x, centre_y = parameters[0, 0], parameters[0, 1]
    steps, pulls, turns, shown = (
        np.empty(xs.shape[1]),
        np.empty(xs.shape[1]),
        np.empty(xs.shape[1]),
        np.empty(xs.shape[1]),
    )
    for i in range(xs.shape[0]):
        row_x, row_y = xs[i], ys[i]
        _find_steps(row_x, row_y, parameters, steps)
        _interpolate(parameters, 0, steps, pulls)
        _interpolate(parameters, 1, steps, turns)
        _interpolate(parameters, 2, steps, shown)
        for j in range(steps.shape[0]):
            x, y = row_x[j] - centre_x, row_y[j] - centre_y
            row_x[j] = centre_x + pulls[j] * x - turns[j] * y
            row_y[j] = centre_y + turns[j] * x + pulls[j] * y
            shades[i, j] *= np.float32(shown[j])


@kernel
def _pulled(xs: Any, ys: Any, shades: Any, parameters: Any) -> None:  # noqa: ARG001  (as all warps)
    """``_polar`` where nothing is turned or shaded."""
    centre_x, centre_y = parameters[0, 0], parameters[0, 1]
    steps, pulls = np.empty(xs.shape[1]), np.empty(xs.shape[1])
    for i in range(xs.shape[0]):
        row_x, row_y = xs[i], ys[i]
        _find_steps(row_x, row_y, parameters, steps)
        _interpolate(parameters, 0, steps, pulls)
        for j in range(steps.shape[0]):
            row_x[j] = centre_x + pulls[j] * (row_x[j] - centre_x)
            row_y[j] = centre_y + pulls[j] * (row_y[j] - centre_y)


@kernel
def _find_steps(xs: Any, ys: Any, parameters: Any, steps: Any) -> None:
    """Where in the table a row of points stands."""
    centre_x, centre_y, steps_per_px2 = parameters[0, 0], parameters[0, 1], parameters[0, 2]
    last = parameters.shape[0] - 2 - 1e-6
    for j in range(steps.shape[0]):
        x, y = xs[j] - centre_x, ys[j] - centre_y
        at = (x * x + y * y) * steps_per_px2
        steps[j] = min(last, at)


@kernel
def _interpolate(parameters: Any, column: int, steps: Any, values: Any) -> None:
    for j in range(steps.shape[0]):
        k = np.int32(steps[j])
        near, far = parameters[np.uint32(k + 1), column], parameters[np.uint32(k + 2), column]
        values[j] = near + (steps[j] - k) * (far - near)


def polar(
    centre: tuple[float, float],
    size: tuple[int, int],
    factor: Callable[[Distances], NDArray[np.complex128]],
    edge: Edge,
    shade: Callable[[Distances], NDArray[np.float64]] | None = None,
) -> Stage:
    """The stage that multiplies offsets from ``centre`` (pixels) by ``factor`` of the distance.

    ``factor`` takes distances in pixels and gives complex numbers; with y downward, a positive
    argument turns the picture counter-clockwise. ``shade`` gives what the brightness at a distance
    is multiplied by. ``size`` is the frame's (W, H): no point of it is further than tabulated.
    """
    far = max(math.dist(centre, corner) for corner in _corners(size)) + 2
    steps = min(max(round(far**2 / _STEP_PX2), _FEWEST_STEPS), _MOST_STEPS)
    distances = _table_distances(far, steps)
    factors = factor(distances)
    parameters = np.empty((steps + 2, 3))
    parameters[0] = *centre, steps / far**2
    parameters[1:, 0], parameters[1:, 1] = factors.real, factors.imag
    parameters[1:, 2] = 1 if shade is None else shade(distances)
    plain = shade is None and not factors.imag.any()
    return Stage(_pulled if plain else _polar, parameters, edge)


@lru_cache(maxsize=16)
def _table_distances(far: float, steps: int) -> Distances:
    return np.sqrt(np.linspace(0, far**2, steps + 1))


def _corners(size: tuple[int, int]) -> list[tuple[float, float]]:
    return [(x, y) for x in (0, size[0]) for y in (0, size[1])]
