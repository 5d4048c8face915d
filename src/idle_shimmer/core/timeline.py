"""A recipe laid over a window at a frame rate and size: every value at every time.

Render, curves and checks ask here, so that they can never disagree. Times are frames from the cut;
frame k is sampled at k + 0.5.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from idle_shimmer.core.geometry.movement import Movement, movement
from idle_shimmer.core.geometry.stages import AffineStage, Stage
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, MovingPass, Pass
from idle_shimmer.core.picture import Picture
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.timing import Window


@dataclass(frozen=True)
class Timeline:
    """The values of ``recipe`` over ``window``, at ``rate`` frames a second and (W, H) ``size``."""

    recipe: Recipe
    window: Window
    rate: Fraction
    size: tuple[int, int]
    # What a pass holds is the same at every time: a shutter asks for hundreds of them.
    _held: dict[str, dict[str, Any]] = field(default_factory=dict, compare=False, repr=False)

    def context(
        self, t: float, offset: int, other: Callable[[], Picture] | None = None
    ) -> FrameContext:
        """Where and when passes work at ``t``, for frame ``offset``."""
        return FrameContext(
            offset,
            self.window.u_at(t),
            t / float(self.rate),
            *self.size,
            light=self.recipe.light,
            other=other,
        )

    def values(self, each: Pass, t: float) -> dict[str, Any]:
        """Every parameter of ``each`` at ``t``."""
        if each.id not in self._held:
            self._held[each.id] = each.held_values()
        return each.values_at(
            self.window.u_at(t), lambda target: self.movement(target, t), self._held[each.id]
        )

    def stage(self, each: GeometryPass, t: float, offset: int) -> Stage:
        """The stage of ``each`` at ``t``."""
        return each.stage(self.values(each, t), self.context(t, offset))

    def movement(self, pass_id: str, t: float) -> Movement:
        """How far the moving pass ``pass_id`` carries the picture in the frame around ``t``.

        A pass that is switched off does not move.
        """
        moving = next(each for each in self.recipe.passes if each.id == pass_id)
        if not isinstance(moving, MovingPass) or not moving.enabled:
            return Movement(0.0, 0.0, 0.0, 0.0)

        def stage_at(when: float) -> AffineStage:
            return moving.stage(self.values(moving, when), self.context(when, int(when // 1)))

        return movement(stage_at, t, *self.size)
