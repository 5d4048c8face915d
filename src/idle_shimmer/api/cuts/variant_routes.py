"""The states of a cut besides the current one: its history, and its pinned variants."""

import uuid
from datetime import datetime
from typing import Any

from fastapi import APIRouter, Response
from pydantic import BaseModel

from idle_shimmer.api.cuts.cut_answers import CutOut
from idle_shimmer.api.server.downloads import json_file
from idle_shimmer.api.server.fields import SeenVersion
from idle_shimmer.core.recipe import recipe_to_json
from idle_shimmer.edit.states import cut_state
from idle_shimmer.store.cuts import cuts, variants
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits
from idle_shimmer.store.tables import CutVariant

router = APIRouter(prefix="/api/cuts", tags=["cuts"])


class StepOut(BaseModel):
    """One step of a cut's history: what the editor did to reach it, and who did it."""

    number: int
    label: str
    author: str | None
    created_at: datetime


class HistoryOut(BaseModel):
    """Every step, oldest first; those after ``current`` were undone."""

    current: int
    steps: list[StepOut]


class VariantOut(BaseModel):
    """A pinned variant; ``recipe`` has every field written out.

    ``problem`` is why the stored recipe cannot be read; ``recipe`` is then a hard cut.
    """

    id: uuid.UUID
    name: str
    before: int
    after: int
    recipe: dict[str, Any]
    problem: str | None = None

    @classmethod
    def of(cls, variant: CutVariant) -> "VariantOut":
        """Return the answer for a row."""
        found = cuts.read_document(variant)
        document = found if isinstance(found, CutDocument) else CutDocument()
        return cls(
            id=variant.id,
            name=variant.name,
            before=document.before,
            after=document.after,
            recipe=recipe_to_json(document.recipe),
            problem=None if isinstance(found, CutDocument) else found.reason,
        )


@router.get("/{cut_id}/history")
def get_history(cut_id: uuid.UUID) -> HistoryOut:
    """Return the history of a cut."""
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        found = cuts.history(session, cut)
        steps = [StepOut.model_validate(each, from_attributes=True) for each in found]
        return HistoryOut(current=cut.current, steps=steps)


@router.post("/{cut_id}/history/{number}")
def go_to_step(cut_id: uuid.UUID, number: int, seen: SeenVersion) -> CutOut:
    """Return to a step of the history, earlier or later."""
    with session_scope() as session:
        cut = edits.cut_for_change(session, cut_id)
        cuts.go_to(session, cut, seen.version, number)
        edits.touch(session, cut.outgoing.edit)
        return CutOut.from_state(cut_state(cut))


@router.get("/{cut_id}/variants")
def get_variants(cut_id: uuid.UUID) -> list[VariantOut]:
    """Return the pinned variants, oldest first."""
    with session_scope() as session:
        return [VariantOut.of(each) for each in cuts.cut_by_id(session, cut_id).variants]


@router.post("/{cut_id}/variants", status_code=201)
def pin_variant(cut_id: uuid.UUID, document: CutDocument) -> VariantOut:
    """Pin a state of the cut, which need not be the current one."""
    with session_scope() as session:
        cut = edits.cut_for_change(session, cut_id)
        return VariantOut.of(variants.pin(session, cut, document))


@router.get("/{cut_id}/variants/{variant_id}/document", response_class=Response)
def variant_document(cut_id: uuid.UUID, variant_id: uuid.UUID) -> Response:
    """Return a variant as it is stored, also where it cannot be read."""
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        document = variants.variant_of(cut, variant_id).document
    return json_file(document, "variant.json")


@router.delete("/{cut_id}/variants/{variant_id}", status_code=204)
def unpin_variant(cut_id: uuid.UUID, variant_id: uuid.UUID) -> None:
    """Unpin a variant."""
    with session_scope() as session:
        variants.unpin(session, edits.cut_for_change(session, cut_id), variant_id)
