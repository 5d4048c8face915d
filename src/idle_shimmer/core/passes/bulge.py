"""Bulge: pulls the picture toward a point or away from it; or shows it in a glass ball."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.facts import Fact, switch
from idle_shimmer.core.geometry.polar import Distances, polar
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, Values, number, point

STRENGTH = Fact(
    "Strength", "factor", "ratio", rest=0, low=-1, high=1, step=0.01, usual=0.6, moves="swell"
)
RADIUS = Fact("Radius", "amount", "height", low=0.01, high=5, step=0.01)
CENTRE = Fact("Centre", "point", low=-1, high=2, step=0.01, flips="place")


class Bulge(GeometryPass):
    """Inside ``radius``: r_source = r · (1 - s · (1 - (r/R)²)²), still and smooth at the rim.

    Ball: the picture lies on a ball of radius R seen from far, r_source = R · asin(r/R), and the
    outside is dark; ``strength`` fades from the plain picture to that. Formulas of our own.
    """

    title = "Bulge"
    family = "geometry"
    purpose = "Swells or pinches the picture at a point, or puts it into a glass ball."

    kind: Literal["bulge"] = "bulge"
    strength: number(STRENGTH) = 0.0  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.6  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]
    ball: switch("Glass ball") = False  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> Stage:
        """The pull about the centre; a negative strength makes no ball, but pinches."""
        radius_px = values["radius"] * context.height
        strength = values["strength"]
        centre = context.in_pixels(values["centre"])

        def pulled(distances_px: Distances) -> NDArray[np.complex128]:
            inside = np.maximum(1 - (distances_px / radius_px) ** 2, 0)
            return 1 - strength * inside**2 + 0j

        def wrapped(distances_px: Distances) -> NDArray[np.complex128]:
            share = np.clip(distances_px / radius_px, 1e-9, 1)
            return 1 + strength * (np.arcsin(share) / share - 1) + 0j

        def dark_outside(distances_px: Distances) -> NDArray[np.float64]:
            shown = np.clip(radius_px - distances_px + 0.5, 0, 1)
            return 1 - strength * (1 - shown * _rim(distances_px / radius_px))

        if values["ball"] and strength > 0:
            return polar(centre, context.size, wrapped, values["edge"], dark_outside)
        return polar(centre, context.size, pulled, values["edge"])


def _rim(share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Glass passes less light where it is looked through aslant: darker towards the rim."""
    return 0.35 + 0.65 * np.sqrt(np.clip(1 - np.minimum(share, 1) ** 6, 0, 1)) ** (1 / math.sqrt(2))
