"""The undo history of an edit: each step keeps what the clips and cuts were before it.

Documents are kept as they are stored, so that one that cannot be read is restored unchanged.
"""

import uuid
from typing import Any

from pydantic import BaseModel
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from idle_shimmer.store.cuts import current_revision, cut_from_raw
from idle_shimmer.store.edits import touch
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import Cut, Edit, EditHistoryStep, PlacedClip

MAX_STEPS = 50


class _Placed(BaseModel):
    """A placed clip, and the cut after it."""

    id: uuid.UUID
    clip_id: uuid.UUID
    in_frame: int
    out_frame: int
    muted: bool
    framing: dict[str, Any]
    cut_id: uuid.UUID | None = None
    cut: Any = None


class _Placement(BaseModel):
    placed: list[_Placed]


def record(session: Session, edit: Edit, label: str) -> None:
    """Keep the edit as it is now, before a change called ``label``."""
    now = _Placement(placed=[_recorded(each) for each in edit.placed])
    before: dict[str, Any] = now.model_dump(mode="json")
    session.add(EditHistoryStep(edit_id=edit.id, label=label, before=before))
    session.flush()
    steps = select(EditHistoryStep.id).where(EditHistoryStep.edit_id == edit.id)
    outdated = steps.order_by(EditHistoryStep.id.desc()).offset(MAX_STEPS)
    session.execute(delete(EditHistoryStep).where(EditHistoryStep.id.in_(outdated)))


def latest(session: Session, edit_id: uuid.UUID) -> EditHistoryStep | None:
    """Return the step that ``undo`` would undo."""
    steps = select(EditHistoryStep).where(EditHistoryStep.edit_id == edit_id)
    return session.scalar(steps.order_by(EditHistoryStep.id.desc()).limit(1))


def undo(session: Session, edit: Edit) -> None:
    """Undo the last step. Raises NotFound where there is none."""
    step = latest(session, edit.id)
    if step is None:
        raise NotFound("there is nothing to undo", field="edit")
    _restore(session, edit, _Placement.model_validate(step.before))
    session.delete(step)
    touch(session, edit)


def _recorded(placed: PlacedClip) -> _Placed:
    return _Placed(
        id=placed.id,
        clip_id=placed.clip_id,
        in_frame=placed.in_frame,
        out_frame=placed.out_frame,
        muted=placed.muted,
        framing=placed.framing,
        cut_id=placed.cut.id if placed.cut else None,
        cut=current_revision(placed.cut).document if placed.cut else None,
    )


def _restore(session: Session, edit: Edit, before: _Placement) -> None:
    """Restore the clips; cuts that still exist keep their history, others are created anew."""
    existing = {each.id: each for each in edit.placed}
    cuts = {each.cut.id: each.cut for each in edit.placed if each.cut is not None}
    for each in edit.placed:
        each.cut = None
    order = []
    for position, recorded in enumerate(before.placed):
        placed = existing.get(recorded.id) or PlacedClip(id=recorded.id, clip_id=recorded.clip_id)
        placed.position = position
        placed.in_frame, placed.out_frame = recorded.in_frame, recorded.out_frame
        placed.muted = recorded.muted
        placed.framing = recorded.framing
        placed.cut = _cut(recorded, cuts)
        order.append(placed)
    edit.placed[:] = order
    session.flush()


def _cut(recorded: _Placed, existing: dict[uuid.UUID, Cut]) -> Cut | None:
    if recorded.cut_id is None:
        return None
    if recorded.cut_id in existing:
        return existing[recorded.cut_id]
    cut = cut_from_raw(recorded.cut)
    cut.id = recorded.cut_id
    return cut
