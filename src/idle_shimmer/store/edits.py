"""Edits: ordered runs of placed clips, and the cuts between them."""

import uuid
from dataclasses import dataclass
from datetime import timedelta
from fractions import Fraction

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from idle_shimmer.core.animation.timing import parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.cuts import CutDocument, document_of, new_cut, revision_of
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import Clip, Cut, Edit, PlacedClip

STILL_SECONDS = 5
MOST_NAME = 200
KEPT_DELETED = timedelta(days=7)
# A clip is first placed with this many frames kept in hand at either end, where it has enough,
# so that a dissolve finds its spare frames.
FRAMES_IN_HAND = 12
_FEWEST_FRAMES_FOR_HANDS = 4 * FRAMES_IN_HAND


@dataclass(frozen=True)
class Placement:
    """A clip and the part of it that is shown, in frames at the edit's rate."""

    clip: Clip
    in_frame: int
    out_frame: int


def conformed_count(clip: Clip, rate: Fraction) -> int | None:
    """How many frames ``clip`` has at ``rate``; None for a still, which has no end."""
    if clip.still:
        return None
    own = parse_rate(clip.rate)
    if clip.constant_rate and own == rate:
        return clip.frame_count
    return max(1, round(Fraction(clip.duration_s).limit_denominator(10**6) * rate))


def first_placement(clip: Clip, rate: Fraction) -> Placement:
    """How a clip is placed before the editor says otherwise."""
    count = conformed_count(clip, rate)
    if count is None:
        return Placement(clip, 0, round(STILL_SECONDS * rate))
    if count < _FEWEST_FRAMES_FOR_HANDS:
        return Placement(clip, 0, count)
    return Placement(clip, FRAMES_IN_HAND, count - FRAMES_IN_HAND)


def create_edit(
    session: Session,
    name: str,
    clips: list[Clip],
    size: tuple[int, int] | None = None,
    rate: Fraction | None = None,
) -> Edit:
    """A new edit of ``clips`` in order; without ``size`` or ``rate``, at those of the first."""
    if not clips:
        raise InvalidValue("an edit needs at least one clip: add one", field="clips")
    first = clips[0]
    rate = rate or parse_rate(first.rate)
    placements = [first_placement(clip, rate) for clip in clips]
    size = size or (first.width, first.height)
    return create_placed_edit(session, name, size, rate_text(rate), placements)


def duplicate_edit(session: Session, edit: Edit) -> Edit:
    """Another edit with the same clips, framing and transitions; their history stays behind."""
    copy = Edit(
        name=f"{edit.name}, copy"[:MOST_NAME],
        width=edit.width,
        height=edit.height,
        rate=edit.rate,
        beats_per_minute=edit.beats_per_minute,
        beat_offset_s=edit.beat_offset_s,
    )
    session.add(copy)
    for each in edit.placed:
        copy.placed.append(
            PlacedClip(
                position=each.position,
                clip=each.clip,
                in_frame=each.in_frame,
                out_frame=each.out_frame,
                framing=each.framing,
                muted=each.muted,
                cut=None if each.cut is None else new_cut(document_of(each.cut)),
            )
        )
    session.flush()
    return copy


def delete_edit(session: Session, edit: Edit) -> None:
    """Put an edit away; those put away longer than ``KEPT_DELETED`` go for good. Clips stay."""
    outdated = select(Edit).where(Edit.deleted_at < func.now() - KEPT_DELETED)
    for each in session.scalars(outdated):
        session.delete(each)
    edit.deleted_at = func.now()
    session.flush()


def restore_edit(session: Session, edit_id: uuid.UUID) -> Edit:
    """Bring a deleted edit back. Raises NotFound where it is gone for good."""
    edit = session.get(Edit, edit_id)
    if edit is None:
        raise NotFound("this edit was deleted too long ago to be brought back", field="edit")
    edit.deleted_at = None
    session.flush()
    return edit


def create_placed_edit(
    session: Session,
    name: str,
    size: tuple[int, int],
    rate: str,
    placements: list[Placement],
    documents: list[CutDocument] | None = None,
) -> Edit:
    """A new edit with its clips placed as told, and ``documents`` on its cuts (hard cuts without)."""
    edit = Edit(name=name, width=size[0], height=size[1], rate=rate)
    session.add(edit)
    told = iter(documents or [])
    for placement in placements:
        _append(edit, placement, next(told, None) if edit.placed else None)
    session.flush()
    shorten_windows(edit)
    return edit


def add_clip(session: Session, edit: Edit, clip: Clip) -> None:
    """Place ``clip`` at the end of ``edit``."""
    _append(edit, first_placement(clip, parse_rate(edit.rate)))
    touch(session, edit)


def _append(edit: Edit, placement: Placement, document: CutDocument | None = None) -> None:
    """Places a clip last; ``document`` goes on the cut ahead of it."""
    if edit.placed:
        edit.placed[-1].cut = new_cut(document)
    edit.placed.append(
        PlacedClip(
            position=len(edit.placed),
            clip=placement.clip,
            in_frame=placement.in_frame,
            out_frame=placement.out_frame,
        )
    )


def touch(session: Session, edit: Edit) -> None:
    """Note that ``edit`` has changed now."""
    edit.changed_at = func.now()
    session.flush()
    session.refresh(edit, ["changed_at"])


def all_edits(session: Session) -> list[Edit]:
    """Every edit, last changed first."""
    kept = select(Edit).where(Edit.deleted_at.is_(None))
    return list(session.scalars(kept.order_by(Edit.changed_at.desc())))


def edit_by_id(session: Session, edit_id: uuid.UUID) -> Edit:
    """The edit. Raises NotFound."""
    edit = session.get(Edit, edit_id)
    if edit is None or edit.deleted_at is not None:
        raise NotFound("there is no such edit: it may have been deleted", field="edit")
    return edit


def cuts_of(edit: Edit) -> list[Cut]:
    """The cuts of ``edit`` in order."""
    return [placed.cut for placed in edit.placed[:-1] if placed.cut is not None]


def sides_of(cut: Cut) -> tuple[PlacedClip, PlacedClip]:
    """(outgoing, incoming) of ``cut``."""
    outgoing = cut.outgoing
    return outgoing, outgoing.edit.placed[outgoing.position + 1]


def windows_on(edit: Edit, placed: PlacedClip) -> tuple[int, int]:
    """Frames of ``placed`` taken by the window of the cut ahead of it, and of the one after it."""
    place = edit.placed.index(placed)
    ahead = edit.placed[place - 1].cut if place else None
    taken = document_of(ahead).after if ahead is not None else 0
    return taken, document_of(placed.cut).before if placed.cut is not None else 0


def shorten_windows(edit: Edit) -> None:
    """Where a join brings two windows onto too short a clip, each gets its share."""
    for placed in edit.placed:
        ahead, behind = windows_on(edit, placed)
        length = placed.out_frame - placed.in_frame
        if ahead + behind <= length:
            continue
        place = edit.placed.index(placed)
        most_ahead = max(1, length * ahead // (ahead + behind))
        _hold(edit.placed[place - 1].cut if place else None, after=most_ahead)
        _hold(placed.cut, before=max(1, length - most_ahead))


def _hold(cut: Cut | None, **most: int) -> None:
    """Shorten a cut's window in its revision in force."""
    if cut is None:
        return
    revision = revision_of(cut)
    document = dict(revision.document)
    for side, frames in most.items():
        document[side] = min(document[side], frames)
    revision.document = document
    cut.version += 1
