"""An easing divided in two, so that a value in between can be stated without changing the curve."""

import itertools

from idle_shimmer.core.animation.easing import (
    KEYWORDS,
    Easing,
    control_points,
    curve,
    is_stepped,
    parameter_at,
    stops_of,
)

# The easing that keeps its first value until the next keyframe.
HOLD = "steps(1,end)"
_LINEAR = (0.0, 0.0, 1.0, 1.0)
# How many samples stand for steps.
_SAMPLES = 240
# A part that covers less than this of the whole way is level: its easing is never seen.
_LEVEL = 1e-9


def divided(easing: Easing, at: float) -> tuple[Easing, Easing]:
    """Return the easings before and after progress ``at`` (0…1, excluded), each from 0 to 1 on its own.

    Cubic curves are divided by de Casteljau's algorithm, ``linear()`` at its stops; both keep their shape
    exactly. What holds goes on to hold; other steps are sampled.
    """
    points = control_points(easing)
    if points == _LINEAR:
        return "linear", "linear"
    if points is not None:
        return _divided_cubic(points, at)
    if is_stepped(easing) and curve(easing)(at) == 0:
        return HOLD, HOLD
    stops = _stops_of(easing)
    here = (at, curve(easing)(at))
    before = [each for each in stops if each[0] < at]
    return through([*before, here]), through([here, *stops[len(before) :]])


def backwards(easing: Easing) -> Easing:
    """Return the easing of the same curve from its end to its beginning."""
    points = control_points(easing)
    if points == _LINEAR:
        return "linear"
    if points is None:
        return through([(1 - x, 1 - y) for x, y in reversed(_stops_of(easing))])
    x1, y1, x2, y2 = points
    found = (1 - x2, 1 - y2, 1 - x1, 1 - y1)
    named = (
        name
        for name, known in KEYWORDS.items()
        if all(abs(one - other) < _LEVEL for one, other in zip(known, found, strict=True))
    )
    return next(named, f"cubic-bezier({','.join(f'{each:.9g}' for each in found)})")


def _stops_of(easing: Easing) -> list[tuple[float, float]]:
    """Return the stops of a ``linear()``, and samples of steps."""
    if (stops := stops_of(easing)) is not None:
        return stops
    eased = curve(easing)
    return [(n / _SAMPLES, eased(n / _SAMPLES)) for n in range(_SAMPLES + 1)]


def through(stops: list[tuple[float, float]]) -> Easing:
    """Return ``linear()`` through stops, scaled to run from (0, 0) to (1, 1); of a level way, any easing."""
    (x0, y0), *_, (x1, y1) = stops
    if abs(y1 - y0) < _LEVEL or x1 - x0 < _LEVEL:
        return "linear"
    scaled = [((x - x0) / (x1 - x0), (y - y0) / (y1 - y0)) for x, y in stops]
    if all(abs(x - y) < _LEVEL for x, y in scaled):
        return "linear"
    return f"linear({', '.join(f'{y:.9g} {100 * x:.9g}%' for x, y in scaled)})"


def _divided_cubic(points: tuple[float, float, float, float], at: float) -> tuple[Easing, Easing]:
    x1, y1, x2, y2 = points
    s = parameter_at(at, x1, x2)
    level = [(0.0, 0.0), (x1, y1), (x2, y2), (1.0, 1.0)]
    left, right = [level[0]], [level[-1]]
    while len(level) > 1:
        level = [
            ((1 - s) * ax + s * bx, (1 - s) * ay + s * by)
            for (ax, ay), (bx, by) in itertools.pairwise(level)
        ]
        left.append(level[0])
        right.insert(0, level[-1])
    return _cubic(left), _cubic(right)


def _cubic(points: list[tuple[float, float]]) -> Easing:
    (x0, y0), *inner, (x3, y3) = points
    width, height = x3 - x0, y3 - y0
    if width < _LEVEL or abs(height) < _LEVEL:
        return "linear"
    (x1, y1), (x2, y2) = (((x - x0) / width, (y - y0) / height) for x, y in inner)
    x1, x2 = (min(max(x, 0.0), 1.0) for x in (x1, x2))
    return f"cubic-bezier({x1:.9g},{y1:.9g},{x2:.9g},{y2:.9g})"
