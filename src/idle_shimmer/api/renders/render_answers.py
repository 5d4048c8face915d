"""What the API answers about a render."""

import uuid
from datetime import datetime

from pydantic import BaseModel
from sqlalchemy.orm import Session

from idle_shimmer.files.file_store import file_store
from idle_shimmer.store.renders import render_segments
from idle_shimmer.store.renders.renders import file_of
from idle_shimmer.store.tables import Render


class RenderOut(BaseModel):
    """A render that is queued, running or finished; ``author`` is who asked for it.

    ``what``, ``format`` and ``quality`` are those of ``NewRender``, ``version`` that of the edit or cut;
    null in renders of former versions. ``bytes`` is the size of the finished file. ``workers`` are those that
    are at work on it. Once all its segments are done it ``is_joining`` them: ``done_frames`` are those joined.
    """

    id: uuid.UUID
    edit_id: uuid.UUID | None
    cut_id: uuid.UUID | None
    title: str
    state: str
    done_frames: int
    total_frames: int
    cancel_asked: bool
    message: str
    has_file: bool
    workers: int
    is_joining: bool
    what: str | None
    format: str | None
    quality: str | None
    width: int | None
    height: int | None
    version: int | None
    bytes: int | None
    author: str | None
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None

    @classmethod
    def of(cls, render: Render, segments: render_segments.AtWork | None = None) -> "RenderOut":
        """Return the answer for a row; ``segments`` says how far they are, where it has any."""
        columns = {each.key for each in Render.__table__.columns}
        fields = {
            name: getattr(render, name) if name in columns else render.settings.get(name)
            for name in cls.model_fields
            if name not in ("has_file", "workers", "is_joining")
        }
        alone = render_segments.AtWork(1 if render.state == "running" else 0, is_joining=False)
        found = segments or alone
        return cls(
            **fields,
            has_file=bool(render.file) and file_store().has(file_of(render)),
            workers=found.workers,
            is_joining=found.is_joining,
        )

    @classmethod
    def listed(cls, session: Session, rows: list[Render]) -> "list[RenderOut]":
        """Return the answers for several rows."""
        found = render_segments.at_work(session, rows)
        return [cls.of(each, found.get(each.id)) for each in rows]
