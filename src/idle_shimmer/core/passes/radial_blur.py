"""Radial blur: zoom or spin about a point."""

import math
from typing import Any, Literal

from idle_shimmer.core.facts import Fact, UnitWhen, choice
from idle_shimmer.core.filters.around import spin, zoom
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number, point
from idle_shimmer.core.picture import Pixels

MOST_ZOOM = 1.9


def _followed(movement: Movement, owner: Any) -> float:
    """The spread of scales, or of degrees, that the followed pass goes through in a frame."""
    if owner.style == "spin":
        return abs(movement.turn_deg)
    return 2 * math.tanh(abs(movement.zoom) / 2)


AMOUNT = Fact(
    "Amount",
    "amount",
    "ratio",
    rest=0,
    low=0,
    high=360,
    step=0.01,
    usual=0.3,
    moves="swell",
    follow=_followed,
    unit_when=UnitWhen("style", "spin", unit="deg", usual=20),
)
CENTRE = Fact("Centre", "point", low=-1, high=2, step=0.01, flips="place")


class RadialBlur(PicturePass):
    """Zoom: averaged over scale 1 - a/2 … 1 + a/2 about ``centre``. Spin: over ±a/2 degrees."""

    title = "Radial blur"
    family = "blur"
    purpose = "Smears towards a point (zoom) or around it (spin)."

    kind: Literal["radial_blur"] = "radial_blur"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    style: choice("Style", "zoom", "spin") = "zoom"  # type: ignore[valid-type]
    centre: point(CENTRE) = (0.5, 0.5)  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """The uniform average; a zoom of more than MOST_ZOOM is held there."""
        centre = context.in_pixels(values["centre"])
        if values["style"] == "spin":
            return spin(pixels, amount_deg=values["amount"], centre=centre)
        return zoom(pixels, amount=min(values["amount"], MOST_ZOOM), centre=centre)
