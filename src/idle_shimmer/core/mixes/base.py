"""What every mix is: how far it has gone at a time, and how it joins two pictures."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from idle_shimmer.core.easing import Easing, curve
from idle_shimmer.core.facts import Axis, Fact
from idle_shimmer.core.picture import Light, Picture

Moment = Annotated[float, Field(strict=True, ge=-1, le=1, allow_inf_nan=False)]
_REGISTRY: dict[str, type["Mix"]] = {}


# The picture of a wipe by its id: its brightness in display light, float32 (H, W), 0…1.
MatteOf = Callable[[str], NDArray[np.float32]]


@dataclass(frozen=True, slots=True)
class MixContext:
    """Where a mix works: frame number from the cut, frame size in pixels, the user's mattes.

    ``wanted`` is the light in which its result is used next; it may give another.
    """

    offset: int
    width: int
    height: int
    matte_of: MatteOf | None = None
    wanted: Light = "display"


class Mix(BaseModel):
    """How outgoing becomes incoming. Subclasses with a ``kind`` register themselves."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    title: ClassVar[str]
    purpose: ClassVar[str]

    kind: str

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        kind = cls.model_fields["kind"].default
        if not isinstance(kind, str):
            return
        if kind in _REGISTRY:
            raise TypeError(f"two mixes are called '{kind}': {_REGISTRY[kind]} and {cls}")
        _REGISTRY[kind] = cls

    def progress(self, u: float) -> float:
        """How far the mix has gone at envelope time ``u``: 0 all outgoing, 1 all incoming."""
        raise NotImplementedError

    def join(
        self, outgoing: Picture, incoming: Picture, progress: float, context: MixContext
    ) -> Picture:
        """The two pictures joined at a progress between 0 and 1, both excluded."""
        raise NotImplementedError

    def flipped(self, axis: Axis) -> "Mix":
        """The mix for the picture flipped along ``axis``."""
        return self

    @classmethod
    @cache
    def facts(cls) -> dict[str, Fact]:
        """The facts of every parameter of its own, by field name."""
        return {
            name: fact
            for name, field in cls.model_fields.items()
            for fact in field.metadata
            if isinstance(fact, Fact)
        }


class SpannedMix(Mix):
    """A mix that takes from ``span[0]`` to ``span[1]`` of the window, eased by ``shape``."""

    span: tuple[Moment, Moment] = (-1.0, 1.0)
    shape: Easing = "linear"

    @model_validator(mode="after")
    def _in_order(self) -> "SpannedMix":
        if self.span[0] > self.span[1]:
            raise ValueError("span must not go backwards")
        return self

    def progress(self, u: float) -> float:
        """Eased progress, held inside 0…1 where the shape overshoots."""
        start, end = self.span
        if u <= start and start < end:
            return 0.0
        if u >= end:
            return 1.0
        return min(max(curve(self.shape)((u - start) / (end - start)), 0.0), 1.0)


def registered() -> dict[str, type[Mix]]:
    """Every mix by its kind."""
    return dict(_REGISTRY)
