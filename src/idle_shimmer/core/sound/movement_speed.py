"""How fast a filter or the mix moves the picture, at any time: what an accent follows."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.timeline import Timeline

# Measured so often and over so long a time, whatever the frame rate.
_STEP_S = 0.004
_SPAN_S = 0.008


@dataclass(frozen=True)
class MovementSpeed:
    """Speeds at ``seconds`` from the cut.

    ``speed`` is 0…1 of the fastest; ``passed`` is the share of the way that has been gone, 0…1;
    ``sideways`` is how much of the whole way is rightward, -1…1 (leftward negative).
    """

    seconds: NDArray[np.float64]
    speed: NDArray[np.float64]
    passed: NDArray[np.float64]
    sideways: float


def movement_speed(timeline: Timeline, target: str, start_s: float, end_s: float) -> MovementSpeed:
    """Return how fast ``target``, a filter's id or the mix, moves between two times from the cut.

    A shift counts in frame heights; a zoom and a turn by what they move halfway to the edge.
    """
    seconds = np.arange(start_s, end_s + _STEP_S, _STEP_S)
    found = [_moved(timeline, target, float(t)) for t in seconds]
    right, speed = (np.array([each[n] for each in found]) for n in (0, 1))
    fastest = float(speed.max(initial=0.0))
    way = float(speed.sum())
    if fastest <= 1e-9:
        still = np.zeros_like(seconds)
        return MovementSpeed(seconds, still, still, 0.0)
    return MovementSpeed(
        seconds, speed / fastest, np.cumsum(speed) / way, float(np.clip(right.sum() / way, -1, 1))
    )


def _moved(timeline: Timeline, target: str, at_s: float) -> tuple[float, float]:
    """Return the way (rightward, in all) during ``_SPAN_S`` around a time."""
    rate = float(timeline.rate)
    moved = timeline.movement(target, at_s * rate, min(1.0, _SPAN_S * rate))
    turned = abs(np.radians(moved.turn_deg))
    return moved.right, moved.distance + 0.25 * (abs(moved.zoom) + turned)
