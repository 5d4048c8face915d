"""Renders one frame of a transition: sources, passes of each side, mix, passes across.

Conventions: sources and result are 8-bit RGB codes, (H, W, 3). Frames are numbered from the cut.
Nothing is converted that need not be: where no pass and no mix works, the source is returned.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.geometry.lookup import covered, look_up
from idle_shimmer.core.geometry.shutter import Exposure
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.mixes.base import MatteOf, MixContext
from idle_shimmer.core.passes.base import FrameContext, GeometryPass, Pass, PicturePass, Side
from idle_shimmer.core.picture import Codes, Light, Picture, Pixels
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.timeline import Timeline
from idle_shimmer.core.timing import Window

_ANY_RATE = Fraction(25)


@dataclass(frozen=True, slots=True)
class Needs:
    """Which of the two clips a frame shows."""

    outgoing: bool
    incoming: bool


def needs(recipe: Recipe, window: Window, offset: int) -> Needs:
    """Which clips frame ``offset`` needs: both only while the mix or a pass looks at both."""
    if offset not in window:
        return Needs(outgoing=offset < 0, incoming=offset >= 0)
    progress = recipe.mix.progress(window.u_of_frame(offset))
    both = _looks_at_both(recipe, window, offset)
    return Needs(outgoing=progress < 1 or both, incoming=progress > 0 or both)


def _looks_at_both(recipe: Recipe, window: Window, offset: int) -> bool:
    looking = [each for each in recipe.passes if each.enabled and each.looks_at_other()]
    timeline = Timeline(recipe, window, _ANY_RATE, (16, 9))
    return any(not each.is_at_rest(timeline.values(each, offset + 0.5)) for each in looking)


@dataclass(frozen=True, slots=True)
class SpareFrames:
    """Frames beyond the cut that a mix shows: of outgoing past it, of incoming ahead of it."""

    outgoing: int
    incoming: int


def spare_frames_needed(recipe: Recipe, window: Window) -> SpareFrames:
    """How many spare frames the mix shows on each side, at the speed of that side."""
    outgoing = [k for k in range(window.after) if needs(recipe, window, k).outgoing]
    incoming = [k for k in range(-window.before, 0) if needs(recipe, window, k).incoming]
    last = max((recipe.retime.outgoing.frames(window, k)[1] for k in outgoing), default=-1)
    first = min((recipe.retime.incoming.frames(window, k)[0] for k in incoming), default=0)
    return SpareFrames(outgoing=max(0, last + 1), incoming=max(0, -first))


def render_frame(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Codes | None,
    incoming: Codes | None,
    *,
    rate: Fraction = _ANY_RATE,
    matte_of: MatteOf | None = None,
) -> Codes:
    """Frame ``offset`` of the transition, uint8 (H, W, 3).

    ``outgoing`` and ``incoming`` are the source frames shown at this offset, of one size; the one
    that ``needs`` does not ask for may be None. ``rate`` is in frames a second; ``matte_of`` gives
    the picture of a wipe by its id. Raises InvalidValue where a needed one is missing.
    """
    if outgoing is None or incoming is None:
        _refuse_missing(needs(recipe, window, offset), offset, outgoing, incoming)
    if offset not in window:
        return _given(outgoing if offset < 0 else incoming)
    shape = _given(outgoing if outgoing is not None else incoming).shape
    timeline = Timeline(recipe, window, rate, (shape[1], shape[0]))
    frame = _Frame(timeline, offset, {"outgoing": outgoing, "incoming": incoming})
    progress = recipe.mix.progress(window.u_of_frame(offset))
    if progress <= 0:
        mixed = frame.of_side("outgoing")
    elif progress >= 1:
        mixed = frame.of_side("incoming")
    else:
        context = MixContext(offset, *timeline.size, matte_of, frame.light_into("across"))
        both = frame.of_side("outgoing"), frame.of_side("incoming")
        mixed = recipe.mix.join(*both, progress, context)
    return frame.through(mixed, "across").to("codes").pixels


def _refuse_missing(
    wanted: Needs, offset: int, outgoing: Codes | None, incoming: Codes | None
) -> None:
    for name, picture in (("outgoing", outgoing), ("incoming", incoming)):
        if picture is None and getattr(wanted, name):
            raise InvalidValue(f"frame {offset} needs the {name} clip", field=name)


def frame_coverage(timeline: Timeline, offset: int) -> NDArray[np.float32]:
    """How much of each pixel of frame ``offset`` shows picture: float32 (H, W), 0…1.

    Told from the coordinate maps, not from black pixels. While the mix shows both sides, each
    counts by the mix's progress.
    """
    width, height = timeline.size
    whole: NDArray[np.float32] = np.ones((height, width), np.float32)
    if offset not in timeline.window:
        return whole
    frame = _Frame(timeline, offset, {})
    progress = timeline.recipe.mix.progress(timeline.window.u_of_frame(offset))
    sides = whole
    if progress < 1:
        sides = frame.coverage("outgoing")
    if progress > 0:
        incoming = frame.coverage("incoming")
        sides = incoming if progress >= 1 else sides + np.float32(progress) * (incoming - sides)
    # Passes across move what the sides left uncovered along with the picture.
    return frame.coverage("across", sides)


def _given(picture: Codes | None) -> Codes:
    assert picture is not None
    return picture


class _Frame:
    """The passes of one frame, and its two sources."""

    def __init__(self, timeline: Timeline, offset: int, sources: dict[str, Codes | None]) -> None:
        self.timeline = timeline
        self.recipe = timeline.recipe
        self.offset = offset
        self.t = offset + 0.5
        self.sources = sources

    def of_side(self, side: Side) -> Picture:
        """The source of ``side`` after its own passes."""
        return self.through(Picture(_given(self.sources[side]), "codes"), side)

    def through(self, picture: Picture, side: Side) -> Picture:
        """``picture`` after every pass of ``side`` that is on and not at rest."""
        for composed, passes in self._groups(side):
            if composed:
                picture = self._moved(picture, passes)
            else:
                for each in passes:
                    picture = self._applied(picture, each, side)
        return picture

    def light_into(self, side: Side) -> Light:
        """The light that the passes of ``side`` work in; codes where none is at work."""
        return self.recipe.light if any(True for _ in self._groups(side)) else "codes"

    def coverage(self, side: Side, known: NDArray[np.float32] | None = None) -> NDArray[np.float32]:
        """``known`` (all of the frame by default) seen through the geometry of ``side``."""
        width, height = self.timeline.size
        shown = np.ones((height, width), np.float32) if known is None else known
        for _, passes in self._groups(side):
            moving = [each for each in passes if isinstance(each, GeometryPass)]
            if not moving:
                continue
            exposure = self._exposure(moving)
            times = exposure.moments, exposure.within
            if shown.min() < 1:
                shown = look_up(np.repeat(shown[..., None], 3, axis=2), *times)[..., 0]
                continue
            shown = covered(width, height, *times)
        return np.clip(shown, 0, 1)

    def _groups(self, side: Side) -> Iterator[tuple[bool, list[Pass]]]:
        """Runs of neighbouring passes at work: those that compose into one map, and the others."""
        working = [
            each
            for each in self.recipe.passes
            if each.side == side and each.enabled and not self._rests(each)
        ]
        for composed, group in groupby(working, key=self._composes):
            yield composed, list(group)

    def _context(self, side: Side) -> FrameContext:
        own = side if side != "across" else ("outgoing" if self.offset < 0 else "incoming")
        other = "incoming" if own == "outgoing" else "outgoing"
        return self.timeline.context(
            self.t, self.offset, lambda: Picture(_given(self.sources[other]), "codes")
        )

    def _rests(self, each: Pass) -> bool:
        """Whether ``each`` does nothing at this frame, the open shutter included."""
        if self.recipe.shutter == 0 or not isinstance(each, GeometryPass):
            return each.is_at_rest(self.timeline.values(each, self.t))
        span = self.recipe.shutter / 360
        times = np.linspace(self.t - span / 2, self.t + span / 2, 9)
        return all(each.is_at_rest(self.timeline.values(each, float(t))) for t in times)

    def _composes(self, each: Pass) -> bool:
        return isinstance(each, GeometryPass) and self.timeline.values(each, self.t)["opacity"] == 1

    def _exposure(self, passes: Sequence[Pass]) -> Exposure:
        def stages_at(t: float) -> list[Stage]:
            return [
                self.timeline.stage(each, t, self.offset)
                for each in passes
                if isinstance(each, GeometryPass)
            ]

        return Exposure(stages_at, self.t, self.recipe.shutter, self.timeline.size)

    def _moved(self, picture: Picture, passes: Sequence[Pass]) -> Picture:
        """``picture`` through neighbouring geometry passes: one map, one lookup."""
        exposure = self._exposure(passes)
        times = exposure.moments
        if len(times) == 1 and all(stage.is_identity(*self.timeline.size) for stage in times[0]):
            return picture
        lit = picture.to(self.recipe.light)
        return Picture(look_up(lit.pixels, times, exposure.within), lit.light)

    def _applied(self, picture: Picture, each: Pass, side: Side) -> Picture:
        """``picture`` through one pass, blended with its input by the pass's opacity."""
        values = self.timeline.values(each, self.t)
        lit = picture.to(self.recipe.light)
        if isinstance(each, PicturePass):
            result = each.apply(lit.pixels, values, self._context(side))
        else:
            result = self._moved(lit, [each]).pixels
        return Picture(_blend(lit.pixels, result, values["opacity"]), lit.light)


def _blend(below: Pixels, above: Pixels, opacity: float) -> Pixels:
    if opacity == 1:
        return above
    return (below + np.float32(opacity) * (above - below)).astype(np.float32)
