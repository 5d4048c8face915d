"""The tables. Every change to them is a migration in ``migrations/versions``."""

import uuid
from datetime import datetime
from typing import Any, ClassVar

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    DateTime,
    ForeignKey,
    Identity,
    Text,
    UniqueConstraint,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, WriteOnlyMapped, mapped_column, relationship

from idle_shimmer.store.accounts.authors import current_author


class Base(DeclarativeBase):
    """Base of every table."""

    type_annotation_map: ClassVar[dict[Any, Any]] = {
        str: Text,
        dict[str, Any]: JSONB,
        list[str]: JSONB,
        list[float]: JSONB,
        datetime: DateTime(timezone=True),
    }


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
    start_frame: Mapped[int] = mapped_column(default=0)
    notes: Mapped[list[str]]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())

    @property
    def is_sound(self) -> bool:
        """Whether it is sound alone."""
        return self.width == 0


class Edit(Base):
    """An ordered run of placed clips at one frame size and frame rate.

    ``version`` grows with every change of the edit itself, undo and redo included; transitions have
    versions of their own. Its music begins ``music_offset_s`` after its start, its first beat lies
    ``beat_offset_s`` after it; ``beat_times_s`` are all of them in seconds, where they were heard. A deleted edit is kept for a while and can be restored.
    """

    __tablename__ = "edit"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    rate: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())
    version: Mapped[int] = mapped_column(default=1)
    beats_per_minute: Mapped[float | None]
    beat_offset_s: Mapped[float] = mapped_column(default=0.0)
    beat_times_s: Mapped[list[float] | None] = mapped_column(JSONB(none_as_null=True))
    music_clip_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("clip.id"))
    music_offset_s: Mapped[float] = mapped_column(default=0.0)
    music_gain_db: Mapped[float] = mapped_column(default=0.0)
    deleted_at: Mapped[datetime | None]

    music: Mapped[Clip | None] = relationship(lazy="selectin")
    placed: Mapped[list["PlacedClip"]] = relationship(
        back_populates="edit", order_by="PlacedClip.position", cascade="all, delete-orphan"
    )


class PlacedClip(Base):
    """A clip in an edit, from ``in_frame`` up to ``out_frame`` (exclusive), at the edit's rate.

    ``framing`` has the fields of ``Framing`` that were set; ``strokes`` mark its subject, by the pictures of
    the clip. ``crossfade`` is how many frames its sound crossfades with the next clip's: 0 is a hard cut.
    """

    __tablename__ = "placed_clip"
    __table_args__ = (
        UniqueConstraint("edit_id", "position", deferrable=True, initially="DEFERRED"),
        CheckConstraint("0 <= in_frame AND in_frame < out_frame", name="placed_clip_has_frames"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    edit_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("edit.id", ondelete="CASCADE"), index=True
    )
    clip_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("clip.id"))
    position: Mapped[int]
    in_frame: Mapped[int]
    out_frame: Mapped[int]
    framing: Mapped[dict[str, Any]] = mapped_column(default=dict)
    muted: Mapped[bool] = mapped_column(default=False)
    gain_db: Mapped[float] = mapped_column(default=0.0)
    crossfade: Mapped[int] = mapped_column(default=0)
    strokes: Mapped[list[Any]] = mapped_column(JSONB, default=list)

    edit: Mapped[Edit] = relationship(back_populates="placed")
    clip: Mapped[Clip] = relationship(lazy="joined")
    cut: Mapped["Cut | None"] = relationship(
        back_populates="outgoing", cascade="all, delete-orphan", uselist=False
    )


class Cut(Base):
    """The boundary after a placed clip. ``current`` numbers its revision in force.

    ``version`` grows with every change, undo and redo included: a save must name the one it saw.
    ``status`` is the worst finding of its checks, and the state of the cut that it was found in.
    ``revisions`` is never read as a whole: each holds a recipe, and a cut may have hundreds.
    """

    __tablename__ = "cut"
    __table_args__ = (UniqueConstraint("outgoing_id", deferrable=True, initially="DEFERRED"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    outgoing_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("placed_clip.id", ondelete="CASCADE"))
    current: Mapped[int] = mapped_column(default=1)
    version: Mapped[int] = mapped_column(default=1)
    status: Mapped[dict[str, Any] | None]

    outgoing: Mapped[PlacedClip] = relationship(back_populates="cut")
    revision: Mapped["CutRevision | None"] = relationship(
        primaryjoin=(
            "and_(CutRevision.cut_id == foreign(Cut.id), CutRevision.number == foreign(Cut.current))"
        ),
        viewonly=True,
    )
    revisions: WriteOnlyMapped["CutRevision"] = relationship(
        cascade="all, delete-orphan", passive_deletes=True
    )
    variants: Mapped[list["CutVariant"]] = relationship(
        order_by="CutVariant.created_at", cascade="all, delete-orphan"
    )


class CutRevision(Base):
    """One state of a cut: ``{"before", "after", "recipe"}``, and the label of the change.

    ``problem`` is why a document of an older format could not be converted.
    """

    __tablename__ = "cut_revision"

    cut_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("cut.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True)
    label: Mapped[str]
    document: Mapped[dict[str, Any]]
    problem: Mapped[str | None]
    author: Mapped[str | None] = mapped_column(default=current_author)
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class EditHistoryStep(Base):
    """A step in the history of an edit; see ``edit_history``.

    ``before`` is the edit ahead of it; ``after``, set when it is undone, the edit that redoing it
    restores. ``revisions`` has, by cut, the revisions ahead of it and after it. ``cut_id`` is the one cut that the step
    is about, so that it can be undone on its bench.
    """

    __tablename__ = "edit_history_step"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    edit_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("edit.id", ondelete="CASCADE"), index=True
    )
    label: Mapped[str]
    cut_id: Mapped[uuid.UUID | None]
    before: Mapped[dict[str, Any]]
    after: Mapped[dict[str, Any] | None]
    revisions: Mapped[dict[str, Any]] = mapped_column(default=dict)
    undone: Mapped[bool] = mapped_column(default=False)
    author: Mapped[str | None] = mapped_column(default=current_author)


class CutVariant(Base):
    """A state of a cut that is pinned to be compared with others; see ``CutRevision.document``."""

    __tablename__ = "cut_variant"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    cut_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("cut.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    document: Mapped[dict[str, Any]]
    problem: Mapped[str | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class SavedRecipe(Base):
    """A recipe that the editor has saved, by its name."""

    __tablename__ = "saved_recipe"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str] = mapped_column(unique=True)
    document: Mapped[dict[str, Any]]
    problem: Mapped[str | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())


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
    """The detection of the beats of a clip's sound; ``found`` is ``{"bpm", "offset_s", "beats_s"}``."""

    __tablename__ = "beat_detection"
    __table_args__ = (
        CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed')", name="beat_detection_state"
        ),
    )

    clip_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True
    )
    state: Mapped[str] = mapped_column(default="waiting")
    message: Mapped[str] = mapped_column(default="")
    found: Mapped[dict[str, Any] | None]


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


class Account(Base):
    """Someone who may sign in. ``password_hash`` is Argon2id in its PHC text form."""

    __tablename__ = "account"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str] = mapped_column(unique=True)
    password_hash: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class SignedIn(Base):
    """A browser that is signed in, by the SHA-256 of the token in its cookie."""

    __tablename__ = "signed_in"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), index=True
    )
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    expires_at: Mapped[datetime]


class SignInFailure(Base):
    """A failed attempt to sign in, by an address or under a name."""

    __tablename__ = "sign_in_failure"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    key: Mapped[str] = mapped_column(index=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class RenderChoice(Base):
    """What an account chose last in the Render dialog; ``author`` is empty where nobody signs in."""

    __tablename__ = "render_choice"

    author: Mapped[str] = mapped_column(primary_key=True)
    choice: Mapped[dict[str, Any]]
