"""Detections of the cuts of finished videos: requested, in progress, and what they found."""

import uuid

from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.claims import Claim, ClaimedRows, ask_to_stop, has_job
from idle_shimmer.store.clips.clips import clip_by_id
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Clip, CutDetection, PlacedClip

_ROWS = ClaimedRows(CutDetection, CutDetection.clip_id, "The detection")


def detection_of(session: Session, clip_id: uuid.UUID) -> CutDetection:
    """Return the detection of a clip's cuts. Raises NotFound."""
    found = session.get(CutDetection, clip_id)
    if found is None:
        raise NotFound(
            "the cuts of this clip have not been detected: start the detection", field="clip"
        )
    return found


def open_detections(session: Session) -> list[tuple[CutDetection, Clip]]:
    """Return the detections that run, or whose clip is in no edit yet, with their clips."""
    unused = ~exists().where(PlacedClip.clip_id == CutDetection.clip_id)
    wanted = select(CutDetection, Clip).join(Clip, Clip.id == CutDetection.clip_id)
    wanted = wanted.where(
        CutDetection.state.in_(("waiting", "running")) | ((CutDetection.state == "done") & unused)
    )
    return [
        (detection, clip) for detection, clip in session.execute(wanted.order_by(Clip.created_at))
    ]


def without_job(session: Session) -> list[uuid.UUID]:
    """Return the clips whose detection is queued or running, but that no job will end."""
    active = select(CutDetection.clip_id).where(CutDetection.state.in_(("waiting", "running")))
    return list(session.scalars(active.where(~has_job("clip_id", CutDetection.clip_id))))


def request(session: Session, clip_id: uuid.UUID) -> tuple[CutDetection, bool]:
    """Return the detection, and whether it has to be started: a finished one is kept."""
    clip = clip_by_id(session, clip_id)
    if clip.still or clip.is_sound:
        kind = "sound" if clip.is_sound else "still"
        raise InvalidValue(f"{clip.name} is a {kind}: it has no cuts", field="clip")
    detection = session.get(CutDetection, clip_id, with_for_update=True)
    if detection is not None and detection.state in ("waiting", "running", "done"):
        return detection, False
    if detection is None:
        detection = CutDetection(clip_id=clip_id)
        session.add(detection)
    detection.state, detection.message = "waiting", ""
    detection.done_frames = detection.starts = 0
    detection.total_frames, detection.cancel_asked, detection.scores = clip.frame_count, False, []
    session.flush()
    return detection, True


def begin(clip_id: uuid.UUID) -> Claim | None:
    """Claim a detection; the claim's subject is the clip's file. See ``ClaimedRows.begin``."""
    return _ROWS.begin(clip_id, lambda session, _: clip_by_id(session, clip_id).file)


report_progress, release = _ROWS.report_progress, _ROWS.release


def finish(
    claim: Claim, state: str, *, message: str = "", scores: list[float] | None = None
) -> None:
    """Mark as ``done``, ``failed`` or ``cancelled``; nothing happens where the claim was lost."""
    with session_scope() as session:
        ended = {"state": state, "message": message, "scores": scores or []}
        session.execute(_ROWS.claimed(claim).values(**ended))


def cancel(session: Session, clip_id: uuid.UUID) -> CutDetection:
    """Ask a detection to stop; one that is queued stops at once."""
    detection = detection_of(session, clip_id)
    ask_to_stop(detection)
    return detection
