"""The whole edit as it plays: its frames with their transitions, at the size of the preview."""

import uuid
from bisect import bisect_right
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import accumulate
from typing import Protocol

from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.render import picture_of
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.edit.played import played_of
from idle_shimmer.edit.scene import Scene
from idle_shimmer.media.previews.picture_cache import (
    PREVIEW_BOX,
    CachedClip,
    Source,
    fitted,
    picture_cache,
)
from idle_shimmer.media.read.reframed import ReframedClip
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits, placed_clips
from idle_shimmer.store.tables import Edit

_KEPT_FILMS, _KEPT_SCENES = 4, 12


class Frames(Protocol):
    """What shows the frames around a cut, by their offset from it."""

    def frame(self, offset: int) -> Codes:
        """Return a frame, uint8 (H, W, 3)."""

    def fetch(self, offset: int) -> None:
        """Read what ``frame`` will need."""


@dataclass(frozen=True)
class _OnlyClip:
    """The frames of an edit of one clip, which has no cut: offsets count from its in point."""

    clip: ReframedClip
    first: int

    def frame(self, offset: int) -> Codes:
        return picture_of(self.clip.frame(self.first + offset)).to("codes").pixels

    def fetch(self, offset: int) -> None:
        self.clip.frame(self.first + offset)


class Film:
    """The frames of an edit in one state, at the size of the preview."""

    def __init__(self, edit_id: uuid.UUID) -> None:
        with session_scope() as session:
            edit = edits.edit_by_id(session, edit_id)
            played = played_of(session, edit)
            self._cuts = [(cut.id, cuts.window_of(cut)) for cut in edits.cuts_of(edit)]
            self._first = (edit.placed[0], played[0].first) if edit.placed else None
            self._ends = list(accumulate(each.frames for each in played))
            self._size = fitted((edit.width, edit.height), PREVIEW_BOX)
            self._rate = parse_rate(edit.rate)
        self._frames_at = lru_cache(_KEPT_SCENES)(self._cut_frames)

    @property
    def count(self) -> int:
        """The number of frames."""
        return self._ends[-1] if self._ends else 0

    def fetch(self, number: int) -> None:
        """Read what frame ``number`` of the edit will need."""
        frames, offset = self._place(number)
        frames.fetch(offset)

    def frame(self, number: int) -> Codes:
        """Return frame ``number`` of the edit, uint8 (H, W, 3)."""
        frames, offset = self._place(number)
        return frames.frame(offset)

    def _place(self, number: int) -> tuple[Frames, int]:
        """Return what shows frame ``number``, and the frame's offset there."""
        if not self._cuts:
            return self._only_clip, number
        place = bisect_right(self._ends, number)
        # The cut before and the cut after show an untreated frame alike.
        after = self._ends[place - 1] if place else 0
        is_before = place == len(self._cuts) or (
            place > 0 and number - after < self._cuts[place - 1][1].after
        )
        cut = place - 1 if is_before else place
        return self._frames_at(self._cuts[cut][0]), number - self._ends[cut]

    def _cut_frames(self, cut_id: uuid.UUID) -> Frames:
        return Scene(cut_id).saved_transition()

    @cached_property
    def _only_clip(self) -> Frames:
        if self._first is None:
            raise InvalidValue("this edit has no clips: add one first", field="edit")
        placed, first = self._first
        file = Source(path_of(placed.clip.file), placed.deinterlaced)
        clip = CachedClip(picture_cache(), file, placed.clip.name, self._size, self._rate)
        framing: Framing = placed_clips.framing_of(placed)
        return _OnlyClip(ReframedClip(clip, framing), first)


def film_of(edit_id: uuid.UUID) -> Film:
    """Return the film of an edit as it is now. Raises NotFound."""
    with session_scope() as session:
        state = _state_of(edits.edit_by_id(session, edit_id))
    return _film(edit_id, state)


@lru_cache(maxsize=_KEPT_FILMS)
def _film(edit_id: uuid.UUID, _state: str) -> Film:
    return Film(edit_id)


def _state_of(edit: Edit) -> str:
    """Return what differs once anything that is shown has changed."""
    return f"{edit.version}/{edit.changed_at}/{[cut.version for cut in edits.cuts_of(edit)]}"
