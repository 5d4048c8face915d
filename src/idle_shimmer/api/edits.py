"""Edits: make, list, name, extend, delete."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.schemas import CutOut, EditOut
from idle_shimmer.core.adjust import flipped
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.recipe import Recipe, SuggestedWindow
from idle_shimmer.store import clips, cuts, edit_history, edits, placed_clips
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import Edit, PlacedClip

router = APIRouter(prefix="/api/edits", tags=["edits"], responses=REFUSALS)
Name = Annotated[str, Field(min_length=1, max_length=200, pattern=r"\S")]


Side = Annotated[int, Field(ge=16, le=16384)]


class FrameSize(BaseModel):
    """A frame size in pixels."""

    width: Side
    height: Side


class NewEdit(BaseModel):
    """A new edit of clips in order; without ``size`` or ``rate``, at those of the first."""

    name: Name
    clips: Annotated[list[uuid.UUID], Field(min_length=1, max_length=1000)]
    size: FrameSize | None = None
    rate: str | None = None


class EditChange(BaseModel):
    """What to change of an edit; ``beats_per_minute`` 0 takes its beats away."""

    name: Name | None = None
    beats_per_minute: Annotated[float | None, Field(ge=0, le=400, allow_inf_nan=False)] = None
    beat_offset_s: Annotated[float | None, Field(ge=-60, le=60, allow_inf_nan=False)] = None


class AddedClip(BaseModel):
    """A clip to place at the end."""

    clip: uuid.UUID


class PlacedChange(BaseModel):
    """What to change of a placed clip; frames count the clip at the edit's rate."""

    in_frame: Annotated[int | None, Field(ge=0)] = None
    out_frame: Annotated[int | None, Field(ge=1)] = None
    position: Annotated[int | None, Field(ge=0)] = None
    framing: Framing | None = None
    muted: bool | None = None


class SplitAt(BaseModel):
    """The frame of the clip with which the second part begins."""

    at_frame: int


class SeenCut(BaseModel):
    """A cut and the version of it that the editor saw."""

    cut: uuid.UUID
    version: int


class SeenCuts(BaseModel):
    """Several cuts as the editor saw them."""

    cuts: Annotated[list[SeenCut], Field(min_length=1, max_length=1000)]


class Applied(SeenCuts):
    """A recipe for several cuts; ``window`` None keeps each cut's own."""

    recipe: Recipe
    window: SuggestedWindow | None = None
    flip_alternate: Axis | None = None


@router.get("")
def list_edits() -> list[EditOut]:
    """Every edit, last changed first."""
    with session_scope() as session:
        return [EditOut.of(edit) for edit in edits.all_edits(session)]


@router.post("", status_code=201)
def create_edit(new: NewEdit) -> EditOut:
    """Make an edit."""
    with session_scope() as session:
        chosen = [clips.clip_by_id(session, one) for one in new.clips]
        edit = edits.create_edit(
            session,
            new.name.strip(),
            chosen,
            (new.size.width, new.size.height) if new.size is not None else None,
            parse_rate(new.rate) if new.rate is not None else None,
        )
        session.refresh(edit)
        return EditOut.of(edit)


@router.get("/{edit_id}")
def get_edit(edit_id: uuid.UUID) -> EditOut:
    """One edit."""
    with session_scope() as session:
        return EditOut.of(edits.edit_by_id(session, edit_id))


@router.patch("/{edit_id}")
def change_edit(edit_id: uuid.UUID, change: EditChange) -> EditOut:
    """Name an edit anew, or set the beats of its music."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        if change.name is not None:
            edit.name = change.name.strip()
        if change.beats_per_minute is not None:
            edit.beats_per_minute = change.beats_per_minute or None
        if change.beat_offset_s is not None:
            edit.beat_offset_s = change.beat_offset_s
        edits.touch(session, edit)
        return EditOut.of(edit)


@router.post("/{edit_id}/clips")
def add_clip(edit_id: uuid.UUID, added: AddedClip) -> EditOut:
    """Place a clip at the end of an edit."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        edit_history.note(session, edit, "add a clip")
        edits.add_clip(session, edit, clips.clip_by_id(session, added.clip))
        return EditOut.of(edit)


@router.patch("/{edit_id}/placed/{placed_id}")
def change_placed(edit_id: uuid.UUID, placed_id: uuid.UUID, change: PlacedChange) -> EditOut:
    """Trim a placed clip, frame it, or move it to another place in the run."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        placed = placed_clips.placed_by_id(edit, placed_id)
        edit_history.note(session, edit, _step_name(change, placed))
        if change.muted is not None:
            placed.muted = change.muted
        if change.in_frame is not None or change.out_frame is not None:
            first = placed.in_frame if change.in_frame is None else change.in_frame
            end = placed.out_frame if change.out_frame is None else change.out_frame
            placed_clips.trim(session, edit, placed, first, end)
        if change.framing is not None:
            placed_clips.frame(session, edit, placed, change.framing)
        if change.position is not None:
            placed_clips.move(session, edit, placed, change.position)
        return EditOut.of(edit)


@router.post("/{edit_id}/placed/{placed_id}/split")
def split_placed(edit_id: uuid.UUID, placed_id: uuid.UUID, where: SplitAt) -> EditOut:
    """Split a placed clip at a frame, which makes a cut inside one shot."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        edit_history.note(session, edit, "split a clip")
        placed_clips.split(
            session, edit, placed_clips.placed_by_id(edit, placed_id), where.at_frame
        )
        return EditOut.of(edit)


@router.delete("/{edit_id}/placed/{placed_id}")
def remove_placed(edit_id: uuid.UUID, placed_id: uuid.UUID) -> EditOut:
    """Take a placed clip out of the run."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        edit_history.note(session, edit, "take a clip out")
        placed_clips.remove(session, edit, placed_clips.placed_by_id(edit, placed_id))
        return EditOut.of(edit)


@router.post("/{edit_id}/undo")
def undo_arranging(edit_id: uuid.UUID) -> EditOut:
    """Take the last step of arranging back: a trim, move, split, framing, or a clip taken out."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        edit_history.undo(session, edit)
        return EditOut.of(edit)


def _step_name(change: PlacedChange, placed: PlacedClip) -> str:
    if change.position is not None:
        return f"move {placed.clip.name}"
    if change.framing is not None:
        return f"frame {placed.clip.name}"
    if change.muted is not None:
        return f"{'mute' if change.muted else 'unmute'} {placed.clip.name}"
    return f"trim {placed.clip.name}"


@router.post("/{edit_id}/apply")
def apply_recipe(edit_id: uuid.UUID, wanted: Applied) -> EditOut:
    """Put a recipe on several cuts at once: all of them, or none where one was changed meanwhile."""
    other = flipped(wanted.recipe, wanted.flip_alternate) if wanted.flip_alternate else None
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        for place, seen in enumerate(_in_order(edit, wanted.cuts)):
            cut = cuts.cut_by_id(session, seen.cut, for_change=True)
            document = cuts.document_of(cut)
            recipe = other if other is not None and place % 2 else wanted.recipe
            window = (document.before, document.after)
            if wanted.window is not None:
                room = CutOut.from_row(cut)
                window = (
                    min(wanted.window.before, room.most_before),
                    min(wanted.window.after, room.most_after),
                )
            changed = CutDocument(before=window[0], after=window[1], recipe=recipe)
            cuts.save(session, cut, seen.version, changed, f"recipe {recipe.name}")
        edits.touch(session, edit)
        return EditOut.of(edit)


@router.post("/{edit_id}/apply/undo")
def undo_apply(edit_id: uuid.UUID, seen: SeenCuts) -> EditOut:
    """Take one change back on several cuts at once: the way back from ``apply``."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        for each in seen.cuts:
            cuts.step(cuts.cut_by_id(session, each.cut, for_change=True), each.version, -1)
        edits.touch(session, edit)
        return EditOut.of(edit)


def _in_order(edit: Edit, chosen: list[SeenCut]) -> list[SeenCut]:
    """The chosen cuts as they follow each other in the edit."""
    order = {cut.id: place for place, cut in enumerate(edits.cuts_of(edit))}
    strange = next((each for each in chosen if each.cut not in order), None)
    if strange is not None:
        raise NotFound(f"cut {strange.cut} is not in this edit: load it again", field="cuts")
    return sorted(chosen, key=lambda each: order[each.cut])


@router.delete("/{edit_id}", status_code=204, response_class=Response)
def delete_edit(edit_id: uuid.UUID) -> None:
    """Delete an edit; its clips stay, and for a week it can be brought back."""
    with session_scope() as session:
        edits.delete_edit(session, edits.edit_by_id(session, edit_id))


@router.post("/{edit_id}/restore")
def restore_edit(edit_id: uuid.UUID) -> EditOut:
    """Bring a deleted edit back as it was."""
    with session_scope() as session:
        return EditOut.of(edits.restore_edit(session, edit_id))


@router.post("/{edit_id}/duplicate", status_code=201)
def duplicate_edit(edit_id: uuid.UUID) -> EditOut:
    """Make another edit with the same clips and transitions."""
    with session_scope() as session:
        copy = edits.duplicate_edit(session, edits.edit_by_id(session, edit_id))
        session.refresh(copy)
        return EditOut.of(copy)
