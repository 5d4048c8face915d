"""Displace: brightness moves the picture. Amounts are in frame heights."""

import math
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.displacement import displace
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.parameters import Parameter, choice, seeded
from idle_shimmer.core.picture.encoding import Picture, Pixels, luma
from idle_shimmer.core.picture.noise import field

AMOUNT = Parameter(
    "Amount", "amount", "height", rest=0, low=0, high=2, step=0.005, usual=0.1, moves="swell"
)
ANGLE = Parameter("Angle", "angle", "deg", low=-3600, high=3600, step=1, orientation="angle")
_SMOOTH = 0.006
_NOISE_PITCH = 0.12


class Displace(PictureFilter):
    """Each point comes from ``amount`` · brightness (-1 black … +1 white) further along ``angle``.

    The brightness is that of this clip, of the other clip, or seeded noise, slightly blurred so that
    single pixels are not torn apart.
    """

    title = "Displace"
    family = "glitch"
    purpose = "Displaces the picture by brightness: its own, the other clip's, or noise."
    examples: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "by noise": {"by": "noise", "amount": 0.1}
    }

    kind: Literal["displace"] = "displace"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    by: choice("By", "own", "other", "noise") = "own"  # type: ignore[valid-type]
    angle: number(ANGLE) = 0.0  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def looks_at_other(self) -> bool:
        """Whether the other clip's brightness is used."""
        return bool(self.by == "other")

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture, displaced along the angle."""
        shift = self._brightness(pixels, values, context)
        shift *= np.float32(values["amount"] * context.height)
        angle = math.radians(values["angle"])
        right, down = np.float32(math.cos(angle)), np.float32(-math.sin(angle))
        return displace(pixels, -shift * right, -shift * down)

    def _brightness(
        self, pixels: Pixels, values: Values, context: FrameContext
    ) -> NDArray[np.float32]:
        if values["by"] == "noise":
            pitch = _NOISE_PITCH * context.height
            return field(values["seed"], (context.height, context.width), pitch)
        shown = Picture(pixels, "linear" if context.light == "linear" else "display")
        if values["by"] == "other" and context.other is not None:
            shown = context.other()
        smooth = _SMOOTH * context.height
        brightness = gaussian(luma(shown.to("display").pixels), sigma_x=smooth, sigma_y=smooth)
        return 2 * brightness - 1
