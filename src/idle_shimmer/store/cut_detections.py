"""Searches for the cuts of finished videos: asked for, under way, and what they found."""

import uuid

from sqlalchemy import update
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.clips import clip_by_id
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import CutDetection


def search_of(session: Session, clip_id: uuid.UUID) -> CutDetection:
    """The search in a clip. Raises NotFound."""
    found = session.get(CutDetection, clip_id)
    if found is None:
        raise NotFound("the cuts of this clip were not looked for yet: start that", field="clip")
    return found


def ask(session: Session, clip_id: uuid.UUID) -> tuple[CutDetection, bool]:
    """The search in a clip, and whether it has to be started: once done it is kept."""
    clip = clip_by_id(session, clip_id)
    if clip.still:
        raise InvalidValue(f"{clip.name} is a still: it has no cuts", field="clip")
    search = session.get(CutDetection, clip_id, with_for_update=True)
    if search is not None and search.state in ("waiting", "running", "done"):
        return search, False
    if search is None:
        search = CutDetection(clip_id=clip_id)
        session.add(search)
    search.state, search.done_frames, search.message = "waiting", 0, ""
    search.total_frames, search.cancel_asked, search.scores = clip.frame_count, False, []
    session.flush()
    return search, True


def begin(clip_id: uuid.UUID) -> str | None:
    """Mark as running; the clip's file, or None where the search was cancelled or is done."""
    with session_scope() as session:
        search = session.get(CutDetection, clip_id, with_for_update=True)
        if search is None or search.state in ("done", "cancelled"):
            return None
        search.state, search.done_frames = "running", 0
        return clip_by_id(session, clip_id).file


def report_progress(clip_id: uuid.UUID, done_frames: int) -> bool:
    """Store how many pictures are done; whether to go on."""
    with session_scope() as session:
        cancelled = session.scalar(
            update(CutDetection)
            .where(CutDetection.clip_id == clip_id)
            .values(done_frames=done_frames)
            .returning(CutDetection.cancel_asked)
        )
        return cancelled is False


def finish(
    clip_id: uuid.UUID, state: str, *, message: str = "", scores: list[float] | None = None
) -> None:
    """Mark as ``done``, ``failed`` or ``cancelled``."""
    with session_scope() as session:
        search = search_of(session, clip_id)
        search.state, search.message, search.scores = state, message, scores or []


def cancel(session: Session, clip_id: uuid.UUID) -> CutDetection:
    """Ask a search to stop; one that waits stops at once."""
    search = search_of(session, clip_id)
    search.cancel_asked = True
    if search.state == "waiting":
        search.state = "cancelled"
    return search
