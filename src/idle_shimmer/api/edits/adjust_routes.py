"""The dials over several cuts of an edit: strength, duration, snap, shutter, flips and turns in one step."""

import uuid
from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.edits.edit_changes import Seen, SeenCuts, answered, prepared
from idle_shimmer.core.adjust import Adjustments, staying_upright
from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window, divided
from idle_shimmer.core.recipe import MAX_SHUTTER_DEG
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edit_history, edits
from idle_shimmer.store.edits.windows import window_in_room
from idle_shimmer.store.tables import Cut, Edit

router = APIRouter(prefix="/api/edits/{edit_id}", tags=["edits"])


class CutAdjustments(SeenCuts, Adjustments):
    """Adjustments of several cuts; ``duration`` is that of each window, in frames, divided as it was.

    ``hold_frames`` says whether end frames stand for spare frames that are missing.

    With ``every_second`` only the second, fourth, … of them change. With ``again`` this takes the place of
    the last step of the history, which the same dial made: it is undone first.
    """

    duration: Annotated[int | None, Field(ge=2, le=2 * MAX_SIDE_FRAMES)] = None
    shutter: Annotated[float | None, Field(ge=0, le=MAX_SHUTTER_DEG)] = None
    hold_frames: bool | None = None
    every_second: bool = False
    again: bool = False

    @property
    def label(self) -> str:
        """What is done, for the history."""
        parts = {
            f"Strength {self.strength:.0%}".replace("%", " %"): self.strength != 1,
            f"Snap {self.snap or 0:.0%}".replace("%", " %"): self.snap is not None,
            f"Duration {self.duration} frames": self.duration is not None,
            f"Shutter {self.shutter or 0:g}°": self.shutter is not None,
            "Hold end frames": self.hold_frames is True,
            "Hold no frames": self.hold_frames is False,
            f"Flip {self.flip}ly": self.flip is not None,
            f"Turn {self.turn}°": bool(self.turn),
        }
        done = ", ".join(part for part, is_asked in parts.items() if is_asked) or "Adjust"
        return f"{done}: {self.count} cut{'' if self.count == 1 else 's'}"

    @property
    def count(self) -> int:
        """How many cuts change."""
        return len(self.cuts) // 2 if self.every_second else len(self.cuts)


class AdjustedCutsOut(BaseModel):
    """The edit, and what could not be done as it was asked, in sentences."""

    edit: EditOut
    notes: list[str]


@router.post("/adjust")
def adjust_cuts(
    edit_id: uuid.UUID, wanted: CutAdjustments, version: Seen = None
) -> AdjustedCutsOut:
    """Adjust the recipes and windows of several cuts, in one step of the history."""
    with session_scope() as session:
        edit = edits.edit_for_change(session, edit_id, version)
        chosen = prepared(edit, wanted.cuts)
        if wanted.again:
            edit_history.undo(session, edit)
            # What is undone now is dropped as well.
            cuts.prepare_save(session, [(cut, cut.version) for cut in chosen])
        with edit_history.recorded(session, edit, wanted.label):
            notes = _adjust(edit, chosen[1::2] if wanted.every_second else chosen, wanted)
        edits.touch(session, edit)
    return AdjustedCutsOut(edit=answered(edit_id), notes=notes)


def _adjust(edit: Edit, chosen: Sequence[Cut], wanted: CutAdjustments) -> list[str]:
    """Adjust cuts that are prepared to be saved; return what could not be done."""
    notes: list[str] = []
    order = {cut.id: n for n, cut in enumerate(edits.cuts_of(edit), 1)}
    for cut in chosen:
        now = cuts.document_of(cut)
        changed = _adjusted(cut, now, wanted)
        notes.extend(f"Cut {order[cut.id]}: {note}" for note in _left_out(now, changed, wanted))
        if changed != now:
            cuts.save(cut, changed, wanted.label.rpartition(":")[0])
    return notes


def _adjusted(cut: Cut, now: CutDocument, wanted: CutAdjustments) -> CutDocument:
    recipe = wanted.of(now.recipe)
    stated = {"shutter": wanted.shutter, "hold_frames": wanted.hold_frames}
    recipe = recipe.model_copy(
        update={name: value for name, value in stated.items() if value is not None}
    )
    if wanted.duration is None:
        return now.model_copy(update={"recipe": recipe})
    sides = divided(wanted.duration, now.before, now.after)
    window = window_in_room(cut, Window(*sides))
    return CutDocument(before=window.before, after=window.after, recipe=recipe)


def _left_out(now: CutDocument, changed: CutDocument, wanted: CutAdjustments) -> list[str]:
    notes = []
    if wanted.turn and (staying := staying_upright(now.recipe)):
        notes.append(f"{', '.join(staying)} cannot be turned and stays as it is.")
    length = changed.before + changed.after
    if wanted.duration is not None and length != wanted.duration:
        notes.append(f"the window has {length} frames, as there is no more room.")
    return notes
