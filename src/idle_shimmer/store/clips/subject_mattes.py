"""The mattes of subjects: requested from strokes, made by jobs, kept until a stroke changes."""

import hashlib
import json
import uuid
from collections.abc import Sequence
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from idle_shimmer.core.subject.strokes import Strokes, strokes_from_json
from idle_shimmer.files.file_store import file_store
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import Claim, ClaimedRows, ask_to_stop, has_job
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import ChangedMeanwhile, NotFound
from idle_shimmer.store.tables import Clip, PlacedClip, SubjectMatte

# Grows when the same strokes give other mattes.
_MAKING = 1
# So many older mattes of a clip are kept, for going back to earlier strokes.
_KEPT = 12
# Mattes are made for so many pictures more on both sides, so that a window may grow a little.
MARGIN = 12
_ROWS = ClaimedRows(SubjectMatte, SubjectMatte.id, "The subject")


def strokes_of(placed: PlacedClip) -> list[Strokes]:
    """Return the strokes on a placed clip, none where nothing is marked."""
    return strokes_from_json(json.dumps(placed.strokes)) if placed.strokes else []


def mark_of(clip: Clip, strokes: Sequence[object]) -> str:
    """Return the name of the mattes that ``strokes`` give on a clip."""
    text = json.dumps([_MAKING, clip.sha256, strokes], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def require_seen(placed: PlacedClip, seen: str | None) -> None:
    """Raise ChangedMeanwhile where ``seen``, a name by ``mark_of``, is not that of the strokes; None is not compared."""
    if seen is not None and seen != mark_of(placed.clip, placed.strokes):
        raise ChangedMeanwhile(
            f"the subject of {placed.clip.name} was marked in another window after you opened it, so your strokes"
            " were not saved: load the newer state and draw them again",
            field="version",
        )


def matte_of(session: Session, placed: PlacedClip) -> SubjectMatte | None:
    """Return the mattes of the subject as it is marked now, in whatever state; None where none is."""
    if not placed.strokes:
        return None
    mark = mark_of(placed.clip, placed.strokes)
    return session.scalar(select(SubjectMatte).where(SubjectMatte.mark == mark))


def done_matte(session: Session, matte_id: uuid.UUID) -> SubjectMatte | None:
    """Return mattes that are done and whose file is there, else None."""
    matte = session.get(SubjectMatte, matte_id)
    if matte is None or matte.state != "done" or not file_store().has(path_of(matte)):
        return None
    return matte


def request(session: Session, placed: PlacedClip, wanted: range) -> tuple[SubjectMatte, bool]:
    """Return the mattes of a marked subject, and whether they have to be made.

    ``wanted`` are pictures of the clip. Mattes that are done or at work and have all of them are kept; else
    they are made for those and what there was.
    """
    clip = placed.clip
    last = clip.frame_count - 1
    mark = mark_of(clip, placed.strokes)
    matte = session.scalar(select(SubjectMatte).where(SubjectMatte.mark == mark).with_for_update())
    if matte is not None and matte.first <= wanted[0] and wanted[-1] <= matte.last:
        if matte.state == "done" and file_store().has(path_of(matte)):
            return matte, False
        if matte.state in ("waiting", "running") and not matte.cancel_asked:
            return matte, _is_without_job(session, matte)
    first, end = max(0, wanted[0] - MARGIN), min(last, wanted[-1] + MARGIN)
    if matte is None:
        matte = SubjectMatte(mark=mark, clip=clip, strokes=placed.strokes, first=first, last=end)
        session.add(matte)
    else:
        matte.first, matte.last = min(first, matte.first), max(end, matte.last)
    # A worker that makes fewer loses its claim.
    matte.claim = (matte.claim or 0) + 1
    matte.state, matte.message, matte.cancel_asked = "waiting", "", False
    matte.done_frames = matte.starts = 0
    session.flush()
    return matte, True


def stop_others(session: Session, placed: PlacedClip) -> None:
    """Stop the mattes of earlier strokes of a clip that no placed clip has any more."""
    clip_id = placed.clip_id
    rows = session.scalars(select(PlacedClip).where(PlacedClip.clip_id == clip_id))
    marks = {mark_of(row.clip, row.strokes) for row in rows if row.strokes}
    active = select(SubjectMatte).where(
        SubjectMatte.clip_id == clip_id, SubjectMatte.state.in_(("waiting", "running"))
    )
    for matte in session.scalars(active):
        if matte.mark not in marks:
            ask_to_stop(matte)


def cancel(session: Session, matte_id: uuid.UUID) -> None:
    """Stop the making of mattes, where they are not made yet. Raises NotFound."""
    matte = session.get(SubjectMatte, matte_id)
    if matte is None:
        raise NotFound("the subject is not at work any more", field="subject")
    if matte.state in ("waiting", "running"):
        ask_to_stop(matte)


def _is_without_job(session: Session, matte: SubjectMatte) -> bool:
    wanted = select(SubjectMatte.id).where(
        SubjectMatte.id == matte.id, has_job("matte_id", SubjectMatte.id)
    )
    return session.scalar(wanted) is None


def without_job(session: Session) -> list[uuid.UUID]:
    """Return the mattes that are queued or made, but that no job will end."""
    active = select(SubjectMatte.id).where(SubjectMatte.state.in_(("waiting", "running")))
    return list(session.scalars(active.where(~has_job("matte_id", SubjectMatte.id))))


def active_mattes(session: Session) -> list[SubjectMatte]:
    """Return the mattes that are queued or made, oldest first."""
    active = select(SubjectMatte).where(SubjectMatte.state.in_(("waiting", "running")))
    return list(session.scalars(active.order_by(SubjectMatte.created_at)))


def path_of(matte: SubjectMatte) -> Path:
    """Return the file of mattes that are done."""
    return settings().mattes / matte.file if matte.file else settings().mattes / "missing"


def begin(matte_id: uuid.UUID) -> Claim | None:
    """Claim mattes; the claim's subject is (file of the clip, strokes, first, last). See ``ClaimedRows.begin``."""
    return _ROWS.begin(
        matte_id, lambda _, matte: (matte.clip.file, matte.strokes, matte.first, matte.last)
    )


report_progress, release = _ROWS.report_progress, _ROWS.release


def finish(
    claim: Claim,
    state: str,
    *,
    message: str = "",
    file: str = "",
    changes: list[float] | None = None,
) -> bool:
    """Mark as ``done``, ``failed`` or ``cancelled``; return False where the claim was lost.

    Older mattes of the clip are deleted beyond those that are kept.
    """
    with session_scope() as session:
        ended = {"state": state, "message": message, "file": file, "changes": changes or []}
        done = session.execute(_ROWS.claimed(claim).values(**ended).returning(SubjectMatte.clip_id))
        clip_id = done.scalar()
        if clip_id is not None:
            _delete_old(session, clip_id)
        return clip_id is not None


def _delete_old(session: Session, clip_id: uuid.UUID) -> None:
    rows = session.scalars(select(PlacedClip).where(PlacedClip.clip_id == clip_id))
    used = {mark_of(row.clip, row.strokes) for row in rows if row.strokes}
    mattes = session.scalars(
        select(SubjectMatte)
        .where(SubjectMatte.clip_id == clip_id, SubjectMatte.state.not_in(("waiting", "running")))
        .order_by(SubjectMatte.created_at.desc())
    )
    unused = [each for each in mattes if each.mark not in used]
    for matte in unused[_KEPT:]:
        file_store().delete(path_of(matte))
        session.delete(matte)
