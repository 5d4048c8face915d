"""Deleting clips that nothing uses, with their files."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import String, cast, exists, func, or_, select, union_all
from sqlalchemy.orm import InstrumentedAttribute, Session
from sqlalchemy.sql import ColumnElement

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.files.clip_proxies import path_of_proxy
from idle_shimmer.files.file_store import file_store
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.tables import (
    Clip,
    CutRevision,
    CutVariant,
    Edit,
    EditHistoryStep,
    PlacedClip,
    Render,
    SavedRecipe,
)

# What may name a clip by its id.
_DOCUMENTS = (
    CutRevision.document,
    CutVariant.document,
    SavedRecipe.document,
    EditHistoryStep.before,
    EditHistoryStep.after,
)
_ID = "[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}"
_SHA256 = "[0-9a-f]{64}"


@dataclass(frozen=True)
class Deleted:
    """How many clips were deleted, and how many bytes their files had."""

    clips: int
    size_bytes: int


def unused_clips(session: Session) -> list[Clip]:
    """Return the clips that no edit, history, recipe or unfinished render uses, oldest first."""
    return list(session.scalars(select(Clip).where(~_is_used()).order_by(Clip.created_at)))


def delete_clip(session: Session, clip: Clip) -> Deleted:
    """Delete a clip and its file. Raises InvalidValue where something uses it."""
    if session.scalar(select(exists().where(Clip.id == clip.id, _is_used()))):
        where = _edits_with(session, clip)
        raise InvalidValue(
            f"{clip.name} is used {'in ' + where if where else 'by a recipe or a render'}: remove it"
            " there first",
            field="clip",
        )
    return _delete(session, [clip])


def delete_unused_clips(session: Session) -> Deleted:
    """Delete every clip that nothing uses."""
    return _delete(session, unused_clips(session))


def _delete(session: Session, clips: list[Clip]) -> Deleted:
    files = [path_of(clip.file) for clip in clips]
    proxies = [path_of_proxy(clip.sha256) for clip in clips]
    for clip in clips:
        session.delete(clip)
    # Where a row was taken into use at this moment, this fails before any file is gone.
    session.flush()
    size = sum(file_store().delete(file) for file in (*files, *proxies))
    return Deleted(len(files), size)


def _is_used() -> ColumnElement[bool]:
    """The condition that something refers to the clip: by its row, or by its id or content in a document.

    Every document is read once, however many clips there are.
    """
    in_documents = union_all(*(select(_found(column, _ID)) for column in _DOCUMENTS))
    at_work = Render.state.in_(("waiting", "running"))
    in_renders = select(_found(Render.snapshot, _SHA256)).where(at_work)
    placed = exists().where(PlacedClip.clip_id == Clip.id)
    is_music = exists().where(Edit.music_clip_id == Clip.id)
    named = cast(Clip.id, String).in_(in_documents), Clip.sha256.in_(in_renders)
    return or_(placed, is_music, *named)


def _found(document: InstrumentedAttribute[Any], pattern: str) -> ColumnElement[str]:
    """Return what matches a pattern in a document, a row each."""
    return func.unnest(func.regexp_matches(cast(document, String), pattern, "g"), type_=String)


def _edits_with(session: Session, clip: Clip) -> str:
    """Return the names of the edits that show a clip, deleted ones included."""
    wanted = select(Edit.name, Edit.deleted_at).join(PlacedClip, PlacedClip.edit_id == Edit.id)
    rows = session.execute(wanted.where(PlacedClip.clip_id == clip.id).distinct().limit(3)).all()
    return ", ".join(f"{name} (deleted)" if deleted else name for name, deleted in rows)
