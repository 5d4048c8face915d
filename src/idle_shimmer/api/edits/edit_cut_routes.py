"""The cuts of an edit changed in its history: recipes for several, windows, frames, places."""

import uuid
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut, MovedOut
from idle_shimmer.api.edits.edit_changes import Seen, SeenCuts, answered, changing, moved, prepared
from idle_shimmer.core.adjust import flip, turn
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.placed import at_rate
from idle_shimmer.core.recipe import Recipe, SideFrames, SuggestedWindow
from idle_shimmer.limits import MAX_CLIPS_IN_EDIT
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits import edit_history, edits, placed_clips
from idle_shimmer.store.edits.windows import room_of, window_in_room
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Edit

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


_Step = Annotated[int, Field(ge=-10_000, le=10_000)]


class StepAsked(BaseModel):
    """How many frames the cut frames of both clips go on; with ``slip`` each clip keeps its length."""

    outgoing: _Step = 0
    incoming: _Step = 0
    slip: bool = False

    @property
    def label(self) -> str:
        """What is done, for the history."""
        sides = (("outgoing", self.outgoing), ("incoming", self.incoming))
        said = [f"{side} clip by {by:+d}" for side, by in sides if by]
        return f"{'Slip' if self.slip else 'Step'} {' and '.join(said) or 'nothing'}"


class Applied(SeenCuts):
    """A recipe for several cuts; ``window`` None keeps each cut's own.

    Every second cut may get it flipped, or turned by degrees counter-clockwise.
    """

    recipe: Recipe
    window: SuggestedWindow | None = None
    flip_alternate: Axis | None = None
    turn_alternate: Literal[90, 180, 270] | None = None

    @property
    def alternate(self) -> Recipe:
        """The recipe for every second cut."""
        recipe = flip(self.recipe, self.flip_alternate) if self.flip_alternate else self.recipe
        return turn(recipe, self.turn_alternate // 90) if self.turn_alternate else recipe


class WindowSides(BaseModel):
    """The frames of a window ahead of the cut, and from it."""

    before: SideFrames
    after: SideFrames


class CutMove(BaseModel):
    """A cut, and how many frames later it comes; negative for earlier."""

    cut: uuid.UUID
    by: Annotated[int, Field(ge=-100_000, le=100_000)]


class CutMoves(BaseModel):
    """Cuts to move."""

    moves: Annotated[list[CutMove], Field(min_length=1, max_length=MAX_CLIPS_IN_EDIT)]


@router.post("/apply")
def apply_recipe(edit_id: uuid.UUID, wanted: Applied, version: Seen = None) -> EditOut:
    """Apply a recipe to several cuts at once: to all, or to none if one was changed meanwhile."""
    alternate = wanted.alternate
    with changing(edit_id, version, f"Apply {wanted.recipe.name}") as edit:
        rate = parse_rate(edit.rate)
        for place, cut in enumerate(prepared(edit, wanted.cuts)):
            recipe = at_rate(alternate if place % 2 else wanted.recipe, rate)
            window = cuts.window_of(cut)
            if wanted.window is not None:
                window = window_in_room(cut, wanted.window.at_rate(rate))
            changed = CutDocument(before=window.before, after=window.after, recipe=recipe)
            cuts.save(cut, changed, f"Apply {recipe.name}")
    return answered(edit_id)


@router.put("/cuts/{cut_id}/window")
def set_window(
    edit_id: uuid.UUID, cut_id: uuid.UUID, window: WindowSides, version: Seen = None
) -> EditOut:
    """Set the window of a cut; its transition stays as it is."""
    with changing(edit_id, version, "Change window") as edit:
        session = session_of(edit)
        cut = cuts.cut_by_id(session, _require_cut(edit, cut_id), for_change=True)
        was, document = cuts.window_of(cut), cuts.document_of(cut)
        cuts.prepare_save(session, [(cut, cut.version)])
        room_of(cut).require(window.before, window.after)
        label = f"Window {was.before} | {was.after} → {window.before} | {window.after}"
        edit_history.rename_latest(session, edit, label)
        changed = document.model_copy(update={"before": window.before, "after": window.after})
        cuts.save(cut, changed, label)
    return answered(edit_id)


@router.post("/cuts/{cut_id}/step")
def step_cut(
    edit_id: uuid.UUID, cut_id: uuid.UUID, wanted: StepAsked, version: Seen = None
) -> EditOut:
    """Step the frames that meet at a cut, in either clip or both; without ``slip`` lengths change."""
    with changing(edit_id, version, wanted.label, cut_id) as edit:
        session = session_of(edit)
        cut = cuts.cut_by_id(session, _require_cut(edit, cut_id), for_change=True)
        step = placed_clips.CutStep(wanted.outgoing, wanted.incoming, wanted.slip)
        placed_clips.step_cut(session, edit, cut, step)
    return answered(edit_id)


@router.post("/cuts/move")
def move_cuts(edit_id: uuid.UUID, wanted: CutMoves, version: Seen = None) -> MovedOut:
    """Move cuts, each a rolling trim of its clips, in one step.

    A cut whose clips have no more frames stays; ``stayed`` says why, cut by cut.
    """
    count = len(wanted.moves)
    label = f"Move {count} cuts" if count > 1 else f"Move cut by {wanted.moves[0].by:+d} frames"
    about = wanted.moves[0].cut if count == 1 else None
    with changing(edit_id, version, label, about) as edit:
        for move in wanted.moves:
            _require_cut(edit, move.cut)
        stayed = moved(edit, [(move.cut, move.by) for move in wanted.moves])
    return MovedOut(edit=answered(edit_id), stayed=stayed)


def _require_cut(edit: Edit, cut_id: uuid.UUID) -> uuid.UUID:
    if all(cut.id != cut_id for cut in edits.cuts_of(edit)):
        raise NotFound("this cut is no longer in the edit: load the edit again", field="cut")
    return cut_id
