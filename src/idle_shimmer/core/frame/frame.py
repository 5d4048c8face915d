"""One frame of a transition: what its sources become through filters, mix and subject layer."""

from dataclasses import dataclass

import numpy as np

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.frame.filtering import Filtering, Layer, Passing, sampled
from idle_shimmer.core.frame.frame_plan import FramePlan, Working
from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.mixes.base import MatteOf, MixContext
from idle_shimmer.core.picture.encoding import Encoding, Picture, Pixels
from idle_shimmer.core.subject.foreground import foreground
from idle_shimmer.core.subject.regions import Weight

# Colours are not divided by a cover below this.
_LEAST_COVER = 1e-4


@dataclass(frozen=True)
class Entering:
    """What enters the filters of a frame: the pictures of both sides, and the mattes of their subjects.

    A matte is float32 (H, W) at the size of its source; a clip without one is background throughout.
    """

    outgoing: Passing | None = None
    incoming: Passing | None = None
    outgoing_matte: Weight | None = None
    incoming_matte: Weight | None = None

    def picture(self, side: ClipSide) -> Passing | None:
        """Return the picture of a side."""
        return self.outgoing if side == "outgoing" else self.incoming

    def matte(self, side: ClipSide) -> Weight | None:
        """Return the matte of a side."""
        return self.outgoing_matte if side == "outgoing" else self.incoming_matte

    def shown(self, side: ClipSide) -> Picture:
        """Return the picture of a side that is needed, in its place."""
        found = self.picture(side)
        assert found is not None
        return sampled(found)


class Frame:
    """The frame of a plan, made of what enters it, at ``size`` (W, H).

    ``resting`` is the encoding in which a mix gives what no filter takes further.
    """

    def __init__(
        self,
        plan: FramePlan,
        size: tuple[int, int],
        sources: Entering,
        resting: Encoding = "codes",
    ) -> None:
        self.plan, self.sources, self.resting = plan, sources, resting
        self.recipe = plan.recipe
        self._filters = plan.filters(size)
        self._filtering = Filtering(self._filters, sources.shown)

    def rendered(self, matte_of: MatteOf | None) -> Picture:
        """Return the frame."""
        # The mix is handed on, not held: what a filter has taken further is freed.
        filtering = self._filtering
        made = sampled(
            filtering.through(self._with_subject(self._mixed(matte_of)), "across").picture
        )
        cover = filtering.clear_cover("across")
        return made if cover is None else self._over(made, cover, self._other_side())

    def _source(self, side: ClipSide) -> Passing:
        found = self.sources.picture(side)
        assert found is not None
        return found

    def _of_side(self, side: ClipSide) -> Layer:
        """Return the source of ``side`` after its own filters."""
        has_matte = any(self._filters.looks_for_subject(each) for each in (side, "across"))
        matte = self._matte(side) if has_matte else None
        return self._filtering.through(Layer(self._source(side), matte), side)

    def _matte(self, side: ClipSide) -> Passing:
        """Return the matte of a source, in its place."""
        source, matte = self._source(side), self.sources.matte(side)
        if matte is None:
            matte = np.zeros(self._filtering.size[::-1], np.float32)
        shown = Picture(np.repeat(matte[..., None], 3, axis=2), self.recipe.light)
        return shown if isinstance(source, Picture) else source.with_picture(shown)

    def _mixed(self, matte_of: MatteOf | None) -> Layer:
        """Return both sides after their own filters, as the mix joins them."""
        mix = self.recipe.mix
        progress = self.plan.progress
        if progress <= 0:
            return self._shown_side("outgoing", "incoming")
        if progress >= 1:
            return self._shown_side("incoming", "outgoing")
        encoding = self._filters.encoding_into("across", self.resting)
        context = MixContext(self.plan.offset, *self._filtering.size, matte_of, encoding)
        layers = [self._of_side(side) for side in CLIP_SIDES]
        plain = [sampled(each.picture) for each in layers]
        covers = [self._filtering.clear_cover(side) for side in CLIP_SIDES]
        one, other = (
            mine if cover is None else self._over(mine, cover, theirs)
            for mine, cover, theirs in zip(plain, covers, plain[::-1], strict=True)
        )
        matte: Picture | None = None
        if self._filters.looks_for_subject("across"):
            first, second = (sampled(each.matte) for each in layers if each.matte is not None)
            joined = mix.join_mattes(first.pixels, second.pixels, (one, other), progress, context)
            matte = Picture(joined, self.recipe.light)
        return Layer(mix.join(one, other, progress, context), matte)

    def _shown_side(self, side: ClipSide, other: ClipSide) -> Layer:
        """Return a side after its filters, over the other where they leave the frame clear."""
        cover, mine = self._filtering.clear_cover(side), self._of_side(side)
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
        return sampled(self._of_side("incoming" if self.plan.offset < 0 else "outgoing").picture)

    def _over(self, above: Picture, cover: Pixels, below: Picture) -> Picture:
        """Return ``above``, which is black where it is clear, over ``below``; ``cover`` is (H, W, 3)."""
        light = self.recipe.light
        seen = above.to(light).pixels + (1 - cover) * below.to(light).pixels
        return Picture(seen.astype(np.float32), light)

    def _with_subject(self, below: Layer) -> Layer:
        """Return ``below`` under the subject layer, where there is one."""
        side = self.plan.layer
        if side is None or self.sources.matte(side) is None or self._joins_its_picture(side):
            return below
        above, cover = self._subject(side)
        matte: Picture | None = None
        if below.matte is not None:
            shown = Picture(cover, self.recipe.light)
            matte = self._over(shown, cover, sampled(below.matte))
        return Layer(self._over(above, cover, sampled(below.picture)), matte)

    def _joins_its_picture(self, side: ClipSide) -> bool:
        """Whether the subject lies where its own clip shows it: nothing is laid over itself."""
        is_shown = self.plan.progress == (0 if side == "outgoing" else 1)
        return is_shown and not any(self._filters.groups(each) for each in ("subject", side))

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
        filtering = self._filtering
        for group in self._filters.groups("subject"):
            if group.is_composed:
                times, matte = (filtering.warped(each, group.members) for each in (times, matte))
                continue
            for each in group.members:
                shown, cover = sampled(times), sampled(matte)
                times = self._filtered_subject(shown, cover, each)
                if each.owner.carries_cover:
                    matte = filtering.filtered(cover, each, "subject", cover)
        return sampled(times), np.clip(sampled(matte).pixels, 0, 1)

    def _filtered_subject(self, times: Picture, cover: Picture, working: Working) -> Picture:
        """Return colours times their cover through a filter: those that do not move see the colours."""
        if working.owner.carries_cover:
            return self._filtering.filtered(times, working, "subject", cover)
        straight = times.pixels / np.maximum(cover.pixels, _LEAST_COVER)
        shown = self._filtering.filtered(
            Picture(straight, times.encoding), working, "subject", cover
        )
        return Picture(shown.pixels * cover.pixels, times.encoding)
