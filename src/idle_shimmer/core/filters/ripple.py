"""Ripple: waves run through the picture. Lengths are in frame heights, the phase in turns."""

import math
from typing import Any, Literal

import numpy as np

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.filters.base import FrameContext, GeometryFilter, Values, number
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.parameters import Parameter

AMOUNT = Parameter(
    "Amount", "amount", "height", rest=0, low=0, high=1, step=0.005, usual=0.03, moves="swell"
)
WAVELENGTH = Parameter("Wavelength", "amount", "height", low=0.01, high=10, step=0.01)
PHASE = Parameter("Phase", "whole", "turns", low=-1000, high=1000, step=0.05, orientation="phase")
ANGLE = Parameter("Angle", "angle", "deg", low=-3600, high=3600, step=1, orientation="angle")


@kernel
def _waves(xs: Any, ys: Any, gains: Any, parameters: Any) -> None:
    across, down, phase = parameters[0, 0], parameters[0, 1], parameters[0, 2]
    push_x, push_y = parameters[1, 0], parameters[1, 1]
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            wave = math.sin(across * xs[i, j] + down * ys[i, j] + phase)
            xs[i, j] -= push_x * wave
            ys[i, j] -= push_y * wave


class Ripple(GeometryFilter):
    """Sine waves along ``angle`` that displace the picture across it by up to ``amount``."""

    title = "Ripple"
    family = "geometry"
    purpose = "Sends waves through the picture, as on water."

    kind: Literal["ripple"] = "ripple"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    wavelength: number(WAVELENGTH) = 0.25  # type: ignore[valid-type]
    phase: number(PHASE) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 90.0  # type: ignore[valid-type]

    def stage(self, values: Values, context: FrameContext) -> CoordinateTransform:
        """Return the displacement; the phase is counted from the frame's centre."""
        angle = math.radians(values["angle"])
        along, rise = math.cos(angle), -math.sin(angle)
        radians_per_px = math.tau / (values["wavelength"] * context.height)
        amount_px = values["amount"] * context.height
        middle = radians_per_px * (along * context.width + rise * context.height) / 2
        parameters = np.array(
            [
                [
                    radians_per_px * along,
                    radians_per_px * rise,
                    math.tau * values["phase"] - middle,
                ],
                [-rise * amount_px, along * amount_px, 0.0],
            ]
        )
        return CoordinateTransform(_waves, parameters, values["edge"])
