"""The whole edit as it plays: its frames with their transitions, small, and its sound.

For the player of the edit screen, which asks for a stretch at a time and for as many frames as the
machine makes in that time.
"""

import struct
import uuid
from bisect import bisect_right
from dataclasses import dataclass
from functools import cached_property, lru_cache, partial
from itertools import accumulate, zip_longest
from typing import Annotated, Protocol

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from idle_shimmer.api.preview.scheduler import fetch_ahead
from idle_shimmer.api.preview.slots import PreviewLoad, in_thread
from idle_shimmer.api.renders.render_requests import NewRender, Prepared
from idle_shimmer.api.server.error_answers import REFUSALS
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.render import picture_of
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.edit.played import played_of
from idle_shimmer.edit.scene import Scene
from idle_shimmer.media.decode.client import RemoteReader, remote_sound_parts
from idle_shimmer.media.previews.jpeg import jpeg
from idle_shimmer.media.previews.picture_cache import PREVIEW_BOX, CachedClip, fitted, picture_cache
from idle_shimmer.media.read.reframed import ReframedClip
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.output.opened_edit import OpenedEdit
from idle_shimmer.store.clips.clips import matte_of_clip, path_of, sound_of_clip
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits, placed_clips
from idle_shimmer.store.tables import Edit

router = APIRouter(prefix="/api/edits/{edit_id}/film", tags=["edits"], responses=REFUSALS)
_MAX_FRAMES_AT_ONCE = 60
_MAX_SOUND_S = 60
_QUALITY = 80
_KEPT_FILMS, _KEPT_SCENES = 4, 12
_First = Annotated[int, Query(ge=0, le=100_000_000)]


class _Frames(Protocol):
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


class _Film:
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

    def picture(self, number: int) -> bytes:
        """Return frame ``number`` of the edit, a JPEG file."""
        frames, offset = self._place(number)
        return jpeg(frames.frame(offset), _QUALITY)

    def _place(self, number: int) -> tuple[_Frames, int]:
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

    def _cut_frames(self, cut_id: uuid.UUID) -> _Frames:
        return Scene(cut_id).saved_transition()

    @cached_property
    def _only_clip(self) -> _Frames:
        if self._first is None:
            raise InvalidValue("this edit has no clips: add one first", field="edit")
        placed, first = self._first
        file = path_of(placed.clip.file)
        clip = CachedClip(picture_cache(), file, placed.clip.name, self._size, self._rate)
        framing: Framing = placed_clips.framing_of(placed)
        return _OnlyClip(ReframedClip(clip, framing), first)


@lru_cache(maxsize=_KEPT_FILMS)
def _film(edit_id: uuid.UUID, _state: str) -> _Film:
    return _Film(edit_id)


@router.get("/frames", response_class=Response)
async def film_frames(
    request: Request,
    edit_id: uuid.UUID,
    first: _First,
    count: Annotated[int, Query(ge=1, le=_MAX_FRAMES_AT_ONCE)],
    step: Annotated[int, Query(ge=1, le=_MAX_FRAMES_AT_ONCE)] = 1,
) -> Response:
    """Return frames ``first``, ``first`` + ``step``, … of the edit as JPEG files, at most ``count`` of them.

    They follow each other, each after its length in bytes (32 bits, big-endian). Frames beyond the end
    are left out. Each waits for its turn among the pictures of the previews.
    """
    load: PreviewLoad = request.app.state.preview_load
    film = await in_thread(_current_film, edit_id)
    data = bytearray()
    numbers = range(first, min(film.count, first + count * step), step)
    for number, following in zip_longest(numbers, numbers[1:]):
        if await request.is_disconnected():
            break
        await in_thread(film.fetch, number)
        if following is not None:
            fetch_ahead(partial(film.fetch, following))
        async with load.slots:
            picture = await in_thread(film.picture, number)
        data += struct.pack(">I", len(picture)) + picture
    return Response(bytes(data), media_type="application/octet-stream")


def _current_film(edit_id: uuid.UUID) -> _Film:
    with session_scope() as session:
        state = _state_of(edits.edit_by_id(session, edit_id))
    return _film(edit_id, state)


@router.get("/sound", response_class=Response)
def film_sound(edit_id: uuid.UUID, first: _First, frames: Annotated[int, Query(ge=1)]) -> Response:
    """Return the sound of ``frames`` frames from frame ``first`` on, as a WAV file: that of a render."""
    with session_scope() as session:
        plan = Prepared(session, NewRender(edit=edit_id, what="edit")).plan
    if frames > _MAX_SOUND_S * plan.rate:
        raise InvalidValue(
            f"at most {_MAX_SOUND_S} s of sound are returned at once: ask for fewer frames",
            field="frames",
        )
    wanted = range(first, min(first + frames, plan.frame_count))
    parts = [np.zeros((0, 2), np.float32)]
    if len(wanted):
        with OpenedEdit(
            plan, plan.size, RemoteReader, matte_of_clip, remote_sound_parts, sound_of_clip
        ) as edit:
            parts += edit.edit_sound(wanted)
    return Response(wave_bytes(np.concatenate(parts)), media_type="audio/wav")


def _state_of(edit: Edit) -> str:
    """Return what differs once anything that is shown has changed."""
    return f"{edit.version}/{edit.changed_at}/{[cut.version for cut in edits.cuts_of(edit)]}"
