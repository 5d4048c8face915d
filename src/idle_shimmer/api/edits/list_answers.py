"""What the API answers about edits in lists: those that are there, and those that can be restored."""

import uuid
from datetime import datetime

from pydantic import BaseModel

from idle_shimmer.api.clips.clip_answers import ClipOut
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.edit.edit_list import EditRow
from idle_shimmer.store.edits.edits import KEPT_DELETED
from idle_shimmer.store.tables import Edit


class FirstClip(BaseModel):
    """A clip at the start of an edit, and its first frame at the edit's rate."""

    clip: ClipOut
    in_frame: int


class EditSummary(BaseModel):
    """An edit as the list shows it; see ``EditRow`` for the counts. ``worst`` is the id of a check."""

    id: uuid.UUID
    name: str
    width: int
    height: int
    rate: str
    changed_at: datetime
    version: int
    frame_count: int
    clip_count: int
    cut_count: int
    unreadable_cuts: int
    unresolved_cuts: int
    failed_cuts: int
    unchecked_cuts: int
    worst: str | None
    first: list[FirstClip]

    @classmethod
    def of(cls, row: EditRow) -> "EditSummary":
        """Return the answer for a row. Raises ValueError where the edit cannot be shown."""
        edit = row.edit
        parse_rate(edit.rate)
        return cls(
            id=edit.id,
            name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            changed_at=edit.changed_at,
            version=edit.version,
            frame_count=row.frames,
            clip_count=row.clips,
            cut_count=row.cuts,
            unreadable_cuts=row.unreadable,
            unresolved_cuts=row.unresolved,
            failed_cuts=row.failed,
            unchecked_cuts=row.unknown,
            worst=row.worst,
            first=[
                FirstClip(clip=ClipOut.of(each.clip), in_frame=each.in_frame) for each in row.first
            ],
        )


class DeletedEditOut(BaseModel):
    """A deleted edit that can still be restored, until ``kept_until``."""

    id: uuid.UUID
    name: str
    deleted_at: datetime
    kept_until: datetime

    @classmethod
    def of(cls, edit: Edit) -> "DeletedEditOut":
        """Return the answer for a deleted row."""
        deleted_at = edit.deleted_at
        if deleted_at is None:
            raise ValueError(f"the edit {edit.id} is not deleted")
        kept_until = deleted_at + KEPT_DELETED
        return cls(id=edit.id, name=edit.name, deleted_at=deleted_at, kept_until=kept_until)
