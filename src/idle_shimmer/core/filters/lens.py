"""Lens: radial distortion and fisheye. Positions are in 0…1 of the frame, y down."""

import math
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, GeometryFilter, Values, number, point
from idle_shimmer.core.geometry.radial import Distances, radial_map
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.parameters import Parameter, choice, switch

K1 = Parameter("Barrel", "factor", rest=0, low=-2, high=5, step=0.01, usual=0.5, moves="swell")
K2 = Parameter("Barrel at the rim", "factor", rest=0, low=-2, high=5, step=0.01)
VIEW = Parameter("View", "amount", "deg", rest=0, low=0, high=175, step=1, moves="swell")
CENTRE = Parameter("Centre", "point", low=-1, high=2, step=0.01, orientation="position")
_NEARLY_CENTRE_PX = 1e-3
_WIDEST_RAD = math.radians(89)


class Lens(GeometryFilter):
    """Radial: r_source = r · (1 + k1·r² + k2·r⁴), r in half diagonals (Brown 1966, radial terms).

    Fisheye: the rectilinear picture as an equidistant lens of ``view`` degrees across the diagonal
    shows it, corners fixed: r_source = tan(r·view/2) / tan(view/2). ``inverse`` inverts either map.
    """

    title = "Lens"
    family = "geometry"
    purpose = "Distorts the picture like a lens: barrel, pincushion or fisheye."
    examples: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "fisheye": {"model": "fisheye", "k1": 0.0, "view": 90.0}
    }

    kind: Literal["lens"] = "lens"
    model: choice("Model", "radial", "fisheye") = "radial"  # type: ignore[valid-type]
    k1: number(K1) = 0.0  # type: ignore[valid-type]
    k2: number(K2) = 0.0  # type: ignore[valid-type]
    view: number(VIEW) = 0.0  # type: ignore[valid-type]
    inverse: switch("Invert") = False  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> CoordinateTransform:
        """Return the distortion about the centre."""
        half_diagonal = math.hypot(context.width, context.height) / 2

        def factor(distances_px: Distances) -> NDArray[np.complex128]:
            # At the centre itself the quotient is undefined: its limit is taken nearby.
            r = np.maximum(distances_px, _NEARLY_CENTRE_PX) / half_diagonal
            return (_source(values, r) / r).astype(np.complex128)

        return radial_map(context.in_pixels(values["centre"]), context.size, factor, values["edge"])


def _source(values: Values, r: Distances) -> Distances:
    if values["model"] == "fisheye":
        half = math.radians(values["view"]) / 2
        if half == 0:
            return r
        if values["inverse"]:
            return np.arctan(r * math.tan(half)) / half
        return np.tan(np.minimum(r * half, _WIDEST_RAD)) / math.tan(half)
    if values["inverse"]:
        return _undistorted(r, values["k1"], values["k2"])
    return _distorted(r, values["k1"], values["k2"])


def _distorted(r: Distances, k1: float, k2: float) -> Distances:
    return r * (1 + k1 * r**2 + k2 * r**4)


def _undistorted(distorted: Distances, k1: float, k2: float) -> Distances:
    """Return the r that is distorted to ``distorted``; constant from where the distortion turns back."""
    fine = np.linspace(0, 4 * max(1.0, float(distorted.max())), 40001)
    images = _distorted(fine, k1, k2)
    rising = np.argmax(np.diff(images) <= 0) if (np.diff(images) <= 0).any() else fine.size - 1
    return np.interp(distorted, images[: rising + 1], fine[: rising + 1])
