"""The music of an edit: its track, heard as it is, and its beats, detected by a job."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, answered, changing
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.jobs.defer import defer_beat_detection
from idle_shimmer.store.clips import beat_detections, clips
from idle_shimmer.store.database import session_of, session_scope
from idle_shimmer.store.tables import BeatDetection

router = APIRouter(prefix="/api", tags=["music"])
_TYPES = {
    ".wav": "audio/wav",
    ".mp3": "audio/mpeg",
    ".aac": "audio/aac",
    ".m4a": "audio/mp4",
    ".flac": "audio/flac",
    ".ogg": "audio/ogg",
    ".opus": "audio/ogg",
}


class MusicSet(BaseModel):
    """The music of an edit: a clip with sound, the time at which it begins, and its level."""

    clip: uuid.UUID
    offset_s: Annotated[float, Field(ge=-7200, le=7200, allow_inf_nan=False)] = 0.0
    gain_db: Annotated[float, Field(ge=-60, le=12, allow_inf_nan=False)] = 0.0


class BeatsOut(BaseModel):
    """A detection of beats, how much of the sound is done, and in the end what it found, in seconds from its start."""

    clip: uuid.UUID
    state: str
    message: str
    done_s: int
    total_s: int
    bpm: float | None = None
    offset_s: float | None = None
    beats_s: list[float] = []

    @classmethod
    def of(cls, detection: BeatDetection) -> "BeatsOut":
        """Return the answer for a row."""
        found = detection.found or {}
        return cls(
            clip=detection.clip_id,
            state=detection.state,
            message=detection.message,
            done_s=detection.done_frames,
            total_s=detection.total_s,
            **found,
        )


@router.put("/edits/{edit_id}/music")
def set_music(edit_id: uuid.UUID, music: MusicSet, version: Seen = None) -> EditOut:
    """Give an edit its music, or move it or change its level."""
    with changing(edit_id, version, "Music") as edit:
        clip = clips.clip_by_id(session_of(edit), music.clip)
        if not clip.has_sound:
            raise InvalidValue(f"{clip.name} has no sound: choose another clip", field="clip")
        edit.music = clip
        edit.music_offset_s, edit.music_gain_db = music.offset_s, music.gain_db
    return answered(edit_id)


@router.delete("/edits/{edit_id}/music")
def remove_music(edit_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Remove the music of an edit; the clip stays imported."""
    with changing(edit_id, version, "Remove music") as edit:
        edit.music = None
        edit.music_offset_s = edit.music_gain_db = 0.0
    return answered(edit_id)


@router.get("/clips/{clip_id}/sound", response_class=FileResponse)
def clip_sound(clip_id: uuid.UUID) -> FileResponse:
    """Return the file of a sound, to be heard in the page."""
    with session_scope() as session:
        clip = clips.clip_by_id(session, clip_id)
        if not clip.is_sound:
            raise InvalidValue(f"{clip.name} is not a sound", field="clip")
        path = clips.path_of(clip.file)
    kind = _TYPES.get(path.suffix, "application/octet-stream")
    return FileResponse(path, media_type=kind, headers={"X-Content-Type-Options": "nosniff"})


@router.post("/clips/{clip_id}/beats", status_code=202)
def detect_beats(clip_id: uuid.UUID) -> BeatsOut:
    """Detect the beats of a clip's sound; what was found once is kept."""
    with session_scope() as session:
        detection, is_new = beat_detections.request(session, clip_id)
        if is_new:
            defer_beat_detection(session, str(clip_id))
        return BeatsOut.of(detection)


@router.get("/clips/{clip_id}/beats")
def detected_beats(clip_id: uuid.UUID) -> BeatsOut:
    """Return what was detected."""
    with session_scope() as session:
        return BeatsOut.of(beat_detections.detection_of(session, clip_id))


@router.post("/clips/{clip_id}/beats/cancel")
def cancel_beats(clip_id: uuid.UUID) -> BeatsOut:
    """Stop the detection."""
    with session_scope() as session:
        return BeatsOut.of(beat_detections.cancel(session, clip_id))
