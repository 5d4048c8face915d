"""Roll: the picture travels across the frame and comes in again on the other side."""

from typing import Annotated, Literal

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.geometry.stages import AffineStage, translation
from idle_shimmer.core.passes.base import FrameContext, MovingPass, Values, number

X = Fact(
    "Sideways",
    "whole",
    "frames",
    rest=0,
    low=-1000,
    high=1000,
    step=1,
    moves="travel",
    flips="right",
)
Y = Fact(
    "Up and down",
    "whole",
    "frames",
    rest=0,
    low=-1000,
    high=1000,
    step=1,
    usual=1,
    moves="travel",
    flips="down",
)


class Roll(MovingPass):
    """``x`` and ``y`` in whole frames: +x moves the picture right, +y down."""

    title = "Roll"
    family = "geometry"
    purpose = "Rolls the picture by whole frames, so that it lands where it began."

    kind: Literal["roll"] = "roll"
    edge: Annotated[Literal["tile", "mirror"], Fact("Beyond the edge", "choice")] = "mirror"
    x: number(X) = 0.0  # type: ignore[valid-type]
    y: number(Y) = 0.0  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> AffineStage:
        """A shift by ``x`` frame widths and ``y`` frame heights."""
        shift = (values["x"] * context.width, values["y"] * context.height)
        return translation(shift, edge=values["edge"])
