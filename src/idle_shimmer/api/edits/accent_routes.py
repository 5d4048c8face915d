"""An accent inside one shot: the clip is split where it lies, and the recipe set on the cut that this makes."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, answered, changing
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.placed import at_rate
from idle_shimmer.core.recipe import Recipe, SuggestedWindow
from idle_shimmer.limits import MAX_FRAME
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits import placed_clips
from idle_shimmer.store.edits.windows import room_of, windows_on
from idle_shimmer.store.tables import Edit, PlacedClip

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


class AddedAccent(BaseModel):
    """A recipe with its window, and the frame of a placed clip before which it has its cut."""

    placed: uuid.UUID
    at_frame: Annotated[int, Field(ge=0, le=MAX_FRAME)]
    recipe: Recipe
    window: SuggestedWindow


@router.post("/accents")
def add_accent(edit_id: uuid.UUID, wanted: AddedAccent, version: Seen = None) -> EditOut:
    """Put a recipe inside one shot, in one step; without it the film shows the shot as before."""
    with changing(edit_id, version, f"Add {wanted.recipe.name}") as edit:
        session, rate = session_of(edit), parse_rate(edit.rate)
        placed = placed_clips.placed_by_id(edit, wanted.placed)
        _require_free(edit, placed, wanted.at_frame)
        placed_clips.split(session, edit, placed, wanted.at_frame)
        cut = placed.cut
        assert cut is not None
        suggested, room = wanted.window.at_rate(rate), room_of(cut)
        window = Window(min(suggested.before, room.before), min(suggested.after, room.after))
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
