"""The framing of a clip: its placement and grade, before all filters."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from idle_shimmer.core.geometry.transforms import CoordinateTransform, placement
from idle_shimmer.core.geometry.warp import warp
from idle_shimmer.core.picture.encoding import Picture

_Part = Annotated[float, Field(ge=0.1, le=10, allow_inf_nan=False)]
_Shift = Annotated[float, Field(ge=-1, le=1, allow_inf_nan=False)]


class Framing(BaseModel):
    """Scale about the frame's centre, rotation (degrees counter-clockwise), shift, and colour match.

    ``x`` is in frame widths, +right, ``y`` in frame heights, +down. ``gain`` and ``offset`` act on
    each channel's display values: v · gain + offset. The defaults change nothing.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    scale: Annotated[float, Field(ge=0.1, le=10, allow_inf_nan=False)] = 1.0
    x: Annotated[float, Field(ge=-2, le=2, allow_inf_nan=False)] = 0.0
    y: Annotated[float, Field(ge=-2, le=2, allow_inf_nan=False)] = 0.0
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    gain: Annotated[tuple[_Part, ...], Field(min_length=3, max_length=3)] = (1.0, 1.0, 1.0)
    offset: Annotated[tuple[_Shift, ...], Field(min_length=3, max_length=3)] = (0.0, 0.0, 0.0)

    @property
    def moves(self) -> bool:
        """Whether the picture is scaled, rotated or shifted."""
        return (self.scale, self.x, self.y, self.turn) != (1, 0, 0, 0)

    @property
    def grades(self) -> bool:
        """Whether colours are changed."""
        return self.gain != (1, 1, 1) or self.offset != (0, 0, 0)


UNFRAMED = Framing()


def source_scale(
    frame: tuple[int, int], *sources: tuple[int, int], framings: Iterable[Framing] = ()
) -> float:
    """Return how many frame pixels a source pixel covers, of the source that is enlarged most.

    Sizes are (W, H); a source is scaled to cover the frame, and by its framing, where those are given.
    """
    factors = [each.scale for each in framings] or [1.0] * len(sources)
    return max(
        factor * max(frame[0] / width, frame[1] / height)
        for factor, (width, height) in zip(factors, sources, strict=True)
    )


@dataclass(frozen=True, slots=True)
class FramedPicture:
    """A picture and where it will lie in the frame: not yet sampled.

    Geometry filters that follow are composed with ``stage``, so that the picture is sampled once.
    """

    picture: Picture
    stage: CoordinateTransform

    def sampled(self) -> Picture:
        """Return the picture in its place, unrounded."""
        return Picture(warp(self.picture.to("linear").pixels, [[self.stage]]), "linear")


def framed(picture: Picture, framing: Framing) -> Picture | FramedPicture:
    """Return the clip's picture with its framing; itself where nothing is set.

    Colours are matched at once, and the place is left to be sampled. What the picture leaves open is
    filled with the mirrored picture: framing never shows an edge.
    """
    if framing.grades:
        gain, offset = (np.array(each, np.float32) for each in (framing.gain, framing.offset))
        picture = Picture(picture.to("display").pixels * gain + offset, "display")
    if not framing.moves:
        return picture
    height, width = picture.pixels.shape[:2]
    stage = placement(
        (framing.scale, framing.scale),
        framing.turn / 360,
        (width / 2, height / 2),
        (framing.x * width, framing.y * height),
        "mirror",
    )
    if stage.is_identity(width, height):
        return picture
    return FramedPicture(picture, stage)


def apply_framing(picture: Picture, framing: Framing) -> Picture:
    """Return the clip's picture placed in the frame, unrounded; itself where nothing is set."""
    found = framed(picture, framing)
    return found if isinstance(found, Picture) else found.sampled()
