"""The incoming side of a curve as a copy of its outgoing side: mirrored at the cut, or repeated."""

from typing import Any, Literal

from idle_shimmer.core.animation.easing import Easing
from idle_shimmer.core.animation.envelope import Keyframe, Keyframes, Swell
from idle_shimmer.core.animation.keyframing.easing_parts import backwards
from idle_shimmer.core.animation.keyframing.value_on_frame import (
    Keyframing,
    as_keyframes,
    with_keyframe,
)
from idle_shimmer.core.animation.times import negated, u_of

Copying = Literal["mirrored", "repeated"]
_KeyframeList = list[Keyframe[Any]]


def with_side_copied(envelope: Any, how: Copying, about: Keyframing) -> Swell[Any] | Keyframes[Any]:
    """Return the envelope with an incoming side that is a copy of the outgoing one.

    Repeated, the incoming side begins at the cut with what the outgoing side shows at the window's start.
    A swell that is mirrored stays one; everything else becomes keyframes.
    """
    if how == "mirrored" and isinstance(envelope, Swell) and u_of(about.exact(envelope).start) < 0:
        return _mirrored_swell(envelope, about)
    keyframes = as_keyframes(envelope, about)
    outgoing = _outgoing_side(keyframes, about)
    copied = _mirrored(outgoing) if how == "mirrored" else _repeated(outgoing)
    if how == "mirrored" and outgoing[-1].at == 0:
        joined = outgoing[-1].model_copy(update={"easing": copied[0].easing})
        outgoing, copied = [*outgoing[:-1], joined], copied[1:]
    return keyframes.model_copy(update={"keyframes": (*outgoing, *copied)})


def _mirrored_swell(swell: Swell[Any], about: Keyframing) -> Swell[Any]:
    full_from = swell.full_from if u_of(about.exact(swell).full_from) <= 0 else 0.0
    times = {
        "full_from": full_from,
        "full_to": negated(full_from),
        "end": negated(swell.start),
        "fall": backwards(swell.rise),
    }
    return swell.model_copy(update=times)


def _outgoing_side(keyframes: Keyframes[Any], about: Keyframing) -> _KeyframeList:
    """Return the keyframes up to the cut, their times as u; one on the cut or the frame before it is the last."""
    exact = about.exact(keyframes)
    before = [each for each in exact.keyframes if u_of(each.at) <= 0]
    on_cut = next((n for n, each in enumerate(before) if each.at == 0), None)
    if on_cut is not None:
        # Of a jump at the cut the outgoing side has the first value.
        return before[: on_cut + 1]
    if before and u_of(before[-1].at) > -1 / about.placing.window.before:
        return before
    ended = with_keyframe(exact, 0.0, about.value(exact, 0.0), about)
    return [each for each in ended.keyframes if u_of(each.at) <= 0]


def _mirrored(outgoing: _KeyframeList) -> _KeyframeList:
    made: _KeyframeList = []
    for place in reversed(range(len(outgoing))):
        each = outgoing[place]
        # The stretch to a keyframe has the easing of the one before it: backwards, of this one.
        easing: Easing = backwards(outgoing[place - 1].easing) if place else "linear"
        made.append(each.model_copy(update={"at": -u_of(each.at) or 0.0, "easing": easing}))
    return made


def _repeated(outgoing: _KeyframeList) -> _KeyframeList:
    return [each.model_copy(update={"at": 1 + u_of(each.at)}) for each in outgoing]
