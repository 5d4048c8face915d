"""Slips: stretches of a window in which the background of a clip is taken from another time."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, model_validator

from idle_shimmer.core.animation.times import EnvelopeTime, Placing, in_order, u_of
from idle_shimmer.core.animation.timing import Window

MAX_SLIP_FRAMES = 250


class Slip(BaseModel):
    """From ``from`` to ``to`` the background is ``offset`` frames later."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    start: EnvelopeTime = Field(alias="from")
    end: EnvelopeTime = Field(alias="to")
    offset: Annotated[int, Field(strict=True, ge=-MAX_SLIP_FRAMES, le=MAX_SLIP_FRAMES)]

    @model_validator(mode="after")
    def _in_order(self) -> "Slip":
        if self.start == self.end or not in_order(self.start, self.end):
            raise ValueError("a slip must end after it starts")
        return self

    def placed(self, placing: Placing) -> "Slip":
        """Return the slip with its times as u; it may last no time in a short window."""
        start = placing.at(self.start)
        return self.model_copy(update={"start": start, "end": max(start, placing.at(self.end))})


@dataclass(frozen=True, slots=True)
class Slipped:
    """A background between two times: ``share`` (0…1) of the way from one offset to the other."""

    first: int
    second: int
    share: float

    @property
    def offsets(self) -> tuple[int, ...]:
        """The offsets whose frames are seen."""
        return (self.first,) if self.share == 0 else (self.first, self.second)


def slipped_at(slips: Sequence[Slip], join: int, window: Window, offset: int) -> Slipped | None:
    """Return where the background of frame ``offset`` comes from; None where it is in its place.

    Over the ``join`` frames around a jump it moves from one time to the other.
    """
    t, now = offset + 0.5, _offset_at(slips, window.u_of_frame(offset))
    for begin, end, before, after in _joins(slips, join, window):
        if begin < t < end:
            return Slipped(before, after, (t - begin) / (end - begin))
    return Slipped(now, now, 0.0) if now else None


def _offset_at(slips: Sequence[Slip], u: float) -> int:
    return next((each.offset for each in slips if u_of(each.start) <= u < u_of(each.end)), 0)


def _jumps(slips: Sequence[Slip]) -> list[tuple[float, int, int]]:
    """Return (u, offset before, offset after) of every jump."""
    places = sorted({u for each in slips for u in (u_of(each.start), u_of(each.end))})
    found = [(u, _offset_at(slips, u - 1e-9), _offset_at(slips, u)) for u in places]
    return [each for each in found if each[1] != each[2]]


def _joins(
    slips: Sequence[Slip], join: int, window: Window
) -> Iterator[tuple[float, float, int, int]]:
    """Yield (begin, end, offset before, offset after) of every join, in frames from the cut.

    A join lies about its jump, inside the window, and ends midway to the next jump.
    """
    jumps = [(_time(window, u), before, after) for u, before, after in _jumps(slips)]
    first, last = -float(window.before), float(window.after)
    for place, (t, before, after) in enumerate(jumps):
        low = (jumps[place - 1][0] + t) / 2 if place else first
        high = (jumps[place + 1][0] + t) / 2 if place + 1 < len(jumps) else last
        begin = min(max(t - join / 2, first), last - join)
        yield max(begin, low), min(begin + join, high), before, after


def _time(window: Window, u: float) -> float:
    return u * (window.before if u < 0 else window.after)
