"""Radial blur: zoom or spin about a point. Beyond the edge lies the mirrored picture."""

import math
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from idle_shimmer.core.animation.envelope import Follow
from idle_shimmer.core.filters.base import (
    FrameContext,
    MovementOf,
    PictureFilter,
    Values,
    number,
    point,
)
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.kernels.spin_blur import spin
from idle_shimmer.core.kernels.zoom_blur import zoom
from idle_shimmer.core.parameters import Following, Parameter, UnitWhen, choice
from idle_shimmer.core.picture.encoding import Pixels

MAX_ZOOM = 1.9
# The mean distance of a 16:9 frame's points from its centre, in frame heights.
_MEAN_DISTANCE = 0.5


def _followed(movement: Movement, owner: Any) -> float:
    """Return the spread of scales, or of degrees, that the movement covers in a frame."""
    if owner.style == "spin":
        return abs(movement.turn_deg)
    return 2 * math.tanh(abs(movement.zoom) / 2)


AMOUNT = Parameter(
    "Amount",
    "amount",
    "ratio",
    rest=0,
    low=0,
    high=360,
    step=0.01,
    usual=0.3,
    moves="swell",
    follow=Following(_followed, noticeable=lambda owner: 4.0 if owner.style == "spin" else 0.05),
    unit_when=UnitWhen("style", "spin", unit="deg", usual=20),
)
CENTRE = Parameter("Centre", "point", low=-1, high=2, step=0.01, orientation="position")


class RadialBlur(PictureFilter):
    """Zoom: the average over scales 1 - a/2 … 1 + a/2 about ``centre``. Spin: over ±a/2 degrees."""

    title = "Radial blur"
    family = "blur"
    purpose = "Blurs towards a point (zoom) or around it (spin)."
    examples: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "spin": {"style": "spin", "amount": 20.0}
    }

    kind: Literal["radial_blur"] = "radial_blur"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    style: choice("Style", "zoom", "spin") = "zoom"  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def values_at(
        self, u: float, movement_of: MovementOf, constant: Mapping[str, Any] | None = None
    ) -> dict[str, Any]:
        """Return the values at ``u``; where the amount follows a filter, so does the centre."""
        values = super().values_at(u, movement_of, constant)
        if isinstance(self.amount, Follow):
            centre = movement_of(self.amount.target).centre
            values["centre"] = values["centre"] if centre is None else CENTRE.clamp(centre)
        return values

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the uniform average; a zoom amount above ``MAX_ZOOM`` is limited to it."""
        centre = context.in_pixels(values["centre"])
        if values["style"] == "spin":
            return spin(pixels, amount_deg=values["amount"], centre=centre)
        return zoom(pixels, amount=min(values["amount"], MAX_ZOOM), centre=centre)

    def softening(self, values: Values) -> float:
        """Return the length of the blur at the frame's mean distance from its centre."""
        spread = values["amount"]
        if values["style"] == "spin":
            spread = math.radians(spread)
        return float(spread * _MEAN_DISTANCE)

    @classmethod
    def zoom_cover(cls, amount: float) -> dict[str, Any]:
        """Return a zoom blur that peaks at the cut."""
        swell = {"kind": "swell", "peak": amount, "rise": "ease-out", "fall": "ease-in"}
        return {"style": "zoom", "amount": swell}
