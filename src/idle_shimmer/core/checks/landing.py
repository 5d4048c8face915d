"""Landing: what rolls or turns ends on a whole unit."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from idle_shimmer.core.animation.envelope import Travel
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    Unit,
    set_field,
    window_ends,
)
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.geometry.movement import NO_MOVEMENT

_TOLERANCE_PX, _TOLERANCE_DEG = 0.5, 0.05


@dataclass(frozen=True)
class _Landing:
    """How far a periodic parameter is from a whole period at an end of the window."""

    owner: Filter
    path: str
    name: str
    value: float
    period: float
    # Pixels or degrees of one unit of the value.
    size: float
    turning: bool

    @property
    def whole(self) -> float:
        """The nearest whole period."""
        return self.period * round(self.value / self.period)

    @property
    def miss(self) -> float:
        """How far the value is past the whole period, in pixels or degrees."""
        return (self.value - self.whole) * self.size

    @property
    def excess(self) -> float:
        """The miss as a multiple of the tolerance."""
        return abs(self.miss) / (_TOLERANCE_DEG if self.turning else _TOLERANCE_PX)

    @property
    def unit(self) -> Unit:
        return "deg" if self.turning else "px"


class Landing(Check):
    """Every travel of a wrapping or turning filter ends on a whole unit, mirrored rolls on an even."""

    id = "landing"
    title = "Landing"
    order = 10

    def run(self, context: CheckContext) -> Finding:
        """Return the largest miss, in pixels or degrees."""
        landings = list(_landings(context))
        if not landings:
            return self.ok(0, "px", "Nothing rolls or turns.")
        worst = max(landings, key=lambda each: each.excess)
        if worst.excess <= 1:
            return self.ok(abs(worst.miss), worst.unit, "Everything lands where it started.")
        return self.found(
            "failed", abs(worst.miss), worst.unit, _message(worst), None, _fixes(worst)
        )


def _landings(context: CheckContext) -> Iterator[_Landing]:
    for place, owner in context.enabled():
        for name, parameter in owner.parameters().items():
            if parameter.period is None:
                continue
            turning = parameter.unit == "turns"
            along = 0 if parameter.orientation == "rightward" else 1
            for u in window_ends(owner.side):
                yield _Landing(
                    owner,
                    f"/filters/{place}/{name}",
                    name,
                    owner.values_at(u, lambda _: NO_MOVEMENT)[name],
                    parameter.period(owner),
                    360 if turning else context.timeline.size[along],
                    turning,
                )


def _message(landing: _Landing) -> str:
    label, value, whole = landing.owner.label, abs(landing.value), abs(landing.whole)
    if landing.turning:
        return (
            f"{label} ends after {round(value, 3):g} turns, {abs(landing.miss):.0f}° off a whole"
            f" turn. Use {whole:g}."
        )
    direction = landing.owner.parameters()[landing.name].label.lower()
    if landing.value == round(landing.value):
        return (
            f"{label} rolls {value:g} mirrored frames ({direction}), and an odd number ends reversed."
            f" Use {whole:g}."
        )
    return (
        f"{label} ends after {round(value, 3):g} rolls ({direction}), {abs(landing.miss):.0f} px"
        f" {'past' if value > whole else 'short of'} a whole one. Use {whole:g}."
    )


def _fixes(landing: _Landing) -> list[Fix]:
    envelope: Any = getattr(landing.owner, landing.name)
    if not isinstance(envelope, Travel):
        return []
    amount = landing.whole - (envelope.origin or 0.0)
    unit = "turns" if landing.turning else "rolls"
    return [
        Fix(f"Use {abs(landing.whole):g} {unit}", (set_field(f"{landing.path}/amount", amount),))
    ]
