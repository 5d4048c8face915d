"""Lens: radial distortion and fisheye."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.facts import Fact, choice, switch
from idle_shimmer.core.geometry.polar import Distances, polar
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, Values, number, point

K1 = Fact("Bend", "factor", rest=0, low=-2, high=5, step=0.01, usual=0.5, moves="swell")
K2 = Fact("Bend of the rim", "factor", rest=0, low=-2, high=5, step=0.01)
VIEW = Fact("View", "amount", "deg", rest=0, low=0, high=175, step=1, moves="swell")
CENTRE = Fact("Centre", "point", low=-1, high=2, step=0.01, flips="place")
_NEARLY_CENTRE_PX = 1e-3
_WIDEST_RAD = math.radians(89)


class Lens(GeometryPass):
    """Radial: r_source = r · (1 + k1·r² + k2·r⁴), r in half diagonals (Brown 1966, radial terms).

    Fisheye: the picture as a lens of ``view`` degrees across the diagonal shows it, equidistant in
    place of rectilinear, corners kept: r_source = tan(r·view/2) / tan(view/2). ``inverse`` takes
    either the other way.
    """

    title = "Lens"
    family = "geometry"
    purpose = "Bends the picture as a lens does: barrel, pincushion or fisheye."

    kind: Literal["lens"] = "lens"
    model: choice("Model", "radial", "fisheye") = "radial"  # type: ignore[valid-type]
    k1: number(K1) = 0.0  # type: ignore[valid-type]
    k2: number(K2) = 0.0  # type: ignore[valid-type]
    view: number(VIEW) = 0.0  # type: ignore[valid-type]
    inverse: switch("The other way") = False  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> Stage:
        """The bend about the centre."""
        half_diagonal = math.hypot(context.width, context.height) / 2

        def factor(distances_px: Distances) -> NDArray[np.complex128]:
            # At the centre itself distance over distance is undefined: its limit is taken nearby.
            r = np.maximum(distances_px, _NEARLY_CENTRE_PX) / half_diagonal
            return (_source(values, r) / r).astype(np.complex128)

        return polar(context.in_pixels(values["centre"]), context.size, factor, values["edge"])


def _source(values: Values, r: Distances) -> Distances:
    if values["model"] == "fisheye":
        half = math.radians(values["view"]) / 2
        if half == 0:
            return r
        if values["inverse"]:
            return np.arctan(r * math.tan(half)) / half
        return np.tan(np.minimum(r * half, _WIDEST_RAD)) / math.tan(half)
    if values["inverse"]:
        return _bent_back(r, values["k1"], values["k2"])
    return _bent(r, values["k1"], values["k2"])


def _bent(r: Distances, k1: float, k2: float) -> Distances:
    return r * (1 + k1 * r**2 + k2 * r**4)


def _bent_back(bent: Distances, k1: float, k2: float) -> Distances:
    """The r whose bend is ``bent``, as far out as the bend rises; beyond, the last one."""
    fine = np.linspace(0, 4 * max(1.0, float(bent.max())), 40001)
    ways = _bent(fine, k1, k2)
    rising = np.argmax(np.diff(ways) <= 0) if (np.diff(ways) <= 0).any() else fine.size - 1
    return np.interp(bent, ways[: rising + 1], fine[: rising + 1])
