"""Keyframes out of any envelope: of the same shape, and with a value stated on one frame.

Where values are seen on frames, keyframes lie on frames too; a curve that begins or ends between two of
them then starts from the frame outside.
"""

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from idle_shimmer.core.animation.easing import Easing
from idle_shimmer.core.animation.envelope import (
    Animated,
    Keyframe,
    Keyframes,
    Swell,
    Travel,
    value_at,
)
from idle_shimmer.core.animation.keyframing.easing_parts import divided, through
from idle_shimmer.core.animation.on_frames import keyframes_on_frames
from idle_shimmer.core.animation.times import Placing, u_of
from idle_shimmer.core.animation.values import Interpolation, difference_of, total
from idle_shimmer.core.errors import InvalidValue

# Two times this close, in u, are one.
_SAME_U = 1e-6
# A curve is sampled so often in a frame: at its centre, where it is seen, and at its borders.
_SAMPLES_PER_FRAME = 2


@dataclass(frozen=True, slots=True)
class Keyframing:
    """What an envelope is of: the rest and interpolation of its parameter, and the window it lies in."""

    rest: Any
    usual: Interpolation
    placing: Placing

    def value(self, envelope: Any, u: float) -> Any:
        """Return the value of a placed envelope."""
        return value_at(envelope, u, self.rest, self.usual)

    def exact(self, envelope: Any) -> Any:
        """Return an animated envelope with its times as u where they are stated."""
        return envelope.placed(Placing(self.placing.window, self.placing.scale))


def as_keyframes(envelope: Any, about: Keyframing) -> Keyframes[Any]:
    """Return keyframes that show on every frame what ``envelope`` shows, a number, a point or animated.

    Raises InvalidValue for what follows a movement.
    """
    if isinstance(envelope, Keyframes):
        return envelope
    if isinstance(envelope, Swell):
        made = _of_swell(about.exact(envelope), about.rest)
    elif isinstance(envelope, Travel):
        made = _of_travel(about.exact(envelope), about.rest)
    elif isinstance(envelope, int | float | tuple) and not isinstance(envelope, bool):
        return Keyframes(keyframes=(Keyframe(at=0.0, value=envelope),))
    else:
        raise InvalidValue(
            "what follows a movement has no keyframes: choose another animation first",
            field="envelope",
        )
    if about.placing.on_frames:
        made = _from_frames_outside(made, envelope.placed(about.placing), about)
    return Keyframes(keyframes=tuple(made), interpolation=envelope.interpolation)


def _of_swell(swell: Swell[Any], rest: Any) -> list[Keyframe[Any]]:
    start, full_from, full_to, end = map(
        u_of, (swell.start, swell.full_from, swell.full_to, swell.end)
    )
    made = [
        Keyframe(at=start, value=rest, easing=swell.rise),
        Keyframe(at=full_from, value=swell.peak),
        Keyframe(at=full_to, value=swell.peak, easing=swell.fall),
        Keyframe(at=end, value=rest),
    ]
    if full_from == full_to:
        del made[1]
    return made


def _of_travel(travel: Travel[Any], rest: Any) -> list[Keyframe[Any]]:
    first = rest if travel.origin is None else travel.origin
    return [
        Keyframe(at=u_of(travel.start), value=first, easing=travel.easing),
        Keyframe(at=u_of(travel.end), value=total(first, travel.amount)),
    ]


def _from_frames_outside(
    made: list[Keyframe[Any]], shown: Any, about: Keyframing
) -> list[Keyframe[Any]]:
    """Move an end that lies between frames to the frame outside it, with an easing through what is shown."""
    placing = about.placing
    first, second, *_ = made
    inner = _times_seen(made, placing)[1][0]
    begin = _frame_outside(first, inner, placing, is_before=True)
    if begin != first.at and first.at != second.at:
        easing = _shown_between(shown, begin, inner, about)
        made = [first.model_copy(update={"at": begin, "easing": easing}), *made[1:]]
    *others, third, last = made
    inner = _times_seen(made, placing)[-2][-1]
    end = _frame_outside(last, inner, placing, is_before=False)
    if end != last.at and last.at != third.at:
        easing = _shown_between(shown, inner, end, about)
        third = third.model_copy(update={"easing": easing})
        made = [*others, third, last.model_copy(update={"at": end})]
    return made


def _frame_outside(
    keyframe: Keyframe[Any], inner: float, placing: Placing, *, is_before: bool
) -> float:
    """Return the frame on which a curve that begins or ends at ``keyframe`` still rests, in u.

    At least one frame away from ``inner``, where its other value is seen.
    """
    at = u_of(keyframe.at)
    if not placing.is_inside(at):
        return at
    found = placing.centre_outside(at, is_before=is_before) if placing.is_border(at) else at
    neighbour = placing.frames_later(inner, -1 if is_before else 1)
    return min(found, neighbour) if is_before else max(found, neighbour)


def _shown_between(shown: Any, begin: float, end: float, about: Keyframing) -> Easing:
    """Return the easing between two times through what is shown between them."""
    window = about.placing.window
    first, last = (u * (window.before if u < 0 else window.after) for u in (begin, end))
    count = max(1, round((last - first) * _SAMPLES_PER_FRAME))
    times = [first + (last - first) * n / count for n in range(count + 1)]
    # The ends are given exactly, the centre of a frame and its borders in between.
    us = [begin, *(window.u_at(t) for t in times[1:-1]), end]
    values = _progresses([about.value(shown, u) for u in us], about.usual)
    return through(list(zip(us, values, strict=True)))


def _progresses(values: Sequence[Any], usual: Interpolation) -> list[float]:
    """Return how far along the way from the first value to the last each is, of a point in its longer part."""
    if isinstance(values[0], tuple):
        way = difference_of(values[-1], values[0])
        part = 0 if abs(way[0]) >= abs(way[1]) else 1
        return [value[part] for value in values]
    if usual == "ratio" and min(values) > 0:
        return [math.log(value) for value in values]
    return list(values)


def with_value_on_frame(
    envelope: Any, offset: int, value: Any | None, about: Keyframing
) -> Keyframes[Any]:
    """Return keyframes that show ``value`` on frame ``offset``, and elsewhere what follows from it.

    A keyframe on that frame gets the value; otherwise one is added, and the curve to both sides keeps its
    easing. Without ``value`` it is the one that is shown there, and no frame changes. What was constant
    has its first keyframe then: it keeps the value on every frame until there is a second one.
    """
    keyframes, placing = as_keyframes(envelope, about), about.placing
    at = placing.window.u_of_frame(offset)
    if not isinstance(envelope, Animated):
        first = keyframes.keyframes[0]
        first = Keyframe(at=at, value=first.value if value is None else value)
        return keyframes.model_copy(update={"keyframes": (first,)})
    if value is None:
        value = about.value(keyframes.placed(placing), at)
    listed = list(keyframes.keyframes)
    # Of several at one time the last is seen.
    for place, there in reversed(list(enumerate(_times_seen(listed, placing)))):
        if any(abs(u - at) < _SAME_U for u in there):
            listed[place : place + 1] = _with_value(listed[place], value, at, there)
            # Keyframes closer than a frame may lie between the two that one on the cut has become.
            listed.sort(key=lambda each: placing.at(each.at))
            return keyframes.model_copy(update={"keyframes": tuple(listed)})
    return with_keyframe(keyframes, at, value, about)


def _times_seen(keyframes: Sequence[Keyframe[Any]], placing: Placing) -> list[list[float]]:
    """Return the times, in u, at which each keyframe is seen."""
    times = [placing.at(each.at) for each in keyframes]
    if not placing.on_frames:
        return [[u] for u in times]
    found: list[list[float]] = [[] for _ in times]
    for each in keyframes_on_frames(placing, times):
        found[each.number].append(each.u)
    # Where the value jumps, at a border, nothing is seen.
    jumps = {u for u, count in Counter(times).items() if count > 1}
    return [[u for u in there if u not in jumps or len(there) == 1] for there in found]


def _with_value(
    keyframe: Keyframe[Any], value: Any, at: float, there: list[float]
) -> list[Keyframe[Any]]:
    """Return a keyframe with another value, on one frame of the two that one on the cut covers."""
    if len(there) == 1:
        return [keyframe.model_copy(update={"value": value})]
    parts = [keyframe.model_copy(update={"at": u}) for u in there]
    parts[0] = parts[0].model_copy(update={"easing": "linear"})
    return [
        each.model_copy(update={"value": value}) if abs(u_of(each.at) - at) < _SAME_U else each
        for each in parts
    ]


def with_keyframe(
    keyframes: Keyframes[Any], at: float, value: Any, about: Keyframing
) -> Keyframes[Any]:
    """Return keyframes with one more at ``at``, in u; the curve to both sides keeps its easing."""
    listed = list(keyframes.keyframes)
    times = [about.placing.at(each.at) for each in listed]
    place = sum(u <= at for u in times)
    new = Keyframe(at=at, value=value)
    if 0 < place < len(listed):
        one = listed[place - 1]
        # The curve runs between the times at which the two keyframes are seen.
        seen = _times_seen(listed, about.placing)
        begin, end = seen[place - 1][-1], seen[place][0]
        share = (at - begin) / (end - begin) if begin < at < end else 0.5
        before, after = divided(one.easing, share)
        listed[place - 1] = one.model_copy(update={"easing": before})
        new = new.model_copy(update={"easing": after})
    listed.insert(place, new)
    return keyframes.model_copy(update={"keyframes": tuple(listed)})
