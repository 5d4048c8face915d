"""The tables of edits: placed clips, cuts with their revisions and variants, history, saved recipes."""

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import (
    CheckConstraint,
    ForeignKey,
    Identity,
    UniqueConstraint,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, WriteOnlyMapped, mapped_column, relationship

from idle_shimmer.store.authors import current_author
from idle_shimmer.store.tables.base import Base
from idle_shimmer.store.tables.clip_tables import Clip


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
    ``deinterlaced`` is False where both fields of its pictures are shown together. ``shot`` is [first, last], the
    frames of the clip that show what it shows; None is the whole clip.
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
    deinterlaced: Mapped[bool] = mapped_column(default=True)
    strokes: Mapped[list[Any]] = mapped_column(JSONB, default=list)
    shot: Mapped[list[int] | None] = mapped_column(JSONB(none_as_null=True))

    edit: Mapped[Edit] = relationship(back_populates="placed")
    clip: Mapped[Clip] = relationship(lazy="joined")
    # A cut that is taken off its clip stays with the edit: see ``Cut.left_edit_id``.
    cut: Mapped["Cut | None"] = relationship(
        back_populates="outgoing", cascade="save-update, merge, delete", uselist=False
    )


class Cut(Base):
    """The boundary after a placed clip. ``current`` numbers its revision in force.

    A cut that an edit no longer has is on no clip, and has ``left_edit_id``: it is kept with its history and
    variants as long as undoing or redoing can bring it back.
    ``version`` grows with every change, undo and redo included: a save must name the one it saw.
    ``status`` is the worst finding of its checks, and the state of the cut that it was found in.
    ``revisions`` is never read as a whole: each holds a recipe, and a cut may have hundreds.
    """

    __tablename__ = "cut"
    __table_args__ = (
        UniqueConstraint("outgoing_id", deferrable=True, initially="DEFERRED"),
        CheckConstraint("num_nonnulls(outgoing_id, left_edit_id) = 1", name="cut_is_in_one_place"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    outgoing_id: Mapped[uuid.UUID | None] = mapped_column(
        ForeignKey("placed_clip.id", ondelete="CASCADE")
    )
    left_edit_id: Mapped[uuid.UUID | None] = mapped_column(
        ForeignKey("edit.id", ondelete="CASCADE"), index=True
    )
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
    created_at: Mapped[datetime | None] = mapped_column(default=func.now())


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


class FilterPreset(Base):
    """A filter that the editor has saved, by its name: ``document`` is a recipe that has it alone."""

    __tablename__ = "filter_preset"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str] = mapped_column(unique=True)
    document: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
