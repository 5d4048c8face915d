"""What passes through the filters of a frame: maps composed and sampled once, pictures, and their mattes."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.retime import ClipSide
from idle_shimmer.core.filters.base import Filter, FrameContext, GeometryFilter, PictureFilter, Side
from idle_shimmer.core.frame.frame_plan import FilterPlan, Working
from idle_shimmer.core.frame.needs import is_clear
from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.geometry.shutter import Exposure
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.geometry.warp import coverage_map, warp
from idle_shimmer.core.picture.encoding import Encoding, Picture, Pixels
from idle_shimmer.core.subject.regions import Weight

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


class Filtering:
    """The filters of a plan, applied to what passes through them.

    ``source`` gives the picture of a side as it enters, for filters that look at the other clip.
    """

    def __init__(self, plan: FilterPlan, source: Callable[[ClipSide], Picture]) -> None:
        self.plan, self._source = plan, source
        self.size: tuple[int, int] = plan.timeline.size
        self.light: Encoding = plan.recipe.light

    def through(self, layer: Layer, side: Side) -> Layer:
        """Return what passes after every filter of ``side`` that is on and not at rest."""
        for group in self.plan.groups(side):
            if group.is_composed:
                matte = None if layer.matte is None else self.warped(layer.matte, group.members)
                layer = Layer(self.warped(layer.picture, group.members), matte)
                continue
            for each in group.members:
                known = None if layer.matte is None else sampled(layer.matte)
                picture = self.filtered(sampled(layer.picture), each, side, known)
                if known is not None and each.owner.carries_cover:
                    known = self.filtered(known, each, side, known)
                layer = Layer(picture, known)
        return layer

    def clear_cover(self, side: Side) -> Pixels | None:
        """Return how much of each pixel the picture of ``side`` covers, (H, W, 3); None for all of it.

        What follows a clear edge takes its cover along: geometry moves it, blurs soften it. Black edges
        next to it, in one map with it, are clear as well.
        """
        width, height = self.size
        cover: Pixels | None = None
        for group in self.plan.groups(side):
            if cover is None and any(is_clear(each.owner) for each in group.members):
                cover = np.ones((height, width, 3), np.float32)
            if cover is None:
                continue
            if group.is_composed:
                # Sampled as the picture is, so that both fit at the border.
                cover = warp(cover, self._exposure(group.members).time_samples)
                continue
            for each in group.members:
                if each.owner.carries_cover:
                    carried = self.filtered(Picture(cover, self.light), each, side, None)
                    cover = carried.pixels
        return None if cover is None else np.clip(cover, 0, 1)

    def coverage(self, side: Side, known: NDArray[np.float32] | None = None) -> NDArray[np.float32]:
        """Return ``known`` (all of the frame by default) seen through the geometry of ``side``."""
        width, height = self.size
        shown = np.ones((height, width), np.float32) if known is None else known
        for group in self.plan.groups(side):
            geometry = [each for each in group.members if isinstance(each.owner, GeometryFilter)]
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

    def warped(self, passing: Passing, members: Sequence[Working]) -> Picture:
        """Return what passes through neighbouring geometry filters: one map, sampled once.

        The change to the frame's size and the place of a clip in it are the first stages of that map.
        """
        samples, size = self._exposure(members).time_samples, self.size
        if len(samples) == 1 and all(each.is_identity(*size) for each in samples[0]):
            return sampled(passing)
        picture, first = (passing, []) if isinstance(passing, Picture) else passing.mapped_from()
        encoded = picture.to(self.light)
        return Picture(warp(encoded.pixels, samples.with_first(first), size), encoded.encoding)

    def filtered(
        self, picture: Picture, working: Working, side: Side, matte: Picture | None
    ) -> Picture:
        """Return ``picture`` through one filter, blended with its input by opacity and region.

        ``matte`` is that of the subject in the picture that enters.
        """
        owner, values = working.owner, working.values
        encoded = picture.to(self.light)
        if isinstance(owner, PictureFilter):
            result = owner.apply(encoded.pixels, values, self._context(side))
        else:
            result = self.warped(encoded, [working]).pixels
        weight = self._weight(owner, values["opacity"], matte)
        return Picture(_blend(encoded.pixels, result, weight), encoded.encoding)

    def _weight(self, owner: Filter, opacity: float, matte: Picture | None) -> float | Pixels:
        """Return how much a filter acts: everywhere alike, or (H, W, 1)."""
        if owner.region is None:
            return opacity
        width, height = self.size

        def subject() -> Weight:
            return np.zeros((height, width), np.float32) if matte is None else matte.pixels[..., 0]

        u = self.plan.timeline.window.u_at(self.plan.t)
        weight = owner.region.weight(u, (width, height), subject)
        return (np.float32(opacity) * weight)[..., None]

    def _context(self, side: Side) -> FrameContext:
        layer = self.plan.recipe.subject_layer
        own: ClipSide = "outgoing" if self.plan.offset < 0 else "incoming"
        if side == "subject":
            own = "incoming" if layer is None else layer.of
        elif side != "across":
            own = side
        other: ClipSide = "incoming" if own == "outgoing" else "outgoing"
        source = self._source
        return self.plan.context(lambda: source(other))

    def _exposure(self, members: Sequence[Working]) -> Exposure:
        # The sources are not held: pictures would stay in memory until a collector comes by.
        plan = self.plan

        def stages_at(t: float) -> list[CoordinateTransform]:
            return [plan.stage(each, t) for each in members]

        return Exposure(stages_at, plan.t, plan.recipe.shutter, self.size)


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
