"""Cuts that an edit no longer has: kept with their history and variants while a step can bring them back."""

from sqlalchemy import Text, cast, delete, or_, select
from sqlalchemy.orm import Session, joinedload

from idle_shimmer.store.tables import Cut, Edit, EditHistoryStep, PlacedClip


def take_off(edit: Edit, placed: PlacedClip) -> None:
    """Take the cut off ``placed``, where it has one; it stays with ``edit``."""
    cut = placed.cut
    if cut is not None:
        placed.cut = None
        cut.left_edit_id = edit.id


def put_on(placed: PlacedClip, cut: Cut) -> None:
    """Put a cut on ``placed``, wherever it was."""
    cut.left_edit_id = None
    placed.cut = cut


def left_cuts(session: Session, edit: Edit) -> list[Cut]:
    """Return the cuts that ``edit`` no longer has and that a step can bring back."""
    query = select(Cut).where(Cut.left_edit_id == edit.id).options(joinedload(Cut.revision))
    return list(session.scalars(query))


def delete_unreachable(session: Session, edit: Edit) -> None:
    """Delete the cuts that ``edit`` no longer has and that no step of its history knows."""
    known = (
        select(EditHistoryStep.id)
        .where(EditHistoryStep.edit_id == edit.id)
        .correlate(Cut)
        .where(
            or_(
                *(
                    cast(state, Text).contains(cast(Cut.id, Text))
                    for state in (EditHistoryStep.before, EditHistoryStep.after)
                )
            )
        )
    )
    session.execute(
        delete(Cut).where(Cut.left_edit_id == edit.id, ~known.exists()),
        execution_options={"synchronize_session": False},
    )
