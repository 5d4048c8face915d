"""The sound of an edit: of the whole, of one window, of a stretch that no window covers."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal, get_args

from idle_shimmer.core.animation.retime import Ramp
from idle_shimmer.core.sound.accent import PlacedSound, SoundOf
from idle_shimmer.core.sound.crossfade import with_fades
from idle_shimmer.core.sound.mixing import Laid, between, mixed
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.media.sound.played_sound import (
    HeardClip,
    ReadParts,
    Stretch,
    clip_stretches,
    heard_sound,
)
from idle_shimmer.media.sound.sound_parts import Sound, faded_ends
from idle_shimmer.output.plan import EditPlan, Run
from idle_shimmer.output.sound.edit_accents import accents_between
from idle_shimmer.output.sound.joins import Join
from idle_shimmer.output.sound.window_sound import HeardSides, window_sound
from idle_shimmer.transition.heard_accent import accent_of
from idle_shimmer.transition.transition import Transition

Heard = Literal["clips", "accents", "music"]
EVERYTHING: frozenset[Heard] = frozenset(get_args(Heard))


@dataclass(frozen=True)
class EditSound:
    """What is heard of ``plan``; ``hears`` is the part of it that is wanted.

    ``read`` reads a file's sound, ``sound_of`` gives a sound of the user's. ``has_sound`` says whether the
    file of a placed clip has sound, ``transition`` gives that of a cut.
    """

    plan: EditPlan
    read: ReadParts
    sound_of: SoundOf | None
    has_sound: Callable[[int], bool]
    transition: Callable[[int], Transition]
    hears: frozenset[Heard] = EVERYTHING

    def hearing(self, *heard: Heard) -> "EditSound":
        """Return the same with only a part of what is heard."""
        return replace(self, hears=frozenset(heard))

    def is_heard(self, places: range) -> bool:
        """Whether there is sound around the cuts ``places``: of their clips, their accents or the music."""
        cuts = self.plan.cuts[places.start : places.stop]
        has_accent = any(cut.recipe.accent is not None for cut in cuts)
        return (
            ("accents" in self.hears and has_accent)
            or ("music" in self.hears and self.plan.music is not None)
            or self.has_any(range(places.start, places.stop + 1))
        )

    def has_any(self, places: Iterable[int]) -> bool:
        """Whether one of the placed clips is heard."""
        return "clips" in self.hears and any(
            self.has_sound(place) and not self.plan.placed[place].muted for place in places
        )

    def whole(self, frames: range | None = None) -> Iterator[Sound]:
        """Return the sound of the edit in parts: clips, the accents of its cuts, music.

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
        beyond = [each for join in joins for each in join.beyond(self.read)]
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
            heard_sound(self._heard(place), stretches, self.read),
            at_start=ahead is not None and ahead.is_hard,
            at_end=behind is not None and behind.is_hard,
        )
        fades = [*(ahead.rise() if ahead else ()), *(behind.fall() if behind else ())]
        return with_fades(parts, sample_at(stretches[0].first, self.plan.rate), fades)

    def run(self, run: Run) -> Iterator[Sound]:
        """Yield the sound of a stretch that no treated window covers, without accents and music."""
        plan, frames = self.plan, run.end - run.first
        stretch = Stretch(run.first_frame, run.first_frame + frames, run.first, plan.rate)
        parts = heard_sound(self._heard(run.place), [stretch], self.read)
        places = range(max(0, run.place - 1), min(run.place + 1, len(plan.cuts)))
        joins = [self._join(place) for place in places]
        fades = [
            fade
            for join in joins
            for fade in (join.fall() if join.cut_frame > run.first_frame else join.rise())
        ]
        first = sample_at(run.first_frame, plan.rate)
        beyond = [each for join in joins for each in join.beyond(self.read)]
        yield from mixed(with_fades(parts, first, fades), first, beyond)

    def window(self, place: int, offsets: range) -> Iterator[Sound]:
        """Yield the sound of frames ``offsets`` from cut ``place``."""
        crossfade = self.plan.placed[place].crossfade
        sides = HeardSides(self._heard(place), self._heard(place + 1), crossfade)
        cut_frame = self.plan.cut_frame(place)
        laid = self._laid(range(cut_frame + offsets.start, cut_frame + offsets.stop))
        transition = self.transition(place)
        return window_sound(transition, offsets, sides, self.read, cut_frame, laid)

    def _laid(self, frames: range) -> list[Laid]:
        """Return what is heard besides the clips in ``frames`` of the edit: accents, and the music."""
        plan = self.plan
        laid: list[Laid] = []
        if "accents" in self.hears:
            laid += accents_between(plan.heard_cuts(), frames, plan.rate, self.sound_of)
        if "music" in self.hears and plan.music is not None:
            laid.append(plan.music.laid(self.read))
        return laid

    def accents(self) -> list[PlacedSound | None]:
        """Return the accent of each cut, counted from the first sample of the whole edit."""
        plan, found = self.plan, []
        for cut in plan.heard_cuts():
            made = accent_of(cut.recipe, cut.window, plan.rate, self.sound_of)
            at = sample_at(cut.frame, plan.rate)
            found.append(None if made is None else made.moved(at))
        return found

    def _heard(self, place: int) -> HeardClip:
        placed = self.plan.placed[place]
        is_heard = "clips" in self.hears and not placed.muted
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
            None if ahead is None else ahead.retimes(self.plan.rate).ramp("incoming", ahead.window),
            None
            if behind is None
            else behind.retimes(self.plan.rate).ramp("outgoing", behind.window),
        )
