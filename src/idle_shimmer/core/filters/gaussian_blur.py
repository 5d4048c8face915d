"""Gaussian blur. Radii are standard deviations in frame heights."""

import math
from typing import Any, Literal

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.parameters import Following, Parameter, choice
from idle_shimmer.core.picture.encoding import Pixels

# A movement this close to an axis runs along it.
_ALONG_AXIS_DEG = 10.0
RADIUS = Parameter(
    "Radius",
    "amount",
    "height",
    rest=0,
    low=0,
    high=2,
    step=0.005,
    usual=0.03,
    moves="swell",
    # The standard deviation of a uniform distribution over the distance.
    follow=Following(
        lambda movement, _: movement.distance / math.sqrt(12),
        # One that softens both ways may swell as it likes.
        noticeable=lambda owner: math.inf if owner.axis == "both" else 0.05 / math.sqrt(12),
    ),
)


class GaussianBlur(PictureFilter):
    """``radius`` is the standard deviation in frame heights; beyond the edge lies the mirrored picture."""

    title = "Gaussian blur"
    family = "blur"
    purpose = "Softens evenly, in all directions or along one axis."

    kind: Literal["gaussian_blur"] = "gaussian_blur"
    radius: number(RADIUS) = 0.0  # type: ignore[valid-type]
    axis: choice("Axis", "both", "horizontal", "vertical", orientation="axis") = "both"  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture blurred by sigma = radius · height pixels, along the chosen axes."""
        sigma = values["radius"] * context.height
        return gaussian(
            pixels,
            sigma_x=sigma if values["axis"] != "vertical" else 0.0,
            sigma_y=sigma if values["axis"] != "horizontal" else 0.0,
        )

    def blur_angle_deg(self, values: Values) -> float | None:
        """Return the direction of a blur along one axis."""
        if values["radius"] == 0:
            return None
        return {"horizontal": 0.0, "vertical": 90.0}.get(values["axis"])

    def aligned(self, angle_deg: float) -> tuple[str, Any] | None:
        """Return the axis along a direction; both where it lies along none."""
        off = abs((angle_deg + 45) % 90 - 45)
        if off > _ALONG_AXIS_DEG:
            return "axis", "both"
        return "axis", "horizontal" if round(angle_deg / 90) % 2 == 0 else "vertical"

    def softening(self, values: Values) -> float:
        """Return the length of the box of the same variance."""
        return float(values["radius"] * math.sqrt(12))
