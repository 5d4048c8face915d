"""Edits: create, list, rename, arrange, apply recipes, delete."""

import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from itertools import pairwise
from typing import Annotated, Literal

import structlog
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field, field_validator
from sqlalchemy.orm import Session

from idle_shimmer.api.cut_status import CutStatusOut, run_checks
from idle_shimmer.api.cuts import require_room
from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.paging import MAX_LISTED, Limit, Offset
from idle_shimmer.api.schemas import DeletedEditOut, EditOut, EditSummary
from idle_shimmer.core.adjust import flip, turn
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.recipe import Recipe, SideFrames, SuggestedWindow
from idle_shimmer.core.sound.accent import HIGHEST_GAIN_DB, LOWEST_GAIN_DB
from idle_shimmer.core.sound.crossfade import MAX_CROSSFADE_FRAMES
from idle_shimmer.limits import (
    MAX_CLIPS_IN_EDIT,
    MAX_NAME_LENGTH,
    MAX_SIDE_PX,
    MIN_SIDE_PX,
)
from idle_shimmer.store import clips, cuts, edit_history, edit_list, edits, placed_clips
from idle_shimmer.store.beat_layout import cut_every
from idle_shimmer.store.cut_rows import cut_rows
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.store.database import session_of, session_scope
from idle_shimmer.store.edit_list import EditRow
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import Edit, PlacedClip

_log = structlog.get_logger(__name__)
router = APIRouter(prefix="/api/edits", tags=["edits"], responses=REFUSALS)
Name = Annotated[str, Field(min_length=1, max_length=MAX_NAME_LENGTH, pattern=r"\S")]
# A change is refused with 409 where the edit has another version; without one it is not compared.
Seen = Annotated[int | None, Query(description="The version of the edit that the editor saw")]


Side = Annotated[int, Field(ge=MIN_SIDE_PX, le=MAX_SIDE_PX)]
# How long listing edits runs checks that have not run.
_CHECKED_FOR_S = 0.2
_UNSHOWABLE = (LookupError, ValueError, TypeError, AttributeError)


class FrameSize(BaseModel):
    """A frame size in pixels."""

    width: Side
    height: Side


class NewEdit(BaseModel):
    """A new edit of clips in order; without ``size`` or ``rate``, at those of the first."""

    name: Name
    clips: Annotated[list[uuid.UUID], Field(min_length=1, max_length=MAX_CLIPS_IN_EDIT)]
    size: FrameSize | None = None
    rate: str | None = None


MAX_BEATS = 20_000
_BeatTime = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]


class EditChange(BaseModel):
    """Changes of an edit; ``beats_per_minute`` 0 removes its beats."""

    name: Name | None = None
    beats_per_minute: Annotated[float | None, Field(ge=0, le=400, allow_inf_nan=False)] = None
    beat_offset_s: Annotated[float | None, Field(ge=-60, le=60, allow_inf_nan=False)] = None
    beat_times_s: Annotated[list[_BeatTime] | None, Field(max_length=MAX_BEATS)] = None

    @field_validator("beat_times_s")
    @classmethod
    def _ascending(cls, value: list[float] | None) -> list[float] | None:
        if value and any(one >= other for one, other in pairwise(value)):
            raise ValueError("each beat must be later than the one before it")
        return value


class AddedClip(BaseModel):
    """A clip to place at the end."""

    clip: uuid.UUID


class PlacedChange(BaseModel):
    """Changes of a placed clip; frames count the clip at the edit's rate.

    ``crossfade`` is how many frames its sound crossfades with the next clip's.
    """

    in_frame: Annotated[int | None, Field(ge=0)] = None
    out_frame: Annotated[int | None, Field(ge=1)] = None
    position: Annotated[int | None, Field(ge=0)] = None
    framing: Framing | None = None
    muted: bool | None = None
    gain_db: Annotated[
        float | None, Field(ge=LOWEST_GAIN_DB, le=HIGHEST_GAIN_DB, allow_inf_nan=False)
    ] = None
    crossfade: Annotated[int | None, Field(ge=0, le=MAX_CROSSFADE_FRAMES)] = None


class SplitAt(BaseModel):
    """The frame of the clip with which the second part begins."""

    at_frame: int


class SeenCut(BaseModel):
    """A cut and the version of it that the editor saw."""

    cut: uuid.UUID
    version: int


class SeenCuts(BaseModel):
    """Several cuts, with the versions that the editor saw."""

    cuts: Annotated[list[SeenCut], Field(min_length=1, max_length=MAX_CLIPS_IN_EDIT)]


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


class CutsOnBeats(BaseModel):
    """Where cuts are to lie: on every ``every``-th beat."""

    every: Annotated[int, Field(ge=1, le=64)]


class MovedOut(BaseModel):
    """The edit, and why cuts stayed where they are."""

    edit: EditOut
    stayed: list[str]


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


@router.get("")
def list_edits(limit: Limit = MAX_LISTED, offset: Offset = 0) -> list[EditSummary]:
    """Return edits, last changed first: ``limit`` of them after the first ``offset``."""
    end = time.monotonic() + _CHECKED_FOR_S
    with session_scope() as session:
        rows = edit_list.edit_rows(session, limit, offset)
        unknown = [row for row in rows if row.unknown and _checked(session, row.edit, end)]
        if unknown:
            session.expire_all()
            rows = edit_list.edit_rows(session, limit, offset)
        return [found for row in rows if (found := _listed(row)) is not None]


def _checked(session: Session, edit: Edit, end: float) -> bool:
    """Run checks that have not run, until the time ``end``; return whether there was time."""
    left_s = end - time.monotonic()
    if left_s <= 0:
        return False
    with suppress(*_UNSHOWABLE):
        run_checks(session, edit, cut_rows(session, edit), left_s)
    return True


def _listed(row: EditRow) -> EditSummary | None:
    """Return the answer for an edit; None, and a line in the log, for one that cannot be shown."""
    try:
        return EditSummary.of(row)
    except _UNSHOWABLE:
        _log.exception("an edit cannot be shown", edit=str(row.edit.id))
        return None


@router.get("/deleted")
def list_deleted_edits() -> list[DeletedEditOut]:
    """Return the deleted edits that can still be restored, last deleted first."""
    with session_scope() as session:
        return [DeletedEditOut.of(edit) for edit in edits.deleted_edits(session)]


@router.post("", status_code=201)
def create_edit(new: NewEdit) -> EditOut:
    """Create an edit."""
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
    """Return one edit."""
    with session_scope() as session:
        return EditOut.of(edits.edit_by_id(session, edit_id))


@router.get("/{edit_id}/checks")
def edit_checks(edit_id: uuid.UUID) -> list[CutStatusOut]:
    """Run checks that have not run since their cut changed, for a while; return what is known."""
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        rows = cut_rows(session, edit)
        known = run_checks(session, edit, rows)
        return [CutStatusOut.of(row.id, known.get(row.id)) for row in rows]


@router.patch("/{edit_id}")
def change_edit(edit_id: uuid.UUID, change: EditChange, version: Seen = None) -> EditOut:
    """Rename an edit, or set the beats of its music."""
    with changing(edit_id, version, _change_label(change)) as edit:
        if change.name is not None:
            edit.name = change.name.strip()
        if change.beats_per_minute is not None:
            edit.beats_per_minute = change.beats_per_minute or None
        if change.beat_offset_s is not None:
            edit.beat_offset_s = change.beat_offset_s
        if {"beats_per_minute", "beat_offset_s", "beat_times_s"} & change.model_fields_set:
            # A tempo that is typed or tapped takes the place of the beats that were heard.
            edit.beat_times_s = change.beat_times_s or None
    return EditOut.by_id(edit_id)


@router.post("/{edit_id}/clips")
def add_clip(edit_id: uuid.UUID, added: AddedClip, version: Seen = None) -> EditOut:
    """Place a clip at the end of an edit."""
    with changing(edit_id, version, "Add clip") as edit:
        session = session_of(edit)
        edits.add_clip(session, edit, clips.clip_by_id(session, added.clip))
    return EditOut.by_id(edit_id)


@router.patch("/{edit_id}/placed/{placed_id}")
def change_placed(
    edit_id: uuid.UUID, placed_id: uuid.UUID, change: PlacedChange, version: Seen = None
) -> EditOut:
    """Trim, reframe, mute or move a placed clip."""
    with changing(edit_id, version, "Change clip") as edit:
        session, placed = session_of(edit), placed_clips.placed_by_id(edit, placed_id)
        edit_history.rename_latest(session, edit, _step_name(change, placed))
        if change.muted is not None:
            placed.muted = change.muted
        if change.gain_db is not None:
            placed.gain_db = change.gain_db
        if change.crossfade is not None:
            placed.crossfade = change.crossfade
        if {"muted", "gain_db", "crossfade"} & change.model_fields_set:
            edits.touch(session, edit)
        if change.in_frame is not None or change.out_frame is not None:
            first = placed.in_frame if change.in_frame is None else change.in_frame
            end = placed.out_frame if change.out_frame is None else change.out_frame
            placed_clips.trim(session, edit, placed, first, end)
        if change.framing is not None:
            placed_clips.frame(session, edit, placed, change.framing)
        if change.position is not None:
            placed_clips.move(session, edit, placed, change.position)
    return EditOut.by_id(edit_id)


@router.post("/{edit_id}/placed/{placed_id}/split")
def split_placed(
    edit_id: uuid.UUID, placed_id: uuid.UUID, where: SplitAt, version: Seen = None
) -> EditOut:
    """Split a placed clip at a frame, which makes a cut inside one shot."""
    with changing(edit_id, version, "Split clip") as edit:
        placed = placed_clips.placed_by_id(edit, placed_id)
        placed_clips.split(session_of(edit), edit, placed, where.at_frame)
    return EditOut.by_id(edit_id)


@router.delete("/{edit_id}/placed/{placed_id}")
def remove_placed(edit_id: uuid.UUID, placed_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Remove a placed clip from the edit."""
    with changing(edit_id, version, "Remove clip") as edit:
        placed_clips.remove(session_of(edit), edit, placed_clips.placed_by_id(edit, placed_id))
    return EditOut.by_id(edit_id)


@router.post("/{edit_id}/undo")
def undo_edit_step(edit_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Undo the last step of the edit."""
    with session_scope() as session:
        edit_history.undo(session, edits.edit_for_change(session, edit_id, version))
    return EditOut.by_id(edit_id)


@router.post("/{edit_id}/redo")
def redo_edit_step(edit_id: uuid.UUID, version: Seen = None) -> EditOut:
    """Redo the step that was undone last."""
    with session_scope() as session:
        edit_history.redo(session, edits.edit_for_change(session, edit_id, version))
    return EditOut.by_id(edit_id)


def _change_label(change: EditChange) -> str:
    if change.name is not None:
        return f"Rename to {change.name.strip()}"
    if change.beats_per_minute is not None:
        tempo = change.beats_per_minute
        return f"Tempo {tempo:g} BPM" if tempo else "Remove beat grid"
    return "First beat"


def _step_name(change: PlacedChange, placed: PlacedClip) -> str:
    if change.position is not None:
        return f"Move {placed.clip.name}"
    if change.framing is not None:
        return f"Reframe {placed.clip.name}"
    if change.muted is not None:
        return f"{'Mute' if change.muted else 'Unmute'} {placed.clip.name}"
    if change.gain_db is not None:
        return f"Level of {placed.clip.name}"
    if change.crossfade is not None:
        return f"Crossfade after {placed.clip.name}"
    return f"Trim {placed.clip.name}"


@router.post("/{edit_id}/apply")
def apply_recipe(edit_id: uuid.UUID, wanted: Applied, version: Seen = None) -> EditOut:
    """Apply a recipe to several cuts at once: to all, or to none if one was changed meanwhile."""
    alternate = wanted.alternate
    with changing(edit_id, version, f"Apply {wanted.recipe.name}") as edit:
        session, rate = session_of(edit), parse_rate(edit.rate)
        # They were read once the edit was locked, as every change of a cut locks it first.
        known = {cut.id: cut for cut in edits.cuts_of(edit)}
        for place, seen in enumerate(_in_order(edit, wanted.cuts)):
            cut = known[seen.cut]
            recipe = alternate if place % 2 else wanted.recipe
            window = cuts.window_of(cut)
            if wanted.window is not None:
                suggested, room = wanted.window.at_rate(rate), edits.room_of(cut)
                window = Window(
                    min(suggested.before, room.before), min(suggested.after, room.after)
                )
            changed = CutDocument(before=window.before, after=window.after, recipe=recipe)
            cuts.save(session, cut, seen.version, changed, f"Apply {recipe.name}")
    return EditOut.by_id(edit_id)


@router.put("/{edit_id}/cuts/{cut_id}/window")
def set_window(
    edit_id: uuid.UUID, cut_id: uuid.UUID, window: WindowSides, version: Seen = None
) -> EditOut:
    """Set the window of a cut; its transition stays as it is."""
    with changing(edit_id, version, "Change window") as edit:
        session = session_of(edit)
        cut = cuts.cut_by_id(session, _require_cut(edit, cut_id), for_change=True)
        was, document = cuts.window_of(cut), cuts.document_of(cut)
        require_room(cut, window.before, window.after)
        label = f"Window {was.before} | {was.after} → {window.before} | {window.after}"
        edit_history.rename_latest(session, edit, label)
        changed = document.model_copy(update={"before": window.before, "after": window.after})
        cuts.save(session, cut, cut.version, changed, label)
    return EditOut.by_id(edit_id)


@router.post("/{edit_id}/cuts/{cut_id}/step")
def step_cut(
    edit_id: uuid.UUID, cut_id: uuid.UUID, wanted: StepAsked, version: Seen = None
) -> EditOut:
    """Step the frames that meet at a cut, in either clip or both; without ``slip`` lengths change."""
    with changing(edit_id, version, wanted.label, cut_id) as edit:
        session = session_of(edit)
        cut = cuts.cut_by_id(session, _require_cut(edit, cut_id), for_change=True)
        step = placed_clips.CutStep(wanted.outgoing, wanted.incoming, wanted.slip)
        placed_clips.step_cut(session, edit, cut, step)
    return EditOut.by_id(edit_id)


@router.post("/{edit_id}/cuts/on-beats")
def cut_on_beats(edit_id: uuid.UUID, wanted: CutsOnBeats, version: Seen = None) -> MovedOut:
    """Trim clips so that the cuts lie on every ``every``-th beat, in one step.

    ``stayed`` says which cuts do not, as their clips are too short.
    """
    label = f"Cut every {wanted.every} beats" if wanted.every > 1 else "Cut every beat"
    with changing(edit_id, version, label) as edit:
        stayed = cut_every(session_of(edit), edit, wanted.every)
    return MovedOut(edit=EditOut.by_id(edit_id), stayed=stayed)


@router.post("/{edit_id}/cuts/move")
def move_cuts(edit_id: uuid.UUID, wanted: CutMoves, version: Seen = None) -> MovedOut:
    """Move cuts, each a rolling trim of its clips, in one step.

    A cut whose clips have no more frames stays; ``stayed`` says why, cut by cut.
    """
    stayed: list[str] = []
    count = len(wanted.moves)
    label = f"Move {count} cuts" if count > 1 else f"Move cut by {wanted.moves[0].by:+d} frames"
    about = wanted.moves[0].cut if count == 1 else None
    with changing(edit_id, version, label, about) as edit:
        session = session_of(edit)
        for move in wanted.moves:
            cut = cuts.cut_by_id(session, _require_cut(edit, move.cut), for_change=True)
            try:
                placed_clips.move_cut(session, edit, cut, move.by)
            except InvalidValue as error:
                stayed.append(error.message)
        if len(stayed) == count:
            raise InvalidValue(stayed[0], field="by")
    return MovedOut(edit=EditOut.by_id(edit_id), stayed=stayed)


def _require_cut(edit: Edit, cut_id: uuid.UUID) -> uuid.UUID:
    if all(cut.id != cut_id for cut in edits.cuts_of(edit)):
        raise NotFound("this cut is no longer in the edit: load the edit again", field="cut")
    return cut_id


def _in_order(edit: Edit, chosen: list[SeenCut]) -> list[SeenCut]:
    """Return the chosen cuts in the order of the edit."""
    order = {cut.id: place for place, cut in enumerate(edits.cuts_of(edit))}
    unknown = next((each for each in chosen if each.cut not in order), None)
    if unknown is not None:
        raise NotFound(f"cut {unknown.cut} is not in this edit: load it again", field="cuts")
    return sorted(chosen, key=lambda each: order[each.cut])


@router.delete("/{edit_id}", status_code=204, response_class=Response)
def delete_edit(edit_id: uuid.UUID) -> None:
    """Delete an edit; its clips stay, and for a week it can be restored."""
    with session_scope() as session:
        edits.delete_edit(session, edits.edit_by_id(session, edit_id))


@router.delete("/{edit_id}/permanently", status_code=204, response_class=Response)
def delete_edit_permanently(edit_id: uuid.UUID) -> None:
    """Delete an edit that was deleted before, for good; its clips stay."""
    with session_scope() as session:
        edits.delete_permanently(session, edit_id)


@router.post("/{edit_id}/restore")
def restore_edit(edit_id: uuid.UUID) -> EditOut:
    """Restore a deleted edit."""
    with session_scope() as session:
        return EditOut.of(edits.restore_edit(session, edit_id))


@router.post("/{edit_id}/duplicate", status_code=201)
def duplicate_edit(edit_id: uuid.UUID) -> EditOut:
    """Create another edit with the same clips and transitions."""
    with session_scope() as session:
        copy = edits.duplicate_edit(session, edits.edit_by_id(session, edit_id))
        session.refresh(copy)
        return EditOut.of(copy)
