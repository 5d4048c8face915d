"""What every mix is: how far it has gone at a time, and how it joins two pictures."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, model_validator

from idle_shimmer.core.animation.easing import Easing, curve
from idle_shimmer.core.animation.times import EnvelopeTime, Placing, in_order, u_of
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Encoding, Picture, Pixels

_REGISTRY: dict[str, type["Mix"]] = {}

# Gives the picture of a wipe by its id: luma of display values, float32 (H, W), 0…1.
MatteOf = Callable[[str], NDArray[np.float32]]


@dataclass(frozen=True, slots=True)
class MixContext:
    """Where a mix works: frame number from the cut, frame size in pixels, the user's mattes.

    ``wanted`` is the encoding in which the result is used next; a mix may return another.
    """

    offset: int
    width: int
    height: int
    matte_of: MatteOf | None = None
    wanted: Encoding = "display"


class Mix(BaseModel):
    """How outgoing becomes incoming. Subclasses with a ``kind`` register themselves.

    ``joins_one_shot`` is True where both sides must show the same things.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    title: ClassVar[str]
    purpose: ClassVar[str]
    joins_one_shot: ClassVar[bool] = False

    kind: str

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        kind = cls.model_fields["kind"].default
        if not isinstance(kind, str):
            return
        if kind in _REGISTRY:
            raise TypeError(f"two mixes have the kind '{kind}': {_REGISTRY[kind]} and {cls}")
        _REGISTRY[kind] = cls

    def progress(self, u: float) -> float:
        """Return how far the mix has gone at envelope time ``u``: 0 all outgoing, 1 all incoming."""
        raise NotImplementedError

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """Return the two pictures joined at a progress between 0 and 1, both excluded."""
        raise NotImplementedError

    def join_mattes(
        self,
        outgoing: Pixels,
        incoming: Pixels,
        pictures: tuple[Picture, Picture],
        progress: float,
        context: MixContext,
    ) -> Pixels:
        """Return the mattes (H, W, 3) of the subjects of both ``pictures`` as these are joined.

        Linear in the progress, unless the mix moves or covers pictures.
        """
        return (outgoing + np.float32(progress) * (incoming - outgoing)).astype(np.float32)

    def placed(self, placing: Placing) -> "Mix":
        """Return the mix with its times as u."""
        return self

    def displacement(self, u: float) -> tuple[float, float] | None:
        """Return how far the pictures have moved at ``u``, in frame widths rightward and heights downward.

        None where the mix moves nothing, so that nothing can follow it.
        """
        return None

    def flipped(self, axis: Axis) -> "Mix":
        """Return the mix for the picture flipped along ``axis``."""
        return self

    def turned(self) -> "Mix":
        """Return the mix for the picture turned by a quarter, counter-clockwise; see ``stays_upright``."""
        return self

    def stays_upright(self) -> bool:
        """Whether what it does cannot be turned with the picture."""
        return False

    @classmethod
    @cache
    def parameters(cls) -> dict[str, Parameter]:
        """Return every parameter of its own, by field name."""
        return {
            name: parameter
            for name, field in cls.model_fields.items()
            for parameter in field.metadata
            if isinstance(parameter, Parameter)
        }


class SpannedMix(Mix):
    """A mix that runs from ``span[0]`` to ``span[1]`` of the window, along ``easing``."""

    span: tuple[EnvelopeTime, EnvelopeTime] = (-1.0, 1.0)
    easing: Easing = "linear"

    @model_validator(mode="after")
    def _in_order(self) -> "SpannedMix":
        if not in_order(*self.span):
            raise ValueError("the span must not end before it starts")
        return self

    def placed(self, placing: Placing) -> "SpannedMix":
        """Return the mix with its span as u."""
        start, end = map(placing.at, self.span)
        return self.model_copy(update={"span": (start, max(start, end))})

    def progress(self, u: float) -> float:
        """Return the eased progress, clamped to 0…1 where the easing overshoots."""
        start, end = map(u_of, self.span)
        if u <= start and start < end:
            return 0.0
        if u >= end:
            return 1.0
        return min(max(curve(self.easing)((u - start) / (end - start)), 0.0), 1.0)


def registered() -> dict[str, type[Mix]]:
    """Return every mix by its kind."""
    return dict(_REGISTRY)
