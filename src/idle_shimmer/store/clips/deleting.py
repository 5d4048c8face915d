"""Deleting clips that nothing uses, with their files."""

from dataclasses import dataclass

from sqlalchemy import String, cast, exists, func, or_, select
from sqlalchemy.orm import Session
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
    """The condition that something refers to the clip: by its row, its id or its file in a document."""
    number, file = cast(Clip.id, String), Clip.file
    documents = [
        exists().where(func.strpos(cast(column, String), number) > 0)
        for column in (CutRevision.document, CutVariant.document, SavedRecipe.document)
    ]
    in_history = [
        exists().where(func.strpos(cast(column, String), number) > 0)
        for column in (EditHistoryStep.before, EditHistoryStep.after)
    ]
    in_render = exists().where(
        Render.state.in_(("waiting", "running")),
        func.strpos(cast(Render.snapshot, String), file) > 0,
    )
    placed = exists().where(PlacedClip.clip_id == Clip.id)
    is_music = exists().where(Edit.music_clip_id == Clip.id)
    return or_(placed, is_music, *documents, *in_history, in_render)


def _edits_with(session: Session, clip: Clip) -> str:
    """Return the names of the edits that show a clip, deleted ones included."""
    wanted = select(Edit.name, Edit.deleted_at).join(PlacedClip, PlacedClip.edit_id == Edit.id)
    rows = session.execute(wanted.where(PlacedClip.clip_id == clip.id).distinct().limit(3)).all()
    return ", ".join(f"{name} (deleted)" if deleted else name for name, deleted in rows)
