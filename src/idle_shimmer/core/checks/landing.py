"""Landing: what rolls or turns ends on a whole unit."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from idle_shimmer.core.checks.base import Check, CheckContext, Finding, Mend, ends_of, replaced
from idle_shimmer.core.envelope import Travel
from idle_shimmer.core.passes.base import Pass

_WITHIN_PX, _WITHIN_DEG = 0.5, 0.05


@dataclass(frozen=True)
class _Miss:
    """How far a parameter is from a whole unit at an end of the window."""

    path: str
    each: Pass
    name: str
    value: float
    whole: float
    over: float
    turning: bool
    amount: Any

    @property
    def beyond(self) -> float:
        return abs(self.over) / (_WITHIN_DEG if self.turning else _WITHIN_PX)


class Landing(Check):
    """Every travel of a wrapping or turning pass ends on a whole unit, mirrored rolls on an even one."""

    id = "landing"
    title = "Landing"

    def run(self, context: CheckContext) -> Finding:
        """The widest miss, in pixels or degrees."""
        misses = list(_misses(context))
        if not misses:
            return self.found("ok", 0, "px", "Nothing rolls or turns.")
        far = max(misses, key=lambda each: each.beyond)
        if far.beyond <= 1:
            return self.found("ok", abs(far.over), _unit(far), "Everything lands where it began.")
        return self.found("broken", abs(far.over), _unit(far), _sentence(far), None, _mends(far))


def _unit(miss: _Miss) -> Any:
    return "deg" if miss.turning else "px"


def _misses(context: CheckContext) -> Iterator[_Miss]:
    for place, each in context.working():
        for name, fact in each.facts().items():
            if fact.control != "whole" or fact.rest is None:
                continue
            envelope = getattr(each, name)
            turning = fact.unit == "turns"
            period = 2.0 if getattr(each, "edge", "") == "mirror" and not turning else 1.0
            size = 360 if turning else context.timeline.size[0 if name == "x" else 1]
            for u in ends_of(each.side):
                value = each.values_at(u, _still)[name]
                whole = period * round(value / period)
                path = f"/passes/{place}/{name}"
                over = (value - whole) * size
                yield _Miss(path, each, name, value, whole, over, turning, envelope)


def _still(_target: str) -> Any:
    raise AssertionError("what rolls or turns follows nothing")


def _sentence(miss: _Miss) -> str:
    if miss.turning:
        return (
            f"{miss.each.id} ends after {round(abs(miss.value), 3):g} turns, {abs(miss.over):.0f}° off a whole"
            f" one: {abs(miss.whole):g} would land."
        )
    way = "sideways" if miss.name == "x" else "up and down"
    if miss.value == round(miss.value):
        return (
            f"{miss.each.id} rolls {abs(miss.value):g} mirrored frames {way}: an odd number lands"
            f" reversed. {abs(miss.whole):g} would land."
        )
    return (
        f"{miss.each.id} ends after {round(abs(miss.value), 3):g} rolls {way}, {abs(miss.over):.0f} pixels"
        f" {'over' if abs(miss.value) > abs(miss.whole) else 'short'}: {abs(miss.whole):g} would land."
    )


def _mends(miss: _Miss) -> list[Mend]:
    if not isinstance(miss.amount, Travel):
        return []
    begun = miss.amount.origin or 0.0
    path = f"{miss.path}/amount"
    unit = "turns" if miss.turning else "rolls"
    return [Mend(f"{miss.whole:g} {unit}", (replaced(path, miss.whole - begun),))]
