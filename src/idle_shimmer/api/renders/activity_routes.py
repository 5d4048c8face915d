"""What is at work: renders and detections of cuts, for the activity menu of the page."""

import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.api.clips.clip_answers import ClipOut
from idle_shimmer.api.renders.render_answers import RenderOut
from idle_shimmer.store.clips import beat_detections, cut_detections, subject_mattes
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import renders

router = APIRouter(prefix="/api/activity", tags=["activity"])


class DetectionOut(BaseModel):
    """A detection of a clip's cuts that runs, or has found cuts that no edit has been made of."""

    id: uuid.UUID
    clip: ClipOut
    state: str
    done_frames: int
    total_frames: int


class SubjectAtWork(BaseModel):
    """The mattes of a clip's subject that are queued or made."""

    id: uuid.UUID
    clip: ClipOut
    state: str
    done_frames: int
    total_frames: int


class BeatsAtWork(BaseModel):
    """A detection of the beats of a clip's sound that is queued or runs, in seconds of sound."""

    id: uuid.UUID
    clip: ClipOut
    state: str
    done_s: int
    total_s: int


class ActivityOut(BaseModel):
    """The renders that are queued or running, the detections of cuts and of beats, and the subjects."""

    renders: list[RenderOut]
    detections: list[DetectionOut]
    subjects: list[SubjectAtWork]
    beats: list[BeatsAtWork]


@router.get("")
def activity() -> ActivityOut:
    """Return what is at work."""
    with session_scope() as session:
        return ActivityOut(
            renders=RenderOut.listed(session, renders.active_renders(session)),
            detections=[
                DetectionOut(
                    id=detection.clip_id,
                    clip=ClipOut.of(clip),
                    state=detection.state,
                    done_frames=detection.done_frames,
                    total_frames=detection.total_frames,
                )
                for detection, clip in cut_detections.open_detections(session)
            ],
            subjects=[
                SubjectAtWork(
                    id=matte.id,
                    clip=ClipOut.of(matte.clip),
                    state=matte.state,
                    done_frames=matte.done_frames,
                    total_frames=matte.total_frames,
                )
                for matte in subject_mattes.active_mattes(session)
            ],
            beats=[
                BeatsAtWork(
                    id=detection.clip_id,
                    clip=ClipOut.of(clip),
                    state=detection.state,
                    done_s=detection.done_frames,
                    total_s=detection.total_s,
                )
                for detection, clip in beat_detections.active_detections(session)
            ],
        )


@router.post("/subjects/{matte_id}/cancel", status_code=204)
def cancel_subject(matte_id: uuid.UUID) -> None:
    """Stop the making of a subject's mattes."""
    with session_scope() as session:
        subject_mattes.cancel(session, matte_id)
