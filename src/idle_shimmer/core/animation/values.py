"""Values of parameters, numbers or [x, y] points, and one eased stretch between two of them."""

import math
from dataclasses import dataclass
from typing import Generic, Literal, TypeVar

from idle_shimmer.core.animation.easing import Easing

V = TypeVar("V", float, tuple[float, float])
Interpolation = Literal["linear", "ratio"]


@dataclass(frozen=True, slots=True)
class Segment(Generic[V]):
    """One eased stretch between two values."""

    begin: float
    end: float
    first: V
    last: V
    easing: Easing

    def progress_at(self, u: float) -> float:
        """Return how far ``u`` is from begin to end, 0…1; 1 where both are one time."""
        if u >= self.end:
            return 1.0
        return 0.0 if u <= self.begin else (u - self.begin) / (self.end - self.begin)


def between(first: V, last: V, share: float, interpolation: Interpolation) -> V:
    """Return what lies at ``share`` of the way between two values."""
    # The ends are returned untouched: a travel must land exactly on its amount.
    if share == 0:
        return first
    if share == 1:
        return last
    if isinstance(first, tuple):
        return (
            _number_between(first[0], last[0], share, interpolation),
            _number_between(first[1], last[1], share, interpolation),
        )
    return _number_between(first, last, share, interpolation)


def _number_between(first: float, last: float, share: float, interpolation: Interpolation) -> float:
    if interpolation == "ratio" and first > 0 and last > 0:
        return first * math.exp(share * math.log(last / first))
    return first + (last - first) * share


def ratio_speed(first: V, last: V, value: V, rate: float) -> V:
    """Return the derivative of first·(last/first)^p where p changes by ``rate``."""
    if isinstance(first, tuple):
        return tuple(  # type: ignore[return-value]
            ratio_speed(one, other, now, rate)
            for one, other, now in zip(first, last, value, strict=True)
        )
    if first > 0 and last > 0:
        return value * math.log(last / first) * rate
    return times(difference_of(last, first), rate)


def times(a: V, factor: float) -> V:
    """Return a value times a number."""
    if isinstance(a, tuple):
        return (a[0] * factor, a[1] * factor)
    return a * factor


def total(a: V, b: V) -> V:
    """Return the sum of two values."""
    if isinstance(a, tuple):
        return (a[0] + b[0], a[1] + b[1])
    return a + b


def difference_of(a: V, b: V) -> V:
    """Return what ``a`` has beyond ``b``."""
    return total(a, times(b, -1.0))
