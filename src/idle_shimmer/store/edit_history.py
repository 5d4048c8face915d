"""The way back from arranging: each step keeps what the run was before it."""

import uuid
from typing import Any

from pydantic import BaseModel
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from idle_shimmer.core.framing import Framing
from idle_shimmer.store.cuts import CutDocument, document_of, new_cut
from idle_shimmer.store.edits import touch
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import ArrangingStep, Cut, Edit, PlacedClip

MOST_STEPS = 50


class _Placed(BaseModel):
    """A placed clip, and the cut after it."""

    id: uuid.UUID
    clip_id: uuid.UUID
    in_frame: int
    out_frame: int
    muted: bool
    framing: Framing
    cut_id: uuid.UUID | None = None
    cut: CutDocument | None = None


class _Run(BaseModel):
    placed: list[_Placed]


def note(session: Session, edit: Edit, label: str) -> None:
    """Keep the run as it is now, ahead of a change called ``label``."""
    run = _Run(placed=[_kept(each) for each in edit.placed])
    before: dict[str, Any] = run.model_dump(mode="json", by_alias=True, exclude_none=True)
    session.add(ArrangingStep(edit_id=edit.id, label=label, before=before))
    session.flush()
    old = select(ArrangingStep.id).where(ArrangingStep.edit_id == edit.id)
    outdated = old.order_by(ArrangingStep.id.desc()).offset(MOST_STEPS)
    session.execute(delete(ArrangingStep).where(ArrangingStep.id.in_(outdated)))


def latest(session: Session, edit_id: uuid.UUID) -> ArrangingStep | None:
    """The step that ``undo`` would take back."""
    steps = select(ArrangingStep).where(ArrangingStep.edit_id == edit_id)
    return session.scalar(steps.order_by(ArrangingStep.id.desc()).limit(1))


def undo(session: Session, edit: Edit) -> None:
    """Take the last step of arranging back. Raises NotFound where there is none."""
    step = latest(session, edit.id)
    if step is None:
        raise NotFound("there is no step of arranging to undo", field="edit")
    _restore(session, edit, _Run.model_validate(step.before))
    session.delete(step)
    touch(session, edit)


def _kept(placed: PlacedClip) -> _Placed:
    return _Placed(
        id=placed.id,
        clip_id=placed.clip_id,
        in_frame=placed.in_frame,
        out_frame=placed.out_frame,
        muted=placed.muted,
        framing=Framing.model_validate(placed.framing),
        cut_id=placed.cut.id if placed.cut else None,
        cut=document_of(placed.cut) if placed.cut else None,
    )


def _restore(session: Session, edit: Edit, run: _Run) -> None:
    """The run again: clips and cuts that are still there keep their history, others come anew."""
    there = {each.id: each for each in edit.placed}
    cuts = {each.cut.id: each.cut for each in edit.placed if each.cut is not None}
    for each in edit.placed:
        each.cut = None
    order = []
    for position, kept in enumerate(run.placed):
        placed = there.get(kept.id) or PlacedClip(id=kept.id, clip_id=kept.clip_id)
        placed.position = position
        placed.in_frame, placed.out_frame = kept.in_frame, kept.out_frame
        placed.muted = kept.muted
        placed.framing = kept.framing.model_dump(mode="json", exclude_defaults=True)
        placed.cut = _cut(kept, cuts)
        order.append(placed)
    edit.placed[:] = order
    session.flush()


def _cut(kept: _Placed, there: dict[uuid.UUID, Cut]) -> Cut | None:
    if kept.cut_id is None:
        return None
    if kept.cut_id in there:
        return there[kept.cut_id]
    cut = new_cut(kept.cut)
    cut.id = kept.cut_id
    return cut
