"""Landing: what rolls or turns ends on a whole unit."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from idle_shimmer.core.animation.easing import curve, is_stepped
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
from idle_shimmer.core.mixes.base import SpannedMix

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
        worst = max(landings, key=lambda each: each.excess, default=None)
        if worst is not None and worst.excess > 1:
            return self.found(
                "failed", abs(worst.miss), worst.unit, _message(worst), None, _fixes(worst)
            )
        short_px = _push_short_px(context)
        if short_px > _TOLERANCE_PX:
            mix = context.recipe.mix.title
            return self.found(
                "failed",
                short_px,
                "px",
                f"{mix} jumps by {short_px:.0f} px, as its easing does not run from 0 to 1."
                " Use another easing.",
                None,
                [Fix("Ease in and out", (set_field("/mix/easing", "ease-in-out"),))],
            )
        if worst is None:
            return self.ok(short_px, "px", "Nothing rolls or turns.")
        return self.ok(abs(worst.miss), worst.unit, "Everything lands where it started.")


def _push_short_px(context: CheckContext) -> float:
    """Return how far from a whole frame a mix that moves the pictures begins or ends its movement."""
    mix = context.recipe.mix
    displaced = mix.displacement(1.0)
    if displaced is None or not isinstance(mix, SpannedMix) or is_stepped(mix.easing):
        return 0.0
    eased = curve(mix.easing)
    size = context.timeline.size[0 if displaced[0] else 1]
    return max(abs(eased(0.0)), abs(eased(1.0) - 1.0)) * size


def _landings(context: CheckContext) -> Iterator[_Landing]:
    for place, owner in context.enabled():
        for name, parameter in owner.parameters().items():
            if parameter.period is None:
                continue
            turning = parameter.unit == "turns"
            along = 0 if parameter.orientation == "rightward" else 1
            for u in window_ends(owner, context.recipe):
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
