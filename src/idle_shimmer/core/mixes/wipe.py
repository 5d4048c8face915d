"""The wipe: incoming is revealed where a matte is below the progress."""

import re
from functools import lru_cache
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag, model_validator

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.kernels.blend import Share, blend
from idle_shimmer.core.mixes import wipe_shapes  # noqa: F401  (importing the package registers the shapes)
from idle_shimmer.core.mixes.base import MixContext, SpannedMix
from idle_shimmer.core.mixes.wipe_shapes.base import drawn, shapes, turned_shape
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.parameters import Parameter, switch
from idle_shimmer.core.picture.encoding import Picture, Pixels, luma
from idle_shimmer.core.picture.noise import field, hashed

Matte = NDArray[np.float32]
SOFTNESS = Parameter("Softness", "factor", "ratio", low=0, high=1, step=0.01)
_ROTATING = ("clockWipe", "pinWheelWipe")
_OCTAVES = ((1.0, 1.0), (0.5, 0.5), (0.25, 0.25))
_CLOUDS_SPREAD = 0.95
_Size = Annotated[float, Field(strict=True, gt=0, le=5, allow_inf_nan=False)]
_Seed = Annotated[int, Field(strict=True, ge=0, le=2**31 - 1)]


class _Matte(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ShapeMatte(_Matte):
    """A shape of W3C SMIL 3.0 Transition Effects, drawn at any size."""

    type: str = "barWipe"
    subtype: str = ""

    @model_validator(mode="before")
    @classmethod
    def _first_subtype(cls, data: Any) -> Any:
        if isinstance(data, dict) and not data.get("subtype"):
            first = next((sub for kind, sub in shapes() if kind == data.get("type", "barWipe")), "")
            return {**data, "subtype": first}
        return data

    @model_validator(mode="after")
    def _known(self) -> "ShapeMatte":
        if (self.type, self.subtype) not in shapes():
            subtypes = [sub for kind, sub in shapes() if kind == self.type]
            kinds = dict.fromkeys(kind for kind, _ in shapes())
            known = ", ".join(subtypes or kinds)
            what = f"subtype '{self.subtype}' of {self.type}" if subtypes else f"type '{self.type}'"
            raise ValueError(f"there is no wipe {what}: use one of {known}")
        return self

    def flipped(self, axis: Axis) -> "tuple[ShapeMatte, bool]":
        """Return the mirrored shape, where it has a name, and whether the wipe must be inverted."""
        pairs = [("clockwise", "counterClockwise"), ("Clockwise", "CounterClockwise")]
        sides = ("left", "right") if axis == "horizontal" else ("top", "bottom")
        pairs += [sides, (sides[0].capitalize(), sides[1].capitalize())]
        if self.type in _ROTATING:
            # Mirrored these rotate the other way, which is the same as being revealed backwards.
            hours = ("Three", "Nine") if axis == "horizontal" else ("Twelve", "Six")
            pairs = [hours]
        elif axis == "vertical":
            pairs += [("up", "down"), ("Up", "Down")]
        pattern = re.compile("|".join(sorted((w for p in pairs for w in p), key=len, reverse=True)))
        other = {a: b for pair in pairs for a, b in (pair, pair[::-1])}
        name = pattern.sub(lambda found: other[found[0]], self.subtype)
        if (self.type, name) in shapes():
            return self.model_copy(update={"subtype": name}), self.type in _ROTATING
        along = {"leftToRight": "horizontal", "topToBottom": "vertical"}.get(self.subtype)
        return self, along == axis

    def turned(self) -> "tuple[ShapeMatte, bool] | None":
        """Return the shape turned by a quarter and whether the wipe must be inverted; None without one."""
        found = turned_shape(self.type, self.subtype)
        if found is None:
            return None
        kind, subtype, inverted = found
        return self.model_copy(update={"type": kind, "subtype": subtype}), inverted

    def drawn(self, _outgoing: Picture, _incoming: Picture, context: MixContext) -> Matte:
        """Return the shape, 0…1."""
        return drawn(self.type, self.subtype, context.width, context.height)


class ImageMatte(_Matte):
    """The brightness of a picture of the user's, by its id."""

    image: Annotated[str, Field(min_length=1, max_length=500)]

    def drawn(self, _outgoing: Picture, _incoming: Picture, context: MixContext) -> Matte:
        """Return the luma of the picture's display values; raises InvalidValue where it is missing."""
        if context.matte_of is None:
            raise InvalidValue(
                f"the matte '{self.image}' is missing: choose another picture",
                field="mix.matte.image",
            )
        return context.matte_of(self.image)


class Cells(_Matte):
    """The size of clouds or blocks, in frame heights, and their seed."""

    size: _Size = 0.25
    seed: _Seed = 1


class CloudsMatte(_Matte):
    """Seeded clouds: three octaves of smooth noise."""

    clouds: Cells

    def drawn(self, _outgoing: Picture, _incoming: Picture, context: MixContext) -> Matte:
        """Return noise spread over 0…1, so that equal steps of progress reveal about equal areas."""
        return _clouds(self.clouds, context.width, context.height)


class BlocksMatte(_Matte):
    """Seeded squares that appear one by one."""

    blocks: Cells

    def drawn(self, _outgoing: Picture, _incoming: Picture, context: MixContext) -> Matte:
        """Return a number for each square, laid out from the frame's centre."""
        return _blocks(self.blocks, context.width, context.height)


class BrightnessMatte(_Matte):
    """The brightness of either clip: dark parts change first."""

    brightness: Literal["outgoing", "incoming"]

    def drawn(self, outgoing: Picture, incoming: Picture, _context: MixContext) -> Matte:
        """Return the luma of display values (ITU-R BT.709 weights, from memory)."""
        shown = outgoing if self.brightness == "outgoing" else incoming
        return luma(shown.to("display").pixels)


# The same for every frame of a window, like the shapes: do not write to the results.
@lru_cache(maxsize=4)
def _clouds(cells: Cells, width: int, height: int) -> Matte:
    total = np.zeros((1, 1), np.float32)
    for place, (pitch, weight) in enumerate(_OCTAVES):
        pitch_px, seed = max(1.0, cells.size * pitch * height), cells.seed + 7919 * place
        total = total + np.float32(weight) * field(seed, (height, width), pitch_px)
    return (0.5 + 0.5 * np.tanh(total / np.float32(_CLOUDS_SPREAD / 1.6))).astype(np.float32)


@lru_cache(maxsize=4)
def _blocks(cells: Cells, width: int, height: int) -> Matte:
    size_px = cells.size * height
    i, j = (
        np.floor((np.arange(n) + 0.5 - n / 2) / size_px).astype(np.int64) for n in (height, width)
    )
    return hashed(cells.seed, i[:, None], j[None, :]).astype(np.float32)


_KINDS = ("image", "clouds", "blocks", "brightness")


def _matte_tag(value: Any) -> str:
    given = value if isinstance(value, dict) else vars(value) if hasattr(value, "__dict__") else {}
    return next((name for name in _KINDS if name in given), "shape")


AnyMatte = Annotated[
    Annotated[ShapeMatte, Tag("shape")]
    | Annotated[ImageMatte, Tag("image")]
    | Annotated[CloudsMatte, Tag("clouds")]
    | Annotated[BlocksMatte, Tag("blocks")]
    | Annotated[BrightnessMatte, Tag("brightness")],
    Discriminator(_matte_tag),
]


class Wipe(SpannedMix):
    """Reveals incoming where ``matte`` < progress, over a border ``softness`` wide in matte values.

    The border is at least about a pixel wide. ``invert`` reveals the other parts first.
    """

    title = "Wipe"
    purpose = "Reveals the incoming picture along a shape, clouds, blocks or a clip's brightness."

    kind: Literal["wipe"] = "wipe"
    matte: Annotated[AnyMatte, Parameter("Matte", "matte")] = ShapeMatte(subtype="leftToRight")
    softness: Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False), SOFTNESS] = 0.05
    invert: switch("Invert") = False  # type: ignore[valid-type]

    def flipped(self, axis: Axis) -> "Wipe":
        """Return the wipe with its shape mirrored, where that exists; other mattes are unchanged."""
        if not isinstance(self.matte, ShapeMatte):
            return self
        matte, inverted = self.matte.flipped(axis)
        return self.model_copy(update={"matte": matte, "invert": self.invert ^ inverted})

    def turned(self) -> "Wipe":
        """Return the wipe with its shape turned, where there is such a shape; others are unchanged."""
        turned = self.matte.turned() if isinstance(self.matte, ShapeMatte) else None
        if turned is None:
            return self
        matte, inverted = turned
        return self.model_copy(update={"matte": matte, "invert": self.invert ^ inverted})

    def stays_upright(self) -> bool:
        """Whether its shape has no counterpart, or is a picture."""
        if isinstance(self.matte, ShapeMatte):
            return self.matte.turned() is None
        return isinstance(self.matte, ImageMatte)

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Return a weighted sum of display values; nothing is revealed at progress 0, all at 1."""
        share = self._share(outgoing, incoming, progress, context)
        return blend(outgoing, incoming, share, context.wanted)

    def join_mattes(
        self,
        outgoing: Pixels,
        incoming: Pixels,
        pictures: tuple[Picture, Picture],
        progress: float,
        context: MixContext,
    ) -> Pixels:
        """Return the mattes, revealed as the pictures are."""
        mattes = Picture(outgoing, "display"), Picture(incoming, "display")
        share = self._share(*pictures, progress, context)
        return blend(*mattes, share, "display").to("display").pixels

    def _share(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Share:
        """Return how much of incoming is seen at each pixel."""
        matte = self.matte.drawn(outgoing, incoming, context)
        soft = max(self.softness, 1 / context.height)
        border = progress * (1 + soft)
        # The share is (border - matte) / soft, of the matte or of 1 - matte.
        slope, start = (1, border - 1) if self.invert else (-1, border)
        return Share(matte, slope=slope / soft, start=start / soft)
