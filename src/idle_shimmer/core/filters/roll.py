"""Roll: the picture moves across the frame and comes in again on the other side.

Distances are in whole frames, +x right and +y down.
"""

from typing import Annotated, Any, Literal

from idle_shimmer.core.filters.base import FrameContext, MovingFilter, Values, number
from idle_shimmer.core.geometry.transforms import AffineTransform, translation
from idle_shimmer.core.parameters import Parameter


def _period(owner: Any) -> float:
    """A tiled picture repeats every frame, a mirrored one every two."""
    return 2.0 if owner.edge == "mirror" else 1.0


X = Parameter(
    "Horizontal",
    "whole",
    "frames",
    rest=0,
    low=-1000,
    high=1000,
    step=1,
    moves="travel",
    orientation="rightward",
    turned="y",
    period=_period,
)
Y = Parameter(
    "Vertical",
    "whole",
    "frames",
    rest=0,
    low=-1000,
    high=1000,
    step=1,
    usual=1,
    moves="travel",
    orientation="downward",
    turned="x",
    period=_period,
)


class Roll(MovingFilter):
    """A shift by ``x`` frame widths and ``y`` frame heights of the repeated picture."""

    title = "Roll"
    family = "geometry"
    purpose = "Rolls the picture by whole frames, so that it lands where it started."

    kind: Literal["roll"] = "roll"
    edge: Annotated[Literal["tile", "mirror"], Parameter("Edges", "choice")] = "mirror"
    x: number(X) = 0.0  # type: ignore[valid-type]
    y: number(Y) = 0.0  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> AffineTransform:
        """Return the shift in pixels."""
        shift = (values["x"] * context.width, values["y"] * context.height)
        return translation(shift, edge=values["edge"])
