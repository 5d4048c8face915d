"""The framing of a clip: its placement and grade, before all filters."""

from collections.abc import Callable, Iterable
from functools import cached_property
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from idle_shimmer.core.geometry.transforms import AffineTransform, CoordinateTransform, placement
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


class FramedPicture:
    """A picture and where it will lie in a frame of ``size`` (W, H): not yet sampled.

    Geometry filters that follow are composed with its place, and with the change to the frame's size where
    the picture is had as large as its source, so that it is sampled once.
    """

    def __init__(
        self,
        size: tuple[int, int],
        fitted: Callable[[], Picture],
        whole: Callable[[], Picture] | None = None,
        stage: CoordinateTransform | None = None,
    ) -> None:
        """``fitted`` gives the picture filling the frame, ``whole`` at its own size; ``stage`` is its place."""
        self.size, self.stage = size, stage
        self._fitted, self._whole = fitted, whole

    @cached_property
    def picture(self) -> Picture:
        """The picture, filling the frame, before it is placed."""
        return self._fitted()

    @cached_property
    def whole(self) -> Picture | None:
        """The picture at its own size; None where that is not to be had."""
        return None if self._whole is None else self._whole()

    @property
    def has_whole(self) -> bool:
        """Whether the picture is to be had at its own size."""
        return self._whole is not None

    def prepare(self, *, for_map: bool) -> None:
        """Read now what will be asked for: by a map, or without one."""
        _ = self.whole if self.has_whole and (for_map or self.stage is not None) else self.picture

    def mapped_from(self) -> tuple[Picture, list[CoordinateTransform]]:
        """Return what a map samples, and the stages that come before those of filters."""
        place = [] if self.stage is None else [self.stage]
        if self.whole is None:
            return self.picture, place
        height, width = self.whole.pixels.shape[:2]
        return self.whole, [covering((width, height), self.size), *place]

    def sampled(self) -> Picture:
        """Return the picture in its place, unrounded; where nothing moves it, as it fills the frame."""
        if self.stage is None:
            return self.picture
        picture, stages = self.mapped_from()
        return Picture(warp(picture.to("linear").pixels, [stages], self.size), "linear")

    def with_picture(self, picture: Picture) -> "Picture | FramedPicture":
        """Return another picture that fills the frame in the place of this one."""
        if self.stage is None:
            return picture
        return FramedPicture(self.size, lambda: picture, None, self.stage)


def joined(
    one: FramedPicture, other: FramedPicture, join: Callable[[Picture, Picture], Picture]
) -> FramedPicture:
    """Return two pictures that lie in one place, of one size, as one."""

    def whole() -> Picture:
        assert one.whole is not None
        assert other.whole is not None
        return join(one.whole, other.whole)

    return FramedPicture(
        one.size,
        lambda: join(one.picture, other.picture),
        whole if one.has_whole and other.has_whole else None,
        one.stage,
    )


def covering(source: tuple[int, int], frame: tuple[int, int]) -> AffineTransform:
    """Return the stage that scales a picture of size (W, H) to cover the frame, centred."""
    factor = max(frame[0] / source[0], frame[1] / source[1])
    left, top = ((own - side / factor) / 2 for own, side in zip(source, frame, strict=True))
    matrix = np.array([[1 / factor, 0.0, left], [0.0, 1 / factor, top]])
    return AffineTransform(matrix, "mirror")


def framed(
    size: tuple[int, int],
    framing: Framing,
    fitted: Callable[[], Picture],
    whole: Callable[[], Picture] | None = None,
) -> FramedPicture:
    """Return a clip's picture with its framing, read when it is needed.

    ``fitted`` reads it filling the frame of ``size`` (W, H), ``whole`` at its own size. Colours are matched
    at once. What the picture leaves open is filled with the mirrored picture: framing never shows an edge.
    """

    def graded(picture: Picture) -> Picture:
        if not framing.grades:
            return picture
        gain, offset = (np.array(each, np.float32) for each in (framing.gain, framing.offset))
        return Picture(picture.to("display").pixels * gain + offset, "display")

    width, height = size
    stage = placement(
        (framing.scale, framing.scale),
        framing.turn / 360,
        (width / 2, height / 2),
        (framing.x * width, framing.y * height),
        "mirror",
    )
    return FramedPicture(
        size,
        lambda: graded(fitted()),
        None if whole is None else lambda: graded(whole()),
        None if stage.is_identity(width, height) else stage,
    )


def apply_framing(picture: Picture, framing: Framing) -> Picture:
    """Return a picture placed in a frame of its size, unrounded; itself where nothing is set."""
    height, width = picture.pixels.shape[:2]
    return framed((width, height), framing, lambda: picture).sampled()
