"""What a recipe does, as far as it may suit two clips: where it moves the picture, how it feels."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from idle_shimmer.core.animation.envelope import MIX, is_animated
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import Filter, MovingFilter
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.recipe import Recipe

_SIZE = (320, 180)
# Where a recipe moves to does not depend on the window that it is shown in.
_WINDOW, _RATE = Window(6, 6), Fraction(25)
# Movements that come back have no direction: the share of the way that is left in the end.
_MIN_COHERENCE = 0.5
# What is smaller over the whole window is not seen as a movement: frame heights, ln of scale, degrees.
_MIN_SHIFT, _MIN_ZOOM, _MIN_TURN_DEG = 0.35, 0.2, 20.0

# What turns round at the cut goes each way by at least a quarter of that.
_NOTICED = (
    ("shift", "right", _MIN_SHIFT / 4),
    ("shift", "down", _MIN_SHIFT / 4),
    ("zoom", "zoom", _MIN_ZOOM / 4),
    ("turn", "turn_deg", _MIN_TURN_DEG / 4),
)


@dataclass(frozen=True, slots=True)
class Traits:
    """``angle_deg`` is where the picture moves, counter-clockwise from rightwards; None without way.

    ``axis_deg`` is that of a streak without movement. ``zoom`` is +1 towards the picture, −1 away,
    ``turn`` +1 counter-clockwise; 0 where it does neither or comes back. ``rebounds`` are those of shift,
    zoom and turn that go one way before the cut and the other way after it.
    """

    angle_deg: float | None = None
    axis_deg: float | None = None
    zoom: int = 0
    turn: int = 0
    tags: frozenset[str] = frozenset()
    joins_one_shot: bool = False
    has_centre: bool = False
    rebounds: frozenset[str] = frozenset()

    @property
    def moves(self) -> bool:
        """Whether it carries the picture anywhere."""
        return self.angle_deg is not None or bool(self.zoom or self.turn)


def traits_of(recipe: Recipe) -> Traits:
    """Return what ``recipe`` does."""
    seen = list(_movements(Timeline(recipe, _WINDOW, _RATE, _SIZE)))
    steps = [each for _, each in seen]
    right, down = (sum(getattr(each, name) for each in steps) for name in ("right", "down"))
    way = sum(each.distance for each in steps)
    distance = math.hypot(right, down)
    moves = distance >= _MIN_SHIFT and distance >= _MIN_COHERENCE * way
    angle_deg = math.degrees(math.atan2(-down, right)) % 360 if moves else None
    return Traits(
        angle_deg=angle_deg,
        axis_deg=None if moves else _streak_axis_deg(recipe),
        zoom=_sign([each.zoom for each in steps], _MIN_ZOOM),
        turn=_sign([each.turn_deg for each in steps], _MIN_TURN_DEG),
        tags=frozenset(recipe.tags),
        joins_one_shot=recipe.mix.joins_one_shot,
        has_centre=any(centred(each) is not None for each in recipe.filters),
        rebounds=frozenset(_turning_round(seen)),
    )


def centred(owner: Filter) -> str | None:
    """Return the parameter with the point about which a filter works, where it stands in the middle."""
    name = owner.point_parameter()
    if name is None or not owner.enabled:
        return None
    value = getattr(owner, name)
    return name if not is_animated(value) and tuple(value) == (0.5, 0.5) else None


def _turning_round(seen: list[tuple[int, Movement]]) -> Iterator[str]:
    """Yield what goes noticeably one way before the cut and the other way after it."""
    for what, name, least in _NOTICED:
        before, after = (
            sum(getattr(each, name) for k, each in seen if (k < 0) == is_before)
            for is_before in (True, False)
        )
        if before * after < 0 and min(abs(before), abs(after)) >= least:
            yield what


def _movements(timeline: Timeline) -> Iterator[tuple[int, Movement]]:
    """Yield (offset, movement) of every frame by each filter, and by the mix, that carries the picture."""
    movers = [
        each for each in timeline.recipe.filters if isinstance(each, MovingFilter) and each.directed
    ]
    for offset in timeline.window.offsets:
        for each in movers:
            if each.enabled and _seen(each, offset):
                yield offset, timeline.movement(each.id, offset + 0.5)
        if timeline.recipe.mix.displacement(0.0) is not None:
            yield offset, timeline.movement(MIX, offset + 0.5)


def _seen(owner: Filter, offset: int) -> bool:
    if owner.side == "subject":
        return False
    return owner.side == "across" or (owner.side == "outgoing") == (offset < 0)


def _sign(steps: list[float], least: float) -> int:
    total, way = sum(steps), sum(abs(each) for each in steps)
    if abs(total) < least or abs(total) < _MIN_COHERENCE * way:
        return 0
    return 1 if total > 0 else -1


def _streak_axis_deg(recipe: Recipe) -> float | None:
    for each in recipe.filters:
        name = each.direction_parameter
        if name is not None and each.enabled and not is_animated(getattr(each, name)):
            return float(getattr(each, name)) % 180
    return None
