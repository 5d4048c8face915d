"""The history of an edit: each step keeps what was different before it, and can be undone and redone.

Steps go back in their order, so that what a step did not change is still as it was.

Documents are kept as they are stored, so that one that cannot be read is restored unchanged.
"""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel
from sqlalchemy import Select, delete, func, or_, select
from sqlalchemy.orm import Session

from idle_shimmer.store.cuts.cuts import current_revision, cut_from_raw, go_to_revisions
from idle_shimmer.store.cuts.left_cuts import delete_unreachable, left_cuts, put_on, take_off
from idle_shimmer.store.edits.edits import cuts_of, touch
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Cut, Edit, EditHistoryStep, PlacedClip

MAX_STEPS = 50


class _Placed(BaseModel):
    """A placed clip, and the cut after it with its document and the number of that revision."""

    id: uuid.UUID
    clip_id: uuid.UUID
    in_frame: int
    out_frame: int
    muted: bool
    gain_db: float = 0.0
    crossfade: int = 0
    deinterlaced: bool = True
    shot: list[int] | None = None
    framing: dict[str, Any]
    strokes: list[Any] = []
    cut_id: uuid.UUID | None = None
    cut: Any = None
    cut_revision: int | None = None

    def is_like(self, other: "_Placed | None") -> bool:
        """Whether both are placed alike; what the transition after them is, its own revisions keep."""
        if other is None or self._facts() != other._facts():
            return False
        # Arranging may shorten a window within its revision.
        return self.cut_revision != other.cut_revision or self._window() == other._window()

    def _facts(self) -> dict[str, Any]:
        return self.model_dump(exclude={"cut", "cut_revision", "strokes"})

    def _window(self) -> tuple[Any, ...]:
        found = self.cut if isinstance(self.cut, dict) else {}
        return found.get("before"), found.get("after")


class _Facts(BaseModel):
    """The name, the beats and the music of an edit; steps of an earlier release have no music."""

    name: str
    beats_per_minute: float | None
    beat_offset_s: float
    beat_times_s: list[float] | None = None
    music_clip_id: uuid.UUID | None = None
    music_offset_s: float = 0.0
    music_gain_db: float = 0.0


class _State(BaseModel):
    """An edit at one moment, as far as it differs from another; ``order`` are the ids of its placed clips.

    Steps of an earlier release have every placed clip, and no ``order``, or no ``facts``.
    """

    placed: list[_Placed]
    facts: _Facts | None = None
    order: list[uuid.UUID] | None = None

    def without(self, other: "_State", about: uuid.UUID | None = None) -> "_State":
        """Return what of it ``other`` does not have; the clip before the cut ``about`` is kept in any case."""
        known = {each.id: each for each in other.placed}
        kept = [
            each
            for each in self.placed
            if each.cut_id == about is not None or not each.is_like(known.get(each.id))
        ]
        return _State(placed=kept, facts=self.facts, order=[each.id for each in self.placed])


@contextmanager
def recorded(
    session: Session, edit: Edit, label: str, cut_id: uuid.UUID | None = None
) -> Iterator[None]:
    """Record the change made inside as one step, called ``label``. What had been undone is dropped.

    ``cut_id`` is the cut that it is about, where that is one.

    The transitions that the change gave a new revision go back to their former one with the step.
    """
    session.execute(
        delete(EditHistoryStep).where(
            EditHistoryStep.edit_id == edit.id, EditHistoryStep.undone.is_(True)
        )
    )
    before = _state_of(edit)
    step = EditHistoryStep(edit_id=edit.id, label=label, cut_id=cut_id, before={})
    current = {str(cut.id): cut.current for cut in cuts_of(edit)}
    session.add(step)
    session.flush()
    yield
    step.before = before.without(_state_of(edit), cut_id).model_dump(mode="json")
    step.revisions = {
        str(cut.id): [current[str(cut.id)], cut.current]
        for cut in cuts_of(edit)
        if current.get(str(cut.id), cut.current) != cut.current
    }
    steps = select(EditHistoryStep.id).where(EditHistoryStep.edit_id == edit.id)
    outdated = steps.order_by(EditHistoryStep.id.desc()).offset(MAX_STEPS)
    session.execute(delete(EditHistoryStep).where(EditHistoryStep.id.in_(outdated)))
    delete_unreachable(session, edit)


def rename_latest(session: Session, edit: Edit, label: str) -> None:
    """Name the step that is being recorded, once what it does is known."""
    step = _next_step(session, edit.id, undone=False)
    if step is not None:
        step.label = label


@dataclass(frozen=True)
class Labels:
    """What undoing and redoing would take back and do again; None where there is nothing."""

    undo: str | None = None
    redo: str | None = None


def labels(session: Session, edit_id: uuid.UUID) -> Labels:
    """Return the labels of the next steps of an edit."""
    columns = (EditHistoryStep.undone, EditHistoryStep.label)
    found = session.execute(_next_steps(edit_id).with_only_columns(*columns))
    return _labels({each.undone: each.label for each in found})


def labels_about(session: Session, cut: Cut) -> Labels:
    """Return the labels of the next steps where they are about ``cut`` alone.

    And where the transition has not changed since: its own changes go back first.
    """
    query = _next_steps(cut.outgoing.edit_id).where(EditHistoryStep.cut_id == cut.id)
    return _labels(
        {each.undone: each.label for each in session.scalars(query) if _is_latest(each, cut)}
    )


def _is_latest(step: EditHistoryStep, cut: Cut) -> bool:
    # Before it is undone the transition is as the step left it; a step changes no recipe.
    state = _State.model_validate(step.before)
    saved = next((each for each in state.placed if each.cut_id == cut.id), None)
    return saved is not None and saved.cut_revision == cut.current


def _labels(by_undone: dict[bool, str]) -> Labels:
    return Labels(by_undone.get(False), by_undone.get(True))


def _next_steps(edit_id: uuid.UUID) -> Select[EditHistoryStep]:
    """Return the query of the step that would be undone, and of the one that would be redone."""
    ends = (
        select(end).where(EditHistoryStep.edit_id == edit_id, EditHistoryStep.undone.is_(undone))
        for end, undone in (
            (func.max(EditHistoryStep.id), False),
            (func.min(EditHistoryStep.id), True),
        )
    )
    return select(EditHistoryStep).where(
        or_(*(EditHistoryStep.id == each.scalar_subquery() for each in ends))
    )


def _next_step(session: Session, edit_id: uuid.UUID, *, undone: bool) -> EditHistoryStep | None:
    return session.scalar(_next_steps(edit_id).where(EditHistoryStep.undone.is_(undone)))


def undo(session: Session, edit: Edit) -> None:
    """Undo the last step. Raises NotFound where there is none."""
    step = _next_step(session, edit.id, undone=False)
    if step is None:
        raise NotFound("there is nothing to undo", field="edit")
    now = _state_of(edit)
    _restore(session, edit, _State.model_validate(step.before))
    step.after = now.without(_state_of(edit), step.cut_id).model_dump(mode="json")
    step.undone = True
    _step_revisions(session, edit, {cut: (new, old) for cut, (old, new) in step.revisions.items()})
    touch(session, edit)


def redo(session: Session, edit: Edit) -> None:
    """Redo the step that was undone last. Raises NotFound where there is none."""
    step = _next_step(session, edit.id, undone=True)
    if step is None:
        raise NotFound("there is nothing to redo", field="edit")
    step.undone = False
    _restore(session, edit, _State.model_validate(step.after))
    _step_revisions(session, edit, {cut: (old, new) for cut, (old, new) in step.revisions.items()})
    touch(session, edit)


def _state_of(edit: Edit) -> _State:
    facts = _Facts(**{name: getattr(edit, name) for name in _Facts.model_fields})
    return _State(placed=[_placed_state(each) for each in edit.placed], facts=facts)


def _placed_state(placed: PlacedClip) -> _Placed:
    revision = current_revision(placed.cut) if placed.cut else None
    return _Placed(
        id=placed.id,
        clip_id=placed.clip_id,
        in_frame=placed.in_frame,
        out_frame=placed.out_frame,
        muted=placed.muted,
        gain_db=placed.gain_db,
        crossfade=placed.crossfade,
        deinterlaced=placed.deinterlaced,
        shot=placed.shot,
        framing=placed.framing,
        strokes=placed.strokes,
        cut_id=placed.cut.id if placed.cut else None,
        cut=revision.document if revision else None,
        cut_revision=revision.number if revision else None,
    )


def _restore(session: Session, edit: Edit, state: _State) -> None:
    """Restore the clips, and the cuts between them with their history."""
    if state.facts is not None:
        for name in _Facts.model_fields:
            setattr(edit, name, getattr(state.facts, name))
    existing = {each.id: each for each in edit.placed}
    cuts = {each.id: each for each in [*cuts_of(edit), *left_cuts(session, edit)]}
    cut_after = {each.id: each.cut for each in edit.placed}
    saved = {each.id: each for each in state.placed}
    order = list(saved) if state.order is None else state.order
    # A flush in between would store cuts that are on no clip for a moment only.
    with session.no_autoflush:
        for each in edit.placed:
            take_off(edit, each)
        restored = []
        for position, number in enumerate(order):
            if number in saved:
                placed = _restored(existing.get(number), saved[number], cuts)
            else:
                placed = existing[number]
                _put_on_again(placed, cut_after[number])
            placed.position = position
            restored.append(placed)
        edit.placed[:] = restored
    session.flush()


def _restored(placed: PlacedClip | None, saved: _Placed, cuts: dict[uuid.UUID, Cut]) -> PlacedClip:
    # Strokes have an undo of their own: going back in the edit never takes them away.
    placed = placed or PlacedClip(id=saved.id, clip_id=saved.clip_id, strokes=saved.strokes)
    placed.in_frame, placed.out_frame = saved.in_frame, saved.out_frame
    placed.muted = saved.muted
    placed.gain_db, placed.crossfade = saved.gain_db, saved.crossfade
    placed.deinterlaced = saved.deinterlaced
    # Steps of an earlier release know no shots: the one that is there stays.
    placed.shot = saved.shot or placed.shot
    placed.framing = saved.framing
    _put_on_again(placed, _cut(saved, cuts))
    return placed


def _put_on_again(placed: PlacedClip, cut: Cut | None) -> None:
    if cut is not None:
        put_on(placed, cut)


def _cut(saved: _Placed, existing: dict[uuid.UUID, Cut]) -> Cut | None:
    if saved.cut_id is None:
        return None
    if saved.cut_id in existing:
        return _with_window(existing[saved.cut_id], saved)
    return cut_from_raw(saved.cut, saved.cut_id)


def _with_window(cut: Cut, saved: _Placed) -> Cut:
    """Give a revision that arranging has shortened its window again."""
    revision = current_revision(cut)
    if revision.number != saved.cut_revision or not isinstance(saved.cut, dict):
        return cut
    window = {side: saved.cut[side] for side in ("before", "after") if side in saved.cut}
    if any(revision.document.get(side) != frames for side, frames in window.items()):
        revision.document = {**revision.document, **window}
        cut.version += 1
    return cut


def _step_revisions(session: Session, edit: Edit, changes: dict[str, tuple[int, int]]) -> None:
    """Put another revision of some transitions in force; one changed since keeps its newer state."""
    wanted = [
        (cut, changes[str(cut.id)][1])
        for cut in cuts_of(edit)
        if str(cut.id) in changes and cut.current == changes[str(cut.id)][0]
    ]
    go_to_revisions(session, wanted)
