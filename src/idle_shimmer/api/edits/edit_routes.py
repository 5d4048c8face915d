"""Edits: create, list, read, rename, set beats, delete, restore, duplicate."""

import uuid
from itertools import pairwise
from typing import Annotated

import structlog
from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, field_validator

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, answered, changing
from idle_shimmer.api.edits.list_answers import DeletedEditOut, EditSummary
from idle_shimmer.api.server.fields import Name
from idle_shimmer.api.server.paging import MAX_LISTED, Limit, Offset
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.edit import edit_list
from idle_shimmer.edit.cut_status import CutStatusOut, run_checks
from idle_shimmer.edit.edit_list import EditRow
from idle_shimmer.edit.states import edit_state
from idle_shimmer.limits import (
    MAX_CLIPS_IN_EDIT,
    MAX_SIDE_PX,
    MIN_SIDE_PX,
)
from idle_shimmer.store.clips import clips
from idle_shimmer.store.cuts.cut_rows import cut_rows, store_statuses
from idle_shimmer.store.database import reading_scope, session_scope
from idle_shimmer.store.edits import edits

_log = structlog.get_logger(__name__)
router = APIRouter(prefix="/api/edits", tags=["edits"])
Side = Annotated[int, Field(ge=MIN_SIDE_PX, le=MAX_SIDE_PX)]
MAX_BEATS = 20_000
_BeatTime = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]
_UNSHOWABLE = (LookupError, ValueError, TypeError, AttributeError)


class FrameSize(BaseModel):
    """A frame size in pixels."""

    width: Side
    height: Side


class NewEdit(BaseModel):
    """A new edit of clips in order; without ``size`` or ``rate``, at those of the first."""

    name: Name
    clips: Annotated[list[uuid.UUID], Field(min_length=1, max_length=MAX_CLIPS_IN_EDIT)]
    size: FrameSize | None = None
    rate: str | None = None


class EditChange(BaseModel):
    """Changes of an edit; ``beats_per_minute`` 0 removes its beats."""

    name: Name | None = None
    beats_per_minute: Annotated[float | None, Field(ge=0, le=400, allow_inf_nan=False)] = None
    beat_offset_s: Annotated[float | None, Field(ge=-60, le=60, allow_inf_nan=False)] = None
    beat_times_s: Annotated[list[_BeatTime] | None, Field(max_length=MAX_BEATS)] = None

    @field_validator("beat_times_s")
    @classmethod
    def _ascending(cls, value: list[float] | None) -> list[float] | None:
        if value and any(one >= other for one, other in pairwise(value)):
            raise ValueError("each beat must be later than the one before it")
        return value


@router.get("")
def list_edits(limit: Limit = MAX_LISTED, offset: Offset = 0) -> list[EditSummary]:
    """Return edits, last changed first: ``limit`` of them after the first ``offset``."""
    with session_scope() as session:
        rows = edit_list.edit_rows(session, limit, offset)
        return [found for row in rows if (found := _listed(row)) is not None]


def _listed(row: EditRow) -> EditSummary | None:
    """Return the answer for an edit; None, and a line in the log, for one that cannot be shown."""
    try:
        return EditSummary.of(row)
    except _UNSHOWABLE:
        _log.exception("an edit cannot be shown", edit=str(row.edit.id))
        return None


@router.get("/deleted")
def list_deleted_edits() -> list[DeletedEditOut]:
    """Return the deleted edits that can still be restored, last deleted first."""
    with session_scope() as session:
        return [DeletedEditOut.of(edit) for edit in edits.deleted_edits(session)]


@router.post("", status_code=201)
def create_edit(new: NewEdit) -> EditOut:
    """Create an edit."""
    with session_scope() as session:
        chosen = [clips.clip_by_id(session, one) for one in new.clips]
        edit = edits.create_edit(
            session,
            new.name.strip(),
            chosen,
            (new.size.width, new.size.height) if new.size is not None else None,
            parse_rate(new.rate) if new.rate is not None else None,
        )
        session.refresh(edit)
        return EditOut.of(edit_state(edit))


@router.get("/{edit_id}")
def get_edit(edit_id: uuid.UUID) -> EditOut:
    """Return one edit."""
    with reading_scope() as session:
        return EditOut.of(edit_state(edits.edit_by_id(session, edit_id)))


@router.get("/{edit_id}/checks")
def edit_checks(edit_id: uuid.UUID) -> list[CutStatusOut]:
    """Run checks that have not run since their cut changed, for a while; return what is known."""
    with reading_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        rows = cut_rows(session, edit)
        known, fresh = run_checks(edit, rows)
    # What was found names the state that it was found in: one that has changed since is checked again.
    with session_scope() as session:
        store_statuses(session, fresh)
    return [CutStatusOut.of(row.id, known.get(row.id)) for row in rows]


@router.patch("/{edit_id}")
def change_edit(edit_id: uuid.UUID, change: EditChange, version: Seen = None) -> EditOut:
    """Rename an edit, or set the beats of its music."""
    with changing(edit_id, version, _change_label(change)) as edit:
        if change.name is not None:
            edit.name = change.name.strip()
        if change.beats_per_minute is not None:
            edit.beats_per_minute = change.beats_per_minute or None
        if change.beat_offset_s is not None:
            edit.beat_offset_s = change.beat_offset_s
        if {"beats_per_minute", "beat_offset_s", "beat_times_s"} & change.model_fields_set:
            # A tempo that is typed or tapped takes the place of the beats that were heard.
            edit.beat_times_s = change.beat_times_s or None
    return answered(edit_id)


def _change_label(change: EditChange) -> str:
    if change.name is not None:
        return f"Rename to {change.name.strip()}"
    if change.beats_per_minute is not None:
        tempo = change.beats_per_minute
        return f"Tempo {tempo:g} BPM" if tempo else "Remove beat grid"
    return "First beat"


@router.delete("/{edit_id}", status_code=204, response_class=Response)
def delete_edit(edit_id: uuid.UUID) -> None:
    """Delete an edit; its clips stay, and for a week it can be restored."""
    with session_scope() as session:
        edits.delete_edit(session, edits.edit_by_id(session, edit_id))


@router.delete("/{edit_id}/permanently", status_code=204, response_class=Response)
def delete_edit_permanently(edit_id: uuid.UUID) -> None:
    """Delete an edit that was deleted before, for good; its clips stay."""
    with session_scope() as session:
        edits.delete_permanently(session, edit_id)


@router.post("/{edit_id}/restore")
def restore_edit(edit_id: uuid.UUID) -> EditOut:
    """Restore a deleted edit."""
    with session_scope() as session:
        return EditOut.of(edit_state(edits.restore_edit(session, edit_id)))


@router.post("/{edit_id}/duplicate", status_code=201)
def duplicate_edit(edit_id: uuid.UUID) -> EditOut:
    """Create another edit with the same clips and transitions."""
    with session_scope() as session:
        copy = edits.duplicate_edit(session, edits.edit_by_id(session, edit_id))
        session.refresh(copy)
        return EditOut.of(edit_state(copy))
