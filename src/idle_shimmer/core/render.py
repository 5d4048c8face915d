"""Renders one frame of a transition: sources, filters of each side, mix, filters across.

Sources are RGB codes of 8 or 16 bits, or computed pictures, (H, W, 3). Frames are numbered from the cut.
Nothing is converted or rounded without need: where no filter and no mix works, the source itself is
returned; what is computed stays float until ``picture.output`` rounds it once.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.filters.base import (
    Filter,
    FrameContext,
    GeometryFilter,
    PictureFilter,
    Side,
)
from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.geometry.shutter import Exposure
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.geometry.warp import coverage_map, warp
from idle_shimmer.core.mixes.base import MatteOf, MixContext
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Encoding, Picture, Pixels
from idle_shimmer.core.recipe import Recipe

# What a clip shows: codes as they are read, a picture that was computed from them, or one that is to be
# placed in the frame yet.
Source = Codes | DeepCodes | Picture | FramedPicture
_ANY_RATE = Fraction(25)
# An open shutter is probed at so many times to see whether a filter rests throughout.
_REST_PROBES = 9


@dataclass(frozen=True, slots=True)
class Needs:
    """Which of the two clips a frame shows."""

    outgoing: bool
    incoming: bool


def needs(recipe: Recipe, window: Window, offset: int) -> Needs:
    """Return which clips frame ``offset`` needs: both only while the mix or a filter uses both."""
    if offset not in window:
        return Needs(outgoing=offset < 0, incoming=offset >= 0)
    progress = recipe.mix.progress(window.u_of_frame(offset))
    both = _looks_at_both(recipe, window, offset)
    seen_through = _seen_through(recipe, window, offset)
    both = both or "across" in seen_through
    # Through a side that is shown itself, the other one is seen.
    outgoing = progress < 1 or both or "incoming" in seen_through
    incoming = progress > 0 or both or "outgoing" in seen_through
    if progress in (0, 1) and not both:
        shown: Side = "outgoing" if progress == 0 else "incoming"
        outgoing, incoming = (side == shown or shown in seen_through for side in CLIP_SIDES)
    return Needs(outgoing=outgoing, incoming=incoming)


def _seen_through(recipe: Recipe, window: Window, offset: int) -> set[Side]:
    """Return the sides on which a filter at work leaves the frame clear beyond its edges."""
    clear = [each for each in recipe.filters if each.enabled and _is_clear(each)]
    timeline = Timeline(recipe, window, _ANY_RATE, (16, 9))
    t, half = offset + 0.5, recipe.shutter / 720
    return {
        each.side
        for each in clear
        if any(not each.is_at_rest(timeline.values(each, when)) for when in (t - half, t, t + half))
    }


def _is_clear(owner: Filter) -> bool:
    return isinstance(owner, GeometryFilter) and owner.edge == "clear"


def _looks_at_both(recipe: Recipe, window: Window, offset: int) -> bool:
    looking = [each for each in recipe.filters if each.enabled and each.looks_at_other()]
    timeline = Timeline(recipe, window, _ANY_RATE, (16, 9))
    return any(not each.is_at_rest(timeline.values(each, offset + 0.5)) for each in looking)


@dataclass(frozen=True, slots=True)
class SpareFrames:
    """Frames beyond the cut that a mix shows: of outgoing past it, of incoming ahead of it."""

    outgoing: int
    incoming: int


@dataclass(frozen=True)
class Shortage:
    """How many spare frames a clip needs, and how many it has.

    They lie beyond the cut or, where a speed ramp slips the clip, beyond its far end.
    """

    side: Side
    clip: str
    needed: int
    available: int
    is_far: bool = False

    @property
    def missing(self) -> int:
        """How many frames are missing."""
        return self.needed - self.available

    @property
    def sentence(self) -> str:
        """What is missing, as a sentence for the editor."""
        is_after = (self.side == "outgoing") != self.is_far
        place = "after the out point" if is_after else "before the in point"
        needs = "The speed ramp uses" if self.is_far else "The window needs"
        frames = "spare frame" if self.needed == 1 else "spare frames"
        return f"{needs} {self.needed} {frames} {place} of {self.clip}; it has {self.available}."


def spare_frames_needed(recipe: Recipe, window: Window) -> SpareFrames:
    """Return how many spare frames the mix shows on each side, at the speed of that side."""
    outgoing = [k for k in range(window.after) if needs(recipe, window, k).outgoing]
    incoming = [k for k in range(-window.before, 0) if needs(recipe, window, k).incoming]
    ramps = recipe.retime.ramp("outgoing", window), recipe.retime.ramp("incoming", window)
    last = max((ramps[0].source_frames(k).second for k in outgoing), default=-1)
    first = min((ramps[1].source_frames(k).first for k in incoming), default=0)
    return SpareFrames(outgoing=max(0, last + 1), incoming=max(0, -first))


def render_frame(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Source | None,
    incoming: Source | None,
    *,
    rate: Fraction = _ANY_RATE,
    matte_of: MatteOf | None = None,
) -> Codes:
    """Return frame ``offset`` of the transition as the live preview shows it: uint8 (H, W, 3).

    Rounded to nearest without dither; arguments and errors are those of ``render_picture``.
    """
    picture = _rendered(
        recipe, window, offset, (outgoing, incoming), (rate, matte_of), resting="codes"
    )
    return picture.to("codes").pixels


def render_picture(
    recipe: Recipe,
    window: Window,
    offset: int,
    outgoing: Source | None,
    incoming: Source | None,
    *,
    rate: Fraction = _ANY_RATE,
    matte_of: MatteOf | None = None,
) -> Picture:
    """Return frame ``offset`` of the transition, (H, W, 3), unrounded.

    ``outgoing`` and ``incoming`` are the source frames shown at this offset, of one size; the one
    that ``needs`` does not ask for may be None. ``rate`` is in frames a second; ``matte_of`` gives
    the picture of a wipe by its id. Raises InvalidValue where a needed source is missing.
    """
    return _rendered(
        recipe, window, offset, (outgoing, incoming), (rate, matte_of), resting="display"
    )


def _rendered(
    recipe: Recipe,
    window: Window,
    offset: int,
    sources: tuple[Source | None, Source | None],
    surroundings: tuple[Fraction, MatteOf | None],
    resting: Encoding,
) -> Picture:
    """Render; ``resting`` is the encoding in which a mix gives what no filter takes further."""
    outgoing, incoming = (None if each is None else _entering(each) for each in sources)
    rate, matte_of = surroundings
    if outgoing is None or incoming is None:
        _require(needs(recipe, window, offset), offset, outgoing, incoming)
    if offset not in window:
        return _sampled(_given(outgoing if offset < 0 else incoming))
    shape = _size_of(_given(outgoing if outgoing is not None else incoming))
    timeline = Timeline(recipe, window, rate, shape)
    both_sides = {"outgoing": outgoing, "incoming": incoming}
    frame = _Frame(timeline, offset, both_sides, resting)
    # The mix is handed on, not held: what a filter has taken further is freed.
    made = _sampled(frame.through(frame.mixed(matte_of), "across"))
    cover = frame.clear_cover("across")
    return made if cover is None else frame.over(made, cover, frame.other_side())


def picture_of(source: Source) -> Picture:
    """Return a source as a picture, in its place."""
    return _sampled(_entering(source))


# What goes through the filters: a picture, or one whose place is sampled with the geometry that follows.
_Passing = Picture | FramedPicture


def _entering(source: Source) -> _Passing:
    return source if isinstance(source, Picture | FramedPicture) else Picture.of_codes(source)


def _sampled(passing: _Passing) -> Picture:
    return passing if isinstance(passing, Picture) else passing.sampled()


def _size_of(passing: _Passing) -> tuple[int, int]:
    picture = passing if isinstance(passing, Picture) else passing.picture
    height, width = picture.pixels.shape[:2]
    return width, height


def _require(
    wanted: Needs, offset: int, outgoing: _Passing | None, incoming: _Passing | None
) -> None:
    for name, picture in (("outgoing", outgoing), ("incoming", incoming)):
        if picture is None and getattr(wanted, name):
            raise InvalidValue(f"frame {offset} needs the {name} clip", field=name)


def frame_coverage(timeline: Timeline, offset: int) -> NDArray[np.float32]:
    """Return how much of each pixel of frame ``offset`` shows picture: float32 (H, W), 0…1.

    Computed from the coordinate maps, not from black pixels. While the mix shows both sides, each
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
    # Filters across move what the sides left uncovered along with the picture.
    return frame.coverage("across", sides)


def _given(picture: _Passing | None) -> _Passing:
    assert picture is not None
    return picture


class _Frame:
    """The filters of one frame, and its two sources."""

    def __init__(
        self,
        timeline: Timeline,
        offset: int,
        sources: dict[str, _Passing | None],
        resting: Encoding = "codes",
    ) -> None:
        self.resting = resting
        self.timeline = timeline
        self.recipe = timeline.recipe
        self.offset = offset
        self.t = offset + 0.5
        self.sources = sources

    def of_side(self, side: Side) -> _Passing:
        """Return the source of ``side`` after its own filters."""
        return self.through(_given(self.sources[side]), side)

    def mixed(self, matte_of: MatteOf | None) -> _Passing:
        """Return both sides after their own filters, as the mix joins them."""
        mix = self.recipe.mix
        progress = mix.progress(self.timeline.window.u_of_frame(self.offset))
        if progress <= 0:
            return self.shown_side("outgoing", "incoming")
        if progress >= 1:
            return self.shown_side("incoming", "outgoing")
        context = MixContext(
            self.offset, *self.timeline.size, matte_of, self.encoding_into("across")
        )
        plain = [_sampled(self.of_side(side)) for side in CLIP_SIDES]
        covers = [self.clear_cover(side) for side in CLIP_SIDES]
        one, other = (
            mine if cover is None else self.over(mine, cover, theirs)
            for mine, cover, theirs in zip(plain, covers, plain[::-1], strict=True)
        )
        return mix.join(one, other, progress, context)

    def shown_side(self, side: ClipSide, other: ClipSide) -> _Passing:
        """Return a side after its filters, over the other where they leave the frame clear."""
        cover = self.clear_cover(side)
        if cover is None:
            return self.of_side(side)
        return self.over(_sampled(self.of_side(side)), cover, _sampled(self.of_side(other)))

    def other_side(self) -> Picture:
        """Return the side that the cut has not come to yet, or has left, after its filters."""
        return _sampled(self.of_side("incoming" if self.offset < 0 else "outgoing"))

    def over(self, above: Picture, cover: Pixels, below: Picture) -> Picture:
        """Return ``above``, which is black where it is clear, over ``below``; ``cover`` is (H, W, 3)."""
        light = self.recipe.light
        seen = above.to(light).pixels + (1 - cover) * below.to(light).pixels
        return Picture(seen.astype(np.float32), light)

    def clear_cover(self, side: Side) -> Pixels | None:
        """Return how much of each pixel the picture of ``side`` covers, (H, W, 3); None for all of it.

        What follows a clear edge takes its cover along: geometry moves it, blurs soften it. Black edges
        next to it, in one map with it, are clear as well.
        """
        width, height = self.timeline.size
        cover: Pixels | None = None
        for composed, filters in self._groups(side):
            if cover is None and any(map(_is_clear, filters)):
                cover = np.ones((height, width, 3), np.float32)
            if cover is None:
                continue
            if composed:
                # Sampled as the picture is, so that both fit at the border.
                cover = warp(cover, self._exposure(filters).time_samples)
            else:
                for owner in filters:
                    if owner.family in ("blur", "geometry"):
                        blurred = self._filtered(Picture(cover, self.recipe.light), owner, side)
                        cover = blurred.pixels
        return None if cover is None else np.clip(cover, 0, 1)

    def through(self, passing: _Passing, side: Side) -> _Passing:
        """Return what passes after every filter of ``side`` that is on and not at rest."""
        for composed, filters in self._groups(side):
            if composed:
                passing = self._warped(passing, filters)
            else:
                for owner in filters:
                    passing = self._filtered(_sampled(passing), owner, side)
        return passing

    def encoding_into(self, side: Side) -> Encoding:
        """Return the encoding that the filters of ``side`` work in; the resting one without any."""
        return self.recipe.light if any(True for _ in self._groups(side)) else self.resting

    def coverage(self, side: Side, known: NDArray[np.float32] | None = None) -> NDArray[np.float32]:
        """Return ``known`` (all of the frame by default) seen through the geometry of ``side``."""
        width, height = self.timeline.size
        shown = np.ones((height, width), np.float32) if known is None else known
        for _, filters in self._groups(side):
            geometry = [each for each in filters if isinstance(each, GeometryFilter)]
            if not geometry:
                continue
            # Beyond a clear edge the other clip is seen, which is a picture.
            samples = [
                [_filled(stage) for stage in stages]
                for stages in self._exposure(geometry).time_samples
            ]
            if shown.min() < 1:
                shown = warp(np.repeat(shown[..., None], 3, axis=2), samples)[..., 0]
                continue
            shown = coverage_map(width, height, samples)
        return np.clip(shown, 0, 1)

    def _groups(self, side: Side) -> Iterator[tuple[bool, list[Filter]]]:
        """Yield runs of neighbouring filters at work: composed into one map, or not."""
        working = [
            each
            for each in self.recipe.filters
            if each.side == side and each.enabled and not self._rests(each)
        ]
        for composed, group in groupby(working, key=self._composes):
            yield composed, list(group)

    def _context(self, side: Side) -> FrameContext:
        own = side if side != "across" else ("outgoing" if self.offset < 0 else "incoming")
        other = "incoming" if own == "outgoing" else "outgoing"
        return self.timeline.context(
            self.t, self.offset, lambda: _sampled(_given(self.sources[other]))
        )

    def _rests(self, owner: Filter) -> bool:
        """Whether a filter does nothing at this frame, the open shutter included."""
        if self.recipe.shutter == 0 or not isinstance(owner, GeometryFilter):
            return owner.is_at_rest(self.timeline.values(owner, self.t))
        span = self.recipe.shutter / 360
        times = np.linspace(self.t - span / 2, self.t + span / 2, _REST_PROBES)
        return all(owner.is_at_rest(self.timeline.values(owner, float(t))) for t in times)

    def _composes(self, owner: Filter) -> bool:
        if not isinstance(owner, GeometryFilter):
            return False
        return bool(self.timeline.values(owner, self.t)["opacity"] == 1)

    def _exposure(
        self, filters: Sequence[Filter], first: tuple[CoordinateTransform, ...] = ()
    ) -> Exposure:
        def stages_at(t: float) -> list[CoordinateTransform]:
            return [
                *first,
                *(
                    self.timeline.stage(each, t, self.offset)
                    for each in filters
                    if isinstance(each, GeometryFilter)
                ),
            ]

        return Exposure(stages_at, self.t, self.recipe.shutter, self.timeline.size)

    def _warped(self, passing: _Passing, filters: Sequence[Filter]) -> Picture:
        """Return what passes through neighbouring geometry filters: one map, sampled once.

        The place of a clip in the frame is the first stage of that map.
        """
        if isinstance(passing, Picture):
            picture, exposure = passing, self._exposure(filters)
        else:
            picture, exposure = passing.picture, self._exposure(filters, (passing.stage,))
        samples = exposure.time_samples
        if len(samples) == 1 and all(each.is_identity(*self.timeline.size) for each in samples[0]):
            return picture
        encoded = picture.to(self.recipe.light)
        return Picture(warp(encoded.pixels, samples), encoded.encoding)

    def _filtered(self, picture: Picture, owner: Filter, side: Side) -> Picture:
        """Return ``picture`` through one filter, blended with its input by the opacity."""
        values = self.timeline.values(owner, self.t)
        encoded = picture.to(self.recipe.light)
        if isinstance(owner, PictureFilter):
            result = owner.apply(encoded.pixels, values, self._context(side))
        else:
            result = self._warped(encoded, [owner]).pixels
        return Picture(_blend(encoded.pixels, result, values["opacity"]), encoded.encoding)


def _filled(stage: CoordinateTransform) -> CoordinateTransform:
    """Return a stage without a clear edge."""
    if stage.edge != "clear":
        return stage
    return CoordinateTransform(stage.move, stage.parameters, "mirror")


def _blend(below: Pixels, above: Pixels, opacity: float) -> Pixels:
    if opacity == 1:
        return above
    return (below + np.float32(opacity) * (above - below)).astype(np.float32)
