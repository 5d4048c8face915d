"""An edit whose clips are opened: its frames and its sound, of a window or of the whole."""

from collections.abc import Callable, Iterator
from copy import copy
from dataclasses import dataclass, replace
from pathlib import Path

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.animation.shot import Shots
from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.core.frame.needs import uses_subjects
from idle_shimmer.core.frame.render import picture_of
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.picture.output import OutputFrame
from idle_shimmer.core.picture.yuv import Planes
from idle_shimmer.core.sound.accent import SoundOf
from idle_shimmer.media.colour_tags import common_colour
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import (
    Reader,
    Size,
    VideoReader,
    is_read_deep,
    show_fields_together,
)
from idle_shimmer.media.read.reframed import ReframedClip
from idle_shimmer.media.read.wipe_pictures import matte_reader
from idle_shimmer.media.sound.accent_files import sound_reader
from idle_shimmer.media.sound.played_sound import (
    ReadParts,
)
from idle_shimmer.media.sound.sound_parts import sound_parts
from idle_shimmer.output.edit_sound import EditSound, Heard
from idle_shimmer.output.kept_planes import Coded, Frame, frames_of, own_planes
from idle_shimmer.output.plan import EditPlan
from idle_shimmer.output.subject.opened_subject import OpenedSubject
from idle_shimmer.transition.missing_frames import require_frames
from idle_shimmer.transition.transition import SlipRoom, SubjectOf, Subjects, Transition

OpenReader = Callable[[Path, Size], Reader]
MatteOfSize = Callable[[Size], MatteOf]


@dataclass(frozen=True)
class Access:
    """How files are opened: clips, the pictures of wipes, sound, and sounds of the user's."""

    open_reader: OpenReader
    matte_of: MatteOfSize
    read_sound: ReadParts
    sound_of: SoundOf | None = None


class OpenedEdit:
    """The clips of ``plan`` at ``size`` (W, H), opened when they are needed."""

    def __init__(
        self,
        plan: EditPlan,
        size: Size,
        access: Access,
    ) -> None:
        self.plan, self.size = plan, size
        self._open_reader, self._matte_of = access.open_reader, access.matte_of(size)
        self.sound = EditSound(
            plan, access.read_sound, access.sound_of, self._has_sound, self.transition
        )
        self._readers: dict[int, Reader] = {}
        self._subjects: dict[tuple[int, ClipSide], OpenedSubject] = {}

    def __enter__(self) -> "OpenedEdit":
        return self

    def __exit__(self, *_: object) -> None:
        for place in list(self._readers):
            self._close(place)

    def close_before(self, place: int) -> None:
        """Close the clips that lie before placed clip ``place``."""
        for each in [opened for opened in self._readers if opened < place]:
            self._close(each)

    def _close(self, place: int) -> None:
        self._readers.pop(place).close()
        for side in CLIP_SIDES:
            if (subject := self._subjects.pop((place, side), None)) is not None:
                subject.close()

    def _reader(self, place: int) -> Reader:
        if place not in self._readers:
            placed = self.plan.placed[place]
            reader = self._open_reader(placed.file, self.size)
            if not placed.deinterlaced:
                show_fields_together(reader)
            self._readers[place] = reader
        return self._readers[place]

    def _clip(self, place: int) -> ReframedClip:
        converted = RateConvertedClip(self._reader(place), self.plan.rate)
        return ReframedClip(converted, self.plan.placed[place].framing)

    def _has_sound(self, place: int) -> bool:
        return self._reader(place).facts.has_sound

    def hearing(self, *heard: Heard) -> "OpenedEdit":
        """Return the same edit with only a part of its sound; its clips stay open here."""
        made = copy(self)
        made.sound = self.sound.hearing(*heard)
        return made

    def is_deep(self, places: list[int]) -> bool:
        """Whether one of the placed clips has more than 8 bits."""
        return any(is_read_deep(self._reader(place).facts, deep=True) for place in places)

    def colour(self, places: list[int]) -> str:
        """Return the colour encoding that placed clips share; BT.709 where they differ."""
        return common_colour([self._reader(place).facts.colour for place in places])

    def is_conformed(self, place: int) -> bool:
        """Whether the clip's own frames and sound are the edit's.

        That is: no framing, the same frame size and rate, not interlaced, no gain and no crossfade.
        """
        facts, placed = self._reader(place).facts, self.plan.placed[place]
        if facts.has_sound and self.plan.is_sound_changed(place):
            return False
        if placed.framing.moves or placed.framing.grades or facts.still or facts.interlaced:
            return False
        same_size = (facts.width, facts.height) == self.plan.size
        return same_size and facts.constant_rate and facts.rate == self.plan.rate

    def frame_count(self, place: int) -> int | None:
        """Return how many frames a placed clip has in all; None for a still."""
        return self._clip(place).count

    def transition(self, place: int) -> Transition:
        """Return the transition at cut ``place``."""
        plan, cut = self.plan, self.plan.cuts[place]
        outgoing, incoming = self._clip(place), self._clip(place + 1)
        one, other = plan.placed[place], plan.placed[place + 1]
        shots = Shots(one.shot, other.shot)
        ahead, behind = one.shot.of(outgoing.count), other.shot.of(incoming.count)
        made = Transition(
            outgoing,
            incoming,
            plan.played[place].end,
            plan.played[place + 1].first,
            cut.window,
            cut.recipe,
            rate=plan.rate,
            matte_of=self._matte_of,
            slip_room=SlipRoom(
                None if ahead is None else one.in_frame - ahead.start,
                None if behind is None else behind.stop - other.out_frame,
            ),
            shots=shots,
        )
        return replace(made, subjects=self._subjects_of(place, made))

    def _subjects_of(self, place: int, made: Transition) -> Subjects:
        """Return the marked subjects on both sides of cut ``place``."""
        if not uses_subjects(made.recipe):
            return Subjects()
        outgoing, incoming = (
            self._subject(place + n, side, made) for n, side in enumerate(CLIP_SIDES)
        )
        return Subjects(outgoing, incoming)

    def _subject(self, place: int, side: ClipSide, made: Transition) -> SubjectOf | None:
        placed, frames = self.plan.placed[place], made.subject_frames(side)
        if placed.subject is None or frames is None:
            return None
        if (place, side) not in self._subjects:
            clip = RateConvertedClip(self._reader(place), self.plan.rate)
            self._subjects[place, side] = OpenedSubject(
                clip, placed.subject, frames, self._open_reader
            )
        return self._subjects[place, side].alpha

    def require_frames(self, places: list[int]) -> None:
        """Raise where a window, a mix or a speed ramp lacks frames, naming the cut."""
        for place in places:
            try:
                require_frames(self.transition(place))
            except ShimmerError as error:
                number = self.plan.cuts[place].number
                raise InvalidValue(f"cut {number}: {error.message}", field=error.field) from error

    def require_room(self) -> None:
        """Raise where the windows and ramps at the two ends of a clip leave no frames between them."""
        for placed, played in zip(self.plan.placed, self.plan.played, strict=True):
            short = played.untreated_first - played.untreated_end
            if short > 0:
                raise InvalidValue(
                    f"the speed ramps on {placed.name} use {short} frames more than it has between"
                    " them: lower a speed or shorten a window",
                    field="retime",
                )

    def window_offsets(self, place: int, handles: int) -> range:
        """Return the frames of a window with ``handles`` around it, as far as the clips have them."""
        transition = self.transition(place)
        first, last = -transition.window.before, transition.window.after - 1
        shown, coming = transition.available("outgoing"), transition.available("incoming")
        earliest = 0 if shown is None else shown.start
        for _ in range(handles):
            if transition.source_frames("outgoing", first - 1).first >= earliest:
                first -= 1
            following = transition.source_frames("incoming", last + 1).second
            if coming is None or following < coming.stop:
                last += 1
        return range(first, last + 1)

    def window_pictures(
        self, place: int, offsets: range, coded: Coded | None = None
    ) -> Iterator[Frame]:
        """Yield frames ``offsets`` from cut ``place``."""

        def planes(side: ClipSide, number: int) -> Planes | None:
            return self._planes(place if side == "outgoing" else place + 1, number, coded)

        return frames_of(self.transition(place), offsets, planes)

    def source_pictures(
        self, place: int, first: int, end: int, coded: Coded | None = None
    ) -> Iterator[Frame]:
        """Yield source frames ``first`` … ``end`` (exclusive) of a placed clip, untreated."""
        clip = self._clip(place)
        for number in range(first, end):
            shown = _inside(number, clip.count)
            planes = self._planes(place, shown, coded)
            yield planes or OutputFrame(picture_of(clip.frame(shown)), number)

    def _planes(self, place: int, number: int, coded: Coded | None) -> Planes | None:
        """Return the clip's own planes of an untreated frame, where the output has the same ones."""
        framing = self.plan.placed[place].framing
        if framing.moves or framing.grades:
            return None
        clip = RateConvertedClip(self._reader(place), self.plan.rate)
        return own_planes(clip, number, coded, self.size)

    def edit_pictures(
        self, coded: Coded | None = None, frames: range | None = None
    ) -> Iterator[Frame]:
        """Yield every frame of the edit, or ``frames`` of it; clips are closed as soon as they are over."""
        plan = self.plan
        begin = plan.first_frame
        wanted = range(plan.frame_count) if frames is None else frames
        first, end = begin + wanted.start, begin + wanted.stop
        runs = {run.place: run for run in plan.runs()}
        treated = set(plan.treated())
        for place in range(len(plan.placed)):
            if (run := runs.get(place)) is not None:
                skipped = max(0, first - run.first_frame)
                stop = min(run.end, run.first + end - run.first_frame)
                if run.first + skipped < stop:
                    yield from self.source_pictures(place, run.first + skipped, stop, coded)
            if place in treated:
                cut, window = plan.cut_frame(place), plan.cuts[place].window
                offsets = range(max(-window.before, first - cut), min(window.after, end - cut))
                if offsets:
                    yield from self.window_pictures(place, offsets, coded)
            self.close_before(place + 1)


def opened_here(plan: EditPlan, size: Size, mattes: Path = Path()) -> OpenedEdit:
    """Open an edit whose clips are decoded in this process; mattes and sounds are files in the folder ``mattes``."""
    access = Access(
        lambda path, wanted: VideoReader(path, wanted, deep=True),
        lambda wanted: matte_reader(mattes, wanted),
        sound_parts,
        sound_reader(mattes),
    )
    return OpenedEdit(plan, size, access)


def _inside(number: int, count: int | None) -> int:
    """Return the nearest frame that the clip has: a slip beyond it is only allowed where frames are held."""
    return max(0, number) if count is None else min(max(number, 0), count - 1)
