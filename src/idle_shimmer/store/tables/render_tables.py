"""The tables of renders: their segments, and what was chosen last."""

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    UniqueConstraint,
    func,
)
from sqlalchemy.orm import Mapped, mapped_column

from idle_shimmer.store.authors import current_author
from idle_shimmer.store.tables.base import Base


class Render(Base):
    """A render: of one cut's window, or of the whole edit where ``cut_id`` is null.

    ``snapshot`` is everything that is rendered, as it was when the render was created. ``claim`` grows
    each time a worker takes the render up: only the worker that holds the newest claim may write.
    ``starts`` counts those since it was last asked for. ``settings`` says what is written and how, for
    lists; ``bytes`` is the size of the finished file.
    """

    __tablename__ = "render"
    __table_args__ = (
        CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')", name="render_state"
        ),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    edit_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("edit.id", ondelete="SET NULL"))
    cut_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("cut.id", ondelete="SET NULL"))
    title: Mapped[str]
    snapshot: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(default="waiting")
    done_frames: Mapped[int] = mapped_column(default=0)
    total_frames: Mapped[int]
    cancel_asked: Mapped[bool] = mapped_column(default=False)
    message: Mapped[str] = mapped_column(default="")
    claim: Mapped[int] = mapped_column(default=0)
    starts: Mapped[int] = mapped_column(default=0)
    file: Mapped[str] = mapped_column(default="")
    settings: Mapped[dict[str, Any]] = mapped_column(default=dict)
    bytes: Mapped[int | None] = mapped_column(BigInteger)
    author: Mapped[str | None] = mapped_column(default=current_author)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    started_at: Mapped[datetime | None]
    finished_at: Mapped[datetime | None]


class RenderSegment(Base):
    """A part of a long render: frames ``first_frame`` … ``end_frame`` (exclusive) of the edit.

    ``claim`` and ``starts`` are as those of a render; ``worker`` has it, and was last heard of at ``seen_at``.
    ``file`` is relative to the folder of segments.
    """

    __tablename__ = "render_segment"
    __table_args__ = (
        UniqueConstraint("render_id", "number"),
        CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed')", name="render_segment_state"
        ),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    render_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("render.id", ondelete="CASCADE"), index=True
    )
    number: Mapped[int]
    first_frame: Mapped[int]
    end_frame: Mapped[int]
    state: Mapped[str] = mapped_column(default="waiting")
    done_frames: Mapped[int] = mapped_column(default=0)
    message: Mapped[str] = mapped_column(default="")
    file: Mapped[str] = mapped_column(default="")
    worker: Mapped[str] = mapped_column(default="")
    claim: Mapped[int] = mapped_column(default=0)
    starts: Mapped[int] = mapped_column(default=0)
    seen_at: Mapped[datetime | None]


class RenderChoice(Base):
    """What an account chose last in the Render dialog; ``author`` is empty where nobody signs in."""

    __tablename__ = "render_choice"

    author: Mapped[str] = mapped_column(primary_key=True)
    choice: Mapped[dict[str, Any]]
