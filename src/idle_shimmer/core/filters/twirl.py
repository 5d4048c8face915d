"""Twirl: the picture winds around a point. Radii are in frame heights."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, GeometryFilter, Values, number, point
from idle_shimmer.core.geometry.radial import Distances, radial_map
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.parameters import Parameter

TURNS = Parameter(
    "Turns",
    "factor",
    "turns",
    rest=0,
    low=-20,
    high=20,
    step=0.05,
    usual=0.5,
    moves="swell",
    orientation="turn",
)
RADIUS = Parameter("Radius", "radius", "height", low=0.01, high=5, step=0.01)
CENTRE = Parameter("Centre", "point", low=-1, high=2, step=0.01, orientation="position")


class Twirl(GeometryFilter):
    """Turned counter-clockwise by ``turns`` · (1 - (r/R)²)² at distance r, unmoved beyond ``radius``.

    The formula is our own.
    """

    title = "Twirl"
    family = "geometry"
    purpose = "Winds the picture around a point."

    kind: Literal["twirl"] = "twirl"
    turns: number(TURNS) = 0.0  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.9  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> CoordinateTransform:
        """Return the rotation about the centre."""
        radius_px = values["radius"] * context.height

        def wound(distances_px: Distances) -> NDArray[np.complex128]:
            inside = np.maximum(1 - (distances_px / radius_px) ** 2, 0)
            return np.exp(2j * np.pi * values["turns"] * inside**2)

        return radial_map(context.in_pixels(values["centre"]), context.size, wound, values["edge"])
