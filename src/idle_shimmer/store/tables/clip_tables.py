"""The tables of clips: their files, and what was detected and made of them."""

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import (
    CheckConstraint,
    ForeignKey,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from idle_shimmer.store.tables.base import Base


class Clip(Base):
    """An imported video, still or sound. ``file`` is relative to the media folder; ``rate`` is text.

    ``start_frame`` is the number that the file's own timecode gives its first frame, at its rate.

    A sound has no pictures: its size and frame count are 0.
    """

    __tablename__ = "clip"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str]
    file: Mapped[str]
    sha256: Mapped[str] = mapped_column(unique=True)
    width: Mapped[int]
    height: Mapped[int]
    rate: Mapped[str]
    frame_count: Mapped[int]
    duration_s: Mapped[float]
    has_sound: Mapped[bool]
    still: Mapped[bool]
    constant_rate: Mapped[bool]
    interlaced: Mapped[bool] = mapped_column(default=False)
    start_frame: Mapped[int] = mapped_column(default=0)
    notes: Mapped[list[str]]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())

    @property
    def is_sound(self) -> bool:
        """Whether it is sound alone."""
        return self.width == 0


class CutDetection(Base):
    """The detection of the cuts of a finished video: its progress, and the score of every picture.

    ``claim`` and ``starts`` are as those of a render.
    """

    __tablename__ = "cut_detection"
    __table_args__ = (
        CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')",
            name="cut_detection_state",
        ),
    )

    clip_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True
    )
    state: Mapped[str] = mapped_column(default="waiting")
    done_frames: Mapped[int] = mapped_column(default=0)
    total_frames: Mapped[int] = mapped_column(default=0)
    cancel_asked: Mapped[bool] = mapped_column(default=False)
    message: Mapped[str] = mapped_column(default="")
    scores: Mapped[list[float]] = mapped_column(default=list)
    claim: Mapped[int] = mapped_column(default=0)
    starts: Mapped[int] = mapped_column(default=0)


class BeatDetection(Base):
    """The detection of the beats of a clip's sound; ``found`` is ``{"bpm", "offset_s", "beats_s"}``.

    ``done_frames`` and ``total_s`` count seconds of sound. ``claim`` and ``starts`` are as those of a render.
    """

    __tablename__ = "beat_detection"
    __table_args__ = (
        CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')",
            name="beat_detection_state",
        ),
    )

    clip_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True
    )
    state: Mapped[str] = mapped_column(default="waiting")
    # Claimed rows count what is done under one name, whatever it is.
    done_frames: Mapped[int] = mapped_column("done_s", default=0)
    total_s: Mapped[int] = mapped_column(default=0)
    cancel_asked: Mapped[bool] = mapped_column(default=False)
    message: Mapped[str] = mapped_column(default="")
    found: Mapped[dict[str, Any] | None]
    claim: Mapped[int] = mapped_column(default=0)
    starts: Mapped[int] = mapped_column(default=0)


class SubjectMatte(Base):
    """The mattes of a clip's subject, from strokes: of its pictures ``first`` … ``last``, both included.

    ``mark`` names what they are made of: the same clip and strokes have the same mattes. ``file`` is relative to
    the folder of mattes; ``changes`` is how much each matte differs from the one before. ``claim`` and ``starts`` are
    as those of a render.
    """

    __tablename__ = "subject_matte"
    __table_args__ = (
        CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')",
            name="subject_matte_state",
        ),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    mark: Mapped[str] = mapped_column(unique=True)
    clip_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("clip.id", ondelete="CASCADE"), index=True
    )
    strokes: Mapped[list[Any]] = mapped_column(JSONB)
    first: Mapped[int]
    last: Mapped[int]
    state: Mapped[str] = mapped_column(default="waiting")
    done_frames: Mapped[int] = mapped_column(default=0)
    cancel_asked: Mapped[bool] = mapped_column(default=False)
    message: Mapped[str] = mapped_column(default="")
    file: Mapped[str] = mapped_column(default="")
    changes: Mapped[list[float]] = mapped_column(default=list)
    claim: Mapped[int] = mapped_column(default=0)
    starts: Mapped[int] = mapped_column(default=0)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())

    clip: Mapped[Clip] = relationship(lazy="selectin")

    @property
    def total_frames(self) -> int:
        """How many mattes are wanted."""
        return self.last - self.first + 1
