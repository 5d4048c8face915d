"""What is at work: renders and detections of cuts, for the activity menu of the page."""

import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.api.clips.clip_answers import ClipOut
from idle_shimmer.api.renders.render_answers import RenderOut
from idle_shimmer.store.clips import beat_detections, cut_detections, subject_mattes
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import renders
from idle_shimmer.store.tables import BeatDetection, Clip, CutDetection, SubjectMatte

router = APIRouter(prefix="/api/activity", tags=["activity"])


class AtWork(BaseModel):
    """Work on a clip that is queued or runs: ``done`` of ``total`` frames, or seconds of sound for beats.

    A detection of cuts is listed until an edit has been made of what it found.
    """

    id: uuid.UUID
    clip: ClipOut
    state: str
    done: int
    total: int

    @classmethod
    def of(
        cls,
        row: CutDetection | BeatDetection | SubjectMatte,
        number: uuid.UUID,
        clip: Clip,
        total: int,
    ) -> "AtWork":
        """Return the answer for a row of claimed work."""
        return cls(
            id=number, clip=ClipOut.of(clip), state=row.state, done=row.done_frames, total=total
        )


class ActivityOut(BaseModel):
    """The renders that are queued or running, the detections of cuts and of beats, and the subjects."""

    renders: list[RenderOut]
    detections: list[AtWork]
    subjects: list[AtWork]
    beats: list[AtWork]


@router.get("")
def activity() -> ActivityOut:
    """Return what is at work."""
    with session_scope() as session:
        return ActivityOut(
            renders=RenderOut.listed(session, renders.active_renders(session)),
            detections=[
                AtWork.of(each, each.clip_id, clip, each.total_frames)
                for each, clip in cut_detections.open_detections(session)
            ],
            subjects=[
                AtWork.of(each, each.id, each.clip, each.total_frames)
                for each in subject_mattes.active_mattes(session)
            ],
            beats=[
                AtWork.of(each, each.clip_id, clip, each.total_s)
                for each, clip in beat_detections.active_detections(session)
            ],
        )


@router.post("/subjects/{matte_id}/cancel", status_code=204)
def cancel_subject(matte_id: uuid.UUID) -> None:
    """Stop the making of a subject's mattes."""
    with session_scope() as session:
        subject_mattes.cancel(session, matte_id)
