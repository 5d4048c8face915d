"""The sound around a cut, for the loop."""

import io
import uuid
import wave
from functools import lru_cache
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response

from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.media.decoder_client import remote_sound
from idle_shimmer.media.sound import SAMPLES_PER_SECOND
from idle_shimmer.rendering import SoundAround, sound_around_cut
from idle_shimmer.store import cuts, edits
from idle_shimmer.store.clips import path_of
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/cuts", tags=["cuts"], responses=REFUSALS)
MAX_SOUND_FRAMES = 1200
_Frames = Annotated[int, Query(ge=1, le=MAX_SOUND_FRAMES)]


@router.get("/{cut_id}/sound", response_class=Response)
def cut_sound(cut_id: uuid.UUID, before: _Frames, after: _Frames) -> Response:
    """Return a WAV file (16-bit stereo, 48 kHz) of ``before`` frames before the cut and ``after`` frames from it."""
    with session_scope() as session:
        outgoing, incoming = edits.sides_of(cuts.cut_by_id(session, cut_id))
        places = outgoing.out_frame, incoming.in_frame
        files = path_of(outgoing.clip.file), path_of(incoming.clip.file)
        muted = outgoing.muted, incoming.muted
        rate = outgoing.edit.rate
    around = SoundAround(
        None if muted[0] else files[0],
        None if muted[1] else files[1],
        *places,
        before,
        after,
        parse_rate(rate),
    )
    data = _wav(around)
    return Response(data, media_type="audio/wav", headers={"Cache-Control": "no-cache"})


@lru_cache(maxsize=8)
def _wav(around: SoundAround) -> bytes:
    sound = sound_around_cut(around, remote_sound)
    data = io.BytesIO()
    with wave.open(data, "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(SAMPLES_PER_SECOND)
        file.writeframes(np.rint(np.clip(sound, -1, 1) * 32767).astype("<i2").tobytes())
    return data.getvalue()
