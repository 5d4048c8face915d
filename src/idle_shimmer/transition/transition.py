"""The frames of a transition, from two clips, a recipe and a window."""

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import islice
from typing import Protocol

import numpy as np

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide, Retime, SourceFrames
from idle_shimmer.core.animation.shot import WHOLE_CLIPS, Shot, Shots
from idle_shimmer.core.animation.slips import Slipped
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import SpareFramesMissing
from idle_shimmer.core.frame.frame_plan import FramePlan
from idle_shimmer.core.frame.render import (
    NO_MATTES,
    Mattes,
    Source,
    Sources,
    picture_of,
    render_frame,
    render_picture,
)
from idle_shimmer.core.framing import FramedPicture, joined
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.picture.output import OutputFrame
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.sound.accent import PlacedSound, SoundOf
from idle_shimmer.core.subject.regions import Weight
from idle_shimmer.core.subject.slipped import over_slipped
from idle_shimmer.transition.heard_accent import accent_of

_READ_AHEAD = 1


class Frames(Protocol):
    """A clip: frames of one size, read by number."""

    @property
    def name(self) -> str:
        """The clip's name, for messages."""

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still."""

    def frame(self, number: int) -> Source:
        """Return frame ``number``, (H, W, 3): codes of 8 or 16 bits, or a computed picture."""


@dataclass(frozen=True)
class SlipRoom:
    """Source frames beyond the clips' far ends, into which speed ramps may slip; None is unlimited."""

    outgoing: int | None = None
    incoming: int | None = None


# Gives the matte of a clip's subject by the number of the frame, float32 (H, W), 0…1, at the frame size.
SubjectOf = Callable[[int], Weight]


@dataclass(frozen=True)
class Subjects:
    """The subjects of both clips, where they are marked."""

    outgoing: SubjectOf | None = None
    incoming: SubjectOf | None = None

    @property
    def marked(self) -> list[ClipSide]:
        """The sides that have a subject."""
        return [side for side in CLIP_SIDES if getattr(self, side) is not None]


NO_SUBJECTS = Subjects()


@dataclass(frozen=True)
class Transition:
    """A cut between two clips. ``outgoing_out`` is exclusive; both count the clip's frames.

    ``given`` is the recipe as it is stated, ``recipe`` the same with its times placed in the window.
    ``source_frames`` is the one place that says which source frames are shown when.

    ``rate`` is in frames per second; ``matte_of`` returns the picture of a wipe by its id, ``sound_of`` a
    sound of the user's, ``subjects`` the mattes of what the recipe treats apart. Where a subject is not
    marked, its clip is background throughout; ``missing_frames`` tells what is missing.
    ``shots`` end spare frames where the next shot of the same file begins. With ``hold`` a missing spare
    frame shows the clip's nearest frame; without it, asking for one is an error.
    """

    outgoing: Frames
    incoming: Frames
    outgoing_out: int
    incoming_in: int
    window: Window
    given: Recipe
    hold: bool = False
    rate: Fraction = Fraction(25)
    matte_of: MatteOf | None = None
    slip_room: SlipRoom = SlipRoom()
    sound_of: SoundOf | None = None
    subjects: Subjects = NO_SUBJECTS
    shots: Shots = WHOLE_CLIPS

    @cached_property
    def recipe(self) -> Recipe:
        """The recipe with every time as u."""
        return placed(self.given, self.window, self.rate)

    def available(self, side: ClipSide) -> range | None:
        """Return the frames of a side's clip that lie in its shot; None, without limit, for a still."""
        shot: Shot = getattr(self.shots, side)
        return shot.of(getattr(self, side).count)

    def source_frames(self, side: ClipSide, offset: int) -> SourceFrames:
        """Return the frames of a side's clip at frame ``offset``, inside and outside the window.

        They may lie outside the clip, where spare frames are missing.
        """
        return self._counted(side, self.plan(offset).source_frames(side))

    def _start(self, side: ClipSide) -> int:
        """Return the frame of a side's clip at the cut."""
        return self.outgoing_out if side == "outgoing" else self.incoming_in

    def _counted(self, side: ClipSide, found: SourceFrames) -> SourceFrames:
        """Return frames that count from the cut as frames of a side's clip."""
        start = self._start(side)
        return SourceFrames(start + found.first, start + found.second, found.share)

    def timeline(self, size: tuple[int, int]) -> Timeline:
        """Return the recipe over the window, for frames of ``size`` (W, H)."""
        return Timeline(self.given, self.window, self.rate, size)

    def accent(self) -> PlacedSound | None:
        """Return the sound of the recipe's accent, counted from the cut's sample; None without one."""
        return accent_of(self.given, self.window, self.rate, self.sound_of)

    def subject_frames(self, side: ClipSide) -> range | None:
        """Return the frames of a side's clip whose matte the window may need; None where it has none."""
        read = [
            self.recipe.retime.read_frames(side, self.window, offset)
            for offset in self.window.offsets
            if getattr(self.plan(offset).needs, side)
        ]
        if not read:
            return None
        start = self._start(side)
        first = self._in_clip(side, start + min(each[0] for each in read))
        return range(first, self._in_clip(side, start + max(each[-1] for each in read)) + 1)

    def plan(self, offset: int) -> FramePlan:
        """Return the plan of frame ``offset``, by which it is read and rendered."""
        return FramePlan(self.recipe, self.window, offset, self.rate)

    def frame(self, offset: int) -> Codes:
        """Return frame ``offset`` from the cut as a preview, uint8 (H, W, 3), without dither."""
        plan = self.plan(offset)
        return render_frame(plan, self._sources(plan), self.matte_of)

    def output(self, offset: int) -> OutputFrame:
        """Return frame ``offset`` from the cut as it is written, not yet rounded.

        Outside the window it is the source itself.
        """
        plan = self.plan(offset)
        return self._output(plan, self._sources(plan))

    def _output(self, plan: FramePlan, sources: Sources) -> OutputFrame:
        picture = render_picture(plan, sources, self.matte_of)
        # Outside the window dither, if any, is that of the source frame, whoever shows it.
        shown = plan.offset if plan.is_inside else self._shown_first(plan)
        return OutputFrame(picture, shown)

    def _shown_first(self, plan: FramePlan) -> int:
        return self._start(plan.own_side) + plan.source_frames(plan.own_side).first

    def _sources(self, plan: FramePlan) -> Sources:
        """Return what both clips show in a frame, as far as it needs them, read as it will be needed."""
        outgoing, incoming = (
            self._read(side, plan) if needed else None
            for side, needed in zip(
                CLIP_SIDES, (plan.needs.outgoing, plan.needs.incoming), strict=True
            )
        )
        return Sources(outgoing, incoming, self._mattes(plan))

    def _read(self, side: ClipSide, plan: FramePlan) -> Source:
        shown = self._shown(side, plan)
        if isinstance(shown, FramedPicture):
            maps = plan.is_inside and shown.has_whole and plan.filters(shown.size).maps_first(side)
            shown.prepare(for_map=maps)
        return shown

    def fetch(self, offset: int) -> None:
        """Read the frames that ``frame`` will need, for clips that cache them."""
        self._sources(self.plan(offset))

    def _shown(self, side: ClipSide, plan: FramePlan) -> Source:
        """Return what a side shows in a frame, retimed, its background slipped."""
        wanted = self._counted(side, plan.source_frames(side))
        shown = self._source(side, wanted.first)
        if wanted.share:
            other = self._source(side, wanted.second)
            retime: Retime = getattr(self.recipe.retime, side)
            shown = _between(retime, shown, other, wanted.share)
        slipped = plan.slipped(side)
        if slipped is None:
            return shown
        behind = self._plates(side, wanted.first, slipped)
        return over_slipped(shown, self._matte_at(side, wanted), behind, slipped.share)

    def morphs(self) -> Iterator[tuple[int, Codes, Codes]]:
        """Yield (offset, one picture, the other) of the frames in which one is morphed into another."""
        for offset in self.window.offsets:
            plan = self.plan(offset)
            if self.recipe.mix.joins_one_shot and 0 < plan.progress < 1:
                one, other = (self._shown(side, plan) for side in CLIP_SIDES)
                yield offset, _codes(one), _codes(other)
            slipped = plan.slipped(plan.own_side)
            if slipped is not None and slipped.share:
                plates = self._plates(plan.own_side, self._shown_first(plan), slipped)
                one, other = (each for each, _ in plates)
                yield offset, _codes(one), _codes(other)

    def _plates(
        self, side: ClipSide, first: int, slipped: Slipped
    ) -> list[tuple[Source, Weight | None]]:
        """Return the frames that a slipped background is made of, each with its matte.

        ``first`` is the frame of the clip that is shown in its place.
        """
        numbers = [self._in_clip(side, first + each) for each in slipped.offsets]
        return [(self._source(side, each), self._matte(side, each)) for each in numbers]

    def _mattes(self, plan: FramePlan) -> Mattes:
        """Return the mattes of what both sides show in a frame."""
        if not self.subjects.marked or not plan.is_inside:
            return NO_MATTES
        outgoing, incoming = (
            self._matte_at(side, self._counted(side, plan.source_frames(side))) if needed else None
            for side, needed in zip(
                CLIP_SIDES, (plan.needs.outgoing, plan.needs.incoming), strict=True
            )
        )
        return Mattes(outgoing, incoming)

    def _matte_at(self, side: ClipSide, wanted: SourceFrames) -> Weight | None:
        """Return the matte between two frames of a side's clip: faded from one to the other."""
        one = self._matte(side, wanted.first)
        if one is None or wanted.share == 0:
            return one
        other = self._matte(side, wanted.second)
        return None if other is None else (one + np.float32(wanted.share) * (other - one))

    def _matte(self, side: ClipSide, number: int) -> Weight | None:
        subject: SubjectOf | None = getattr(self.subjects, side)
        return None if subject is None else subject(self._in_clip(side, number))

    def _in_clip(self, side: ClipSide, number: int) -> int:
        """Return the frame of a side's clip that is nearest to ``number``."""
        available = self.available(side)
        if available is None:
            return max(number, 0)
        return min(max(number, available.start), available.stop - 1)

    def _source(self, side: ClipSide, number: int) -> Source:
        clip: Frames = getattr(self, side)
        available = self.available(side)
        if self.hold or self.recipe.hold_frames or available is None:
            number = self._in_clip(side, number)
        elif number not in available:
            raise SpareFramesMissing(
                f"frame {number} of {clip.name} does not exist"
                f" (it has {available.start} to {available.stop - 1})",
                field=side,
            )
        return clip.frame(number)

    def frames(self, margin: int = 0) -> Iterator[tuple[int, Codes]]:
        """Yield (offset, ``frame``) of the window and ``margin`` frames around it, in order."""
        for offset in range(-self.window.before - margin, self.window.after + margin):
            yield offset, self.frame(offset)

    def outputs(self, offsets: range) -> Iterator[OutputFrame]:
        """Yield ``output`` of ``offsets`` in order.

        Sources are read in a thread of their own, ahead of the frame that is computed.
        """
        coming = map(self.plan, offsets)
        reader = ThreadPoolExecutor(1, thread_name_prefix="sources")
        try:
            waiting = deque(
                (plan, reader.submit(self._sources, plan)) for plan in islice(coming, _READ_AHEAD)
            )
            while waiting:
                plan, sources = waiting.popleft()
                found = sources.result()
                if (following := next(coming, None)) is not None:
                    waiting.append((following, reader.submit(self._sources, following)))
                yield self._output(plan, found)
        finally:
            reader.shutdown(wait=True, cancel_futures=True)


def _codes(source: Source) -> Codes:
    return picture_of(source).to("codes").pixels


def _between(retime: Retime, one: Source, other: Source, share: float) -> Source:
    """Return what is shown between two frames; where both lie in one place, that is sampled later."""
    if isinstance(one, FramedPicture) and isinstance(other, FramedPicture):
        return joined(one, other, lambda first, second: retime.between(first, second, share))
    return retime.between(picture_of(one), picture_of(other), share)
