"""The whole edit as it plays: its frames with their transitions, small, and its sound.

For the player of the edit screen, which asks for a stretch at a time and for as many frames as the
machine makes in that time.
"""

import struct
import uuid
from functools import partial
from itertools import zip_longest
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from idle_shimmer.api.preview.scheduler import fetch_ahead
from idle_shimmer.api.preview.slots import PreviewLoad, in_thread
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.edit.film import Film, film_of
from idle_shimmer.edit.snapshot_making import played_at, snapshot_of
from idle_shimmer.media.decode.client import RemoteReader, remote_sound_parts
from idle_shimmer.media.previews.jpeg import jpeg
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.output.opened_edit import Access, OpenedEdit
from idle_shimmer.store.clips.clips import matte_of_clip, sound_of_clip
from idle_shimmer.store.database import reading_scope
from idle_shimmer.store.edits import edits

router = APIRouter(prefix="/api/edits/{edit_id}/film", tags=["edits"])
_MAX_FRAMES_AT_ONCE = 60
_MAX_SOUND_S = 60
_QUALITY = 80
_First = Annotated[int, Query(ge=0, le=100_000_000)]


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
    film = await in_thread(film_of, edit_id)
    data = bytearray()
    numbers = range(first, min(film.count, first + count * step), step)
    for number, following in zip_longest(numbers, numbers[1:]):
        if await request.is_disconnected():
            break
        await in_thread(film.fetch, number)
        if following is not None:
            fetch_ahead(partial(film.fetch, following))
        async with load.slots:
            picture = await in_thread(_picture, film, number)
        data += struct.pack(">I", len(picture)) + picture
    return Response(bytes(data), media_type="application/octet-stream")


@router.get("/sound", response_class=Response)
def film_sound(edit_id: uuid.UUID, first: _First, frames: Annotated[int, Query(ge=1)]) -> Response:
    """Return the sound of ``frames`` frames from frame ``first`` on, as a WAV file: that of a render."""
    with reading_scope() as session:
        edit = edits.edit_by_id(session, edit_id, whole=True)
        plan = snapshot_of(session, edit, document_of=played_at).plan()
    if frames > _MAX_SOUND_S * plan.rate:
        raise InvalidValue(
            f"at most {_MAX_SOUND_S} s of sound are returned at once: ask for fewer frames",
            field="frames",
        )
    wanted = range(first, min(first + frames, plan.frame_count))
    parts = [np.zeros((0, 2), np.float32)]
    if len(wanted):
        access = Access(RemoteReader, matte_of_clip, remote_sound_parts, sound_of_clip)
        with OpenedEdit(plan, plan.size, access) as opened:
            parts += opened.sound.whole(wanted)
    return Response(wave_bytes(np.concatenate(parts)), media_type="audio/wav")


def _picture(film: Film, number: int) -> bytes:
    """Return frame ``number`` of an edit, a JPEG file."""
    return jpeg(film.frame(number), _QUALITY)
