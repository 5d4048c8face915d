"""Cuts: the transition of each, saved, undone, redone, downloaded as stored."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field

from idle_shimmer.api.cuts.cut_answers import CutOut
from idle_shimmer.api.server.downloads import json_file
from idle_shimmer.api.server.fields import SeenVersion
from idle_shimmer.edit.states import cut_state
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import reading_scope, session_scope
from idle_shimmer.store.edits import edit_history, edits
from idle_shimmer.store.edits.windows import room_now

router = APIRouter(prefix="/api/cuts", tags=["cuts"])


class CutSave(CutDocument):
    """A change to a cut. ``version`` is the one that the editor saw; ``label`` says what was done."""

    version: int
    label: Annotated[str, Field(max_length=300)] = "Change"


@router.get("/{cut_id}")
def get_cut(cut_id: uuid.UUID) -> CutOut:
    """Return one cut, with its transition."""
    with reading_scope() as session:
        return CutOut.from_state(cut_state(cuts.cut_by_id(session, cut_id)))


@router.put("/{cut_id}")
def save_cut(cut_id: uuid.UUID, change: CutSave) -> CutOut:
    """Save a transition. Refused with 409 where another save came in between."""
    document = CutDocument(before=change.before, after=change.after, recipe=change.recipe)
    with session_scope() as session:
        cut = edits.cut_for_change(session, cut_id)
        cuts.prepare_save(session, [(cut, change.version)])
        room_now(session, cut).require(change.before, change.after)
        cuts.save(cut, document, change.label)
        edits.touch(session, cut.outgoing.edit)
        return CutOut.from_state(cut_state(cut))


@router.get("/{cut_id}/document", response_class=Response)
def cut_document(cut_id: uuid.UUID) -> Response:
    """Return the current window and recipe as they are stored, also where they cannot be read."""
    with session_scope() as session:
        document = cuts.current_revision(cuts.cut_by_id(session, cut_id)).document
    return json_file(document, "cut.json")


@router.post("/{cut_id}/undo")
def undo(cut_id: uuid.UUID, seen: SeenVersion) -> CutOut:
    """Undo the last change."""
    return _step(cut_id, seen.version, -1)


@router.post("/{cut_id}/redo")
def redo(cut_id: uuid.UUID, seen: SeenVersion) -> CutOut:
    """Redo the change that was undone last."""
    return _step(cut_id, seen.version, 1)


def _step(cut_id: uuid.UUID, version: int, by: int) -> CutOut:
    with session_scope() as session:
        cut = edits.cut_for_change(session, cut_id)
        about = edit_history.labels_about(session, cut)
        if (about.undo if by < 0 else about.redo) is None:
            cuts.step(session, cut, version, by)
            edits.touch(session, cut.outgoing.edit)
            return CutOut.from_state(cut_state(cut))
        # The frames that meet at the cut were stepped last.
        cuts.require_seen(cut, version)
        edit = edits.edit_for_change(session, cut.outgoing.edit_id)
        (edit_history.undo if by < 0 else edit_history.redo)(session, edit)
        session.flush()
        return CutOut.from_state(cut_state(cuts.cut_by_id(session, cut_id)))
