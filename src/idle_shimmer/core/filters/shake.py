"""Shake: the camera trembles.

Reaches are in frame heights, the twist in degrees, the zoom in octaves; all at amount 1.
"""

from typing import Literal

from idle_shimmer.core.filters.base import FrameContext, MovingFilter, Values, number
from idle_shimmer.core.geometry.transforms import AffineTransform, placement
from idle_shimmer.core.parameters import Parameter, seeded
from idle_shimmer.core.picture.noise import drift

AMOUNT = Parameter(
    "Amount", "factor", "ratio", rest=0, low=0, high=10, step=0.05, usual=1, moves="swell"
)
REACH_X = Parameter(
    "Horizontal reach", "amount", "height", low=0, high=2, step=0.005, turned="reach_y"
)
REACH_Y = Parameter(
    "Vertical reach", "amount", "height", low=0, high=2, step=0.005, turned="reach_x"
)
TWIST = Parameter("Twist", "amount", "deg", low=0, high=180, step=0.1)
ZOOM = Parameter("Zoom", "factor", "ratio", low=0, high=1, step=0.005)
RATE = Parameter("Rate", "amount", "Hz", low=0.1, high=60, step=0.5)
_RIGHT, _DOWN, _TURN, _SCALE = range(4)


class Shake(MovingFilter):
    """Smooth band-limited noise of zero mean; at amount 1 it stays within the reaches."""

    title = "Shake"
    family = "geometry"
    purpose = "Shakes the whole picture, as if the camera were hit."
    directed = False

    kind: Literal["shake"] = "shake"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    reach_x: number(REACH_X) = 0.06  # type: ignore[valid-type]
    reach_y: number(REACH_Y) = 0.06  # type: ignore[valid-type]
    twist: number(TWIST) = 1.5  # type: ignore[valid-type]
    zoom: number(ZOOM) = 0.03  # type: ignore[valid-type]
    rate: number(RATE) = 9.0  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> AffineTransform:
        """Return a shift, rotation and scale about the centre, from four independent noises."""

        def noise(channel: int) -> float:
            return values["amount"] * drift(
                values["seed"], channel, context.seconds, values["rate"]
            )

        scale = 2.0 ** (noise(_SCALE) * values["zoom"])
        return placement(
            scale=(scale, scale),
            turns=noise(_TURN) * values["twist"] / 360,
            centre=(context.width / 2, context.height / 2),
            shift=(
                noise(_RIGHT) * values["reach_x"] * context.height,
                noise(_DOWN) * values["reach_y"] * context.height,
            ),
            edge=values["edge"],
        )
