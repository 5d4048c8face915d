"""Renders one frame of a transition: sources, passes of each side, mix, passes across.

Conventions: sources and result are 8-bit RGB codes, (H, W, 3). Frames are numbered from the cut.
Nothing is converted that need not be: where no pass and no mix works, the source is returned.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.geometry.lookup import look_up
from idle_shimmer.core.geometry.shutter import moments
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, Pass, PicturePass, Side
from idle_shimmer.core.picture import Codes, Picture, Pixels
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.timing import Window


@dataclass(frozen=True, slots=True)
class Needs:
    """Which of the two clips a frame shows."""

    outgoing: bool
    incoming: bool


def needs(recipe: Recipe, window: Window, offset: int) -> Needs:
    """Which clips frame ``offset`` needs: both only while the mix is under way."""
    if offset not in window:
        return Needs(outgoing=offset < 0, incoming=offset >= 0)
    progress = recipe.mix.progress(window.u_of_frame(offset))
    return Needs(outgoing=progress < 1, incoming=progress > 0)


@dataclass(frozen=True, slots=True)
class SpareFrames:
    """Frames beyond the cut that a mix shows: of outgoing past it, of incoming ahead of it."""

    outgoing: int
    incoming: int


def spare_frames_needed(recipe: Recipe, window: Window) -> SpareFrames:
    """How many spare frames the mix shows on each side."""
    outgoing = [k for k in range(window.after) if needs(recipe, window, k).outgoing]
    incoming = [k for k in range(-window.before, 0) if needs(recipe, window, k).incoming]
    return SpareFrames(
        outgoing=max(outgoing) + 1 if outgoing else 0,
        incoming=-min(incoming) if incoming else 0,
    )


def render_frame(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Codes | None,
    incoming: Codes | None,
) -> Codes:
    """Frame ``offset`` of the transition, uint8 (H, W, 3).

    ``outgoing`` and ``incoming`` are the source frames shown at this offset, of one size; the one
    that ``needs`` does not ask for may be None. Raises InvalidValue where a needed one is missing.
    """
    wanted = needs(recipe, window, offset)
    for name, picture in (("outgoing", outgoing), ("incoming", incoming)):
        if picture is None and getattr(wanted, name):
            raise InvalidValue(f"frame {offset} needs the {name} clip", field=name)
    if offset not in window:
        return _given(outgoing if offset < 0 else incoming)
    frame = _Frame(recipe, window, offset)
    one = frame.filtered(_given(outgoing), "outgoing") if wanted.outgoing else None
    other = frame.filtered(_given(incoming), "incoming") if wanted.incoming else None
    if one is not None and other is not None:
        mixed = recipe.mix.join(one, other, recipe.mix.progress(window.u_of_frame(offset)))
    else:
        mixed = one or other  # type: ignore[assignment]
    return frame.through(mixed, "across").to("codes").pixels


def _given(picture: Codes | None) -> Codes:
    assert picture is not None
    return picture


class _Frame:
    """The passes of one frame, at one moment."""

    def __init__(self, recipe: Recipe, window: Window, offset: int) -> None:
        self.recipe = recipe
        self.window = window
        self.offset = offset

    def filtered(self, source: Codes, side: Side) -> Picture:
        return self.through(Picture(source, "codes"), side)

    def through(self, picture: Picture, side: Side) -> Picture:
        """``picture`` after every pass of ``side`` that is on and not at rest."""
        height, width = picture.pixels.shape[:2]
        context = self._context(self.offset + 0.5, width, height)
        working = [
            each
            for each in self.recipe.passes
            if each.side == side and each.enabled and not self._rests(each, context)
        ]
        for composed, group in groupby(working, key=lambda each: self._composes(each, context)):
            passes = list(group)
            if composed:
                picture = self._moved(picture, passes, context)
            else:
                for each in passes:
                    picture = self._applied(picture, each, context)
        return picture

    def _context(self, t: float, width: int, height: int) -> FrameContext:
        return FrameContext(self.offset, self.window.u_at(t), width, height)

    def _rests(self, each: Pass, context: FrameContext) -> bool:
        """Whether ``each`` does nothing at this frame, the open shutter included."""
        if self.recipe.shutter == 0 or not isinstance(each, GeometryPass):
            return each.is_at_rest(each.values_at(context.u))
        span = self.recipe.shutter / 360
        times = np.linspace(self.offset + 0.5 - span / 2, self.offset + 0.5 + span / 2, 9)
        return all(each.is_at_rest(each.values_at(self.window.u_at(float(t)))) for t in times)

    def _composes(self, each: Pass, context: FrameContext) -> bool:
        return isinstance(each, GeometryPass) and each.values_at(context.u)["opacity"] == 1

    def _moved(self, picture: Picture, passes: Sequence[Pass], context: FrameContext) -> Picture:
        """``picture`` through neighbouring geometry passes: one map, one lookup."""
        width, height = context.width, context.height

        def stages_at(t: float) -> list[Stage]:
            now = self._context(t, width, height)
            return [p.stage(p.values_at(now.u), now) for p in passes if isinstance(p, GeometryPass)]

        times = moments(stages_at, self.offset + 0.5, self.recipe.shutter, width, height)
        if len(times) == 1 and all(stage.is_identity(width, height) for stage in times[0]):
            return picture
        lit = picture.to(self.recipe.light)
        return Picture(look_up(lit.pixels, times), lit.light)

    def _applied(self, picture: Picture, each: Pass, context: FrameContext) -> Picture:
        """``picture`` through one pass, blended with its input by the pass's opacity."""
        values = each.values_at(context.u)
        lit = picture.to(self.recipe.light)
        if isinstance(each, PicturePass):
            result = each.apply(lit.pixels, values, context)
        else:
            result = self._moved(lit, [each], context).pixels
        return Picture(_blend(lit.pixels, result, values["opacity"]), lit.light)


def _blend(below: Pixels, above: Pixels, opacity: float) -> Pixels:
    if opacity == 1:
        return above
    return (below + np.float32(opacity) * (above - below)).astype(np.float32)
