"""The sound around a cut, for the loop; an accent alone, for its lane."""

import uuid
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window, parse_rate
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.mixing import Laid
from idle_shimmer.edit.described import described
from idle_shimmer.edit.heard import heard_cuts, heard_sides, music_of
from idle_shimmer.edit.played import played_of, slip_rooms
from idle_shimmer.media.decode.client import remote_sound_parts
from idle_shimmer.media.sound.sound_parts import Sound
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.output.sound.edit_accents import accents_between
from idle_shimmer.output.sound.window_sound import HeardSides, window_sound
from idle_shimmer.store.clips.clips import sound_of_clip
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits.windows import sides_of
from idle_shimmer.transition.heard_accent import accent_of
from idle_shimmer.transition.transition import Transition

FIRST_SAMPLE = "Idle-Shimmer-First-Sample"
router = APIRouter(prefix="/api", tags=["cuts"])
MAX_SOUND_FRAMES = 1200
_Frames = Annotated[int, Query(ge=1, le=MAX_SOUND_FRAMES)]


@router.get("/cuts/{cut_id}/sound", response_class=Response)
def cut_sound(cut_id: uuid.UUID, before: _Frames, after: _Frames) -> Response:
    """Return a WAV file (16-bit stereo, 48 kHz) of ``before`` frames before the cut and ``after`` frames from it.

    Clips, accents and speed ramps are those of the saved recipes.
    """
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        sides, document = sides_of(cut), cuts.readable_document(cut)
        edit = sides[0].edit
        place, played = edit.placed.index(sides[0]), played_of(session, edit)
        transition = described(edit, place, document, played, slip_rooms(edit)[place])
        cut_frame = sum(each.frames for each in played[: place + 1])
        heard = heard_sides(*sides)
        around, music = list(heard_cuts(edit, place, played)), music_of(edit)
    laid: list[Laid] = list(
        accents_between(
            around, range(cut_frame - before, cut_frame + after), transition.rate, sound_of_clip
        )
    )
    if music is not None:
        laid = [*laid, music.laid(remote_sound_parts)]
    data = _wav(transition, before, after, heard, cut_frame, laid)
    return Response(data, media_type="audio/wav", headers={"Cache-Control": "no-cache"})


class AccentAsked(BaseModel):
    """A recipe with an accent, and the window that it is stretched to, in frames at ``rate``."""

    recipe: Recipe
    before: Annotated[int, Field(ge=1, le=MAX_SIDE_FRAMES)]
    after: Annotated[int, Field(ge=1, le=MAX_SIDE_FRAMES)]
    rate: str


@router.post("/accents", response_class=Response)
def accent_alone(asked: AccentAsked) -> Response:
    """Return the accent of a recipe alone, as a WAV file.

    The header ``Idle-Shimmer-First-Sample`` counts its first sample from that of the cut. Without an
    accent the file is empty.
    """
    rate = parse_rate(asked.rate)
    window = Window(asked.before, asked.after)
    sound = accent_of(asked.recipe, window, rate, sound_of_clip)
    if sound is None:
        sound = PlacedSound(0, np.zeros((0, 2), np.float32))
    return Response(
        wave_bytes(sound.samples),
        media_type="audio/wav",
        headers={FIRST_SAMPLE: str(sound.first)},
    )


def _wav(
    transition: Transition,
    before: int,
    after: int,
    heard: HeardSides,
    cut_frame: int,
    laid: list[Laid],
) -> bytes:
    offsets = range(-before, after)
    parts = window_sound(transition, offsets, heard, remote_sound_parts, cut_frame, laid)
    whole: list[Sound] = [np.zeros((0, 2), np.float32), *parts]
    return wave_bytes(np.concatenate(whole))
