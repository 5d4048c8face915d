"""A recipe over a window at a frame rate and size: every value at every time.

Rendering, curves and checks ask here, so that they always agree. Times are frames from the cut;
frame k is sampled at k + 0.5.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from typing import Any

from idle_shimmer.core.animation.envelope import Follow, value_at
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import Filter, FrameContext, GeometryFilter, MovingFilter
from idle_shimmer.core.geometry.movement import NO_MOVEMENT, Movement, movement
from idle_shimmer.core.geometry.transforms import AffineTransform, CoordinateTransform
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe


@dataclass(frozen=True)
class Timeline:
    """The values of a recipe over ``window``, at ``rate`` frames a second and ``size`` (W, H).

    ``given`` is the recipe as it is stated, ``recipe`` the same with its times placed in the window.
    """

    given: Recipe
    window: Window
    rate: Fraction
    size: tuple[int, int]
    # Constant values by filter id: an open shutter asks for the values at hundreds of times.
    _constant: dict[str, dict[str, Any]] = field(
        default_factory=dict, init=False, compare=False, repr=False
    )
    # Several checks, and every filter that follows, ask for the same ones.
    _movements: dict[tuple[str, float, float], Movement] = field(
        default_factory=dict, init=False, compare=False, repr=False
    )

    @cached_property
    def recipe(self) -> Recipe:
        """The recipe with every time as u, its peaks and keyframes where they are seen."""
        return placed(self.given, self.window, self.rate)

    @cached_property
    def between_frames(self) -> Recipe:
        """The recipe with every time as u, its peaks and keyframes where they are stated."""
        return placed(self.given, self.window, self.rate, on_frames=False)

    def context(
        self, t: float, offset: int, other: Callable[[], Picture] | None = None
    ) -> FrameContext:
        """Return where and when filters work at ``t``, for frame ``offset``."""
        return FrameContext(
            offset,
            self.window.u_at(t),
            t / float(self.rate),
            *self.size,
            light=self.recipe.light,
            other=other,
        )

    def values(self, owner: Filter, t: float) -> dict[str, Any]:
        """Return every parameter of a filter at ``t``."""
        if owner.id not in self._constant:
            self._constant[owner.id] = owner.constant_values()
        return owner.values_at(
            self.window.u_at(t), lambda target: self.movement(target, t), self._constant[owner.id]
        )

    def stage(self, owner: GeometryFilter, t: float, offset: int) -> CoordinateTransform:
        """Return the stage of the coordinate map that a geometry filter is at ``t``."""
        return owner.stage(self.values(owner, t), self.context(t, offset))

    def movement(self, followed: str, t: float, span: float = 1.0) -> Movement:
        """Return how far a filter, by its id, or the mix carries the picture in the frame around ``t``.

        Or in another ``span`` of frames around it, at most one.

        A filter that is switched off or does not move the picture has no
        movement, but its point.
        """
        asked = followed, t, span
        if asked not in self._movements:
            self._movements[asked] = self._measured(followed, t, span)
        return self._movements[asked]

    def _measured(self, followed: str, t: float, span: float) -> Movement:
        moving = next((each for each in self.recipe.filters if each.id == followed), None)
        if moving is None:
            return self._movement_of_mix(t, span)
        point = self._point_of(moving, t)
        if not isinstance(moving, MovingFilter) or not moving.enabled:
            return replace(NO_MOVEMENT, centre=point)

        def stage_at(when: float) -> AffineTransform:
            return moving.stage(self.values(moving, when), self.context(when, int(when // 1)))

        return replace(movement(stage_at, t, *self.size, span=span), centre=point)

    def _movement_of_mix(self, t: float, span: float) -> Movement:
        first, last = (
            self.recipe.mix.displacement(self.window.u_at(t + half))
            for half in (-span / 2, span / 2)
        )
        if first is None or last is None:
            return NO_MOVEMENT
        width, height = self.size
        return Movement((last[0] - first[0]) * width / height, last[1] - first[1], 0.0, 0.0)

    def _point_of(self, owner: Filter, t: float) -> tuple[float, float] | None:
        """Return where the point of a filter lies at ``t``; None where it has none, or follows one."""
        name = owner.point_parameter()
        envelope = None if name is None else getattr(owner, name)
        if name is None or isinstance(envelope, Follow):
            return None
        u, parameter = self.window.u_at(t), owner.parameters()[name]
        point: tuple[float, float] = parameter.clamp(value_at(envelope, u, owner.rest_of(name)))
        return point
