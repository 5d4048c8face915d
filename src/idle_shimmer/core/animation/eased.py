"""What swells, travels and keyframes share: constant parts and eased segments."""

from collections.abc import Callable
from typing import Any, Generic

from pydantic import BaseModel, ConfigDict

from idle_shimmer.core.animation.easing import Easing, curve, slope
from idle_shimmer.core.animation.values import (
    Interpolation,
    Segment,
    V,
    between,
    difference_of,
    ratio_speed,
    times,
)


class EasedEnvelope(BaseModel, Generic[V]):
    """What swells, travels and keyframes share: they consist of constant parts and eased segments."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    interpolation: Interpolation | None = None

    def stated_values(self) -> list[tuple[str, V]]:
        """Return the values that the editor stated, each with the path of its field."""
        raise NotImplementedError

    def easings(self) -> list[Easing]:
        """Return the easings in order of time."""
        raise NotImplementedError

    def with_easings(self, change: Callable[[Easing], Easing]) -> Any:
        """Return a copy whose easings are changed."""
        raise NotImplementedError

    def with_values(self, place: Callable[[V], V], difference: Callable[[V], V], rest: V) -> Any:
        """Return a copy whose stated places and differences of values are changed."""
        raise NotImplementedError

    def jumps_by_design(self) -> bool:
        """Whether two different values are stated for one time."""
        raise NotImplementedError

    def segments(self, rest: V) -> list[Segment[V]]:
        """Return the stretches in which the value changes, in order of time."""
        raise NotImplementedError

    def _at(self, u: float, rest: V) -> "V | Segment[V]":
        """Return the constant value at ``u``, or the segment that runs there."""
        raise NotImplementedError

    def value_at(self, u: float, rest: V, usual: Interpolation = "linear") -> V:
        """Return the value at envelope time ``u``; ``usual`` is the parameter's interpolation."""
        found = self._at(u, rest)
        if not isinstance(found, Segment):
            return found
        progress = curve(found.easing)(found.progress_at(u))
        return between(found.first, found.last, progress, self.interpolation or usual)

    def speed_at(self, u: float, rest: V, usual: Interpolation = "linear") -> V:
        """Return the derivative of the value at ``u``, per unit of u."""
        found = self._at(u, rest)
        if not isinstance(found, Segment) or not found.begin < u < found.end:
            return times(found.first if isinstance(found, Segment) else found, 0.0)
        progress = found.progress_at(u)
        rate = slope(found.easing)(progress) / (found.end - found.begin)
        if (self.interpolation or usual) == "ratio":
            value = between(found.first, found.last, curve(found.easing)(progress), "ratio")
            return ratio_speed(found.first, found.last, value, rate)
        return times(difference_of(found.last, found.first), rate)
