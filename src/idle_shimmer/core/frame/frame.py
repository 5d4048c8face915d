"""One frame of a transition: what its sources become through filters, mix and subject layer."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.filters.base import Filter, FrameContext, GeometryFilter, PictureFilter, Side
from idle_shimmer.core.frame.needs import is_clear, shown_layer
from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.geometry.shutter import Exposure
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.geometry.warp import coverage_map, warp
from idle_shimmer.core.mixes.base import MatteOf, MixContext
from idle_shimmer.core.picture.encoding import Encoding, Picture, Pixels
from idle_shimmer.core.subject.foreground import foreground
from idle_shimmer.core.subject.regions import Weight

# An open shutter is probed at so many times to see whether a filter rests throughout.
_REST_PROBES = 9
# Colours are not divided by a cover below this.
_LEAST_COVER = 1e-4

# What goes through the filters: a picture, or one whose place is sampled with the geometry that follows.
Passing = Picture | FramedPicture


def sampled(passing: Passing) -> Picture:
    """Return the picture in its place."""
    return passing if isinstance(passing, Picture) else passing.sampled()


@dataclass(frozen=True)
class Layer:
    """A picture, and the matte of its subject, (H, W, 3), where a filter looks for that.

    Both go through the same maps.
    """

    picture: Passing
    matte: Passing | None = None


class Frame:
    """The filters of one frame, its two sources, and the mattes of their subjects.

    A matte is float32 (H, W) at the size of its source; a clip without one is background throughout.
    ``resting`` is the encoding in which a mix gives what no filter takes further.
    """

    def __init__(
        self,
        timeline: Timeline,
        offset: int,
        sources: dict[ClipSide, Passing | None],
        mattes: dict[ClipSide, Weight | None],
        resting: Encoding = "codes",
    ) -> None:
        self.resting = resting
        self.timeline = timeline
        self.recipe = timeline.recipe
        self.offset = offset
        self.t = offset + 0.5
        self.sources, self.mattes = sources, mattes

    def rendered(self, matte_of: MatteOf | None) -> Picture:
        """Return the frame."""
        # The mix is handed on, not held: what a filter has taken further is freed.
        made = sampled(self.through(self._with_subject(self._mixed(matte_of)), "across").picture)
        cover = self._clear_cover("across")
        return made if cover is None else self._over(made, cover, self._other_side())

    def _source(self, side: ClipSide) -> Passing:
        found = self.sources[side]
        assert found is not None
        return found

    def _of_side(self, side: ClipSide) -> Layer:
        """Return the source of ``side`` after its own filters."""
        has_matte = self._looks_for_subject(side) or self._looks_for_subject("across")
        matte = self._matte(side) if has_matte else None
        return self.through(Layer(self._source(side), matte), side)

    def _matte(self, side: ClipSide) -> Passing:
        """Return the matte of a source, in its place."""
        source, matte = self._source(side), self.mattes[side]
        if matte is None:
            matte = np.zeros(self.timeline.size[::-1], np.float32)
        shown = Picture(np.repeat(matte[..., None], 3, axis=2), self.recipe.light)
        return shown if isinstance(source, Picture) else source.with_picture(shown)

    def _looks_for_subject(self, side: Side) -> bool:
        looking = {
            each.id
            for each in self.recipe.filters
            if each.side == side and each.region is not None and each.region.needs_subject
        }
        # Which filters are at work takes longer to say.
        return bool(looking) and any(
            each.id in looking for _, group in self._groups(side) for each in group
        )

    def _mixed(self, matte_of: MatteOf | None) -> Layer:
        """Return both sides after their own filters, as the mix joins them."""
        mix = self.recipe.mix
        progress = mix.progress(self.timeline.window.u_of_frame(self.offset))
        if progress <= 0:
            return self._shown_side("outgoing", "incoming")
        if progress >= 1:
            return self._shown_side("incoming", "outgoing")
        context = MixContext(
            self.offset, *self.timeline.size, matte_of, self.encoding_into("across")
        )
        layers = [self._of_side(side) for side in CLIP_SIDES]
        plain = [sampled(each.picture) for each in layers]
        covers = [self._clear_cover(side) for side in CLIP_SIDES]
        one, other = (
            mine if cover is None else self._over(mine, cover, theirs)
            for mine, cover, theirs in zip(plain, covers, plain[::-1], strict=True)
        )
        matte: Picture | None = None
        if self._looks_for_subject("across"):
            first, second = (sampled(each.matte) for each in layers if each.matte is not None)
            joined = mix.join_mattes(first.pixels, second.pixels, (one, other), progress, context)
            matte = Picture(joined, self.recipe.light)
        return Layer(mix.join(one, other, progress, context), matte)

    def _shown_side(self, side: ClipSide, other: ClipSide) -> Layer:
        """Return a side after its filters, over the other where they leave the frame clear."""
        cover, mine = self._clear_cover(side), self._of_side(side)
        if cover is None:
            return mine
        theirs = self._of_side(other)
        matte: Picture | None = None
        if mine.matte is not None and theirs.matte is not None:
            matte = self._over(sampled(mine.matte), cover, sampled(theirs.matte))
        picture = self._over(sampled(mine.picture), cover, sampled(theirs.picture))
        return Layer(picture, matte)

    def _other_side(self) -> Picture:
        """Return the side that the cut has not come to yet, or has left, after its filters."""
        return sampled(self._of_side("incoming" if self.offset < 0 else "outgoing").picture)

    def _over(self, above: Picture, cover: Pixels, below: Picture) -> Picture:
        """Return ``above``, which is black where it is clear, over ``below``; ``cover`` is (H, W, 3)."""
        light = self.recipe.light
        seen = above.to(light).pixels + (1 - cover) * below.to(light).pixels
        return Picture(seen.astype(np.float32), light)

    def _with_subject(self, below: Layer) -> Layer:
        """Return ``below`` under the subject layer, where there is one."""
        side = shown_layer(self.recipe, self.timeline.window, self.offset)
        if side is None or self.mattes[side] is None or self._joins_its_picture(side):
            return below
        above, cover = self._subject(side)
        matte: Picture | None = None
        if below.matte is not None:
            shown = Picture(cover, self.recipe.light)
            matte = self._over(shown, cover, sampled(below.matte))
        return Layer(self._over(above, cover, sampled(below.picture)), matte)

    def _joins_its_picture(self, side: ClipSide) -> bool:
        """Whether the subject lies where its own clip shows it: nothing is laid over itself."""
        progress = self.recipe.mix.progress(self.timeline.window.u_of_frame(self.offset))
        is_shown = progress == (0 if side == "outgoing" else 1)
        return is_shown and not any(True for each in ("subject", side) for _ in self._groups(each))

    def _subject(self, side: ClipSide) -> tuple[Picture, Pixels]:
        """Return the subject of a clip through the filters on it, times its cover, and the cover.

        Nothing lies beyond the edges of its picture: what moves in is clear there.
        """
        light, source, matte = self.recipe.light, self._source(side), self._matte(side)
        picture = source if isinstance(source, Picture) else source.picture
        alpha = (matte if isinstance(matte, Picture) else matte.picture).pixels
        colours = foreground(picture.to(light).pixels, alpha[..., 0])
        times: Passing = Picture(colours * alpha, light)
        if isinstance(source, FramedPicture):
            times = source.with_picture(Picture(colours * alpha, light))
        for composed, filters in self._groups("subject"):
            if composed:
                times, matte = self._warped(times, filters), self._warped(matte, filters)
                continue
            for owner in filters:
                shown, cover = sampled(times), sampled(matte)
                times = self._filtered_subject(shown, cover, owner)
                if owner.carries_cover:
                    matte = self._filtered(cover, owner, "subject", cover)
        return sampled(times), np.clip(sampled(matte).pixels, 0, 1)

    def _filtered_subject(self, times: Picture, cover: Picture, owner: Filter) -> Picture:
        """Return colours times their cover through a filter: those that do not move see the colours."""
        if owner.carries_cover:
            return self._filtered(times, owner, "subject", cover)
        straight = times.pixels / np.maximum(cover.pixels, _LEAST_COVER)
        shown = self._filtered(Picture(straight, times.encoding), owner, "subject", cover)
        return Picture(shown.pixels * cover.pixels, times.encoding)

    def _clear_cover(self, side: Side) -> Pixels | None:
        """Return how much of each pixel the picture of ``side`` covers, (H, W, 3); None for all of it.

        What follows a clear edge takes its cover along: geometry moves it, blurs soften it. Black edges
        next to it, in one map with it, are clear as well.
        """
        width, height = self.timeline.size
        cover: Pixels | None = None
        for composed, filters in self._groups(side):
            if cover is None and any(map(is_clear, filters)):
                cover = np.ones((height, width, 3), np.float32)
            if cover is None:
                continue
            if composed:
                # Sampled as the picture is, so that both fit at the border.
                cover = warp(cover, self._exposure(filters).time_samples)
                continue
            for owner in filters:
                if owner.carries_cover:
                    carried = self._filtered(Picture(cover, self.recipe.light), owner, side, None)
                    cover = carried.pixels
        return None if cover is None else np.clip(cover, 0, 1)

    def through(self, layer: Layer, side: Side) -> Layer:
        """Return what passes after every filter of ``side`` that is on and not at rest."""
        for composed, filters in self._groups(side):
            if composed:
                matte = None if layer.matte is None else self._warped(layer.matte, filters)
                layer = Layer(self._warped(layer.picture, filters), matte)
                continue
            for owner in filters:
                known = None if layer.matte is None else sampled(layer.matte)
                picture = self._filtered(sampled(layer.picture), owner, side, known)
                if known is not None and owner.carries_cover:
                    known = self._filtered(known, owner, side, known)
                layer = Layer(picture, known)
        return layer

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
                [stage if side == "subject" else _filled(stage) for stage in stages]
                for stages in self._exposure(geometry).time_samples
            ]
            if shown.min() < 1:
                shown = warp(np.repeat(shown[..., None], 3, axis=2), samples)[..., 0]
                continue
            shown = coverage_map(width, height, samples)
        return np.clip(shown, 0, 1)

    def maps_first(self, side: ClipSide) -> bool:
        """Whether the first thing that is done with the picture of ``side`` is to map it."""
        first = next(self._groups(side), None)
        if first is None and self._is_alone(side):
            first = next(self._groups("across"), None)
        return first is not None and first[0]

    def _is_alone(self, side: ClipSide) -> bool:
        """Whether the frame shows nothing of the other clip before the filters across."""
        progress = self.recipe.mix.progress(self.timeline.window.u_of_frame(self.offset))
        return progress <= 0 if side == "outgoing" else progress >= 1

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
        own: ClipSide = "outgoing" if self.offset < 0 else "incoming"
        if side == "subject":
            own = "incoming" if self.recipe.subject_layer is None else self.recipe.subject_layer.of
        elif side != "across":
            own = side
        other: ClipSide = "incoming" if own == "outgoing" else "outgoing"
        return self.timeline.context(self.t, self.offset, lambda: sampled(self._source(other)))

    def _rests(self, owner: Filter) -> bool:
        """Whether a filter does nothing at this frame, the open shutter included."""
        if self.recipe.shutter == 0 or not isinstance(owner, GeometryFilter):
            return owner.is_at_rest(self.timeline.values(owner, self.t))
        span = self.recipe.shutter / 360
        times = np.linspace(self.t - span / 2, self.t + span / 2, _REST_PROBES)
        return all(owner.is_at_rest(self.timeline.values(owner, float(t))) for t in times)

    def _composes(self, owner: Filter) -> bool:
        if not isinstance(owner, GeometryFilter) or owner.region is not None:
            return False
        return bool(self.timeline.values(owner, self.t)["opacity"] == 1)

    def _exposure(self, filters: Sequence[Filter]) -> Exposure:
        def stages_at(t: float) -> list[CoordinateTransform]:
            return [self._stage(each, t) for each in filters if isinstance(each, GeometryFilter)]

        return Exposure(stages_at, self.t, self.recipe.shutter, self.timeline.size)

    def _stage(self, owner: GeometryFilter, t: float) -> CoordinateTransform:
        """Return the stage of a filter; beyond a subject's picture nothing is seen."""
        stage = self.timeline.stage(owner, t, self.offset)
        if owner.side == "subject" and stage.edge != "tile":
            return CoordinateTransform(stage.move, stage.parameters, "clear")
        return stage

    def _warped(self, passing: Passing, filters: Sequence[Filter]) -> Picture:
        """Return what passes through neighbouring geometry filters: one map, sampled once.

        The change to the frame's size and the place of a clip in it are the first stages of that map.
        """
        samples, size = self._exposure(filters).time_samples, self.timeline.size
        if len(samples) == 1 and all(each.is_identity(*size) for each in samples[0]):
            return sampled(passing)
        picture, first = (passing, []) if isinstance(passing, Picture) else passing.mapped_from()
        encoded = picture.to(self.recipe.light)
        return Picture(warp(encoded.pixels, samples.with_first(first), size), encoded.encoding)

    def _filtered(
        self, picture: Picture, owner: Filter, side: Side, matte: Picture | None
    ) -> Picture:
        """Return ``picture`` through one filter, blended with its input by opacity and region.

        ``matte`` is that of the subject in the picture that enters.
        """
        values = self.timeline.values(owner, self.t)
        encoded = picture.to(self.recipe.light)
        if isinstance(owner, PictureFilter):
            result = owner.apply(encoded.pixels, values, self._context(side))
        else:
            result = self._warped(encoded, [owner]).pixels
        weight = self._weight(owner, values["opacity"], matte)
        return Picture(_blend(encoded.pixels, result, weight), encoded.encoding)

    def _weight(self, owner: Filter, opacity: float, matte: Picture | None) -> float | Pixels:
        """Return how much a filter acts: everywhere alike, or (H, W, 1)."""
        if owner.region is None:
            return opacity
        width, height = self.timeline.size

        def subject() -> Weight:
            return np.zeros((height, width), np.float32) if matte is None else matte.pixels[..., 0]

        u = self.timeline.window.u_at(self.t)
        weight = owner.region.weight(u, (width, height), subject)
        return (np.float32(opacity) * weight)[..., None]


def _filled(stage: CoordinateTransform) -> CoordinateTransform:
    """Return a stage without a clear edge."""
    if stage.edge != "clear":
        return stage
    return CoordinateTransform(stage.move, stage.parameters, "mirror")


def _blend(below: Pixels, above: Pixels, weight: float | Pixels) -> Pixels:
    if not isinstance(weight, np.ndarray) and weight == 1:
        return above
    share = weight if isinstance(weight, np.ndarray) else np.float32(weight)
    return (below + share * (above - below)).astype(np.float32)
