"""The placed clips of an edit: add, trim, reframe, move, split, remove."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, answered, changing
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.sound.accent import HIGHEST_GAIN_DB, LOWEST_GAIN_DB
from idle_shimmer.core.sound.crossfade import MAX_CROSSFADE_FRAMES
from idle_shimmer.store.clips import clips
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits import edit_history, edits, placed_clips
from idle_shimmer.store.tables import PlacedClip

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


class AddedClip(BaseModel):
    """A clip to place at the end."""

    clip: uuid.UUID


class PlacedChange(BaseModel):
    """Changes of a placed clip; frames count the clip at the edit's rate.

    ``crossfade`` is how many frames its sound crossfades with the next clip's.
    """

    in_frame: Annotated[int | None, Field(ge=0)] = None
    out_frame: Annotated[int | None, Field(ge=1)] = None
    position: Annotated[int | None, Field(ge=0)] = None
    framing: Framing | None = None
    muted: bool | None = None
    gain_db: Annotated[
        float | None, Field(ge=LOWEST_GAIN_DB, le=HIGHEST_GAIN_DB, allow_inf_nan=False)
    ] = None
    crossfade: Annotated[int | None, Field(ge=0, le=MAX_CROSSFADE_FRAMES)] = None
    deinterlaced: bool | None = None


class SplitAt(BaseModel):
    """The frame of the clip with which the second part begins."""

    at_frame: int


@router.post("/clips")
def add_clip(edit_id: uuid.UUID, added: AddedClip, version: Seen = None) -> EditOut:
    """Place a clip at the end of an edit."""
    with changing(edit_id, version, "Add clip") as edit:
        session = session_of(edit)
        edits.add_clip(session, edit, clips.clip_by_id(session, added.clip))
    return answered(edit_id)


@router.patch("/placed/{placed_id}")
def change_placed(
    edit_id: uuid.UUID, placed_id: uuid.UUID, change: PlacedChange, version: Seen = None
) -> EditOut:
    """Trim, reframe, mute or move a placed clip."""
    with changing(edit_id, version, "Change clip") as edit:
        session, placed = session_of(edit), placed_clips.placed_by_id(edit, placed_id)
        edit_history.rename_latest(session, edit, _step_name(change, placed))
        if change.muted is not None:
            placed.muted = change.muted
        if change.gain_db is not None:
            placed.gain_db = change.gain_db
        if change.crossfade is not None:
            placed.crossfade = change.crossfade
        if change.deinterlaced is not None:
            placed.deinterlaced = change.deinterlaced
        if {"muted", "gain_db", "crossfade", "deinterlaced"} & change.model_fields_set:
            edits.touch(session, edit)
        if change.in_frame is not None or change.out_frame is not None:
            first = placed.in_frame if change.in_frame is None else change.in_frame
            end = placed.out_frame if change.out_frame is None else change.out_frame
            placed_clips.trim(session, edit, placed, first, end)
        if change.framing is not None:
            placed_clips.frame(session, edit, placed, change.framing)
        if change.position is not None:
            placed_clips.move(session, edit, placed, change.position)
    return answered(edit_id)


@router.post("/placed/{placed_id}/split")
def split_placed(
    edit_id: uuid.UUID, placed_id: uuid.UUID, where: SplitAt, version: Seen = None
) -> EditOut:
    """Split a placed clip at a frame, which makes a cut inside one shot."""
    with changing(edit_id, version, "Split clip") as edit:
        placed = placed_clips.placed_by_id(edit, placed_id)
        placed_clips.split(session_of(edit), edit, placed, where.at_frame)
    return answered(edit_id)


@router.delete("/placed/{placed_id}")
def remove_placed(edit_id: uuid.UUID, placed_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Remove a placed clip from the edit."""
    with changing(edit_id, version, "Remove clip") as edit:
        placed_clips.remove(session_of(edit), edit, placed_clips.placed_by_id(edit, placed_id))
    return answered(edit_id)


def _step_name(change: PlacedChange, placed: PlacedClip) -> str:
    if change.position is not None:
        return f"Move {placed.clip.name}"
    if change.framing is not None:
        return f"Reframe {placed.clip.name}"
    if change.muted is not None:
        return f"{'Mute' if change.muted else 'Unmute'} {placed.clip.name}"
    if change.gain_db is not None:
        return f"Level of {placed.clip.name}"
    if change.deinterlaced is not None:
        return f"{'Deinterlace' if change.deinterlaced else 'Fields together:'} {placed.clip.name}"
    if change.crossfade is not None:
        return f"Crossfade after {placed.clip.name}"
    return f"Trim {placed.clip.name}"
