"""Accents within a shot: a placed clip is split, and the new cut gets the recipe."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, answered, changing
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.placed import at_rate
from idle_shimmer.core.recipe import Recipe, SuggestedWindow
from idle_shimmer.limits import MAX_FRAME
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits import placed_clips
from idle_shimmer.store.edits.windows import window_in_room, windows_on
from idle_shimmer.store.tables import Edit, PlacedClip

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


class AddedAccent(BaseModel):
    """A recipe with its window, and the frame of a placed clip at which the new cut lies."""

    placed: uuid.UUID
    at_frame: Annotated[int, Field(ge=0, le=MAX_FRAME)]
    recipe: Recipe
    window: SuggestedWindow


@router.post("/accents")
def add_accent(edit_id: uuid.UUID, wanted: AddedAccent, version: Seen = None) -> EditOut:
    """Split a placed clip and apply a recipe to the new cut, as one step of the history."""
    with changing(edit_id, version, f"Add {wanted.recipe.name}") as edit:
        session, rate = session_of(edit), parse_rate(edit.rate)
        placed = placed_clips.placed_by_id(edit, wanted.placed)
        _require_free(edit, placed, wanted.at_frame)
        placed_clips.split(session, edit, placed, wanted.at_frame)
        cut = placed.cut
        assert cut is not None
        window = window_in_room(cut, wanted.window.at_rate(rate))
        cuts.prepare_save(session, [(cut, cut.version)])
        changed = CutDocument(
            before=window.before, after=window.after, recipe=at_rate(wanted.recipe, rate)
        )
        cuts.save(cut, changed, f"Add {wanted.recipe.name}")
    return answered(edit_id)


def _require_free(edit: Edit, placed: PlacedClip, at_frame: int) -> None:
    """Raise InvalidValue where the frame lies in the window of a transition."""
    ahead, behind = windows_on(edit, placed)
    first, last = placed.in_frame + ahead + 1, placed.out_frame - behind - 1
    if not first <= at_frame <= last:
        free = f"choose one from {first} to {last}" if first <= last else "there is none free"
        raise InvalidValue(
            f"frame {at_frame} of {placed.clip.name} lies in the window of a transition: {free}",
            field="at_frame",
        )
