"""How values change when the picture is flipped, horizontally (left to right) or vertically, or turned.

A turn is by a quarter, counter-clockwise: what moved rightward moves upward.
"""

import math
from collections.abc import Callable
from typing import Any, Literal

from idle_shimmer.core.animation.envelope import Animated, Follow, stated_values

# What a value means in the picture: a distance rightward or downward, a turn, an angle from
# rightward, a position in 0…1 of the frame, the phase of a wave in turns, the choice of an axis.
Orientation = Literal["rightward", "downward", "turn", "angle", "position", "phase", "axis"]
Axis = Literal["horizontal", "vertical"]
AXES: tuple[Axis, Axis] = ("horizontal", "vertical")

# (sign, offset): value -> sign · value + offset.
_Mapping = tuple[float, float]
_UNCHANGED: _Mapping = (1.0, 0.0)
_NEGATED: _Mapping = (-1.0, 0.0)


def _mapping(orientation: Orientation, axis: Axis) -> _Mapping:
    match orientation:
        case "rightward":
            return _NEGATED if axis == "horizontal" else _UNCHANGED
        case "downward":
            return _NEGATED if axis == "vertical" else _UNCHANGED
        case "turn":
            return _NEGATED
        case "angle":
            return (-1.0, 180.0) if axis == "horizontal" else _NEGATED
        case "phase":
            return (1.0, 0.5)
        case "position":
            return (-1.0, 1.0)
        case "axis":
            return _UNCHANGED


def flip_envelope(envelope: Any, orientation: Orientation, axis: Axis, rest: Any) -> Any:
    """Return the envelope that does on a flipped picture what ``envelope`` does on the plain one.

    ``rest`` is the value from which a travel without ``from`` begins.
    """
    sign, offset = _mapping(orientation, axis)
    if (sign, offset) == _UNCHANGED or isinstance(envelope, Follow):
        return envelope

    def along_axis(value: Any, offset: float) -> Any:
        if not isinstance(value, tuple):
            return sign * value + offset
        x, y = value
        # Of a position only the coordinate along the axis is mirrored.
        return (sign * x + offset, y) if axis == "horizontal" else (x, sign * y + offset)

    def place(value: Any) -> Any:
        return along_axis(value, offset)

    def difference(value: Any) -> Any:
        return along_axis(value, 0.0)

    return _with_values(envelope, place, difference, rest)


_OTHER_AXIS = {"horizontal": "vertical", "vertical": "horizontal"}
# Sums of decimals are rounded to so many places, so that four quarters give back what was stated.
_PLACES = 9


def turn_envelope(envelope: Any, orientation: Orientation | None, rest: Any) -> Any:
    """Return the envelope that does on a picture turned by a quarter what ``envelope`` does on the plain one.

    What was rightward is for the parameter that goes downward, and the reverse.
    """
    if isinstance(envelope, Follow) or orientation in (None, "downward", "turn", "phase"):
        return envelope
    if orientation == "axis":
        return _OTHER_AXIS.get(envelope, envelope)
    if orientation == "rightward":
        return _with_values(envelope, _negative, _negative, rest)
    if orientation == "angle":
        offset = _quarter(envelope, rest)
        return _with_values(
            envelope, lambda value: round(value + offset, _PLACES), lambda value: value, rest
        )
    return _with_values(
        envelope,
        lambda at: (at[1], round(1.0 - at[0], _PLACES)),
        lambda step: (step[1], _negative(step[0])),
        rest,
    )


def _negative(value: float) -> float:
    # Not -0, which would be another document.
    return 0.0 - value


def _quarter(envelope: Any, rest: Any) -> float:
    """Return a quarter turn in degrees, the way on which the first value stays in its revolution."""
    stated = stated_values(envelope)
    first = rest if getattr(envelope, "origin", 0) is None else stated[0][1]
    revolution = math.floor(first / 360) * 360
    return 90.0 if first + 90 < revolution + 360 else -270.0


def _with_values(
    envelope: Any, place: Callable[[Any], Any], difference: Callable[[Any], Any], rest: Any
) -> Any:
    if isinstance(envelope, Animated):
        return envelope.with_values(place, difference, rest)
    return place(envelope)
