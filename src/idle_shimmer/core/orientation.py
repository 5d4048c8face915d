"""How values change when the picture is flipped horizontally (left to right) or vertically."""

from typing import Any, Literal

from idle_shimmer.core.animation.envelope import Animated, Follow

# What a value means in the picture: a distance rightward or downward, a turn, an angle from
# rightward, a position in 0…1 of the frame, the phase of a wave in turns.
Orientation = Literal["rightward", "downward", "turn", "angle", "position", "phase"]
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

    if isinstance(envelope, Animated):
        return envelope.with_values(place, difference, rest)
    return place(envelope)
