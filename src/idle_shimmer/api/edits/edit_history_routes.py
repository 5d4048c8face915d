"""The history of an edit: its steps, undone, redone, and returned to."""

import uuid
from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, answered
from idle_shimmer.store.database import reading_scope, session_scope
from idle_shimmer.store.edits import edit_history, edits, history_steps

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


class EditStepOut(BaseModel):
    """One step of an edit's history: what was done, by whom, and when it is known."""

    number: int
    label: str
    author: str | None
    created_at: datetime | None


class EditHistoryOut(BaseModel):
    """The steps that are kept, oldest first; those after ``current`` were undone.

    ``current`` is 0 where all of them were.
    """

    current: int
    steps: list[EditStepOut]


@router.get("/history")
def get_edit_history(edit_id: uuid.UUID) -> EditHistoryOut:
    """Return the history of an edit."""
    with reading_scope() as session:
        edits.edit_by_id(session, edit_id)
        found = history_steps.steps(session, edit_id)
        steps = [EditStepOut.model_validate(each, from_attributes=True) for each in found]
    done = [each.number for each in found if not each.undone]
    return EditHistoryOut(current=done[-1] if done else 0, steps=steps)


@router.post("/history/{number}")
def go_to_edit_step(edit_id: uuid.UUID, number: int, version: Seen = None) -> EditOut:
    """Return to the edit as it was after a step, earlier or later; 0 is before all of them."""
    with session_scope() as session:
        history_steps.go_to(session, edits.edit_for_change(session, edit_id, version), number)
    return answered(edit_id)


@router.post("/undo")
def undo_edit_step(edit_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Undo the last step of the edit."""
    with session_scope() as session:
        edit_history.undo(session, edits.edit_for_change(session, edit_id, version))
    return answered(edit_id)


@router.post("/redo")
def redo_edit_step(edit_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Redo the step that was undone last."""
    with session_scope() as session:
        edit_history.redo(session, edits.edit_for_change(session, edit_id, version))
    return answered(edit_id)
