"""Detections of the beats of sounds: what was found once is kept.

Two workers may detect the same beats: they find the same, and nothing else depends on who was first.
"""

import uuid
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.claims import has_job
from idle_shimmer.store.clips.clips import clip_by_id
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import BeatDetection


def detection_of(session: Session, clip_id: uuid.UUID) -> BeatDetection:
    """Return the detection of a clip's beats. Raises NotFound."""
    found = session.get(BeatDetection, clip_id)
    if found is None:
        raise NotFound(
            "the beats of this clip have not been detected: start the detection", field="clip"
        )
    return found


def request(session: Session, clip_id: uuid.UUID) -> tuple[BeatDetection, bool]:
    """Return the detection, and whether it has to be started. Raises InvalidValue without sound."""
    clip = clip_by_id(session, clip_id)
    if not clip.has_sound:
        raise InvalidValue(f"{clip.name} has no sound: it has no beats", field="clip")
    detection = session.get(BeatDetection, clip_id, with_for_update=True)
    if detection is None:
        detection = BeatDetection(clip_id=clip_id)
        session.add(detection)
    elif detection.state == "done" or _is_at_work(session, detection):
        return detection, False
    detection.state, detection.message = "waiting", ""
    session.flush()
    return detection, True


def _is_at_work(session: Session, detection: BeatDetection) -> bool:
    if detection.state not in ("waiting", "running"):
        return False
    wanted = select(BeatDetection.clip_id).where(
        BeatDetection.clip_id == detection.clip_id, has_job("beats_of", BeatDetection.clip_id)
    )
    return session.scalar(wanted) is not None


def set_state(
    clip_id: uuid.UUID, state: str, *, message: str = "", found: dict[str, Any] | None = None
) -> None:
    """Store how far a detection is, and what it found."""
    with session_scope() as session:
        values = {"state": state, "message": message, "found": found}
        session.execute(
            update(BeatDetection).where(BeatDetection.clip_id == clip_id).values(**values)
        )
