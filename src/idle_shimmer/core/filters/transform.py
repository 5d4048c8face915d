"""Transform: scale, rotate and shift about a centre.

Scales are factors; shifts are in frame widths (x) and heights (y), +x right and +y down; turns are
counter-clockwise.
"""

from typing import Literal

from idle_shimmer.core.filters.base import FrameContext, MovingFilter, Values, number, point
from idle_shimmer.core.geometry.transforms import AffineTransform, placement
from idle_shimmer.core.parameters import Parameter

SCALE = Parameter(
    "Scale",
    "factor",
    "ratio",
    rest=1,
    low=0.01,
    high=100,
    step=0.01,
    usual=1.5,
    moves="swell",
    interpolation="ratio",
)
STRETCH_X = Parameter(
    "Scale X",
    "factor",
    "ratio",
    rest=1,
    low=0.01,
    high=100,
    step=0.01,
    interpolation="ratio",
    turned="stretch_y",
)
STRETCH_Y = Parameter(
    "Scale Y",
    "factor",
    "ratio",
    rest=1,
    low=0.01,
    high=100,
    step=0.01,
    interpolation="ratio",
    turned="stretch_x",
)
SHIFT_X = Parameter(
    "Position X",
    "amount",
    "width",
    rest=0,
    low=-100,
    high=100,
    step=0.01,
    orientation="rightward",
    turned="shift_y",
)
SHIFT_Y = Parameter(
    "Position Y",
    "amount",
    "height",
    rest=0,
    low=-100,
    high=100,
    step=0.01,
    orientation="downward",
    turned="shift_x",
)
TURNS = Parameter(
    "Rotation",
    "whole",
    "turns",
    rest=0,
    low=-1000,
    high=1000,
    step=1,
    orientation="turn",
    period=lambda _: 1.0,
)
CENTRE = Parameter("Centre", "point", "none", low=-10, high=10, step=0.01, orientation="position")


class Transform(MovingFilter):
    """Scales about ``centre``, rotates counter-clockwise about it, then shifts."""

    title = "Transform"
    family = "geometry"
    purpose = "Zooms, stretches, rotates and shifts the whole picture."

    kind: Literal["transform"] = "transform"
    scale: number(SCALE) = 1.0  # type: ignore[valid-type]
    stretch_x: number(STRETCH_X) = 1.0  # type: ignore[valid-type]
    stretch_y: number(STRETCH_Y) = 1.0  # type: ignore[valid-type]
    shift_x: number(SHIFT_X) = 0.0  # type: ignore[valid-type]
    shift_y: number(SHIFT_Y) = 0.0  # type: ignore[valid-type]
    turns: number(TURNS) = 0.0  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> AffineTransform:
        """Return the inverse of: scale about the centre, rotate about it, shift."""
        return placement(
            scale=(values["scale"] * values["stretch_x"], values["scale"] * values["stretch_y"]),
            turns=values["turns"],
            centre=(values["centre"][0] * context.width, values["centre"][1] * context.height),
            shift=(values["shift_x"] * context.width, values["shift_y"] * context.height),
            edge=values["edge"],
        )
