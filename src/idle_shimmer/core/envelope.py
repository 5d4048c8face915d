"""Envelopes: how a parameter moves over the window, in envelope time u (-1 start, 0 cut, +1 end).

A value is a number or an [x, y] pair of numbers; pairs are animated like numbers. ``rest`` is the
value of the parameter at which its pass does nothing; a swell rises from it and goes back to it.
"""

from bisect import bisect_right
from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag, model_validator

from idle_shimmer.core.easing import Easing, curve, slope

FiniteNumber = Annotated[float, Field(strict=True, allow_inf_nan=False)]
Point = tuple[FiniteNumber, FiniteNumber]
V = TypeVar("V", float, tuple[float, float])
EnvelopeTime = Annotated[float, Field(strict=True, ge=-1, le=1, allow_inf_nan=False)]


class _Shape(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class Swell(_Shape, Generic[V]):
    """Rest outside start…end, up to the peak by ``rise``, back to rest by ``fall``."""

    kind: Literal["swell"] = "swell"
    peak: V
    start: EnvelopeTime = -1.0
    full_from: EnvelopeTime = 0.0
    full_to: EnvelopeTime = 0.0
    end: EnvelopeTime = 1.0
    rise: Easing = "ease-in"
    fall: Easing = "ease-out"

    @model_validator(mode="after")
    def _in_order(self) -> "Swell[V]":
        if not self.start <= self.full_from <= self.full_to <= self.end:
            raise ValueError("start, full_from, full_to and end must not go backwards")
        return self

    def stated_values(self) -> list[tuple[str, V]]:
        """The values that the editor stated, with the names of their fields."""
        return [("peak", self.peak)]

    def value_at(self, u: float, rest: V) -> V:
        """The value at envelope time ``u``."""
        if u < self.start or u > self.end:
            return rest
        if u < self.full_from:
            progress = (u - self.start) / (self.full_from - self.start)
            return _between(rest, self.peak, curve(self.rise)(progress))
        if u <= self.full_to:
            return self.peak
        progress = (u - self.full_to) / (self.end - self.full_to)
        return _between(self.peak, rest, curve(self.fall)(progress))

    def speed_at(self, u: float, rest: V) -> V:
        """The value's change per u at envelope time ``u``."""
        change = _sum(self.peak, _times(rest, -1.0))
        if self.start < u < self.full_from:
            length = self.full_from - self.start
            return _times(change, slope(self.rise)((u - self.start) / length) / length)
        if self.full_to < u < self.end:
            length = self.end - self.full_to
            return _times(change, -slope(self.fall)((u - self.full_to) / length) / length)
        return _times(change, 0.0)


class Travel(_Shape, Generic[V]):
    """``from`` + ``amount`` · shape(progress), clamped outside start…end."""

    kind: Literal["travel"] = "travel"
    origin: V | None = Field(default=None, alias="from")
    amount: V
    start: EnvelopeTime = -1.0
    end: EnvelopeTime = 1.0
    shape: Easing = "ease-in-out"

    @model_validator(mode="after")
    def _in_order(self) -> "Travel[V]":
        if self.start > self.end:
            raise ValueError("start must not come after end")
        return self

    def stated_values(self) -> list[tuple[str, V]]:
        """The values that the editor stated, with the names of their fields."""
        if self.origin is None:
            return [("amount", self.amount)]
        return [("from", self.origin), ("amount", _sum(self.origin, self.amount))]

    def value_at(self, u: float, rest: V) -> V:
        """The value at envelope time ``u``; without ``from`` the travel begins at rest."""
        origin = rest if self.origin is None else self.origin
        if u <= self.start and self.start < self.end:
            progress = 0.0
        elif u >= self.end:
            progress = 1.0
        else:
            progress = (u - self.start) / (self.end - self.start)
        return _between(origin, _sum(origin, self.amount), curve(self.shape)(progress))

    def speed_at(self, u: float, _rest: V) -> V:
        """The value's change per u at envelope time ``u``."""
        if not self.start < u < self.end:
            return _times(self.amount, 0.0)
        length = self.end - self.start
        return _times(self.amount, slope(self.shape)((u - self.start) / length) / length)


class Key(_Shape, Generic[V]):
    """One keyframe; ``ease`` runs from it to the next."""

    at: EnvelopeTime
    value: V
    ease: Easing = "linear"


class Keys(_Shape, Generic[V]):
    """Keyframes in order of time; constant before the first and after the last."""

    kind: Literal["keys"] = "keys"
    keys: Annotated[tuple[Key[V], ...], Field(min_length=1, max_length=1000)]

    @model_validator(mode="after")
    def _in_order(self) -> "Keys[V]":
        times = [key.at for key in self.keys]
        if times != sorted(times):
            raise ValueError("keys must stand in order of 'at'")
        return self

    def stated_values(self) -> list[tuple[str, V]]:
        """The values that the editor stated, with the names of their fields."""
        return [(f"keys[{i}].value", key.value) for i, key in enumerate(self.keys)]

    def value_at(self, u: float, _rest: V) -> V:
        """The value at envelope time ``u``, whatever the rest is."""
        following = bisect_right([key.at for key in self.keys], u)
        if following == 0:
            return self.keys[0].value
        if following == len(self.keys):
            return self.keys[-1].value
        here, there = self.keys[following - 1], self.keys[following]
        progress = (u - here.at) / (there.at - here.at)
        return _between(here.value, there.value, curve(here.ease)(progress))

    def speed_at(self, u: float, _rest: V) -> V:
        """The value's change per u at envelope time ``u``."""
        following = bisect_right([key.at for key in self.keys], u)
        if following in (0, len(self.keys)):
            return _times(self.keys[0].value, 0.0)
        here, there = self.keys[following - 1], self.keys[following]
        length = there.at - here.at
        change = _sum(there.value, _times(here.value, -1.0))
        return _times(change, slope(here.ease)((u - here.at) / length) / length)


class Follow(_Shape):
    """A blur's size (and a streak's angle) from how far a moving pass travels in a frame.

    The value is the movement of pass ``pass`` during the frame, times ``shutter`` / 360.
    """

    kind: Literal["follow"] = "follow"
    target: Annotated[str, Field(min_length=1, max_length=64)] = Field(alias="pass")
    shutter: Annotated[float, Field(strict=True, ge=0, le=3600, allow_inf_nan=False)] = 180.0


def _between(low: V, high: V, share: float) -> V:
    # The ends are returned untouched: a travel must land exactly on its amount.
    if share == 0:
        return low
    if share == 1:
        return high
    if isinstance(low, tuple):
        return (low[0] + (high[0] - low[0]) * share, low[1] + (high[1] - low[1]) * share)
    return low + (high - low) * share


def _times(a: V, factor: float) -> V:
    if isinstance(a, tuple):
        return (a[0] * factor, a[1] * factor)
    return a * factor


def _sum(a: V, b: V) -> V:
    if isinstance(a, tuple):
        return (a[0] + b[0], a[1] + b[1])
    return a + b


def _envelope_tag(value: Any) -> str:
    if isinstance(value, dict):
        return str(value.get("kind", "(missing)"))
    return str(getattr(value, "kind", "hold"))


NumberEnvelope = Annotated[
    Annotated[FiniteNumber, Tag("hold")]
    | Annotated[Swell[FiniteNumber], Tag("swell")]
    | Annotated[Travel[FiniteNumber], Tag("travel")]
    | Annotated[Keys[FiniteNumber], Tag("keys")]
    | Annotated[Follow, Tag("follow")],
    Discriminator(_envelope_tag),
]
PointEnvelope = Annotated[
    Annotated[Point, Tag("hold")]
    | Annotated[Swell[Point], Tag("swell")]
    | Annotated[Travel[Point], Tag("travel")]
    | Annotated[Keys[Point], Tag("keys")],
    Discriminator(_envelope_tag),
]
ENVELOPE_KINDS = ("hold", "swell", "travel", "keys", "follow")
Moving = Swell | Travel | Keys


def is_moving(envelope: Any) -> bool:
    """Whether its value changes over the window."""
    return isinstance(envelope, Moving | Follow)


def stated_values(envelope: Any) -> list[tuple[str, Any]]:
    """Every value that ``envelope`` states, as (path inside the envelope, value)."""
    if isinstance(envelope, Moving):
        return envelope.stated_values()
    return [] if isinstance(envelope, Follow) else [("", envelope)]


def value_at(envelope: Any, u: float, rest: Any) -> Any:
    """The value of ``envelope`` at envelope time ``u``; a bare value holds.

    A follower's value depends on another pass: ``core.timeline`` answers it.
    """
    if isinstance(envelope, Moving):
        return envelope.value_at(u, rest)
    return envelope


def speed_at(envelope: Any, u: float, rest: Any) -> Any:
    """How fast the value of ``envelope`` changes at ``u``, per u; 0 for a bare value."""
    if isinstance(envelope, Moving):
        return envelope.speed_at(u, rest)
    return (0.0, 0.0) if isinstance(envelope, tuple) else 0.0
