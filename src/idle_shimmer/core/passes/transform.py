"""Transform: scale, stretch, turn and shift about a centre."""

from typing import Literal

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.geometry.stages import AffineStage, placement
from idle_shimmer.core.passes.base import FrameContext, MovingPass, Values, number, point

SCALE = Fact(
    "Scale", "factor", "ratio", rest=1, low=0.01, high=100, step=0.01, usual=1.5, moves="swell"
)
STRETCH_X = Fact("Stretch sideways", "factor", "ratio", rest=1, low=0.01, high=100, step=0.01)
STRETCH_Y = Fact("Stretch upward", "factor", "ratio", rest=1, low=0.01, high=100, step=0.01)
SHIFT_X = Fact(
    "Shift right", "amount", "width", rest=0, low=-100, high=100, step=0.01, flips="right"
)
SHIFT_Y = Fact(
    "Shift down", "amount", "height", rest=0, low=-100, high=100, step=0.01, flips="down"
)
TURNS = Fact("Turns", "whole", "turns", rest=0, low=-1000, high=1000, step=1, flips="turn")
CENTRE = Fact("Centre", "point", "none", low=-10, high=10, step=0.01, flips="place")


class Transform(MovingPass):
    """Scales and stretches about ``centre``, turns counter-clockwise about it, then shifts."""

    title = "Transform"
    family = "geometry"
    purpose = "Zooms, stretches, turns and shifts the whole picture."

    kind: Literal["transform"] = "transform"
    scale: number(SCALE) = 1.0  # type: ignore[valid-type]
    stretch_x: number(STRETCH_X) = 1.0  # type: ignore[valid-type]
    stretch_y: number(STRETCH_Y) = 1.0  # type: ignore[valid-type]
    shift_x: number(SHIFT_X) = 0.0  # type: ignore[valid-type]
    shift_y: number(SHIFT_Y) = 0.0  # type: ignore[valid-type]
    turns: number(TURNS) = 0.0  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> AffineStage:
        """The inverse of: scale about the centre, turn about it, shift (+y is down)."""
        return placement(
            scale=(values["scale"] * values["stretch_x"], values["scale"] * values["stretch_y"]),
            turns=values["turns"],
            centre=(values["centre"][0] * context.width, values["centre"][1] * context.height),
            shift=(values["shift_x"] * context.width, values["shift_y"] * context.height),
            edge=values["edge"],
        )
