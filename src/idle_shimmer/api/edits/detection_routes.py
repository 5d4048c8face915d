"""The cuts of a finished video: detected by a job, listed at any threshold, made into an edit."""

import itertools
import uuid
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.server.fields import Name
from idle_shimmer.core.animation.shot import shot_around
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.edit.states import edit_state
from idle_shimmer.jobs.defer import defer_cut_detection
from idle_shimmer.limits import MAX_CLIPS_IN_EDIT
from idle_shimmer.media.cut_scores import USUAL_THRESHOLD, cuts_above
from idle_shimmer.media.previews.picture_cache import picture_cache
from idle_shimmer.store.clips import clips, cut_detections
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits
from idle_shimmer.store.edits.edits import Placement
from idle_shimmer.store.tables import Clip, CutDetection

router = APIRouter(prefix="/api", tags=["cut detection"])
_MIN_CONFIDENCE = 0.05
_MIN_SHOT_FRAMES = 2


class FoundCutOut(BaseModel):
    """``frame`` is the first picture of the new shot."""

    frame: int
    confidence: float


class CutDetectionOut(BaseModel):
    """The progress of a detection, and the cuts whose confidence reaches the threshold."""

    clip: uuid.UUID
    state: str
    done_frames: int
    total_frames: int
    message: str
    threshold: float
    cuts: list[FoundCutOut]

    @classmethod
    def of(cls, detection: CutDetection, threshold: float = USUAL_THRESHOLD) -> "CutDetectionOut":
        """Return the answer for a row."""
        found = cuts_above(np.array(detection.scores), max(threshold, _MIN_CONFIDENCE))
        return cls(
            clip=detection.clip_id,
            state=detection.state,
            done_frames=detection.done_frames,
            total_frames=detection.total_frames,
            message=detection.message,
            threshold=threshold,
            cuts=[FoundCutOut(frame=each.frame, confidence=each.confidence) for each in found],
        )


class NewEditFromCuts(BaseModel):
    """A finished video made into an edit, cut at ``frames``: the first pictures of its shots.

    They are numbered as in the file; where its rate varies, the edit's frames are others.
    """

    name: Name
    frames: Annotated[list[int], Field(max_length=MAX_CLIPS_IN_EDIT - 1)]


@router.post("/clips/{clip_id}/cuts", status_code=202)
def detect_cuts(clip_id: uuid.UUID) -> CutDetectionOut:
    """Detect the cuts of a clip; what was found once is kept."""
    with session_scope() as session:
        detection, is_new = cut_detections.request(session, clip_id)
        if is_new:
            defer_cut_detection(session, str(clip_id))
        return CutDetectionOut.of(detection)


@router.get("/clips/{clip_id}/cuts")
def detected_cuts(
    clip_id: uuid.UUID, threshold: Annotated[float, Query(ge=0, le=1)] = USUAL_THRESHOLD
) -> CutDetectionOut:
    """Return what was detected, at a threshold."""
    with session_scope() as session:
        return CutDetectionOut.of(cut_detections.detection_of(session, clip_id), threshold)


@router.post("/clips/{clip_id}/cuts/cancel")
def cancel_detection(clip_id: uuid.UUID) -> CutDetectionOut:
    """Stop the detection."""
    with session_scope() as session:
        return CutDetectionOut.of(cut_detections.cancel(session, clip_id))


def _edit_frames(clip: Clip, pictures: list[int]) -> list[int]:
    """Return the frames at the edit's rate that first show these pictures of the clip."""
    if any(not 0 <= number < clip.frame_count for number in pictures):
        raise InvalidValue(f"{clip.name} has pictures 0 to {clip.frame_count - 1}", field="frames")
    if clip.constant_rate:
        return pictures
    index, rate = picture_cache().index_of(clips.path_of(clip.file))[1], parse_rate(clip.rate)
    return [index.first_frame_of(number, rate) for number in pictures]


def _detected_frames(session: Session, clip: Clip, wanted: list[int]) -> list[int]:
    """Return the frames of the edit at which a shot begins: cuts that are wanted, and were detected.

    What was added by hand is a cut inside of a shot.
    """
    detection = session.get(CutDetection, clip.id)
    scores = np.array([] if detection is None else detection.scores)
    begins = {each.frame for each in cuts_above(scores, _MIN_CONFIDENCE)}
    return _edit_frames(clip, [each for each in wanted if each in begins])


def _shot(begins: list[int], first: int, end: int, count: int) -> list[int] | None:
    found = shot_around(begins, first, end)
    if not begins:
        return None
    return [found.first, (count if found.end is None else found.end) - 1]


@router.post("/clips/{clip_id}/edit", status_code=201)
def create_edit_from_cuts(clip_id: uuid.UUID, wanted: NewEditFromCuts) -> EditOut:
    """Create an edit of a finished video, with a cut at each of the frames."""
    with session_scope() as session:
        clip = clips.clip_by_id(session, clip_id)
        if clip.still or clip.is_sound:
            kind = "sound" if clip.is_sound else "still"
            raise InvalidValue(f"{clip.name} is a {kind}: it has no cuts", field="clip")
        count = edits.conformed_count(clip, parse_rate(clip.rate)) or 0
        limits = sorted({0, *_edit_frames(clip, wanted.frames), count})
        short = [a for a, b in itertools.pairwise(limits) if b - a < _MIN_SHOT_FRAMES]
        if short:
            raise InvalidValue(
                f"the shot at frame {short[0]} has one frame: exclude one of the cuts there",
                field="frames",
            )
        shots = _detected_frames(session, clip, wanted.frames)
        placements = [
            Placement(clip, a, b, {"shot": _shot(shots, a, b, count)})
            for a, b in itertools.pairwise(limits)
        ]
        size = clip.width, clip.height
        edit = edits.create_placed_edit(session, wanted.name.strip(), size, clip.rate, placements)
        session.refresh(edit)
        return EditOut.of(edit_state(edit))
