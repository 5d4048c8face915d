"""Renders: their state, progress and files."""

import uuid
from pathlib import Path
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, defer

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.files.file_store import file_store
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import Claim, ClaimedRows, has_job
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.renders import render_segments
from idle_shimmer.store.tables import Render

_ROWS = ClaimedRows(
    Render,
    Render.id,
    "The render",
    ended={"finished_at": func.now()},
    waiting={"started_at": None},
)


def listed_renders(session: Session, limit: int, offset: int = 0) -> list[Render]:
    """Return ``limit`` renders after the first ``offset``, newest first, without their snapshots."""
    newest = select(Render).order_by(Render.created_at.desc(), Render.id)
    wanted = newest.limit(limit).offset(offset).options(defer(Render.snapshot))
    return list(session.scalars(wanted))


def active_renders(session: Session) -> list[Render]:
    """Return the renders that are queued or running, in the order in which they were asked for."""
    active = select(Render).where(Render.state.in_(("waiting", "running")))
    return list(session.scalars(active.order_by(Render.created_at).options(defer(Render.snapshot))))


def without_job(session: Session) -> list[uuid.UUID]:
    """Return the renders that are queued or running, but that no job will end."""
    active = select(Render.id).where(Render.state.in_(("waiting", "running")))
    return list(session.scalars(active.where(~has_job("render_id", Render.id))))


def delete_render(session: Session, render: Render) -> None:
    """Delete a render that has ended, and its file. Raises InvalidValue while it is at work."""
    if render.state in ("waiting", "running"):
        raise InvalidValue("this render is still at work: cancel it first", field="render")
    kept = render_segments.delete_rows(session, render.id)
    session.delete(render)
    # Where another request was faster, this fails before any file is gone.
    session.flush()
    if render.file:
        file_store().delete(file_of(render))
    render_segments.delete_files(render.id, kept)


def render_by_id(session: Session, render_id: uuid.UUID) -> Render:
    """Return the render. Raises NotFound."""
    render = session.get(Render, render_id)
    if render is None:
        raise NotFound("there is no such render: it may have been deleted", field="render")
    return render


def file_of(render: Render) -> Path:
    """Return the path of the finished file of ``render``."""
    return settings().renders / render.file


def file_name(claim: Claim, suffix: str) -> str:
    """Return the name of the file: each claim writes one of its own."""
    return f"{claim.id}-{claim.number}{suffix}"


def snapshot_at_work(render_id: uuid.UUID) -> dict[str, Any] | None:
    """Return what a render renders that is at work, else None."""
    with session_scope() as session:
        render = session.get(Render, render_id)
        return render.snapshot if render is not None and render.state == "running" else None


def begin(render_id: uuid.UUID) -> Claim | None:
    """Claim a render; the claim's subject is its snapshot. See ``ClaimedRows.begin``."""

    def claimed(_: Session, render: Render) -> Any:
        render.started_at, render.finished_at, render.message = func.now(), None, ""
        return render.snapshot

    return _ROWS.begin(render_id, claimed)


report_progress, release = _ROWS.report_progress, _ROWS.release


def finish(claim: Claim, state: str, *, message: str = "", file: str = "", size: int = 0) -> bool:
    """Mark as ``done``, ``failed`` or ``cancelled``; return False where the claim was lost."""
    with session_scope() as session:
        ended: dict[str, Any] = {
            "state": state,
            "message": message,
            "file": file,
            "finished_at": func.now(),
        }
        if file:
            # What was done counts: handles may have been shorter than was asked for.
            ended |= {"bytes": size, "total_frames": Render.done_frames}
        return session.scalar(_ROWS.claimed(claim).values(**ended).returning(Render.id)) is not None


def total_frames_of(claim: Claim) -> int:
    """Return how many frames a claimed render has."""
    with session_scope() as session:
        return render_by_id(session, claim.id).total_frames
