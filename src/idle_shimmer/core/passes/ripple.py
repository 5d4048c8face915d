"""Ripple: waves run through the picture."""

import math
from typing import Any, Literal

import numpy as np

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, Values, number

AMOUNT = Fact(
    "Amount", "amount", "height", rest=0, low=0, high=1, step=0.005, usual=0.03, moves="swell"
)
WAVELENGTH = Fact("Wavelength", "amount", "height", low=0.01, high=10, step=0.01)
PHASE = Fact("Phase", "whole", "turns", low=-1000, high=1000, step=0.05, flips="phase")
ANGLE = Fact("Angle", "angle", "deg", low=-3600, high=3600, step=1, flips="angle")


@kernel
def _waves(xs: Any, ys: Any, shades: Any, parameters: Any) -> None:
    across, down, phase = parameters[0, 0], parameters[0, 1], parameters[0, 2]
    push_x, push_y = parameters[1, 0], parameters[1, 1]
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            wave = math.sin(across * xs[i, j] + down * ys[i, j] + phase)
            xs[i, j] -= push_x * wave
            ys[i, j] -= push_y * wave


class Ripple(GeometryPass):
    """Sine waves that run along ``angle`` and push the picture sideways to it, by ``amount``."""

    title = "Ripple"
    family = "geometry"
    purpose = "Lets waves run through the picture, as over water."

    kind: Literal["ripple"] = "ripple"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    wavelength: number(WAVELENGTH) = 0.25  # type: ignore[valid-type]
    phase: number(PHASE) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 90.0  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> Stage:
        """The waves, counted from the frame's centre."""
        angle = math.radians(values["angle"])
        along, rise = math.cos(angle), -math.sin(angle)
        pace = math.tau / (values["wavelength"] * context.height)
        amount_px = values["amount"] * context.height
        middle = pace * (along * context.width + rise * context.height) / 2
        parameters = np.array(
            [
                [pace * along, pace * rise, math.tau * values["phase"] - middle],
                [-rise * amount_px, along * amount_px, 0.0],
            ]
        )
        return Stage(_waves, parameters, values["edge"])
