"""Bulge: magnifies or pinches the picture at a point, or shows it in a glass ball.

Radii are in frame heights, positions in 0…1 of the frame, y down.
"""

import math
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, GeometryFilter, Values, number, point
from idle_shimmer.core.geometry.radial import Distances, radial_map
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.parameters import Parameter, switch

STRENGTH = Parameter(
    "Strength", "factor", "ratio", rest=0, low=-1, high=1, step=0.01, usual=0.6, moves="swell"
)
RADIUS = Parameter("Radius", "radius", "height", low=0.01, high=5, step=0.01)
CENTRE = Parameter("Centre", "point", low=-1, high=2, step=0.01, orientation="position")


class Bulge(GeometryFilter):
    """Inside ``radius``: r_source = r · (1 - s · (1 - (r/R)²)²), unmoved and smooth at the rim.

    Ball: the picture lies on a ball of radius R seen from afar, r_source = R · asin(r/R), and the
    outside is dark; ``strength`` fades from the plain picture to that. The formulas are our own.
    """

    title = "Bulge"
    family = "geometry"
    purpose = "Magnifies or pinches the picture at a point, or shows it in a glass ball."
    examples: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "glass ball": {"ball": True, "radius": 0.4, "strength": 0.55}
    }

    kind: Literal["bulge"] = "bulge"
    strength: number(STRENGTH) = 0.0  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.6  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]
    ball: switch("Glass ball") = False  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> CoordinateTransform:
        """Return the map about the centre; a negative strength always pinches."""
        radius_px = values["radius"] * context.height
        strength = values["strength"]
        centre = context.in_pixels(values["centre"])

        def magnified(distances_px: Distances) -> NDArray[np.complex128]:
            inside = np.maximum(1 - (distances_px / radius_px) ** 2, 0)
            return 1 - strength * inside**2 + 0j

        def on_ball(distances_px: Distances) -> NDArray[np.complex128]:
            share = np.clip(distances_px / radius_px, 1e-9, 1)
            return 1 + strength * (np.arcsin(share) / share - 1) + 0j

        def dark_outside(distances_px: Distances) -> NDArray[np.float64]:
            shown = np.clip(radius_px - distances_px + 0.5, 0, 1)
            return 1 - strength * (1 - shown * _rim(distances_px / radius_px))

        if values["ball"] and strength > 0:
            return radial_map(centre, context.size, on_ball, values["edge"], dark_outside)
        return radial_map(centre, context.size, magnified, values["edge"])


def _rim(share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return how bright the ball is: darker towards the rim, where glass reflects more light."""
    return 0.35 + 0.65 * np.sqrt(np.clip(1 - np.minimum(share, 1) ** 6, 0, 1)) ** (1 / math.sqrt(2))
