"""Edits: ordered runs of placed clips, and the cuts between them."""

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import timedelta
from fractions import Fraction
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from idle_shimmer.core.animation.timing import parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.limits import MAX_CLIPS_IN_EDIT, MAX_NAME_LENGTH
from idle_shimmer.store.cuts.cuts import (
    CutDocument,
    copied_cut,
    cut_by_id,
    new_cut,
)
from idle_shimmer.store.edits.windows import shorten_windows
from idle_shimmer.store.errors import ChangedMeanwhile, NotFound
from idle_shimmer.store.tables import Clip, Cut, Edit, PlacedClip

STILL_SECONDS = 5
KEPT_DELETED = timedelta(days=7)
# A clip is first placed with this many spare frames at either end, where it has enough, for mixes.
SPARE_FRAMES = 12
_MIN_FRAMES_TO_SPARE = 4 * SPARE_FRAMES
_WHOLE = selectinload(Edit.placed).selectinload(PlacedClip.cut).selectinload(Cut.revision)


@dataclass(frozen=True)
class Placement:
    """A clip and the part of it that is shown, in frames at the edit's rate.

    ``as_placed`` are further columns of the placed clip.
    """

    clip: Clip
    in_frame: int
    out_frame: int
    as_placed: Mapping[str, Any] = field(default_factory=dict)


def conformed_count(clip: Clip, rate: Fraction) -> int | None:
    """Return how many frames ``clip`` has at ``rate``; None for a still, which is unlimited."""
    if clip.still:
        return None
    own = parse_rate(clip.rate)
    if clip.constant_rate and own == rate:
        return clip.frame_count
    return max(1, round(Fraction(clip.duration_s).limit_denominator(10**6) * rate))


def start_frame(clip: Clip, rate: Fraction) -> int:
    """Return the frame at ``rate`` at which the timecode of the clip's own file begins."""
    return round(clip.start_frame * rate / parse_rate(clip.rate))


def first_placement(clip: Clip, rate: Fraction) -> Placement:
    """Return how a clip is placed at first. Raises InvalidValue for a sound."""
    if clip.is_sound:
        raise InvalidValue(
            f"{clip.name} is a sound: use it as music or as an accent, and choose a clip with pictures",
            field="clip",
        )
    count = conformed_count(clip, rate)
    if count is None:
        return Placement(clip, 0, round(STILL_SECONDS * rate))
    if count < _MIN_FRAMES_TO_SPARE:
        return Placement(clip, 0, count)
    return Placement(clip, SPARE_FRAMES, count - SPARE_FRAMES)


def create_edit(
    session: Session,
    name: str,
    clips: list[Clip],
    size: tuple[int, int] | None = None,
    rate: Fraction | None = None,
) -> Edit:
    """Create an edit of ``clips`` in order; without ``size`` or ``rate``, at those of the first."""
    if not clips:
        raise InvalidValue("an edit needs at least one clip: add one", field="clips")
    first = clips[0]
    rate = rate or parse_rate(first.rate)
    placements = [first_placement(clip, rate) for clip in clips]
    size = size or (first.width, first.height)
    return create_placed_edit(session, name, size, rate_text(rate), placements)


def duplicate_edit(session: Session, edit: Edit) -> Edit:
    """Create another edit with the same clips, framing and transitions, without their history."""
    copy = Edit(
        name=f"{edit.name}, copy"[:MAX_NAME_LENGTH],
        width=edit.width,
        height=edit.height,
        rate=edit.rate,
        beats_per_minute=edit.beats_per_minute,
        beat_offset_s=edit.beat_offset_s,
        beat_times_s=edit.beat_times_s,
        music_clip_id=edit.music_clip_id,
        music_offset_s=edit.music_offset_s,
        music_gain_db=edit.music_gain_db,
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
                strokes=each.strokes,
                muted=each.muted,
                gain_db=each.gain_db,
                crossfade=each.crossfade,
                deinterlaced=each.deinterlaced,
                shot=each.shot,
                cut=None if each.cut is None else copied_cut(each.cut),
            )
        )
    session.flush()
    return copy


def delete_edit(session: Session, edit: Edit) -> None:
    """Mark an edit as deleted; remove those deleted longer than ``KEPT_DELETED`` ago. Clips stay."""
    outdated = select(Edit).where(Edit.deleted_at < func.now() - KEPT_DELETED)
    for each in session.scalars(outdated):
        session.delete(each)
    edit.deleted_at = func.now()
    session.flush()


def restore_edit(session: Session, edit_id: uuid.UUID) -> Edit:
    """Restore a deleted edit. Raises NotFound where it has been removed."""
    edit = session.get(Edit, edit_id)
    if edit is None:
        raise NotFound("this edit was deleted too long ago to be restored", field="edit")
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
    """Create an edit with its clips placed, and ``documents`` on its cuts (hard cuts without)."""
    edit = Edit(name=name, width=size[0], height=size[1], rate=rate)
    session.add(edit)
    remaining = iter(documents or [])
    for placement in placements:
        _append(edit, placement, next(remaining, None) if edit.placed else None)
    session.flush()
    shorten_windows(edit)
    return edit


def require_place(edit: Edit) -> None:
    """Raise InvalidValue where ``edit`` has as many clips as it may."""
    if len(edit.placed) >= MAX_CLIPS_IN_EDIT:
        raise InvalidValue(
            f"{edit.name} has {len(edit.placed)} clips: an edit has at most {MAX_CLIPS_IN_EDIT}."
            " Remove one, or start another edit",
            field="clips",
        )


def add_clip(session: Session, edit: Edit, clip: Clip) -> None:
    """Place ``clip`` at the end of ``edit``. Raises InvalidValue where it is full."""
    require_place(edit)
    _append(edit, first_placement(clip, parse_rate(edit.rate)))
    touch(session, edit)


def _append(edit: Edit, placement: Placement, document: CutDocument | None = None) -> None:
    """Place a clip at the end; ``document`` is for the cut before it."""
    if edit.placed:
        edit.placed[-1].cut = new_cut(document)
    edit.placed.append(
        PlacedClip(
            position=len(edit.placed),
            clip=placement.clip,
            in_frame=placement.in_frame,
            out_frame=placement.out_frame,
            **placement.as_placed,
        )
    )


def touch(session: Session, edit: Edit) -> None:
    """Set the time of the last change to now."""
    edit.changed_at = func.now()
    session.flush()


def delete_permanently(session: Session, edit_id: uuid.UUID) -> None:
    """Delete an edit for good, with its history. Raises NotFound unless it was deleted before."""
    edit = session.get(Edit, edit_id, with_for_update=True)
    if edit is None or edit.deleted_at is None:
        raise NotFound("there is no such deleted edit: delete it first", field="edit")
    session.delete(edit)


def deleted_edits(session: Session) -> list[Edit]:
    """Return the deleted edits that can still be restored, last deleted first."""
    kept = select(Edit).where(Edit.deleted_at >= func.now() - KEPT_DELETED)
    return list(session.scalars(kept.order_by(Edit.deleted_at.desc())))


def edit_by_id(session: Session, edit_id: uuid.UUID, *, whole: bool = False) -> Edit:
    """Return the edit, ``whole`` with every cut and its document in a few queries. Raises NotFound."""
    edit = session.get(Edit, edit_id, options=(_WHOLE,) if whole else ())
    if edit is None or edit.deleted_at is not None:
        raise NotFound("there is no such edit: it may have been deleted", field="edit")
    return edit


def edit_for_change(session: Session, edit_id: uuid.UUID, seen_version: int | None = None) -> Edit:
    """Return the edit, locked, to be changed: its version grows.

    Raises NotFound, and ChangedMeanwhile where ``seen_version`` is not the current one.
    """
    query = select(Edit).where(Edit.id == edit_id, Edit.deleted_at.is_(None)).options(_WHOLE)
    edit = session.scalar(query.with_for_update().execution_options(populate_existing=True))
    if edit is None:
        raise NotFound("there is no such edit: it may have been deleted", field="edit")
    if seen_version is not None and edit.version != seen_version:
        raise ChangedMeanwhile(
            "this edit was changed in another window after you opened it, so your change was not"
            " made: load the newer state and do it again",
            field="version",
        )
    edit.version += 1
    return edit


def cut_for_change(session: Session, cut_id: uuid.UUID) -> Cut:
    """Return a cut, locked to be changed. Raises NotFound.

    The edit is locked first, as in every other change: two changes never wait for each other.
    """
    edit_of_cut = select(Edit.id).join(Edit.placed).join(PlacedClip.cut).where(Cut.id == cut_id)
    session.execute(edit_of_cut.with_for_update(of=Edit))
    return cut_by_id(session, cut_id, for_change=True)


def cuts_of(edit: Edit) -> list[Cut]:
    """Return the cuts of ``edit`` in order."""
    return [placed.cut for placed in edit.placed[:-1] if placed.cut is not None]
