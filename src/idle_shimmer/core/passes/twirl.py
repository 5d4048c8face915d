"""Twirl: the picture winds up about a point."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.geometry.polar import Distances, polar
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, Values, number, point

TURNS = Fact(
    "Turns",
    "factor",
    "turns",
    rest=0,
    low=-20,
    high=20,
    step=0.05,
    usual=0.5,
    moves="swell",
    flips="turn",
)
RADIUS = Fact("Radius", "amount", "height", low=0.01, high=5, step=0.01)
CENTRE = Fact("Centre", "point", low=-1, high=2, step=0.01, flips="place")


class Twirl(GeometryPass):
    """Turned by ``turns`` · (1 - (r/R)²)² at distance r, counter-clockwise; still from ``radius``."""

    title = "Twirl"
    family = "geometry"
    purpose = "Winds the picture up around a point."

    kind: Literal["twirl"] = "twirl"
    turns: number(TURNS) = 0.0  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.9  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> Stage:
        """The winding about the centre (formula of our own)."""
        radius_px = values["radius"] * context.height

        def wound(distances_px: Distances) -> NDArray[np.complex128]:
            inside = np.maximum(1 - (distances_px / radius_px) ** 2, 0)
            return np.exp(2j * np.pi * values["turns"] * inside**2)

        return polar(context.in_pixels(values["centre"]), context.size, wound, values["edge"])
