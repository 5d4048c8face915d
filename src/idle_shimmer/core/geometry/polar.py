"""Movements about a centre that depend on the distance from it alone: lens, bulge, ball, twirl.

The offset of a point from the centre, taken as a complex number, is multiplied by a complex factor
of its squared distance: the modulus pulls or pushes, the argument turns. The factor is tabulated
evenly in the squared distance and interpolated linearly.
"""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.edges import Edge
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.kernel import kernel

Distances = NDArray[np.float64]
TABLE_STEPS = 8192


@kernel
def _polar(xs: Any, ys: Any, shades: Any, parameters: Any) -> None:
    centre_x, centre_y, steps_per_px2 = parameters[0, 0], parameters[0, 1], parameters[0, 2]
    last = parameters.shape[0] - 2
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            x, y = xs[i, j] - centre_x, ys[i, j] - centre_y
            at = min((x * x + y * y) * steps_per_px2, last - 1e-6)
            k = int(at)
            f = at - k
            pull = parameters[k + 1, 0] + f * (parameters[k + 2, 0] - parameters[k + 1, 0])
            turn = parameters[k + 1, 1] + f * (parameters[k + 2, 1] - parameters[k + 1, 1])
            shade = parameters[k + 1, 2] + f * (parameters[k + 2, 2] - parameters[k + 1, 2])
            xs[i, j] = centre_x + pull * x - turn * y
            ys[i, j] = centre_y + turn * x + pull * y
            shades[i, j] *= np.float32(shade)


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
    distances = np.sqrt(np.linspace(0, far**2, TABLE_STEPS + 1))
    factors = factor(distances)
    shades = np.ones_like(distances) if shade is None else shade(distances)
    table = np.column_stack([factors.real, factors.imag, shades])
    return Stage(_polar, np.vstack([[*centre, TABLE_STEPS / far**2], table]), edge)


def _corners(size: tuple[int, int]) -> list[tuple[float, float]]:
    return [(x, y) for x in (0, size[0]) for y in (0, size[1])]
