"""The beats of an edit, and its cuts laid on them."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import MovedOut
from idle_shimmer.api.edits.edit_changes import Seen, answered, changing, moved
from idle_shimmer.edit.beat_layout import beat_frames, cut_every, off_beat
from idle_shimmer.limits import MAX_CLIPS_IN_EDIT
from idle_shimmer.store.database import reading_scope, session_of
from idle_shimmer.store.edits import edits

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


class CutsOnBeats(BaseModel):
    """Where cuts are to lie: on every ``every``-th beat."""

    every: Annotated[int, Field(ge=1, le=64)]


class CutsToBeats(BaseModel):
    """The cuts that are to lie on the nearest beats; none are all of them."""

    cuts: Annotated[list[uuid.UUID], Field(max_length=MAX_CLIPS_IN_EDIT)] = []


class BeatsOut(BaseModel):
    """The frames of the edit that lie nearest to its beats, ascending, with one beyond either end."""

    frames: list[int]


@router.get("/beats")
def get_beat_frames(edit_id: uuid.UUID) -> BeatsOut:
    """Return where the beats of an edit lie; nowhere without a tempo."""
    with reading_scope() as session:
        edit = edits.edit_by_id(session, edit_id, whole=True)
        return BeatsOut(frames=beat_frames(session, edit))


@router.post("/cuts/to-beats")
def move_cuts_to_beats(edit_id: uuid.UUID, wanted: CutsToBeats, version: Seen = None) -> MovedOut:
    """Move cuts to their nearest beats, each a rolling trim of its clips, in one step.

    A cut whose clips have no more frames stays; ``stayed`` says why, cut by cut.
    """
    with changing(edit_id, version, "Snap cuts to beats") as edit:
        off = off_beat(session_of(edit), edit)
        chosen = wanted.cuts or list(off)
        stayed = moved(edit, [(cut, off[cut]) for cut in chosen if cut in off])
    return MovedOut(edit=answered(edit_id), stayed=stayed)


@router.post("/cuts/on-beats")
def cut_on_beats(edit_id: uuid.UUID, wanted: CutsOnBeats, version: Seen = None) -> MovedOut:
    """Trim clips so that the cuts lie on every ``every``-th beat, in one step.

    ``stayed`` says which cuts do not, as their clips are too short.
    """
    label = f"Cut every {wanted.every} beats" if wanted.every > 1 else "Cut every beat"
    with changing(edit_id, version, label) as edit:
        stayed = cut_every(session_of(edit), edit, wanted.every)
    return MovedOut(edit=answered(edit_id), stayed=stayed)
