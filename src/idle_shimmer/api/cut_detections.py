"""The cuts of a finished video: looked for by a job, asked for at any threshold, made into an edit."""

import itertools
import uuid
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from idle_shimmer.api.edits import Name
from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.schemas import EditOut
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.jobs.queue import defer_cut_detection
from idle_shimmer.media.cuts import USUAL_THRESHOLD, cuts_above
from idle_shimmer.store import clips, cut_detections, edits
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import Placement
from idle_shimmer.store.models import CutDetection

router = APIRouter(prefix="/api", tags=["finding cuts"], responses=REFUSALS)
_LEAST_TOLD = 0.05
_FEWEST_FRAMES = 2


class FoundCutOut(BaseModel):
    """``frame`` is the first picture of the new shot."""

    frame: int
    confidence: float


class CutDetectionOut(BaseModel):
    """How far the search is, and the cuts whose confidence reaches the threshold."""

    clip: uuid.UUID
    state: str
    done_frames: int
    total_frames: int
    message: str
    threshold: float
    cuts: list[FoundCutOut]

    @classmethod
    def of(cls, search: CutDetection, threshold: float = USUAL_THRESHOLD) -> "CutDetectionOut":
        """From its row."""
        found = cuts_above(np.array(search.scores), max(threshold, _LEAST_TOLD))
        return cls(
            clip=search.clip_id,
            state=search.state,
            done_frames=search.done_frames,
            total_frames=search.total_frames,
            message=search.message,
            threshold=threshold,
            cuts=[FoundCutOut(frame=each.frame, confidence=each.confidence) for each in found],
        )


class CutUp(BaseModel):
    """A finished video made into an edit, cut at ``frames``: the first pictures of its shots."""

    name: Name
    frames: Annotated[list[int], Field(max_length=10_000)]


@router.post("/clips/{clip_id}/cuts", status_code=202)
def find_cuts(clip_id: uuid.UUID) -> CutDetectionOut:
    """Look for the cuts of a clip; what was found once is kept."""
    with session_scope() as session:
        search, fresh = cut_detections.ask(session, clip_id)
        told = CutDetectionOut.of(search)
    if fresh:
        defer_cut_detection(str(clip_id))
    return told


@router.get("/clips/{clip_id}/cuts")
def found_cuts(
    clip_id: uuid.UUID, threshold: Annotated[float, Query(ge=0, le=1)] = USUAL_THRESHOLD
) -> CutDetectionOut:
    """What the search has found, at a threshold."""
    with session_scope() as session:
        return CutDetectionOut.of(cut_detections.search_of(session, clip_id), threshold)


@router.post("/clips/{clip_id}/cuts/cancel")
def cancel_search(clip_id: uuid.UUID) -> CutDetectionOut:
    """Stop the search."""
    with session_scope() as session:
        return CutDetectionOut.of(cut_detections.cancel(session, clip_id))


@router.post("/clips/{clip_id}/edit", status_code=201)
def cut_up(clip_id: uuid.UUID, wanted: CutUp) -> EditOut:
    """Make an edit of a finished video, with a cut at each of the frames."""
    with session_scope() as session:
        clip = clips.clip_by_id(session, clip_id)
        limits = sorted({0, *wanted.frames, clip.frame_count})
        if limits[0] < 0 or limits[-1] > clip.frame_count:
            raise InvalidValue(
                f"{clip.name} has frames 0 to {clip.frame_count - 1}", field="frames"
            )
        short = [a for a, b in itertools.pairwise(limits) if b - a < _FEWEST_FRAMES]
        if short:
            raise InvalidValue(
                f"a shot of one frame at {short[0]}: take one of the cuts there away",
                field="frames",
            )
        placements = [Placement(clip, a, b) for a, b in itertools.pairwise(limits)]
        size = clip.width, clip.height
        edit = edits.create_placed_edit(session, wanted.name.strip(), size, clip.rate, placements)
        session.refresh(edit)
        return EditOut.of(edit)
