"""What moves the picture: the filters and the mix whose movement blurs cover and checks measure."""

from dataclasses import dataclass
from typing import Literal

from idle_shimmer.core.animation.easing import Easing
from idle_shimmer.core.animation.envelope import MIX, Keyframes, Swell, Travel
from idle_shimmer.core.checks.base import CheckContext, frames_of
from idle_shimmer.core.filters.base import Filter, MovingFilter, Side
from idle_shimmer.core.mixes.base import SpannedMix


@dataclass(frozen=True)
class Mover:
    """A filter that moves the picture, or the mix. ``id`` is what a blur follows.

    ``frames`` are those in which it is seen, ``easings`` those of its curves, a list for each curve that moves.
    """

    id: str
    label: str
    side: Side | Literal["mix"]
    frames: range
    easings: tuple[tuple[Easing, ...], ...] = ()


def movers(context: CheckContext) -> list[Mover]:
    """Return the filters, and the mix, that move the picture; random movements have no direction."""
    filters = [
        Mover(each.id, each.label, each.side, frames_of(context, each), _easings_of(each))
        for _, each in context.enabled()
        if isinstance(each, MovingFilter) and each.directed
    ]
    mix = context.recipe.mix
    if mix.displacement(0.0) is None or MIX in {each.id for each in context.recipe.filters}:
        return filters
    easings = ((mix.easing,),) if isinstance(mix, SpannedMix) else ()
    return [*filters, Mover(MIX, mix.title, "mix", context.timeline.window.offsets, easings)]


def moving_under(context: CheckContext, blur: Filter) -> list[Mover]:
    """Return what moves in the frames in which a blur is seen: what it covers."""
    return [
        each
        for each in movers(context)
        if each.side == "mix" or _share_frames(each.side, blur.side)
    ]


def _share_frames(one: Side, other: Side) -> bool:
    """Whether filters on these sides are seen in the same frames, on the same picture."""
    return one == other or ("subject" not in (one, other) and "across" in (one, other))


def _easings_of(owner: Filter) -> tuple[tuple[Easing, ...], ...]:
    envelopes = (getattr(owner, name) for name in owner.parameters())
    return tuple(
        tuple(each.easings())
        for each in envelopes
        if isinstance(each, Swell | Travel | Keyframes) and each.easings()
    )
