"""Regions: where in the picture a filter acts. A region belongs to the picture that enters the filter."""

from collections.abc import Callable
from typing import Annotated, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator

from idle_shimmer.core.animation.envelope import (
    Follow,
    PointEnvelope,
    placed,
    stated_values,
    value_at,
)
from idle_shimmer.core.animation.times import Placing
from idle_shimmer.core.orientation import Axis, flip_envelope, turn_envelope

# How much a filter acts at each pixel, float32 (H, W), 0…1; also the alpha of a subject.
Weight = NDArray[np.float32]
_MIDDLE, _USUAL_SIZE = (0.5, 0.5), (0.5, 0.5)
_MOST = 4.0


class _Region(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    @property
    def needs_subject(self) -> bool:
        """Whether the matte of a subject decides."""
        return False

    def weight(self, u: float, size: tuple[int, int], matte: Callable[[], Weight]) -> Weight:
        """Return how much the filter acts, at envelope time ``u`` on a frame of ``size`` (W, H)."""
        raise NotImplementedError

    def envelopes(self) -> dict[str, PointEnvelope]:
        """Return what of the region can be animated, by its name."""
        return {}

    def values_at(self, u: float) -> dict[str, tuple[float, float]]:  # noqa: ARG002
        """Return the values of ``envelopes`` at envelope time ``u``."""
        return {}

    def placed(self, placing: Placing) -> Self:
        """Return the region with its times as u."""
        changed = {name: placed(each, placing) for name, each in self.envelopes().items()}
        return self.model_copy(update=changed) if changed else self

    def flipped(self, axis: Axis) -> "_Region":  # noqa: ARG002
        """Return the region in the picture flipped along ``axis``."""
        return self

    def turned(self) -> "_Region":
        """Return the region in the picture turned by a quarter, counter-clockwise."""
        return self


class SubjectRegion(_Region):
    """The subject of the clip."""

    kind: Literal["subject"] = "subject"

    @property
    def needs_subject(self) -> bool:
        """True."""
        return True

    def weight(self, u: float, size: tuple[int, int], matte: Callable[[], Weight]) -> Weight:  # noqa: ARG002
        """Return the matte."""
        return matte()


class BackgroundRegion(_Region):
    """All but the subject of the clip."""

    kind: Literal["background"] = "background"

    @property
    def needs_subject(self) -> bool:
        """True."""
        return True

    def weight(self, u: float, size: tuple[int, int], matte: Callable[[], Weight]) -> Weight:  # noqa: ARG002
        """Return 1 − the matte."""
        return np.float32(1) - matte()


class _Shape(_Region):
    """A shape about ``centre`` (0…1 of the frame, y down), ``size`` wide and high in frame heights.

    Its border is soft over ``feather`` frame heights, at least a pixel; ``invert`` acts outside of it.
    """

    centre: PointEnvelope = _MIDDLE
    size: PointEnvelope = _USUAL_SIZE
    feather: Annotated[float, Field(strict=True, ge=0, le=2, allow_inf_nan=False)] = 0.05
    invert: Annotated[bool, Field(strict=True)] = False

    @field_validator("centre", "size")
    @classmethod
    def _near(cls, envelope: PointEnvelope) -> PointEnvelope:
        if isinstance(envelope, Follow):
            raise ValueError(  # noqa: TRY004  (Pydantic collects it)
                "a region cannot follow a filter: give it places of its own"
            )
        for path, value in stated_values(envelope):
            if any(abs(number) > _MOST for number in value):
                raise ValueError(f"{path} must be -{_MOST:g} to {_MOST:g}, not {value}".strip())
        return envelope

    @field_validator("size")
    @classmethod
    def _has_area(cls, envelope: PointEnvelope) -> PointEnvelope:
        for path, value in stated_values(envelope):
            if min(value) <= 0:
                raise ValueError(f"{path} must be above 0, not {value}".strip())
        return envelope

    def envelopes(self) -> dict[str, PointEnvelope]:
        """Return the centre and the size."""
        return {"centre": self.centre, "size": self.size}

    def values_at(self, u: float) -> dict[str, tuple[float, float]]:
        """Return the centre and the size at envelope time ``u``."""
        rests = {"centre": _MIDDLE, "size": _USUAL_SIZE}
        return {name: value_at(each, u, rests[name]) for name, each in self.envelopes().items()}

    def weight(self, u: float, size: tuple[int, int], matte: Callable[[], Weight]) -> Weight:  # noqa: ARG002
        """Return 1 inside, 0 outside, a straight ramp between them over the feather."""
        width, height = size
        now = self.values_at(u)
        centre = now["centre"]
        half = [max(each, 1e-3) * height / 2 for each in now["size"]]
        x = np.abs(np.arange(width) + 0.5 - centre[0] * width)[None, :]
        y = np.abs(np.arange(height) + 0.5 - centre[1] * height)[:, None]
        soft = max(self.feather * height, 1.0)
        inside = np.clip(0.5 - self._outside(x, y, half) / soft, 0, 1)
        return (1 - inside if self.invert else inside).astype(np.float32)

    def _outside(
        self, x: NDArray[np.float64], y: NDArray[np.float64], half: list[float]
    ) -> NDArray[np.float64]:
        """Return how far points, off the centre by ``x`` and ``y``, lie outside, in pixels."""
        raise NotImplementedError

    def flipped(self, axis: Axis) -> "_Shape":
        """Return the shape about the mirrored centre."""
        centre = flip_envelope(self.centre, "position", axis, _MIDDLE)
        return self.model_copy(update={"centre": centre})

    def turned(self) -> "_Shape":
        """Return the shape about the turned centre, its width and height exchanged."""
        centre = turn_envelope(self.centre, "position", _MIDDLE)
        return self.model_copy(update={"centre": centre, "size": _exchanged(self.size)})


def _exchanged(size: PointEnvelope) -> PointEnvelope:
    if isinstance(size, tuple):
        return size[1], size[0]
    assert not isinstance(size, Follow)
    exchanged: PointEnvelope = size.with_values(
        lambda value: (value[1], value[0]), lambda step: (step[1], step[0]), _USUAL_SIZE
    )
    return exchanged


class EllipseRegion(_Shape):
    """An ellipse."""

    kind: Literal["ellipse"] = "ellipse"

    def _outside(
        self, x: NDArray[np.float64], y: NDArray[np.float64], half: list[float]
    ) -> NDArray[np.float64]:
        # The distance to first order: f / |∇f| of the implicit form.
        scaled = np.hypot(x / half[0], y / half[1])
        steep = np.hypot(x / half[0] ** 2, y / half[1] ** 2)
        return np.where(
            steep > 0, scaled * (scaled - 1) / np.maximum(steep, 1e-12), -float(min(half))
        )


class BoxRegion(_Shape):
    """An upright rectangle."""

    kind: Literal["box"] = "box"

    def _outside(
        self, x: NDArray[np.float64], y: NDArray[np.float64], half: list[float]
    ) -> NDArray[np.float64]:
        across, down = x - half[0], y - half[1]
        beyond = np.hypot(np.maximum(across, 0), np.maximum(down, 0))
        return beyond + np.minimum(np.maximum(across, down), 0)


Region = Annotated[
    SubjectRegion | BackgroundRegion | EllipseRegion | BoxRegion, Field(discriminator="kind")
]
