"""Edits: make, list, name, extend, delete."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.shapes import EditOut
from idle_shimmer.store import clips, edits
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/edits", tags=["edits"], responses=REFUSALS)
Name = Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]


class NewEdit(BaseModel):
    """A new edit of clips in order, at the size and rate of the first."""

    name: Name
    clips: Annotated[list[uuid.UUID], Field(min_length=1, max_length=1000)]


class EditChange(BaseModel):
    """What to change of an edit."""

    name: Name


class AddedClip(BaseModel):
    """A clip to place at the end."""

    clip: uuid.UUID


@router.get("")
def list_edits() -> list[EditOut]:
    """Every edit, last changed first."""
    with session_scope() as session:
        return [EditOut.of(edit) for edit in edits.all_edits(session)]


@router.post("", status_code=201)
def create_edit(new: NewEdit) -> EditOut:
    """Make an edit."""
    with session_scope() as session:
        chosen = [clips.clip_by_id(session, one) for one in new.clips]
        edit = edits.create_edit(session, new.name.strip(), chosen)
        session.refresh(edit)
        return EditOut.of(edit)


@router.get("/{edit_id}")
def get_edit(edit_id: uuid.UUID) -> EditOut:
    """One edit."""
    with session_scope() as session:
        return EditOut.of(edits.edit_by_id(session, edit_id))


@router.patch("/{edit_id}")
def change_edit(edit_id: uuid.UUID, change: EditChange) -> EditOut:
    """Name an edit anew."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        edit.name = change.name.strip()
        edits.touch(session, edit)
        return EditOut.of(edit)


@router.post("/{edit_id}/clips")
def add_clip(edit_id: uuid.UUID, added: AddedClip) -> EditOut:
    """Place a clip at the end of an edit."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        edits.add_clip(session, edit, clips.clip_by_id(session, added.clip))
        return EditOut.of(edit)


@router.delete("/{edit_id}", status_code=204, response_class=Response)
def delete_edit(edit_id: uuid.UUID) -> None:
    """Delete an edit; its clips stay."""
    with session_scope() as session:
        session.delete(edits.edit_by_id(session, edit_id))
