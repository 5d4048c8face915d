"""An edit whose clips are opened: its frames and its sound, of a window or of the whole."""

from collections.abc import Callable, Iterator
from copy import copy
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal, get_args

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide, Ramp
from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.core.frame.needs import uses_subjects
from idle_shimmer.core.frame.render import picture_of
from idle_shimmer.core.mixes.base import MatteOf
from idle_shimmer.core.picture.output import OutputFrame
from idle_shimmer.core.picture.yuv import YUV_FORMS, Planes
from idle_shimmer.core.sound.accent import PlacedSound, SoundOf
from idle_shimmer.core.sound.crossfade import with_fades
from idle_shimmer.core.sound.mixing import Laid, between, mixed
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.media.colour_tags import common_colour
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import Reader, Size, VideoReader, is_read_deep
from idle_shimmer.media.read.reframed import ReframedClip
from idle_shimmer.media.read.wipe_pictures import matte_reader
from idle_shimmer.media.sound.accent_files import sound_reader
from idle_shimmer.media.sound.played_sound import (
    HeardClip,
    ReadParts,
    Stretch,
    clip_stretches,
    heard_sound,
)
from idle_shimmer.media.sound.sound_parts import Sound, faded_ends, sound_parts
from idle_shimmer.output.plan import EditPlan, Run
from idle_shimmer.output.sound.edit_accents import accents_between
from idle_shimmer.output.sound.joins import Join
from idle_shimmer.output.sound.window_sound import HeardSides, window_sound
from idle_shimmer.output.subject.opened_subject import OpenedSubject
from idle_shimmer.transition.missing_frames import require_frames
from idle_shimmer.transition.transition import SlipRoom, SubjectOf, Subjects, Transition, accent_of

OpenReader = Callable[[Path, Size], Reader]
MatteOfSize = Callable[[Size], MatteOf]
Frame = OutputFrame | Planes
Heard = Literal["clips", "accents", "music"]
EVERYTHING: frozenset[Heard] = frozenset(get_args(Heard))


@dataclass(frozen=True, slots=True)
class Coded:
    """How an output codes its frames: its layout of pixels, and its colour encoding."""

    pixels: str
    colour: str


class OpenedEdit:
    """The clips of ``plan`` at ``size`` (W, H), opened when they are needed."""

    def __init__(
        self,
        plan: EditPlan,
        size: Size,
        open_reader: OpenReader,
        matte_of: MatteOfSize,
        read_sound: ReadParts,
        sound_of: SoundOf | None = None,
    ) -> None:
        self.plan, self.size = plan, size
        self._open_reader, self._matte_of = open_reader, matte_of(size)
        self._read_sound, self._sound_of = read_sound, sound_of
        self._hears = EVERYTHING
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
            self._readers[place] = self._open_reader(self.plan.placed[place].file, self.size)
        return self._readers[place]

    def _clip(self, place: int) -> ReframedClip:
        converted = RateConvertedClip(self._reader(place), self.plan.rate)
        return ReframedClip(converted, self.plan.placed[place].framing)

    def is_deep(self, places: list[int]) -> bool:
        """Whether one of the placed clips has more than 8 bits."""
        return any(is_read_deep(self._reader(place).facts, deep=True) for place in places)

    def colour(self, places: list[int]) -> str:
        """Return the colour encoding that placed clips share; BT.709 where they differ."""
        return common_colour([self._reader(place).facts.colour for place in places])

    def is_conformed(self, place: int) -> bool:
        """Whether the clip's own frames and sound are the edit's.

        That is: no framing, the same frame size and rate, no gain and no crossfade.
        """
        facts, placed = self._reader(place).facts, self.plan.placed[place]
        if facts.has_sound and self.plan.is_sound_changed(place):
            return False
        if placed.framing.moves or placed.framing.grades or facts.still:
            return False
        same_size = (facts.width, facts.height) == self.plan.size
        return same_size and facts.constant_rate and facts.rate == self.plan.rate

    def frame_count(self, place: int) -> int | None:
        """Return how many frames a placed clip has in all; None for a still."""
        return self._clip(place).count

    def hearing(self, *heard: Heard) -> "OpenedEdit":
        """Return the same edit with only a part of its sound; its clips stay open here."""
        made = copy(self)
        made._hears = frozenset(heard)
        return made

    def is_heard(self, places: range) -> bool:
        """Whether there is sound around the cuts ``places``: of their clips, their accents or the music."""
        cuts = self.plan.cuts[places.start : places.stop]
        has_accent = any(cut.recipe.accent is not None for cut in cuts)
        return (
            ("accents" in self._hears and has_accent)
            or ("music" in self._hears and self.plan.music is not None)
            or self.has_sound(list(range(places.start, places.stop + 1)))
        )

    def has_sound(self, places: list[int]) -> bool:
        """Whether one of the placed clips is heard."""
        return "clips" in self._hears and any(
            self._reader(place).facts.has_sound and not self.plan.placed[place].muted
            for place in places
        )

    def transition(self, place: int) -> Transition:
        """Return the transition at cut ``place``."""
        plan, cut = self.plan, self.plan.cuts[place]
        outgoing, incoming = self._clip(place), self._clip(place + 1)
        one, other = plan.placed[place], plan.placed[place + 1]
        after = None if incoming.count is None else incoming.count - other.out_frame
        made = Transition(
            outgoing,
            incoming,
            plan.played[place].end,
            plan.played[place + 1].first,
            cut.window,
            cut.recipe,
            rate=plan.rate,
            matte_of=self._matte_of,
            slip_room=SlipRoom(None if outgoing.count is None else one.in_frame, after),
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
        count = transition.incoming.count
        for _ in range(handles):
            if transition.source_frames("outgoing", first - 1).first >= 0:
                first -= 1
            if count is None or transition.source_frames("incoming", last + 1).second < count:
                last += 1
        return range(first, last + 1)

    def window_pictures(
        self, place: int, offsets: range, coded: Coded | None = None
    ) -> Iterator[Frame]:
        """Yield frames ``offsets`` from cut ``place``."""
        transition = self.transition(place)
        before, after = -transition.window.before, transition.window.after
        yield from self._handles(transition, place, range(offsets.start, before), coded)
        yield from transition.outputs(range(max(offsets.start, before), min(offsets.stop, after)))
        yield from self._handles(transition, place + 1, range(after, offsets.stop), coded)

    def _handles(
        self, transition: Transition, place: int, offsets: range, coded: Coded | None
    ) -> Iterator[Frame]:
        for offset in offsets:
            side: ClipSide = "outgoing" if offset < 0 else "incoming"
            number = transition.source_frames(side, offset).first
            yield self._planes(place, number, coded) or transition.output(offset)

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
        form = YUV_FORMS.get(coded.pixels) if coded is not None else None
        if coded is None or form is None or framing.moves or framing.grades:
            return None
        reader = self._reader(place)
        picture = RateConvertedClip(reader, self.plan.rate).picture_number(number)
        flat = reader.planes(picture, coded.pixels, coded.colour)
        return None if flat is None else Planes.of_flat(flat, form, self.size)

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

    def edit_sound(self, frames: range | None = None) -> Iterator[Sound]:
        """Yield the sound of the edit in parts: clips, the accents of its cuts, music.

        ``frames`` are those of the edit, counted from its first; by default all of them.
        """
        plan = self.plan
        begin = plan.first_frame
        wanted = range(plan.frame_count) if frames is None else frames
        heard = range(begin + wanted.start, begin + wanted.stop)
        places = self._places_in(heard)
        first = sample_at(plan.cut_frame(places.start - 1), plan.rate)
        joins = [
            self._join(place)
            for place in range(max(0, places.start - 1), min(places.stop, len(plan.cuts)))
        ]
        beyond = [each for join in joins for each in join.beyond(self._read_sound)]
        whole = mixed(self._clips_sound(places), first, [*beyond, *self._laid(heard)])
        if frames is None:
            return whole
        start, end = (sample_at(each, plan.rate) - first for each in (heard.start, heard.stop))
        return between(whole, start, end)

    def _places_in(self, frames: range) -> range:
        """Return the placed clips that are shown in ``frames`` of the whole edit."""
        plan, found, at = self.plan, [], self.plan.first_frame
        for place, played in enumerate(plan.played):
            if at < frames.stop and at + played.frames > frames.start:
                found.append(place)
            at += played.frames
        return range(found[0], found[-1] + 1) if found else range(0)

    def _clips_sound(self, places: range) -> Iterator[Sound]:
        """Yield the sound of placed clips, one after another, each faded where it meets another."""
        for place in places:
            first, played = self.plan.cut_frame(place - 1), self.plan.played[place]
            stretches = clip_stretches(played, first, self.plan.rate, *self._ramps_of(place))
            yield from self._clip_sound(place, stretches)

    def _clip_sound(self, place: int, stretches: list[Stretch]) -> Iterator[Sound]:
        """Yield stretches of a placed clip, which end where it meets its neighbours."""
        ahead = self._join(place - 1) if place > 0 else None
        behind = self._join(place) if place < len(self.plan.cuts) else None
        parts = faded_ends(
            heard_sound(self._heard(place), stretches, self._read_sound),
            at_start=ahead is not None and ahead.is_hard,
            at_end=behind is not None and behind.is_hard,
        )
        fades = [*(ahead.rise() if ahead else ()), *(behind.fall() if behind else ())]
        return with_fades(parts, sample_at(stretches[0].first, self.plan.rate), fades)

    def run_sound(self, run: Run) -> Iterator[Sound]:
        """Yield the sound of a stretch that no treated window covers, without accents and music."""
        plan, frames = self.plan, run.end - run.first
        stretch = Stretch(run.first_frame, run.first_frame + frames, run.first, plan.rate)
        parts = heard_sound(self._heard(run.place), [stretch], self._read_sound)
        places = range(max(0, run.place - 1), min(run.place + 1, len(plan.cuts)))
        joins = [self._join(place) for place in places]
        fades = [
            fade
            for join in joins
            for fade in (join.fall() if join.cut_frame > run.first_frame else join.rise())
        ]
        first = sample_at(run.first_frame, plan.rate)
        beyond = [each for join in joins for each in join.beyond(self._read_sound)]
        yield from mixed(with_fades(parts, first, fades), first, beyond)

    def window_sound(self, place: int, offsets: range) -> Iterator[Sound]:
        """Yield the sound of frames ``offsets`` from cut ``place``."""
        crossfade = self.plan.placed[place].crossfade
        sides = HeardSides(self._heard(place), self._heard(place + 1), crossfade)
        cut_frame = self.plan.cut_frame(place)
        laid = self._laid(range(cut_frame + offsets.start, cut_frame + offsets.stop))
        transition = self.transition(place)
        return window_sound(transition, offsets, sides, self._read_sound, cut_frame, laid)

    def _laid(self, frames: range) -> list[Laid]:
        """Return what is heard besides the clips in ``frames`` of the edit: accents, and the music."""
        plan = self.plan
        laid: list[Laid] = []
        if "accents" in self._hears:
            laid += accents_between(plan.heard_cuts(), frames, plan.rate, self._sound_of)
        if "music" in self._hears and plan.music is not None:
            laid.append(plan.music.laid(self._read_sound))
        return laid

    def accents(self) -> list[PlacedSound | None]:
        """Return the accent of each cut, counted from the first sample of the whole edit."""
        plan, found = self.plan, []
        for cut in plan.heard_cuts():
            made = accent_of(cut.recipe, cut.window, plan.rate, self._sound_of)
            at = sample_at(cut.frame, plan.rate)
            found.append(None if made is None else made.moved(at))
        return found

    def _heard(self, place: int) -> HeardClip:
        placed = self.plan.placed[place]
        is_heard = "clips" in self._hears and not placed.muted
        return HeardClip(placed.file if is_heard else None, placed.gain_db)

    def _join(self, place: int) -> Join:
        """Return how the sound of placed clip ``place`` meets that of the next one."""
        plan = self.plan
        return Join(
            self._heard(place),
            self._heard(place + 1),
            plan.placed[place].crossfade,
            plan.cut_frame(place),
            plan.rate,
            plan.played[place].end,
            plan.played[place + 1].first,
        )

    def _ramps_of(self, place: int) -> tuple[Ramp | None, Ramp | None]:
        cuts = self.plan.cuts
        ahead = cuts[place - 1] if place > 0 else None
        behind = cuts[place] if place < len(cuts) else None
        return (
            None if ahead is None else ahead.recipe.retime.ramp("incoming", ahead.window),
            None if behind is None else behind.recipe.retime.ramp("outgoing", behind.window),
        )


def opened_here(plan: EditPlan, size: Size, mattes: Path = Path()) -> OpenedEdit:
    """Open an edit whose clips are decoded in this process; mattes and sounds are files in the folder ``mattes``."""
    return OpenedEdit(
        plan,
        size,
        lambda path, wanted: VideoReader(path, wanted, deep=True),
        lambda wanted: matte_reader(mattes, wanted),
        sound_parts,
        sound_reader(mattes),
    )


def _inside(number: int, count: int | None) -> int:
    """Return the nearest frame that the clip has: a slip beyond it is only allowed where frames are held."""
    return max(0, number) if count is None else min(max(number, 0), count - 1)
