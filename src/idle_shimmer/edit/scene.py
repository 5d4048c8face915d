"""The two clips of a cut at the sizes of the preview, and the transitions next to it."""

import math
import uuid
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property, partial
from operator import attrgetter
from threading import Lock
from typing import Any, Literal, Protocol

from cachetools import LRUCache, cachedmethod
from pydantic import BaseModel, ConfigDict

from idle_shimmer.core.animation.shot import Shot, Shots
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.frame.needs import uses_subjects
from idle_shimmer.core.framing import UNFRAMED, Framing, source_scale
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.sound.heard_around import HeardAround
from idle_shimmer.core.sound.mixing import Laid
from idle_shimmer.edit.heard import heard_cuts, heard_sides, music_of
from idle_shimmer.edit.played import played_of, slip_rooms
from idle_shimmer.edit.scene_subjects import Ids, PreviewSubjects
from idle_shimmer.media.decode.client import remote_sound_parts
from idle_shimmer.media.previews.picture_cache import (
    PREVIEW_BOX,
    CachedClip,
    Source,
    fitted,
    picture_cache,
)
from idle_shimmer.media.read.reader import Size
from idle_shimmer.media.read.reframed import ReframedClip
from idle_shimmer.output.sound.edit_accents import accents_between
from idle_shimmer.output.sound.window_sound import heard_around
from idle_shimmer.store.clips.clips import matte_of_clip, path_of, sound_of_clip
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import reading_scope
from idle_shimmer.store.edits import edits, placed_clips
from idle_shimmer.store.edits.windows import sides_of
from idle_shimmer.store.tables import PlacedClip
from idle_shimmer.transition.transition import Transition

THUMB_BOX = (160, 90)
# The sizes of pictures: of the strip, while something changes, and of two that are sharp.
PictureSize = Literal["thumb", "frame", "sharp", "full"]
_BOXES: dict[PictureSize, Size] = {
    "thumb": THUMB_BOX,
    "frame": PREVIEW_BOX,
    "sharp": (960, 540),
    "full": (1280, 720),
}
_SHARP: tuple[PictureSize, ...] = ("sharp", "full")
Sides = tuple[PlacedClip, PlacedClip]
Clips = tuple[ReframedClip, ReframedClip]
_KEPT_FRAMINGS = 8
_PREFETCHED_FRAMES = 24


class Framings(BaseModel):
    """The framing of both clips."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    outgoing: Framing = UNFRAMED
    incoming: Framing = UNFRAMED


class ShownState(Protocol):
    """A state of a cut that is shown, saved or not; what is None is as it is saved."""

    before: int
    after: int
    recipe: Recipe
    framing: Framings | None
    subjects: Ids | None


@dataclass(frozen=True)
class Neighbour:
    """A transition next to the cut, and where its cut lies, in frames from this one."""

    transition: Transition
    distance: int


@dataclass(frozen=True)
class FramesAround:
    """Neighbouring frames of a clip; ``first`` is the place of the first one, counted from the cut."""

    first: int
    frames: list[Codes]


def _around(clip: CachedClip, shot: Shot, middle: int, reach: int) -> FramesAround:
    frames = shot.of(clip.count)
    if frames is None:
        return FramesAround(0, [])
    first, end = max(frames.start, middle - reach), min(frames.stop, middle + reach + 1)
    return FramesAround(first - middle, [clip.frame(number) for number in range(first, end)])


class Scene:
    """The two clips of a cut at the sizes of the preview."""

    def __init__(self, cut_id: uuid.UUID) -> None:
        with reading_scope() as session:
            cut = cuts.cut_by_id(session, cut_id)
            outgoing, incoming = sides_of(cut)
            edit, saved = outgoing.edit, cuts.readable_document(cut)
            self.beats_per_minute = edit.beats_per_minute
            all_cuts, played = edits.cuts_of(edit), played_of(session, edit)
            place = [each.id for each in all_cuts].index(cut_id)
            self._slip_room = slip_rooms(edit)[place]
            self._place, self._played = place, played
            self._cut_frame = sum(each.frames for each in played[: place + 1])
            self._heard_cuts, self._music = list(heard_cuts(edit, place, played)), music_of(edit)
            around = [
                (n, sides_of(all_cuts[n]), cuts.readable_document(all_cuts[n]))
                for n in (place - 1, place + 1)
                if 0 <= n < len(all_cuts)
            ]
        self.sides, self.rate = (outgoing, incoming), parse_rate(edit.rate)
        self.edit_size = (edit.width, edit.height)
        self.frame_size = fitted((edit.width, edit.height), PREVIEW_BOX)
        self.thumb_size = fitted((edit.width, edit.height), THUMB_BOX)
        self.saved_framing = _framings_of(self.sides)
        self.left = False
        self._subjects = PreviewSubjects(cut_id)
        self._saved, self._around = saved, around
        # Several threads of a preview ask for them.
        self._clips: LRUCache[Any, Clips] = LRUCache(_KEPT_FRAMINGS)
        self._lock = Lock()

    @cached_property
    def neighbours(self) -> list[Neighbour]:
        """The transitions next to this cut; their clips are opened only when they are needed."""
        return [self._neighbour(*each) for each in self._around]

    def prefetches(self) -> Iterator[Callable[[], None]]:
        """Yield what to do while nobody waits: read the pictures of the neighbouring cuts.

        Whoever goes on to one of them finds its pictures decoded.
        """
        for neighbour in self.neighbours:
            window = neighbour.transition.window
            for offset in sorted(window.offsets, key=abs)[:_PREFETCHED_FRAMES]:
                yield partial(neighbour.transition.fetch, offset)

    def size_of(self, size: PictureSize) -> Size:
        """Return the (W, H) of pictures of a size."""
        return fitted(self.edit_size, _BOXES[size])

    def sharp_size(self, area: Size) -> PictureSize | None:
        """Return the size that fills an area of the page; None where the usual pictures do, or have it all."""
        wanted = fitted(self.edit_size, area)[1]
        larger = [each for each in _SHARP if self.size_of(each)[1] > self.frame_size[1]]
        if not larger or wanted <= self.frame_size[1]:
            return None
        return next((each for each in larger if self.size_of(each)[1] >= wanted), larger[-1])

    def transition(self, state: ShownState, size: PictureSize) -> Transition:
        """Return the transition of a state; a missing spare frame shows the nearest one."""
        framing = state.framing or self.saved_framing
        window = Window(state.before, state.after)
        return self._transition(size, framing, state.recipe, window, state.subjects)

    def small_transition(self, recipe: Recipe, window: Window) -> Transition:
        """Return any recipe on the strip's small pictures; a missing spare frame shows the nearest one."""
        return self._transition("thumb", self.saved_framing, recipe, window)

    def saved_transition(self) -> Transition:
        """Return what is saved on the cut; a missing spare frame shows the nearest one."""
        window = Window(self._saved.before, self._saved.after)
        return self._transition("frame", self.saved_framing, self._saved.recipe, window)

    def heard(self, transition: Transition) -> HeardAround | None:
        """Return what is heard around the window of ``transition``, a state of this cut."""
        others = [each for each in self._heard_cuts if each.frame != self._cut_frame]
        window, rate = transition.window, transition.rate
        around = math.ceil(rate) + max(window.before, window.after)
        frames = range(self._cut_frame - around, self._cut_frame + around)
        laid: list[Laid] = list(accents_between(others, frames, rate, sound_of_clip))
        if self._music is not None:
            laid.append(self._music.laid(remote_sound_parts))
        return heard_around(
            transition,
            heard_sides(*self.sides),
            remote_sound_parts,
            self._cut_frame,
            laid,
        )

    def source_scale(self, state: ShownState) -> float:
        """Return how many frame pixels a source pixel covers, framing included."""
        framing = state.framing or self.saved_framing
        sizes = ((side.clip.width, side.clip.height) for side in self.sides)
        framings = (framing.outgoing, framing.incoming)
        return source_scale(self.edit_size, *sizes, framings=framings)

    def cut_frames(self) -> tuple[Codes, Codes]:
        """Return the two frames that meet at the cut, without framing, at the preview's size."""
        outgoing, incoming = self._open(self.sides, "frame")
        return (
            outgoing.frame(self._played[self._place].end - 1),
            incoming.frame(self._played[self._place + 1].first),
        )

    def frames_around(self, reach: int) -> tuple["FramesAround", "FramesAround"]:
        """Return the small frames of both clips up to ``reach`` frames from those that meet at the cut.

        Of the outgoing clip that is the frame after its last shown one.
        """
        clips = self._open(self.sides, "thumb")
        middles = self._played[self._place].end, self._played[self._place + 1].first
        shots = (placed_clips.shot_of(each) for each in self.sides)
        one, other = (
            _around(clip, shot, middle, reach)
            for clip, shot, middle in zip(clips, shots, middles, strict=True)
        )
        return one, other

    def fetch_saved(self) -> None:
        """Read the pictures of the saved window, the cut's first, until the page has gone."""
        window = Window(self._saved.before, self._saved.after)
        shown = self.small_transition(self._saved.recipe, window)
        for offset in sorted(window.offsets, key=abs):
            if self.left:
                return
            with suppress(ShimmerError):
                shown.fetch(offset)

    def _transition(
        self,
        size: PictureSize,
        framing: Framings,
        recipe: Recipe,
        window: Window,
        subjects: Ids | None = None,
    ) -> Transition:
        clips, shots = self._kept_clips(size, framing), _shots_of(self.sides)
        made = self._between(clips, self._place, recipe, window, size, shots)
        made = replace(made, slip_room=self._slip_room)
        if not uses_subjects(recipe):
            return made
        opened = self._open(self.sides, size)
        return replace(made, subjects=self._subjects.of(opened, self.size_of(size), subjects))

    @cachedmethod(attrgetter("_clips"), lock=attrgetter("_lock"))
    def _kept_clips(self, size: PictureSize, framing: Framings) -> Clips:
        return self._reframed(self.sides, framing, size)

    def _neighbour(self, place: int, sides: Sides, document: CutDocument) -> Neighbour:
        """Return the transition ``place``, next to this cut: the checks of this one may reach it."""
        clips = self._reframed(sides, _framings_of(sides), "thumb")
        window = Window(document.before, document.after)
        made = self._between(clips, place, document.recipe, window, "thumb", _shots_of(sides))
        ahead = place < self._place
        return Neighbour(
            made, -self._played[place + 1].frames if ahead else self._played[place].frames
        )

    def _between(
        self,
        clips: Clips,
        place: int,
        recipe: Recipe,
        window: Window,
        size: PictureSize,
        shots: Shots,
    ) -> Transition:
        return Transition(
            *clips,
            self._played[place].end,
            self._played[place + 1].first,
            window,
            recipe,
            hold=True,
            rate=self.rate,
            matte_of=matte_of_clip(self.size_of(size)),
            sound_of=sound_of_clip,
            shots=shots,
        )

    def _reframed(self, sides: Sides, framing: Framings, size: PictureSize) -> Clips:
        outgoing, incoming = self._open(sides, size)
        return (
            ReframedClip(outgoing, framing.outgoing),
            ReframedClip(incoming, framing.incoming),
        )

    def _open(self, sides: Sides, size: PictureSize) -> tuple[CachedClip, CachedClip]:
        # Small pictures are averaged from the usual ones, which are read anyway.
        read = self.frame_size if size == "thumb" else self.size_of(size)
        one, other = (
            CachedClip(
                picture_cache(),
                Source(path_of(side.clip.file), side.deinterlaced),
                side.clip.name,
                read,
                self.rate,
                self.thumb_size if size == "thumb" else None,
            )
            for side in sides
        )
        return one, other


def _shots_of(sides: Sides) -> Shots:
    return Shots(*(placed_clips.shot_of(each) for each in sides))


def _framings_of(sides: Sides) -> Framings:
    outgoing, incoming = (placed_clips.framing_of(each) for each in sides)
    return Framings(outgoing=outgoing, incoming=incoming)
