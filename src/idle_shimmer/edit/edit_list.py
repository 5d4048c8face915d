"""Edits as rows of a list: counts and stored check statuses by SQL, whatever their number of cuts."""

import uuid
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import Integer, Select, and_, func, or_, select
from sqlalchemy.orm import Session, joinedload

from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.edit.played import played_of
from idle_shimmer.store.tables import Cut, CutRevision, Edit, PlacedClip

# As many clips as the card of an edit shows.
FIRST_CLIPS = 7


@dataclass
class EditRow:
    """An edit with what the list shows of it.

    ``unresolved`` counts cuts whose worst finding is a warning or failed, ``failed`` those of them that
    failed, ``unknown`` those whose checks have not run since they changed.
    """

    edit: Edit
    clips: int = 0
    frames: int = 0
    cuts: int = 0
    unreadable: int = 0
    unresolved: int = 0
    failed: int = 0
    unknown: int = 0
    worst: str | None = None
    first: list[PlacedClip] = field(default_factory=list)


def edit_rows(session: Session, limit: int, offset: int = 0) -> list[EditRow]:
    """Return ``limit`` edits after the first ``offset``, last changed first."""
    kept = select(Edit).where(Edit.deleted_at.is_(None))
    newest = kept.order_by(Edit.changed_at.desc(), Edit.id).limit(limit).offset(offset)
    rows = {edit.id: EditRow(edit) for edit in session.scalars(newest)}
    _count_clips(session, rows)
    _count_cuts(session, rows)
    _add_first_clips(session, rows)
    return list(rows.values())


def _count_clips(session: Session, rows: dict[uuid.UUID, EditRow]) -> None:
    frames = func.sum(PlacedClip.out_frame - PlacedClip.in_frame).cast(Integer)
    wanted = select(PlacedClip.edit_id, func.count(), frames).group_by(PlacedClip.edit_id)
    for edit_id, clips, count in session.execute(wanted.where(PlacedClip.edit_id.in_(rows))):
        rows[edit_id].clips, rows[edit_id].frames = clips, count
    for rippled in session.scalars(_with_ripples(rows)).all():
        played = played_of(session, rows[rippled].edit)
        rows[rippled].frames = sum(each.frames for each in played)


def _with_ripples(rows: dict[uuid.UUID, EditRow]) -> Select[Any]:
    """Return the query for edits whose length a speed ramp changes: only their recipes are read."""
    retime = CutRevision.document["recipe"]["retime"]
    ripples = [retime[side]["in_edit"].astext == "ripple" for side in CLIP_SIDES]
    return (
        select(PlacedClip.edit_id)
        .distinct()
        .join(Cut, Cut.outgoing_id == PlacedClip.id)
        .join(CutRevision, and_(CutRevision.cut_id == Cut.id, CutRevision.number == Cut.current))
        .where(PlacedClip.edit_id.in_(rows), or_(*ripples))
    )


def _count_cuts(session: Session, rows: dict[uuid.UUID, EditRow]) -> None:
    found = Cut.status["found"]
    status, check = found["worst"]["status"].astext, found["worst"]["id"].astext
    has_problem = found["problem"].astext.is_not(None)
    wanted = (
        select(PlacedClip.edit_id, status, check, has_problem, func.count())
        .join(Cut, Cut.outgoing_id == PlacedClip.id)
        .where(PlacedClip.edit_id.in_(rows))
        .group_by(PlacedClip.edit_id, status, check, has_problem)
        .order_by(status, func.count().desc())
    )
    for edit_id, state, name, is_unreadable, count in session.execute(wanted):
        row = rows[edit_id]
        row.cuts += count
        if state is None:
            row.unknown += count
        elif is_unreadable:
            row.unreadable += count
        elif state != "ok":
            # In the order of the words, "failed" comes before "warning".
            row.worst = row.worst or name
            row.unresolved += count
            row.failed += count if state == "failed" else 0


def _add_first_clips(session: Session, rows: dict[uuid.UUID, EditRow]) -> None:
    place = (
        func.row_number()
        .over(partition_by=PlacedClip.edit_id, order_by=PlacedClip.position)
        .label("place")
    )
    numbered = select(PlacedClip.id, place).where(PlacedClip.edit_id.in_(rows)).subquery()
    wanted = (
        select(PlacedClip)
        .join(numbered, numbered.c.id == PlacedClip.id)
        .where(numbered.c.place <= FIRST_CLIPS)
        .options(joinedload(PlacedClip.clip))
        .order_by(PlacedClip.position)
    )
    for placed in session.scalars(wanted):
        rows[placed.edit_id].first.append(placed)
