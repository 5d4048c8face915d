"""Maps about a centre that depend on the distance from it alone: lens, bulge, ball, twirl.

The offset of a point from the centre, as a complex number, is multiplied by a complex factor of its
squared distance: the modulus scales, the argument rotates. The factor is tabulated evenly in the
squared distance and interpolated linearly.
"""

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.geometry.edge_modes import Edge
from idle_shimmer.core.geometry.transforms import CoordinateTransform

Distances = NDArray[np.float64]
# A step of the table in squared pixels of distance, 0.07 px at the corners of 1920x1080, and how
# many steps there may be: a small frame needs fewer for the same accuracy in pixels.
_STEP_PX2 = 160.0
_MIN_STEPS, _MAX_STEPS = 1024, 8192


@kernel
def _move_radially(xs: Any, ys: Any, gains: Any, parameters: Any) -> None:
    centre_x, centre_y = parameters[0, 0], parameters[0, 1]
    steps, real, imaginary, gain = (
        np.empty(xs.shape[1]),
        np.empty(xs.shape[1]),
        np.empty(xs.shape[1]),
        np.empty(xs.shape[1]),
    )
    for i in range(xs.shape[0]):
        row_x, row_y = xs[i], ys[i]
        _find_steps(row_x, row_y, parameters, steps)
        _interpolate(parameters, 0, steps, real)
        _interpolate(parameters, 1, steps, imaginary)
        _interpolate(parameters, 2, steps, gain)
        for j in range(steps.shape[0]):
            x, y = row_x[j] - centre_x, row_y[j] - centre_y
            row_x[j] = centre_x + real[j] * x - imaginary[j] * y
            row_y[j] = centre_y + imaginary[j] * x + real[j] * y
            gains[i, j] *= np.float32(gain[j])


@kernel
def _scale_radially(xs: Any, ys: Any, gains: Any, parameters: Any) -> None:  # noqa: ARG001  (as all)
    """``_move_radially`` where nothing is rotated or darkened."""
    centre_x, centre_y = parameters[0, 0], parameters[0, 1]
    steps, real = np.empty(xs.shape[1]), np.empty(xs.shape[1])
    for i in range(xs.shape[0]):
        row_x, row_y = xs[i], ys[i]
        _find_steps(row_x, row_y, parameters, steps)
        _interpolate(parameters, 0, steps, real)
        for j in range(steps.shape[0]):
            row_x[j] = centre_x + real[j] * (row_x[j] - centre_x)
            row_y[j] = centre_y + real[j] * (row_y[j] - centre_y)


@kernel
def _find_steps(xs: Any, ys: Any, parameters: Any, steps: Any) -> None:
    """Find the places of a row of points in the table."""
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


def radial_map(
    centre: tuple[float, float],
    size: tuple[int, int],
    factor: Callable[[Distances], NDArray[np.complex128]],
    edge: Edge,
    gain: Callable[[Distances], NDArray[np.float64]] | None = None,
) -> CoordinateTransform:
    """Return the stage that multiplies offsets from ``centre`` (pixels) by ``factor`` of the distance.

    ``factor`` takes distances in pixels and returns complex numbers; with y downward, a positive
    argument rotates the picture counter-clockwise. ``gain`` returns what the brightness at a
    distance is multiplied by. ``size`` is the frame's (W, H): no point of it lies beyond the table.
    """
    far = max(math.dist(centre, corner) for corner in _corners(size)) + 2
    steps = min(max(round(far**2 / _STEP_PX2), _MIN_STEPS), _MAX_STEPS)
    distances = _table_distances(far, steps)
    factors = factor(distances)
    parameters = np.empty((steps + 2, 3))
    parameters[0] = *centre, steps / far**2
    parameters[1:, 0], parameters[1:, 1] = factors.real, factors.imag
    parameters[1:, 2] = 1 if gain is None else gain(distances)
    plain = gain is None and not factors.imag.any()
    return CoordinateTransform(_scale_radially if plain else _move_radially, parameters, edge)


@lru_cache(maxsize=16)
def _table_distances(far: float, steps: int) -> Distances:
    return np.sqrt(np.linspace(0, far**2, steps + 1))


def _corners(size: tuple[int, int]) -> list[tuple[float, float]]:
    return [(x, y) for x in (0, size[0]) for y in (0, size[1])]
