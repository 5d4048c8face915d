"""What a wipe shape is: for each point of the frame the progress at which it is revealed."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float64]
_PROBES = 257


@dataclass(frozen=True, slots=True)
class Frame:
    """The points at which a shape is drawn.

    ``x`` and ``y`` run from 0 to 1 across and down; ``right`` and ``up`` are counted from the centre
    in frame heights, for shapes that must not be stretched. Broadcast shapes (H, W).
    """

    x: Plane
    y: Plane
    aspect: float

    @property
    def right(self) -> Plane:
        """Frame heights to the right of the centre."""
        return (self.x - 0.5) * self.aspect

    @property
    def up(self) -> Plane:
        """Frame heights above the centre."""
        return 0.5 - self.y


Draw = Callable[[Frame], Plane]


@dataclass(frozen=True, slots=True)
class Shape:
    """One subtype of a wipe: its names and SMPTE code, and how it is drawn."""

    type: str
    subtype: str
    code: int
    draw: Draw


_REGISTRY: dict[tuple[str, str], Shape] = {}


def shape(kind: str, subtype: str, code: int, draw: Draw) -> None:
    """Register a shape; its values are scaled so that the frame spans 0…1."""
    if (kind, subtype) in _REGISTRY:
        raise TypeError(f"two wipe shapes are called {kind} {subtype}")
    _REGISTRY[kind, subtype] = Shape(kind, subtype, code, draw)


def shapes() -> dict[tuple[str, str], Shape]:
    """Return every shape by its type and subtype."""
    return dict(_REGISTRY)


@lru_cache(maxsize=8)
def drawn(kind: str, subtype: str, width: int, height: int) -> NDArray[np.float32]:
    """Return the matte of a shape, float32 (H, W) in 0…1. It is cached: do not write to it."""
    draw = _REGISTRY[kind, subtype].draw
    aspect = width / height
    # The span is taken from one grid at every size, so that a shape does not depend on the size.
    low, high = _span(kind, subtype, round(aspect, 6))
    values = draw(_frame(width, height, aspect, inset=True))
    values = np.clip((values - low) / (high - low), 0, 1).astype(np.float32)
    return np.broadcast_to(values, (height, width))


@lru_cache(maxsize=256)
def _span(kind: str, subtype: str, aspect: float) -> tuple[float, float]:
    values = _REGISTRY[kind, subtype].draw(_frame(_PROBES, _PROBES, aspect, inset=False))
    return float(values.min()), float(values.max())


def _frame(columns: int, rows: int, aspect: float, *, inset: bool) -> Frame:
    """Return pixel centres (``inset``), or points from edge to edge."""
    if inset:
        x, y = (np.arange(columns) + 0.5) / columns, (np.arange(rows) + 0.5) / rows
    else:
        # Slightly inside, so that shapes made of cells stay within the last one.
        x, y = (np.linspace(1e-9, 1 - 1e-9, n) for n in (columns, rows))
    return Frame(x[None, :], y[:, None], aspect)


# Fine enough to tell any two shapes apart, and even, so that no point lies on a line of symmetry.
_COMPARED_PX = 48
_SAME = 1e-3


@lru_cache(maxsize=256)
def turned_shape(kind: str, subtype: str) -> tuple[str, str, bool] | None:
    """Return (type, subtype, inverted) of the shape that is this one turned by a quarter.

    Counter-clockwise, on a square frame; inverted where it is that shape backwards. None where no shape
    is. One of the same type is preferred.
    """
    wanted = np.rot90(drawn(kind, subtype, _COMPARED_PX, _COMPARED_PX))
    for inverted in (False, True):
        for other in sorted(_REGISTRY, key=lambda name: (name[0] != kind, name[1] != subtype)):
            matte = drawn(*other, _COMPARED_PX, _COMPARED_PX)
            if np.abs((1 - matte if inverted else matte) - wanted).mean() < _SAME:
                return *other, inverted
    return None
