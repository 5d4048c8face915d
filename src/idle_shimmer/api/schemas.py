"""The bodies that the API answers with."""

import uuid
from datetime import datetime
from fractions import Fraction
from typing import Any

from pydantic import BaseModel
from sqlalchemy.orm import object_session

from idle_shimmer.api.cut_status import StatusOut, status_of
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.recipe import Recipe, recipe_to_json
from idle_shimmer.store import cuts as cut_store
from idle_shimmer.store import edit_history, placed_clips
from idle_shimmer.store import edits as edit_store
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.models import Clip, Cut, Edit, PlacedClip, Render


class ClipOut(BaseModel):
    """An imported clip."""

    id: uuid.UUID
    name: str
    width: int
    height: int
    rate: str
    frame_count: int
    duration_s: float
    has_sound: bool
    still: bool
    notes: list[str]

    @classmethod
    def of(cls, clip: Clip) -> "ClipOut":
        """Return the answer for a row."""
        return cls.model_validate(clip, from_attributes=True)


class PlacedOut(BaseModel):
    """A placed clip; ``spare_before`` and ``spare_after`` are null where a still is unlimited.

    ``name`` is the clip's, numbered where the edit shows several parts of one clip.
    """

    id: uuid.UUID
    name: str
    clip: ClipOut
    position: int
    in_frame: int
    out_frame: int
    spare_before: int | None
    spare_after: int | None
    framing: Framing
    muted: bool

    @classmethod
    def of(cls, placed: PlacedClip, rate: Fraction, name: str) -> "PlacedOut":
        """Return the answer for a row, in an edit at ``rate``."""
        count = edit_store.conformed_count(placed.clip, rate)
        return cls(
            id=placed.id,
            name=name,
            clip=ClipOut.of(placed.clip),
            position=placed.position,
            in_frame=placed.in_frame,
            out_frame=placed.out_frame,
            spare_before=None if count is None else placed.in_frame,
            spare_after=None if count is None else count - placed.out_frame,
            framing=placed_clips.framing_of(placed),
            muted=placed.muted,
        )


class CutSummary(BaseModel):
    """A cut as the edit screen shows it; ``problem`` is why its recipe cannot be read."""

    id: uuid.UUID
    before: int
    after: int
    recipe_name: str
    filter_count: int
    version: int
    worst: StatusOut
    problem: str | None

    @classmethod
    def of(cls, cut: Cut) -> "CutSummary":
        """Return the answer for a row."""
        document, window = cut_store.read_document(cut), cut_store.window_of(cut)
        readable = document if isinstance(document, CutDocument) else None
        return cls(
            id=cut.id,
            before=window.before,
            after=window.after,
            recipe_name=readable.recipe.name if readable else "Cannot be read",
            filter_count=len(readable.recipe.filters) if readable else 0,
            version=cut.version,
            worst=status_of(cut),
            problem=None if isinstance(document, CutDocument) else document.reason,
        )


class EditOut(BaseModel):
    """An edit with its clips in order and the cuts between them.

    ``undo_label`` and ``redo_label`` name the steps that can be undone and redone.
    """

    id: uuid.UUID
    name: str
    width: int
    height: int
    rate: str
    changed_at: datetime
    version: int
    frame_count: int
    beats_per_minute: float | None
    beat_offset_s: float
    undo_label: str | None
    redo_label: str | None
    placed: list[PlacedOut]
    cuts: list[CutSummary]

    @classmethod
    def by_id(cls, edit_id: uuid.UUID) -> "EditOut":
        """Return the answer for an edit as it is stored. Raises NotFound."""
        with session_scope() as session:
            return cls.of(edit_store.edit_by_id(session, edit_id))

    @classmethod
    def of(cls, edit: Edit) -> "EditOut":
        """Return the answer for a row."""
        rate, names = parse_rate(edit.rate), placed_clips.names_in(edit)
        session = object_session(edit)
        undo = edit_history.next_undo(session, edit.id) if session is not None else None
        redo = edit_history.next_redo(session, edit.id) if session is not None else None
        return cls(
            id=edit.id,
            name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            changed_at=edit.changed_at,
            version=edit.version,
            frame_count=sum(each.out_frame - each.in_frame for each in edit.placed),
            beats_per_minute=edit.beats_per_minute,
            beat_offset_s=edit.beat_offset_s,
            undo_label=undo.label if undo else None,
            redo_label=redo.label if redo else None,
            placed=[PlacedOut.of(each, rate, names[each.id]) for each in edit.placed],
            cuts=[CutSummary.of(cut) for cut in edit_store.cuts_of(edit)],
        )


class DeletedEditOut(BaseModel):
    """A deleted edit that can still be restored, until ``kept_until``."""

    id: uuid.UUID
    name: str
    deleted_at: datetime
    kept_until: datetime

    @classmethod
    def of(cls, edit: Edit) -> "DeletedEditOut":
        """Return the answer for a deleted row."""
        deleted_at = edit.deleted_at
        if deleted_at is None:
            raise ValueError(f"the edit {edit.id} is not deleted")
        kept_until = deleted_at + edit_store.KEPT_DELETED
        return cls(id=edit.id, name=edit.name, deleted_at=deleted_at, kept_until=kept_until)


class CutOut(BaseModel):
    """A cut, complete: what the bench needs. ``recipe`` has every field written out.

    ``problem`` is why the stored recipe cannot be read; ``recipe`` is then a hard cut.
    """

    id: uuid.UUID
    edit_id: uuid.UUID
    edit_name: str
    width: int
    height: int
    rate: str
    beats_per_minute: float | None
    number: int
    of: int
    previous_id: uuid.UUID | None
    next_id: uuid.UUID | None
    edit_frame: int
    most_before: int
    most_after: int
    version: int
    edit_version: int
    undo_label: str | None
    redo_label: str | None
    before: int
    after: int
    recipe: dict[str, Any]
    problem: str | None
    outgoing: PlacedOut
    incoming: PlacedOut

    @classmethod
    def from_row(cls, cut: Cut) -> "CutOut":
        """Return the answer for a row."""
        outgoing, incoming = edit_store.sides_of(cut)
        edit = outgoing.edit
        rate, cuts = parse_rate(edit.rate), edit_store.cuts_of(edit)
        place = [each.id for each in cuts].index(cut.id)
        document, window = cut_store.read_document(cut), cut_store.window_of(cut)
        recipe = document.recipe if isinstance(document, CutDocument) else Recipe()
        labels = {each.number: each.label for each in cut.revisions}
        room, names = edit_store.room_of(cut), placed_clips.names_in(edit)
        return cls(
            id=cut.id,
            edit_id=edit.id,
            edit_name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            beats_per_minute=edit.beats_per_minute,
            number=place + 1,
            of=len(cuts),
            previous_id=cuts[place - 1].id if place > 0 else None,
            next_id=cuts[place + 1].id if place + 1 < len(cuts) else None,
            edit_frame=sum(each.out_frame - each.in_frame for each in edit.placed[: place + 1]),
            most_before=room.before,
            most_after=room.after,
            version=cut.version,
            edit_version=edit.version,
            undo_label=labels[cut.current] if cut.current > 1 else None,
            redo_label=labels.get(cut.current + 1),
            before=window.before,
            after=window.after,
            recipe=recipe_to_json(recipe),
            problem=None if isinstance(document, CutDocument) else document.reason,
            outgoing=PlacedOut.of(outgoing, rate, names[outgoing.id]),
            incoming=PlacedOut.of(incoming, rate, names[incoming.id]),
        )


class RenderOut(BaseModel):
    """A render that is queued, running or finished."""

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
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None

    @classmethod
    def of(cls, render: Render) -> "RenderOut":
        """Return the answer for a row."""
        fields = {name: getattr(render, name) for name in cls.model_fields if name != "has_file"}
        return cls(**fields, has_file=bool(render.file))
