"""Wipes that turn: clocks, pin wheels, fans, sweeps, saloon doors."""

import math

import numpy as np

from idle_shimmer.core.mixes.wipe_shapes.base import Draw, Frame, Plane, shape

# Where a hand points, in turns clockwise from twelve o'clock.
TWELVE, THREE, SIX, NINE = 0.0, 0.25, 0.5, 0.75


def _clockwise(f: Frame, pivot: tuple[float, float], start: float) -> Plane:
    """Turns clockwise (0…1) from ``start`` to each point, about a pivot in 0…1 of the frame."""
    right = (f.x - pivot[0]) * f.aspect
    up = pivot[1] - f.y
    return (np.arctan2(right, up) / math.tau - start) % 1.0


def _clock(start: float) -> Draw:
    return lambda f: _clockwise(f, (0.5, 0.5), start)


def _pin_wheel(blades: int, start: float) -> Draw:
    return lambda f: (_clockwise(f, (0.5, 0.5), start) * blades) % 1.0


def _fan(pivot: tuple[float, float], start: float) -> Draw:
    """Opens to both sides of ``start``."""
    return lambda f: 0.5 - np.abs(_clockwise(f, pivot, start) - 0.5)


def _sweep(pivot: tuple[float, float], start: float) -> Draw:
    return lambda f: _clockwise(f, pivot, start)


def _counter(pivot: tuple[float, float], start: float) -> Draw:
    # Just past the end a hand would be back at its start: the pivot's own edge lines count as 0.
    return lambda f: (1 - _clockwise(f, pivot, start)) % 1.0


def _halves(one: Draw, other: Draw, *, by_x: bool) -> Draw:
    """``one`` on the left (or upper) half of the frame, ``other`` on the rest."""

    def drawn(f: Frame) -> Plane:
        first = np.broadcast_to(
            f.x < 0.5 if by_x else f.y < 0.5, np.broadcast_shapes(f.x.shape, f.y.shape)
        )
        return np.where(first, one(f), other(f))

    return drawn


_TOP, _RIGHT, _BOTTOM, _LEFT = (0.5, 0.0), (1.0, 0.5), (0.5, 1.0), (0.0, 0.5)
_TOP_LEFT, _TOP_RIGHT, _BOTTOM_RIGHT, _BOTTOM_LEFT = (0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)

shape("clockWipe", "clockwiseTwelve", 201, _clock(TWELVE))
shape("clockWipe", "clockwiseThree", 202, _clock(THREE))
shape("clockWipe", "clockwiseSix", 203, _clock(SIX))
shape("clockWipe", "clockwiseNine", 204, _clock(NINE))

shape("pinWheelWipe", "twoBladeVertical", 205, _pin_wheel(2, TWELVE))
shape("pinWheelWipe", "twoBladeHorizontal", 206, _pin_wheel(2, THREE))
shape("pinWheelWipe", "fourBlade", 207, _pin_wheel(4, TWELVE))

shape("fanWipe", "centerTop", 211, _fan((0.5, 0.5), TWELVE))
shape("fanWipe", "centerRight", 212, _fan((0.5, 0.5), THREE))
shape("fanWipe", "top", 231, _fan(_TOP, SIX))
shape("fanWipe", "right", 232, _fan(_RIGHT, NINE))
shape("fanWipe", "bottom", 233, _fan(_BOTTOM, TWELVE))
shape("fanWipe", "left", 234, _fan(_LEFT, THREE))

shape(
    "doubleFanWipe",
    "fanOutVertical",
    213,
    lambda f: np.minimum(_fan((0.5, 0.5), TWELVE)(f), _fan((0.5, 0.5), SIX)(f)),
)
shape(
    "doubleFanWipe",
    "fanOutHorizontal",
    214,
    lambda f: np.minimum(_fan((0.5, 0.5), THREE)(f), _fan((0.5, 0.5), NINE)(f)),
)
shape(
    "doubleFanWipe",
    "fanInVertical",
    235,
    _halves(_fan(_TOP, SIX), _fan(_BOTTOM, TWELVE), by_x=False),
)
shape(
    "doubleFanWipe",
    "fanInHorizontal",
    236,
    _halves(_fan(_LEFT, THREE), _fan(_RIGHT, NINE), by_x=True),
)

shape("singleSweepWipe", "clockwiseTop", 221, _sweep(_TOP, THREE))
shape("singleSweepWipe", "clockwiseRight", 222, _sweep(_RIGHT, SIX))
shape("singleSweepWipe", "clockwiseBottom", 223, _sweep(_BOTTOM, NINE))
shape("singleSweepWipe", "clockwiseLeft", 224, _sweep(_LEFT, TWELVE))
shape("singleSweepWipe", "clockwiseTopLeft", 241, _sweep(_TOP_LEFT, THREE))
shape("singleSweepWipe", "counterClockwiseBottomLeft", 242, _counter(_BOTTOM_LEFT, THREE))
shape("singleSweepWipe", "clockwiseBottomRight", 243, _sweep(_BOTTOM_RIGHT, NINE))
shape("singleSweepWipe", "counterClockwiseTopRight", 244, _counter(_TOP_RIGHT, NINE))

shape(
    "doubleSweepWipe",
    "parallelVertical",
    225,
    _halves(_sweep(_TOP, THREE), _counter(_BOTTOM, THREE), by_x=False),
)
shape(
    "doubleSweepWipe",
    "oppositeVertical",
    227,
    _halves(_sweep(_TOP, THREE), _sweep(_BOTTOM, NINE), by_x=False),
)
shape(
    "doubleSweepWipe",
    "oppositeHorizontal",
    228,
    _halves(_sweep(_LEFT, TWELVE), _sweep(_RIGHT, SIX), by_x=True),
)

shape(
    "saloonDoorWipe",
    "top",
    251,
    _halves(_sweep(_TOP_LEFT, THREE), _counter(_TOP_RIGHT, NINE), by_x=True),
)
shape(
    "saloonDoorWipe",
    "left",
    252,
    _halves(_counter(_TOP_LEFT, SIX), _sweep(_BOTTOM_LEFT, TWELVE), by_x=False),
)
shape(
    "saloonDoorWipe",
    "bottom",
    253,
    _halves(_counter(_BOTTOM_LEFT, THREE), _sweep(_BOTTOM_RIGHT, NINE), by_x=True),
)
shape(
    "saloonDoorWipe",
    "right",
    254,
    _halves(_sweep(_TOP_RIGHT, SIX), _counter(_BOTTOM_RIGHT, TWELVE), by_x=False),
)
