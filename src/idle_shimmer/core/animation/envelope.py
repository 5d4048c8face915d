"""Envelopes: how a parameter moves over the window, in envelope time u (-1 start, 0 cut, +1 end).

Times may be stated in frames. An envelope is evaluated once it has been ``placed`` in a window: then
all its times are u.

A value is a number or an [x, y] point; points are animated like numbers. ``rest`` is the value of
the parameter at which its filter does nothing: a swell rises from it and returns to it.

Between two values, ``linear`` interpolation is a + (b - a)·p for eased progress p, and ``ratio``
interpolation a·(b/a)^p, which keeps the apparent speed of a zoom. Parameters have an interpolation
of their own (``core.parameters``); an envelope may state another.
"""

import itertools
from bisect import bisect_right
from collections.abc import Callable
from typing import Annotated, Any, Generic, Literal

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag, model_validator

from idle_shimmer.core.animation.eased import EasedEnvelope
from idle_shimmer.core.animation.easing import Easing
from idle_shimmer.core.animation.on_frames import keyframes_on_frames, plateau_on_frames
from idle_shimmer.core.animation.times import EnvelopeTime, Placing, in_order, u_of
from idle_shimmer.core.animation.values import Interpolation, Segment, V, total

FiniteNumber = Annotated[float, Field(strict=True, allow_inf_nan=False)]
Point = tuple[FiniteNumber, FiniteNumber]


class Swell(EasedEnvelope[V], Generic[V]):
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
        if not in_order(self.start, self.full_from, self.full_to, self.end):
            raise ValueError("start, full_from, full_to and end must be in order of time")
        return self

    def placed(self, placing: Placing) -> "Swell[V]":
        """Return the swell with its times as u; the plateau wins where times in frames cross others."""
        full_from = placing.at(self.full_from)
        full_to = max(full_from, placing.at(self.full_to))
        start = min(placing.at(self.start), full_from)
        end = max(placing.at(self.end), full_to)
        if placing.on_frames:
            full_from, full_to = plateau_on_frames(placing, start, full_from, full_to, end)
            start, end = min(start, full_from), max(end, full_to)
        times = {"start": start, "full_from": full_from, "full_to": full_to, "end": end}
        return self.model_copy(update=times)

    def stated_values(self) -> list[tuple[str, V]]:
        """Return the peak."""
        return [("peak", self.peak)]

    def easings(self) -> list[Easing]:
        """Return rise and fall."""
        return [self.rise, self.fall]

    def with_easings(self, change: Callable[[Easing], Easing]) -> "Swell[V]":
        """Return a copy whose rise and fall are changed."""
        return self.model_copy(update={"rise": change(self.rise), "fall": change(self.fall)})

    def with_values(
        self, place: Callable[[V], V], _difference: Callable[[V], V], _rest: V
    ) -> "Swell[V]":
        """Return a copy whose peak is changed."""
        return self.model_copy(update={"peak": place(self.peak)})

    def jumps_by_design(self) -> bool:
        """Whether it rises or falls in no time."""
        return self.start == self.full_from or self.full_to == self.end

    def segments(self, rest: V) -> list[Segment[V]]:
        """Return the rise and the fall, where they take time."""
        start, full_from, full_to, end = self._times()
        parts = (
            Segment(start, full_from, rest, self.peak, self.rise),
            Segment(full_to, end, self.peak, rest, self.fall),
        )
        return [part for part in parts if part.begin < part.end]

    def _times(self) -> tuple[float, float, float, float]:
        return u_of(self.start), u_of(self.full_from), u_of(self.full_to), u_of(self.end)

    def _at(self, u: float, rest: V) -> "V | Segment[V]":
        start, full_from, full_to, end = self._times()
        if u < start or u > end:
            return rest
        if u < full_from:
            return Segment(start, full_from, rest, self.peak, self.rise)
        if u <= full_to:
            return self.peak
        return Segment(full_to, end, self.peak, rest, self.fall)


class Travel(EasedEnvelope[V], Generic[V]):
    """From ``from`` to ``from`` + ``amount`` along ``easing``, constant outside start…end.

    Without ``from`` it begins at the parameter's rest.
    """

    kind: Literal["travel"] = "travel"
    origin: V | None = Field(default=None, alias="from")
    amount: V
    start: EnvelopeTime = -1.0
    end: EnvelopeTime = 1.0
    easing: Easing = "ease-in-out"

    @model_validator(mode="after")
    def _in_order(self) -> "Travel[V]":
        if not in_order(self.start, self.end):
            raise ValueError("start must not come after end")
        return self

    def placed(self, placing: Placing) -> "Travel[V]":
        """Return the travel with its times as u; they are borders between frames."""
        start = placing.at(self.start)
        return self.model_copy(update={"start": start, "end": max(start, placing.at(self.end))})

    def stated_values(self) -> list[tuple[str, V]]:
        """Return the value at the start, where it is stated, and at the end."""
        if self.origin is None:
            return [("amount", self.amount)]
        return [("from", self.origin), ("amount", total(self.origin, self.amount))]

    def easings(self) -> list[Easing]:
        """Return the one easing."""
        return [self.easing]

    def with_easings(self, change: Callable[[Easing], Easing]) -> "Travel[V]":
        """Return a copy with another easing."""
        return self.model_copy(update={"easing": change(self.easing)})

    def with_values(
        self, place: Callable[[V], V], difference: Callable[[V], V], rest: V
    ) -> "Travel[V]":
        """Return a copy whose start and amount are changed; a start at rest stays unstated."""
        origin = place(rest if self.origin is None else self.origin)
        if origin == rest:
            origin = self.origin  # type: ignore[assignment]
        return self.model_copy(update={"origin": origin, "amount": difference(self.amount)})

    def jumps_by_design(self) -> bool:
        """Whether it travels in no time."""
        return self.start == self.end

    def segments(self, rest: V) -> list[Segment[V]]:
        """Return the one stretch, where it takes time."""
        return [self._segment(rest)] if u_of(self.start) < u_of(self.end) else []

    def _segment(self, rest: V) -> Segment[V]:
        first = rest if self.origin is None else self.origin
        start, end = u_of(self.start), u_of(self.end)
        return Segment(start, end, first, total(first, self.amount), self.easing)

    def _at(self, _u: float, rest: V) -> "V | Segment[V]":
        return self._segment(rest)


class Keyframe(BaseModel, Generic[V]):
    """A value at a time; ``easing`` runs from it to the next keyframe."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    at: EnvelopeTime
    value: V
    easing: Easing = "linear"


class Keyframes(EasedEnvelope[V], Generic[V]):
    """Keyframes in order of time; constant before the first and after the last."""

    kind: Literal["keyframes"] = "keyframes"
    keyframes: Annotated[tuple[Keyframe[V], ...], Field(min_length=1, max_length=1000)]

    @model_validator(mode="after")
    def _in_order(self) -> "Keyframes[V]":
        if not in_order(*(keyframe.at for keyframe in self.keyframes)):
            raise ValueError("keyframes must be in order of 'at'")
        return self

    def placed(self, placing: Placing) -> "Keyframes[V]":
        """Return the keyframes with their times as u, in order."""
        timed = ((placing.at(each.at), each) for each in self.keyframes)
        ordered = sorted(timed, key=lambda pair: pair[0])
        placed = [each.model_copy(update={"at": at}) for at, each in ordered]
        if placing.on_frames:
            seen = keyframes_on_frames(placing, [at for at, _ in ordered])
            placed = [placed[each.number].model_copy(update=each.changes) for each in seen]
            placed.sort(key=lambda each: u_of(each.at))
        return self.model_copy(update={"keyframes": tuple(placed)})

    def stated_values(self) -> list[tuple[str, V]]:
        """Return the value of every keyframe."""
        return [(f"keyframes[{i}].value", each.value) for i, each in enumerate(self.keyframes)]

    def easings(self) -> list[Easing]:
        """Return the easings between keyframes; the last keyframe's has no use."""
        return [each.easing for each in self.keyframes[:-1]]

    def with_easings(self, change: Callable[[Easing], Easing]) -> "Keyframes[V]":
        """Return a copy whose easings between keyframes are changed."""
        *changed, last = self.keyframes
        made: list[Any] = [
            each.model_copy(update={"easing": change(each.easing)}) for each in changed
        ]
        return self.model_copy(update={"keyframes": (*made, last)})

    def with_values(
        self, place: Callable[[V], V], _difference: Callable[[V], V], _rest: V
    ) -> "Keyframes[V]":
        """Return a copy in which every keyframe's value is changed."""
        moved = [each.model_copy(update={"value": place(each.value)}) for each in self.keyframes]
        return self.model_copy(update={"keyframes": tuple(moved)})

    def jumps_by_design(self) -> bool:
        """Whether two keyframes share a time."""
        times = [each.at for each in self.keyframes]
        return len(set(times)) < len(times)

    def segments(self, rest: V) -> list[Segment[V]]:  # noqa: ARG002  (as for all envelopes)
        """Return the stretches between neighbouring keyframes."""
        return [
            Segment(u_of(one.at), u_of(other.at), one.value, other.value, one.easing)
            for one, other in itertools.pairwise(self.keyframes)
            if u_of(one.at) < u_of(other.at)
        ]

    def _at(self, u: float, _rest: V) -> "V | Segment[V]":
        times = [u_of(each.at) for each in self.keyframes]
        following = bisect_right(times, u)
        if following == 0:
            return self.keyframes[0].value
        if following == len(self.keyframes):
            return self.keyframes[-1].value
        one, other = self.keyframes[following - 1], self.keyframes[following]
        begin, end = times[following - 1], times[following]
        return Segment(begin, end, one.value, other.value, one.easing)


# What follows the mix names this instead of a filter.
MIX = "mix"


class Follow(BaseModel):
    """A blur's size (and direction) from how far a moving filter carries the picture in a frame.

    The value is the movement of the filter with the id ``filter`` during the frame, times
    ``shutter`` / 360; of the mix where that is ``MIX``. A point that follows is where that filter's lies.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    kind: Literal["follow"] = "follow"
    target: Annotated[str, Field(min_length=1, max_length=64)] = Field(alias="filter")
    shutter: Annotated[float, Field(strict=True, ge=0, le=3600, allow_inf_nan=False)] = 180.0


def _envelope_tag(value: Any) -> str:
    if isinstance(value, dict):
        return str(value.get("kind", "(missing)"))
    return str(getattr(value, "kind", "hold"))


NumberEnvelope = Annotated[
    Annotated[FiniteNumber, Tag("hold")]
    | Annotated[Swell[FiniteNumber], Tag("swell")]
    | Annotated[Travel[FiniteNumber], Tag("travel")]
    | Annotated[Keyframes[FiniteNumber], Tag("keyframes")]
    | Annotated[Follow, Tag("follow")],
    Discriminator(_envelope_tag),
]
PointEnvelope = Annotated[
    Annotated[Point, Tag("hold")]
    | Annotated[Swell[Point], Tag("swell")]
    | Annotated[Travel[Point], Tag("travel")]
    | Annotated[Keyframes[Point], Tag("keyframes")]
    | Annotated[Follow, Tag("follow")],
    Discriminator(_envelope_tag),
]
ENVELOPE_KINDS = ("hold", "swell", "travel", "keyframes", "follow")
Animated = Swell | Travel | Keyframes


def is_animated(envelope: Any) -> bool:
    """Whether the value changes over the window."""
    return isinstance(envelope, Animated | Follow)


def stated_values(envelope: Any) -> list[tuple[str, Any]]:
    """Return every value that ``envelope`` states, as (path inside the envelope, value)."""
    if isinstance(envelope, Animated):
        return envelope.stated_values()
    return [] if isinstance(envelope, Follow) else [("", envelope)]


def placed(envelope: Any, placing: Placing) -> Any:
    """Return ``envelope`` with its times as u in a window."""
    return envelope.placed(placing) if isinstance(envelope, Animated) else envelope


def value_at(envelope: Any, u: float, rest: Any, usual: Interpolation = "linear") -> Any:
    """Return the value of ``envelope`` at envelope time ``u``; a bare value is constant.

    The value of a ``Follow`` depends on another filter: ``Timeline`` answers it.
    """
    if isinstance(envelope, Animated):
        return envelope.value_at(u, rest, usual)
    return envelope


def speed_at(envelope: Any, u: float, rest: Any, usual: Interpolation = "linear") -> Any:
    """Return the derivative of ``envelope`` at ``u``, per unit of u; 0 for a bare value."""
    if isinstance(envelope, Animated):
        return envelope.speed_at(u, rest, usual)
    return (0.0, 0.0) if isinstance(envelope, tuple) else 0.0
