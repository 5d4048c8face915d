"""What is at work: renders and detections of cuts, for the activity menu of the page."""

import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.schemas import ClipOut, RenderOut
from idle_shimmer.store import cut_detections, renders
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/activity", tags=["activity"], responses=REFUSALS)


class DetectionOut(BaseModel):
    """A detection of a clip's cuts that runs, or has found cuts that no edit has been made of."""

    id: uuid.UUID
    clip: ClipOut
    state: str
    done_frames: int
    total_frames: int


class ActivityOut(BaseModel):
    """The renders that are queued or running, and the detections."""

    renders: list[RenderOut]
    detections: list[DetectionOut]


@router.get("")
def activity() -> ActivityOut:
    """Return what is at work."""
    with session_scope() as session:
        return ActivityOut(
            renders=[RenderOut.of(each) for each in renders.active_renders(session)],
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
        )
