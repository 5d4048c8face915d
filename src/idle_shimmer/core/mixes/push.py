"""The push: incoming slides in and pushes outgoing off the frame."""

import itertools
import math
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from idle_shimmer.core.geometry.transforms import translation
from idle_shimmer.core.geometry.translate import shift_codes_into
from idle_shimmer.core.geometry.warp import warp
from idle_shimmer.core.kernels.blend import Share, blend
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.parameters import Parameter, choice
from idle_shimmer.core.picture.encoding import Encoding, Picture, Pixels

FEATHER = Parameter("Feather", "amount", "ratio", low=0, high=1, step=0.01)
# How far an interpolation reads around a point.
_TAPS_PX = 3
# The direction of the movement: (right, down).
_TURNED = ("left", "bottom", "right", "top")
_DIRECTIONS = {"left": (1, 0), "right": (-1, 0), "top": (0, 1), "bottom": (0, -1)}


class Push(SpannedMix):
    """Incoming enters from a side; ``feather`` is the soft border's width, as a share of the frame."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    title = "Push"
    purpose = "Slides the incoming picture in, which pushes the outgoing one out."

    kind: Literal["push"] = "push"
    origin: choice("Comes from", "left", "right", "top", "bottom") = Field(  # type: ignore[valid-type]
        default="left", alias="from"
    )
    feather: Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False), FEATHER] = 0.0

    def displacement(self, u: float) -> tuple[float, float]:
        """Return how far both pictures have been pushed."""
        right, down = _DIRECTIONS[self.origin]
        return right * self.progress(u), down * self.progress(u)

    def flipped(self, axis: Axis) -> "Push":
        """Return the push from the other side, where that lies along the axis."""
        pair = ("left", "right") if axis == "horizontal" else ("top", "bottom")
        if self.origin not in pair:
            return self
        return self.model_copy(update={"origin": pair[1 - pair.index(self.origin)]})

    def turned(self) -> "Push":
        """Return the push from the next side, counter-clockwise."""
        origin = _TURNED[(_TURNED.index(self.origin) + 1) % len(_TURNED)]
        return self.model_copy(update={"origin": origin})

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Return both pictures, moved and joined along the border between them.

        Beyond its edges each picture is mirrored, so that a feather shows no edge. Each is moved
        only where it is seen.
        """
        right, down = _DIRECTIONS[self.origin]
        axis, length_px = (1, context.width) if right else (0, context.height)
        at = np.arange(length_px, dtype=np.float64) + 0.5
        distance = at if right + down > 0 else length_px - at
        soft = max(self.feather * length_px, 1.0)
        # The border starts and ends outside the frame, so that the ends are whole.
        border = progress * (length_px + soft) - soft / 2
        share = np.clip((border - distance) / soft + 0.5, 0, 1).astype(np.float32)
        sides = (
            _Moved(outgoing, axis, (right + down) * progress * length_px),
            _Moved(incoming, axis, (right + down) * (progress - 1) * length_px),
        )
        encoding = context.wanted
        out = np.empty(outgoing.pixels.shape, np.uint8 if encoding == "codes" else np.float32)
        for first, end in _runs(share):
            here = share[first:end]
            if here[0] in (0, 1):
                sides[int(here[0])].put(first, end, encoding, out)
                continue
            plane = here[None, :] if right else here[:, None]
            seen = [side.part(first, end, "display") for side in sides]
            mixed = blend(seen[0], seen[1], Share(plane), encoding)
            out.swapaxes(0, axis)[first:end] = mixed.pixels.swapaxes(0, axis)
        return Picture(out, encoding)

    def join_mattes(
        self,
        outgoing: Pixels,
        incoming: Pixels,
        pictures: tuple[Picture, Picture],
        progress: float,
        context: MixContext,
    ) -> Pixels:
        """Return the mattes moved as the pictures are."""
        mattes = Picture(outgoing, "display"), Picture(incoming, "display")
        joined = self.join(*mattes, progress, replace(context, wanted="display"))
        return joined.to("display").pixels


def _runs(share: NDArray[np.float32]) -> list[tuple[int, int]]:
    """Return (first, end) of the rows or columns that show one picture, both, and the other."""
    kind = np.where(share == 0, 0, np.where(share == 1, 1, 2))
    changes = [0, *(np.flatnonzero(np.diff(kind)) + 1).tolist(), share.size]
    return list(itertools.pairwise(changes))


class _Moved:
    """A picture moved along an axis, mirrored beyond its edges."""

    def __init__(self, picture: Picture, axis: int, shift_px: float) -> None:
        self._picture, self._axis = picture, axis
        self._whole = math.floor(shift_px)
        self._fraction = shift_px - self._whole

    def put(self, first: int, end: int, encoding: Encoding, out: NDArray[Any]) -> None:
        """Write rows or columns ``first`` … ``end`` - 1 of the moved picture to those of ``out``."""
        if self._picture.encoding == encoding == "codes":
            shift = self._whole + self._fraction
            height, width = out.shape[:2]
            if self._axis == 1:
                shift_codes_into(out, self._picture.pixels, shift, 0.0, (first, 0, end, height))
            else:
                shift_codes_into(out, self._picture.pixels, 0.0, shift, (0, first, width, end))
            return
        pixels = self.part(first, end, encoding).pixels
        out.swapaxes(0, self._axis)[first:end] = pixels.swapaxes(0, self._axis)

    def part(self, first: int, end: int, encoding: Encoding) -> Picture:
        """Return rows or columns ``first`` … ``end`` - 1 of the moved picture."""
        if self._fraction == 0:
            return self._cut(first - self._whole, end - self._whole).to(encoding)
        near = self._cut(first - self._whole - _TAPS_PX, end - self._whole + _TAPS_PX)
        shift = (self._fraction, 0.0) if self._axis == 1 else (0.0, self._fraction)
        moved = warp(near.to("display").pixels, [[translation(shift, "mirror")]])
        # Converted before it is cut out: a part of it would have to be copied first.
        pixels = Picture(moved, "display").to(encoding).pixels
        inside = slice(_TAPS_PX, pixels.shape[self._axis] - _TAPS_PX)
        return Picture(pixels[:, inside] if self._axis == 1 else pixels[inside], encoding)

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
        return Picture(cut.swapaxes(0, self._axis), self._picture.encoding)
