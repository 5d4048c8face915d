"""What the frames of a transition need: which clips, which spare frames, whose subject."""

from collections.abc import Collection
from dataclasses import dataclass
from fractions import Fraction

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import Filter, GeometryFilter, Side
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe

_ANY_RATE = Fraction(25)


@dataclass(frozen=True, slots=True)
class Needs:
    """Which of the two clips a frame shows."""

    outgoing: bool
    incoming: bool


def needs(recipe: Recipe, window: Window, offset: int) -> Needs:
    """Return which clips frame ``offset`` needs: both only while the mix or a filter uses both.

    Of a recipe whose times have been placed in the window.
    """
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
    if (layer := shown_layer(recipe, window, offset)) is not None:
        outgoing, incoming = outgoing or layer == "outgoing", incoming or layer == "incoming"
    return Needs(outgoing=outgoing, incoming=incoming)


def shown_layer(recipe: Recipe, window: Window, offset: int) -> ClipSide | None:
    """Return whose subject lies over the mix in frame ``offset``, None where there is none."""
    layer = recipe.subject_layer
    if layer is None or offset not in window or not layer.is_shown_at(window.u_of_frame(offset)):
        return None
    return layer.of


def missing_subjects(recipe: Recipe, marked: Collection[ClipSide]) -> list[ClipSide]:
    """Return the clips whose subject ``recipe`` needs, where it is not among those ``marked``.

    A filter across both clips needs one of them. Slips do not need any: without a subject the whole picture slips.
    """
    by_matte = {
        each.side
        for each in recipe.filters
        if each.enabled and each.region is not None and each.region.needs_subject
    }
    layer = None if recipe.subject_layer is None else recipe.subject_layer.of
    needed = [side for side in CLIP_SIDES if side == layer or side in by_matte]
    if "across" in by_matte and not needed and not marked:
        needed = ["incoming"]
    return [side for side in needed if side not in marked]


def uses_subjects(recipe: Recipe) -> bool:
    """Whether the subject of a clip is looked for."""
    slips = any(getattr(recipe.retime, side).slips for side in CLIP_SIDES)
    return slips or bool(missing_subjects(recipe, ()))


def _seen_through(recipe: Recipe, window: Window, offset: int) -> set[Side]:
    """Return the sides on which a filter at work leaves the frame clear beyond its edges."""
    clear = [each for each in recipe.filters if each.enabled and is_clear(each)]
    timeline = Timeline(recipe, window, _ANY_RATE, (16, 9))
    t, half = offset + 0.5, recipe.shutter / 720
    return {
        each.side
        for each in clear
        if any(not each.is_at_rest(timeline.values(each, when)) for when in (t - half, t, t + half))
    }


def is_clear(owner: Filter) -> bool:
    """Whether a filter leaves the frame clear beyond its edges."""
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

    They lie beyond the cut or, where a speed ramp slips the clip, beyond its far end. ``is_shot`` tells that they
    end with a shot: what follows in the file shows something else.
    """

    side: Side
    clip: str
    needed: int
    available: int
    is_far: bool = False
    is_shot: bool = False

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
        has = "its shot has" if self.is_shot else "it has"
        return f"{needs} {self.needed} {frames} {place} of {self.clip}; {has} {self.available}."

    @property
    def held(self) -> str:
        """Which frame is held instead, as a part of a sentence."""
        which = "last" if (self.side == "outgoing") != self.is_far else "first"
        times = "1 frame" if self.missing == 1 else f"{self.missing} frames"
        return f"the {which} frame of {self.clip} for {times}"


def spare_frames_needed(
    recipe: Recipe, window: Window, rate: Fraction | None = None
) -> SpareFrames:
    """Return how many spare frames the mix, the subject layer and slips read on each side.

    At the speed of that side; ``rate`` is the edit's, where times in frames may count others.
    """
    recipe = placed(recipe, window, rate)

    def read(side: ClipSide) -> list[range]:
        is_outgoing = side == "outgoing"
        # On its own side of the cut only a slip reaches past it.
        reaches = getattr(recipe.retime, side).slips
        return [
            recipe.retime.read_frames(side, window, k)
            for k in window.offsets
            if (reaches or (k >= 0) == is_outgoing) and getattr(needs(recipe, window, k), side)
        ]

    last = max((frames[-1] for frames in read("outgoing")), default=-1)
    first = min((frames[0] for frames in read("incoming")), default=0)
    return SpareFrames(outgoing=max(0, last + 1), incoming=max(0, -first))
