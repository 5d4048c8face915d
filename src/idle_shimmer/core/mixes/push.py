"""The push: incoming slides in and shoves outgoing off the frame."""

from typing import Annotated, Literal

import numpy as np
from pydantic import ConfigDict, Field

from idle_shimmer.core.facts import Axis, Fact, choice
from idle_shimmer.core.filters.blend import blended
from idle_shimmer.core.geometry.lookup import look_up
from idle_shimmer.core.geometry.stages import translation
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.picture import Picture

FEATHER = Fact("Feather", "amount", "ratio", low=0, high=1, step=0.01)
_WAY = {"left": (1, 0), "right": (-1, 0), "top": (0, 1), "bottom": (0, -1)}


class Push(SpannedMix):
    """Incoming enters from a side; ``feather`` is the soft border's width, of the way across."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    title = "Push"
    purpose = "Slides the next picture in, which shoves the last one out."

    kind: Literal["push"] = "push"
    origin: choice("Comes from", "left", "right", "top", "bottom") = Field(  # type: ignore[valid-type]
        default="left", alias="from"
    )
    feather: Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False), FEATHER] = 0.0

    def flipped(self, axis: Axis) -> "Push":
        """Comes from the other side, where that lies along the axis."""
        pair = ("left", "right") if axis == "left_right" else ("top", "bottom")
        if self.origin not in pair:
            return self
        return self.model_copy(update={"origin": pair[1 - pair.index(self.origin)]})

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Both pictures moved by whole and broken pixels, joined along the border between them.

        Beyond the border each picture is mirrored, so that a feather shows no edge.
        """
        right, down = _WAY[self.origin]
        way_px = context.width if right else context.height
        one = _moved(outgoing, right * progress * way_px, down * progress * way_px)
        gone = progress - 1
        other = _moved(incoming, right * gone * way_px, down * gone * way_px)
        at = np.arange(way_px, dtype=np.float64) + 0.5
        entered = at if right + down > 0 else way_px - at
        soft = max(self.feather * way_px, 1.0)
        # The border starts and ends outside the frame, so that the ends are whole.
        border = progress * (way_px + soft) - soft / 2
        share = np.clip((border - entered) / soft + 0.5, 0, 1).astype(np.float32)
        return blended(one, other, share[None, :] if right else share[:, None], context.wanted)


def _moved(picture: Picture, right_px: float, down_px: float) -> Picture:
    stage = translation((right_px, down_px), edge="mirror")
    return Picture(look_up(picture.to("display").pixels, [[stage]]), "display")
