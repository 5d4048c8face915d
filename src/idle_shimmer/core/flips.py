"""Envelopes of a flipped picture: every stated value mirrored as its fact says."""

from collections.abc import Callable
from typing import Any

from idle_shimmer.core.envelope import Follow, Keys, Swell, Travel
from idle_shimmer.core.facts import Axis, Fact, Flips

# value -> sign * value + offset
_Way = tuple[float, float]
_STILL: _Way = (1.0, 0.0)


def _way(flips: Flips, axis: Axis) -> _Way:
    sideways = axis == "left_right"
    match flips:
        case "right":
            return (-1.0, 0.0) if sideways else _STILL
        case "down":
            return _STILL if sideways else (-1.0, 0.0)
        case "turn":
            return (-1.0, 0.0)
        case "angle":
            return (-1.0, 180.0) if sideways else (-1.0, 0.0)
        case "phase":
            return (1.0, 0.5)
        case _:
            return (-1.0, 1.0)


def flipped_envelope(envelope: Any, fact: Fact, axis: Axis, rest: Any) -> Any:
    """``envelope`` of a parameter with ``fact``, for the picture flipped along ``axis``."""
    assert fact.flips is not None
    sign, offset = _way(fact.flips, axis)
    if (sign, offset) == _STILL or isinstance(envelope, Follow):
        return envelope

    def each(change: Callable[[float], float], value: Any) -> Any:
        if not isinstance(value, tuple):
            return change(value)
        across, down = value
        # Of a place only the coordinate along the axis is mirrored.
        return (change(across), down) if axis == "left_right" else (across, change(down))

    def there(value: float) -> float:
        return sign * value + offset

    def by(amount: float) -> float:
        return sign * amount

    if isinstance(envelope, Swell):
        return envelope.model_copy(update={"peak": each(there, envelope.peak)})
    if isinstance(envelope, Travel):
        origin = rest if envelope.origin is None else envelope.origin
        moved = {"amount": each(by, envelope.amount), "origin": each(there, origin)}
        if moved["origin"] == rest:
            moved["origin"] = envelope.origin
        return envelope.model_copy(update=moved)
    if isinstance(envelope, Keys):
        keys = tuple(k.model_copy(update={"value": each(there, k.value)}) for k in envelope.keys)
        return envelope.model_copy(update={"keys": keys})
    return each(there, envelope)
