"""Wipes that open from the centre: rectangles, diamonds, polygons, ellipses, stars."""

import math

import numpy as np

from idle_shimmer.core.mixes.wipe_shapes.base import Draw, Frame, Plane, shape

Corners = list[tuple[float, float]]


def _polygon(corners: Corners) -> Draw:
    """How large a polygon around the centre must grow to reach each point.

    ``corners`` are (right, up), counter-clockwise, and the centre sees every one of them.
    """

    def reach(f: Frame) -> Plane:
        x, y = np.broadcast_arrays(f.right, f.up)
        found = np.zeros(x.shape)
        for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
            whole = ax * by - ay * bx
            one, other = (x * by - y * bx) / whole, (ax * y - ay * x) / whole
            within = (one >= -1e-12) & (other >= -1e-12)
            found = np.where(within, one + other, found)
        return found

    return reach


def _regular(count: int, turned_deg: float) -> Corners:
    """A regular polygon whose first corner points ``turned_deg`` from rightwards."""
    return [_at(1.0, turned_deg + 360 * n / count) for n in range(count)]


def _star(points: int, inner: float) -> Corners:
    """A star with a point straight up; ``inner`` is the radius of the corners between."""
    return [_at(inner if n % 2 else 1.0, 90 + 180 * n / points) for n in range(2 * points)]


def _at(radius: float, angle_deg: float) -> tuple[float, float]:
    angle = math.radians(angle_deg)
    return radius * math.cos(angle), radius * math.sin(angle)


def _turned(corners: Corners, quarters: int) -> Corners:
    """Turned counter-clockwise by quarters."""
    for _ in range(quarters % 4):
        corners = [(-y, x) for x, y in corners]
    return corners


def _ellipse(wide: float, high: float) -> Draw:
    return lambda f: np.hypot(f.right / wide, f.up / high)


def _eye(f: Frame) -> Plane:
    """Two arcs that meet in corners left and right."""
    x, y = np.abs(f.right), np.abs(f.up)
    # The size s at which (x/s)² /4 + y/s = 1/2: the positive root.
    return y + np.sqrt(y * y + x * x / 2)


def _across(draw: Draw) -> Draw:
    """The same shape with right and up exchanged."""

    def turned(f: Frame) -> Plane:
        # Points exchanged about the centre, in frame heights.
        return draw(Frame(f.up / f.aspect + 0.5, 0.5 - f.right, f.aspect))

    return turned


def _rounded(f: Frame) -> Plane:
    """A rectangle with round corners: a superellipse of the fourth degree."""
    return (np.abs(2 * f.x - 1) ** 4 + np.abs(2 * f.y - 1) ** 4) ** 0.25


_ARROW: Corners = [_at(1.0, 90), _at(1.0, 225), (0.0, -0.15), _at(1.0, 315)]

shape("irisWipe", "rectangle", 101, lambda f: np.maximum(np.abs(2 * f.x - 1), np.abs(2 * f.y - 1)))
shape("irisWipe", "diamond", 102, lambda f: np.abs(2 * f.x - 1) + np.abs(2 * f.y - 1))

for _code, _name, _quarters in (
    (103, "up", 0),
    (104, "right", 3),
    (105, "down", 2),
    (106, "left", 1),
):
    shape("triangleWipe", _name, _code, _polygon(_turned(_regular(3, 90), _quarters)))
    shape("arrowHeadWipe", _name, _code + 4, _polygon(_turned(_ARROW, _quarters)))

shape("pentagonWipe", "up", 111, _polygon(_regular(5, 90)))
shape("pentagonWipe", "down", 112, _polygon(_regular(5, -90)))
shape("hexagonWipe", "horizontal", 113, _polygon(_regular(6, 0)))
shape("hexagonWipe", "vertical", 114, _polygon(_regular(6, 90)))

shape("ellipseWipe", "circle", 119, _ellipse(1, 1))
shape("ellipseWipe", "horizontal", 120, _ellipse(2, 1))
shape("ellipseWipe", "vertical", 121, _ellipse(1, 2))

shape("eyeWipe", "horizontal", 122, _eye)
shape("eyeWipe", "vertical", 123, _across(_eye))

shape("roundRectWipe", "horizontal", 124, _rounded)
shape("roundRectWipe", "vertical", 125, _across(_rounded))

shape("starWipe", "fourPoint", 127, _polygon(_star(4, 0.4)))
shape("starWipe", "fivePoint", 128, _polygon(_star(5, 0.382)))
shape("starWipe", "sixPoint", 129, _polygon(_star(6, 0.577)))
