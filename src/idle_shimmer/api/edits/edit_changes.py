"""One step of an edit's history as the requests make it: locked, compared, recorded, answered."""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated

from fastapi import Query

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.edit.states import edit_state
from idle_shimmer.store.database import reading_scope, session_scope
from idle_shimmer.store.edits import edit_history, edits
from idle_shimmer.store.tables import Edit

# A change is refused with 409 where the edit has another version; without one it is not compared.
Seen = Annotated[int | None, Query(description="The version of the edit that the editor saw")]


@contextmanager
def changing(
    edit_id: uuid.UUID, seen_version: int | None, label: str, cut_id: uuid.UUID | None = None
) -> Iterator[Edit]:
    """Return the edit, locked, to be changed inside as one step of its history, about one cut if it is."""
    with session_scope() as session:
        edit = edits.edit_for_change(session, edit_id, seen_version)
        with edit_history.recorded(session, edit, label, cut_id):
            yield edit
        edits.touch(session, edit)


def answered(edit_id: uuid.UUID) -> EditOut:
    """Return the answer for an edit as it is stored. Raises NotFound."""
    with reading_scope() as session:
        return EditOut.of(edit_state(edits.edit_by_id(session, edit_id)))
