"""The push: incoming slides in and shoves outgoing off the frame."""

import itertools
import math
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from idle_shimmer.core.facts import Axis, Fact, choice
from idle_shimmer.core.filters.blend import Share, blended
from idle_shimmer.core.geometry.lookup import look_up
from idle_shimmer.core.geometry.shift import shift_codes_into
from idle_shimmer.core.geometry.stages import translation
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.picture import Light, Picture

FEATHER = Fact("Feather", "amount", "ratio", low=0, high=1, step=0.01)
# As far as an interpolation looks around a point.
_TAPS_PX = 3
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

        Beyond the border each picture is mirrored, so that a feather shows no edge. Each is moved
        only where it is seen.
        """
        right, down = _WAY[self.origin]
        axis, way_px = (1, context.width) if right else (0, context.height)
        at = np.arange(way_px, dtype=np.float64) + 0.5
        entered = at if right + down > 0 else way_px - at
        soft = max(self.feather * way_px, 1.0)
        # The border starts and ends outside the frame, so that the ends are whole.
        border = progress * (way_px + soft) - soft / 2
        share = np.clip((border - entered) / soft + 0.5, 0, 1).astype(np.float32)
        sides = (
            _Moved(outgoing, axis, (right + down) * progress * way_px),
            _Moved(incoming, axis, (right + down) * (progress - 1) * way_px),
        )
        light = context.wanted
        out = np.empty(outgoing.pixels.shape, np.uint8 if light == "codes" else np.float32)
        for first, end in _stretches(share):
            here = share[first:end]
            if here[0] in (0, 1):
                sides[int(here[0])].put(first, end, light, out)
                continue
            plane = here[None, :] if right else here[:, None]
            seen = [side.part(first, end, "display") for side in sides]
            mixed = blended(seen[0], seen[1], Share(plane), light)
            out.swapaxes(0, axis)[first:end] = mixed.pixels.swapaxes(0, axis)
        return Picture(out, light)


def _stretches(share: NDArray[np.float32]) -> list[tuple[int, int]]:
    """(first, end) of the stretches that show one picture, both, and the other."""
    kind = np.where(share == 0, 0, np.where(share == 1, 1, 2))
    changes = [0, *(np.flatnonzero(np.diff(kind)) + 1).tolist(), share.size]
    return list(itertools.pairwise(changes))


class _Moved:
    """A picture moved along an axis, mirrored beyond its edges."""

    def __init__(self, picture: Picture, axis: int, shift_px: float) -> None:
        self._picture, self._axis = picture, axis
        self._whole = math.floor(shift_px)
        self._broken = shift_px - self._whole

    def put(self, first: int, end: int, light: Light, out: NDArray[Any]) -> None:
        """Rows or columns ``first`` … ``end`` - 1 of the moved picture into those of ``out``."""
        if self._picture.light == light == "codes":
            shift = self._whole + self._broken
            height, width = out.shape[:2]
            if self._axis == 1:
                shift_codes_into(out, self._picture.pixels, shift, 0.0, (first, 0, end, height))
            else:
                shift_codes_into(out, self._picture.pixels, 0.0, shift, (0, first, width, end))
            return
        pixels = self.part(first, end, light).pixels
        out.swapaxes(0, self._axis)[first:end] = pixels.swapaxes(0, self._axis)

    def part(self, first: int, end: int, light: Light) -> Picture:
        """Rows or columns ``first`` … ``end`` - 1 of the moved picture, in ``light``."""
        if self._broken == 0:
            return self._cut(first - self._whole, end - self._whole).to(light)
        near = self._cut(first - self._whole - _TAPS_PX, end - self._whole + _TAPS_PX)
        shift = (self._broken, 0.0) if self._axis == 1 else (0.0, self._broken)
        moved = look_up(near.to("display").pixels, [[translation(shift, "mirror")]])
        # Brought to the light while it is of one piece: a part of it would have to be copied first.
        pixels = Picture(moved, "display").to(light).pixels
        inside = slice(_TAPS_PX, pixels.shape[self._axis] - _TAPS_PX)
        return Picture(pixels[:, inside] if self._axis == 1 else pixels[inside], light)

    def _cut(self, first: int, end: int) -> Picture:
        pixels = self._picture.pixels.swapaxes(0, self._axis)
        size, parts, at = pixels.shape[0], [], first
        while at < end:
            copy, begin = divmod(at, size)
            length = min(end - at, size - begin)
            if copy % 2:
                parts.append(pixels[size - begin - length : size - begin][::-1])
            else:
                parts.append(pixels[begin : begin + length])
            at += length
        cut = parts[0] if len(parts) == 1 else np.concatenate(parts)
        return Picture(cut.swapaxes(0, self._axis), self._picture.light)
