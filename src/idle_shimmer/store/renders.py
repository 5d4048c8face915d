"""Renders: their state, progress and files."""

import uuid
from pathlib import Path

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import Render


def all_renders(session: Session) -> list[Render]:
    """Return every render, newest first."""
    return list(session.scalars(select(Render).order_by(Render.created_at.desc())))


def active_renders(session: Session) -> list[Render]:
    """Return the renders that are queued or running, in the order in which they were asked for."""
    active = select(Render).where(Render.state.in_(("waiting", "running")))
    return list(session.scalars(active.order_by(Render.created_at)))


def delete_render(session: Session, render: Render) -> None:
    """Delete a render that has ended, and its file. Raises InvalidValue while it is at work."""
    if render.state in ("waiting", "running"):
        raise InvalidValue("this render is still at work: cancel it first", field="render")
    if render.file:
        file_of(render).unlink(missing_ok=True)
    session.delete(render)


def render_by_id(session: Session, render_id: uuid.UUID) -> Render:
    """Return the render. Raises NotFound."""
    render = session.get(Render, render_id)
    if render is None:
        raise NotFound("there is no such render: it may have been deleted", field="render")
    return render


def file_of(render: Render) -> Path:
    """Return the path of the finished file of ``render``."""
    return settings().renders / render.file


def report_progress(render_id: uuid.UUID, done_frames: int) -> bool:
    """Store how many frames are done; return whether to go on."""
    with session_scope() as session:
        cancelled = session.scalar(
            update(Render)
            .where(Render.id == render_id)
            .values(done_frames=done_frames)
            .returning(Render.cancel_asked)
        )
        return cancelled is False


def begin(render_id: uuid.UUID) -> Render | None:
    """Mark as running; return None where it was cancelled or finished before it began."""
    with session_scope() as session:
        render = session.get(Render, render_id, with_for_update=True)
        if render is None or render.state in ("done", "cancelled"):
            return None
        render.state, render.done_frames, render.message = "running", 0, ""
        render.started_at, render.finished_at = func.now(), None
        session.flush()
        return render


def finish(render_id: uuid.UUID, state: str, *, message: str = "", file: str = "") -> None:
    """Mark as ``done``, ``failed`` or ``cancelled``."""
    with session_scope() as session:
        render = render_by_id(session, render_id)
        render.state, render.message, render.file = state, message, file
        render.finished_at = func.now()
