"""One step of an edit's history as the requests make it: locked, compared, recorded, answered."""

import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Annotated

from fastapi import Query
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.edit.states import edit_state
from idle_shimmer.limits import MAX_CLIPS_IN_EDIT
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import reading_scope, session_of, session_scope
from idle_shimmer.store.edits import edit_history, edits, placed_clips
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Cut, Edit

# A change is refused with 409 where the edit has another version; without one it is not compared.
Seen = Annotated[int | None, Query(description="The version of the edit that the editor saw")]


class SeenCut(BaseModel):
    """A cut and the version of it that the editor saw."""

    cut: uuid.UUID
    version: int


class SeenCuts(BaseModel):
    """Several cuts, with the versions that the editor saw."""

    cuts: Annotated[list[SeenCut], Field(min_length=1, max_length=MAX_CLIPS_IN_EDIT)]


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


def prepared(edit: Edit, chosen: list[SeenCut]) -> list[Cut]:
    """Return the chosen cuts in the order of ``edit``, which is locked, prepared to be saved.

    Raises NotFound for a cut that is not in the edit, and ChangedMeanwhile.
    """
    # They were read once the edit was locked, as every change of a cut locks it first.
    versions = {seen.cut: seen.version for seen in chosen}
    found = [(cut, versions.pop(cut.id)) for cut in edits.cuts_of(edit) if cut.id in versions]
    if versions:
        unknown = next(iter(versions))
        raise NotFound(f"cut {unknown} is not in this edit: load it again", field="cuts")
    cuts.prepare_save(session_of(edit), found)
    return [cut for cut, _ in found]


def moved(edit: Edit, moves: Sequence[tuple[uuid.UUID, int]]) -> list[str]:
    """Move cuts of ``edit`` by frames, each a rolling trim; return why cuts stayed, in sentences.

    Raises InvalidValue where all of them stay.
    """
    session, stayed = session_of(edit), []
    for cut_id, by in moves:
        cut = cuts.cut_by_id(session, cut_id, for_change=True)
        try:
            placed_clips.move_cut(session, edit, cut, by)
        except InvalidValue as error:
            stayed.append(error.message)
    if stayed and len(stayed) == len(moves):
        raise InvalidValue(stayed[0], field="by")
    return stayed
