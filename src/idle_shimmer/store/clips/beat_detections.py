"""Detections of the beats of sounds: requested, in progress, and what they found, which is kept."""

import math
import uuid
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.claims import Claim, ClaimedRows, ask_to_stop, has_job
from idle_shimmer.store.clips.clips import clip_by_id
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import BeatDetection, Clip

_ROWS = ClaimedRows(BeatDetection, BeatDetection.clip_id, "The detection of the beats")
_AT_WORK = ("waiting", "running")


def detection_of(session: Session, clip_id: uuid.UUID) -> BeatDetection:
    """Return the detection of a clip's beats. Raises NotFound."""
    found = session.get(BeatDetection, clip_id)
    if found is None:
        raise NotFound(
            "the beats of this clip have not been detected: start the detection", field="clip"
        )
    return found


def active_detections(session: Session) -> list[tuple[BeatDetection, Clip]]:
    """Return the detections that are queued or run, with their clips."""
    wanted = select(BeatDetection, Clip).join(Clip, Clip.id == BeatDetection.clip_id)
    wanted = wanted.where(BeatDetection.state.in_(_AT_WORK)).order_by(Clip.created_at)
    return [(detection, clip) for detection, clip in session.execute(wanted)]


def without_job(session: Session) -> list[uuid.UUID]:
    """Return the clips whose detection is queued or running, but that no job will end."""
    active = select(BeatDetection.clip_id).where(BeatDetection.state.in_(_AT_WORK))
    return list(session.scalars(active.where(~has_job("beats_of", BeatDetection.clip_id))))


def request(session: Session, clip_id: uuid.UUID) -> tuple[BeatDetection, bool]:
    """Return the detection, and whether it has to be started. Raises InvalidValue without sound."""
    clip = clip_by_id(session, clip_id)
    if not clip.has_sound:
        raise InvalidValue(f"{clip.name} has no sound: it has no beats", field="clip")
    detection = session.get(BeatDetection, clip_id, with_for_update=True)
    if detection is not None and detection.state in (*_AT_WORK, "done"):
        return detection, False
    if detection is None:
        detection = BeatDetection(clip_id=clip_id)
        session.add(detection)
    detection.state, detection.message, detection.cancel_asked = "waiting", "", False
    detection.done_frames = detection.starts = 0
    detection.total_s = math.ceil(clip.duration_s)
    session.flush()
    return detection, True


def begin(clip_id: uuid.UUID) -> Claim | None:
    """Claim a detection; the claim's subject is (file of the clip, its length in seconds). See ``ClaimedRows.begin``."""

    def facts(session: Session, _: BeatDetection) -> tuple[str, float]:
        clip = clip_by_id(session, clip_id)
        return clip.file, clip.duration_s

    return _ROWS.begin(clip_id, facts)


report_progress, release = _ROWS.report_progress, _ROWS.release


def finish(
    claim: Claim, state: str, *, message: str = "", found: dict[str, Any] | None = None
) -> None:
    """Mark as ``done``, ``failed`` or ``cancelled``; nothing happens where the claim was lost."""
    with session_scope() as session:
        ended = {"state": state, "message": message, "found": found}
        session.execute(_ROWS.claimed(claim).values(**ended))


def cancel(session: Session, clip_id: uuid.UUID) -> BeatDetection:
    """Ask a detection to stop; one that is queued stops at once."""
    detection = detection_of(session, clip_id)
    ask_to_stop(detection)
    return detection
