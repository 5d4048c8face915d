"""The steps of an edit's history as a list, and the way to any of them."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from idle_shimmer.store.edits import edit_history
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Edit, EditHistoryStep


@dataclass(frozen=True)
class Step:
    """A step that is kept; ``created_at`` is unknown for steps of an earlier release."""

    number: int
    label: str
    author: str | None
    created_at: datetime | None
    undone: bool


def steps(session: Session, edit_id: uuid.UUID) -> list[Step]:
    """Return the steps of an edit, oldest first."""
    kept = EditHistoryStep
    query = select(kept.id, kept.label, kept.author, kept.created_at, kept.undone)
    rows = session.execute(query.where(kept.edit_id == edit_id).order_by(kept.id))
    return [Step(*row) for row in rows]


def go_to(session: Session, edit: Edit, number: int) -> None:
    """Undo or redo up to the edit after step ``number``; 0 is before all of them. Raises NotFound."""
    known = steps(session, edit.id)
    if number and all(each.number != number for each in known):
        raise NotFound(f"there is no step {number}: load the history again", field="number")
    for _ in (each for each in known if each.number > number and not each.undone):
        edit_history.undo(session, edit)
    for _ in (each for each in known if each.number <= number and each.undone):
        edit_history.redo(session, edit)
