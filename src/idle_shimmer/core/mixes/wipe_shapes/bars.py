"""Wipes with straight borders: bars, boxes, barn doors, diagonals, bow ties, vees, zigzags."""

import numpy as np

from idle_shimmer.core.mixes.wipe_shapes.base import Draw, Frame, Plane, shape

_TEETH = 8


def _from_middle(at: Plane) -> Plane:
    """0 in the middle of the frame, 1 at its edges."""
    return np.abs(2 * at - 1)


def _from_edges(at: Plane) -> Plane:
    """0 at the edges, 1 in the middle."""
    return 1 - np.abs(2 * at - 1)


def _zigzag(at: Plane) -> Plane:
    """A triangle wave of height 0…1/teeth."""
    return np.abs((at * _TEETH) % 1 - 0.5) * 2 / _TEETH


def _box(across: Draw, down: Draw) -> Draw:
    return lambda f: np.maximum(across(f), down(f))


def _left(f: Frame) -> Plane:
    return f.x


def _right(f: Frame) -> Plane:
    return 1 - f.x


def _top(f: Frame) -> Plane:
    return f.y


def _bottom(f: Frame) -> Plane:
    return 1 - f.y


def _centre(f: Frame) -> Plane:
    return _from_middle(f.x)


def _middle(f: Frame) -> Plane:
    return _from_middle(f.y)


shape("barWipe", "leftToRight", 1, _left)
shape("barWipe", "topToBottom", 2, _top)

shape("boxWipe", "topLeft", 3, _box(_left, _top))
shape("boxWipe", "topRight", 4, _box(_right, _top))
shape("boxWipe", "bottomRight", 5, _box(_right, _bottom))
shape("boxWipe", "bottomLeft", 6, _box(_left, _bottom))
shape("boxWipe", "topCenter", 23, _box(_centre, _top))
shape("boxWipe", "rightCenter", 24, _box(_right, _middle))
shape("boxWipe", "bottomCenter", 25, _box(_centre, _bottom))
shape("boxWipe", "leftCenter", 26, _box(_left, _middle))

shape("fourBoxWipe", "cornersIn", 7, lambda f: np.maximum(_from_edges(f.x), _from_edges(f.y)))
shape(
    "fourBoxWipe",
    "cornersOut",
    8,
    lambda f: np.maximum(_from_middle((2 * f.x) % 1), _from_middle((2 * f.y) % 1)),
)

shape("barnDoorWipe", "vertical", 21, lambda f: _from_middle(f.x) + 0 * f.y)
shape("barnDoorWipe", "horizontal", 22, lambda f: _from_middle(f.y) + 0 * f.x)
shape("barnDoorWipe", "diagonalBottomLeft", 45, lambda f: np.abs(f.x + f.y - 1))
shape("barnDoorWipe", "diagonalTopLeft", 46, lambda f: np.abs(f.x - f.y))

shape("diagonalWipe", "topLeft", 41, lambda f: f.x + f.y)
shape("diagonalWipe", "topRight", 42, lambda f: 1 - f.x + f.y)

shape("bowTieWipe", "vertical", 43, lambda f: _from_edges(f.y) + _from_middle(f.x))
shape("bowTieWipe", "horizontal", 44, lambda f: _from_edges(f.x) + _from_middle(f.y))

shape(
    "miscDiagonalWipe",
    "doubleBarnDoor",
    47,
    lambda f: np.minimum(np.abs(f.x + f.y - 1), np.abs(f.x - f.y)),
)
shape(
    "miscDiagonalWipe",
    "doubleDiamond",
    48,
    lambda f: np.abs(_from_middle(f.x) + _from_middle(f.y) - 1),
)

shape("veeWipe", "down", 61, lambda f: f.y + _from_middle(f.x))
shape("veeWipe", "left", 62, lambda f: 1 - f.x + _from_middle(f.y))
shape("veeWipe", "up", 63, lambda f: 1 - f.y + _from_middle(f.x))
shape("veeWipe", "right", 64, lambda f: f.x + _from_middle(f.y))

shape("zigZagWipe", "leftToRight", 71, lambda f: f.x + _zigzag(f.y))
shape("zigZagWipe", "topToBottom", 72, lambda f: f.y + _zigzag(f.x))
shape("barnZigZagWipe", "vertical", 73, lambda f: np.abs(f.x - 0.5 + _zigzag(f.y) - 0.5 / _TEETH))
shape("barnZigZagWipe", "horizontal", 74, lambda f: np.abs(f.y - 0.5 + _zigzag(f.x) - 0.5 / _TEETH))
