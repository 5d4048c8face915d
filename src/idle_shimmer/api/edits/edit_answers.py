"""What the API answers about an edit: its clips as they are placed, its cuts, its music."""

import uuid
from datetime import datetime
from fractions import Fraction

from pydantic import BaseModel

from idle_shimmer.api.clips.clip_answers import ClipOut
from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.framing import Framing
from idle_shimmer.edit.cut_status import KnownStatus, StatusOut
from idle_shimmer.edit.states import EditState
from idle_shimmer.store.cuts.cut_rows import CutRow
from idle_shimmer.store.edits.edits import conformed_count
from idle_shimmer.store.edits.placed_clips import framing_of, shot_of
from idle_shimmer.store.tables import Edit, PlacedClip


class PlacedOut(BaseModel):
    """A placed clip; ``spare_before`` and ``spare_after`` are null where a still is unlimited.

    They end with its shot; ``room_before`` and ``room_after`` with the file: so far it can be trimmed.

    ``name`` is the clip's, numbered where the edit shows several parts of one clip. With speed ramps at
    its cuts it shows source frames ``first_shown`` to ``end_shown`` (exclusive) in ``edit_frames``.
    """

    id: uuid.UUID
    name: str
    clip: ClipOut
    position: int
    in_frame: int
    out_frame: int
    first_shown: int
    end_shown: int
    edit_frames: int
    spare_before: int | None
    spare_after: int | None
    room_before: int | None
    room_after: int | None
    framing: Framing
    muted: bool
    gain_db: float
    crossfade: int
    deinterlaced: bool

    @classmethod
    def of(cls, placed: PlacedClip, rate: Fraction, name: str, played: PlayedRange) -> "PlacedOut":
        """Return the answer for a row, in an edit at ``rate``, where it shows ``played``."""
        count = conformed_count(placed.clip, rate)
        shot = shot_of(placed).of(count)
        return cls(
            id=placed.id,
            name=name,
            clip=ClipOut.of(placed.clip),
            position=placed.position,
            in_frame=placed.in_frame,
            out_frame=placed.out_frame,
            first_shown=played.first,
            end_shown=played.end,
            edit_frames=played.frames,
            spare_before=None if shot is None else placed.in_frame - shot.start,
            spare_after=None if shot is None else shot.stop - placed.out_frame,
            room_before=None if count is None else placed.in_frame,
            room_after=None if count is None else count - placed.out_frame,
            framing=framing_of(placed),
            muted=placed.muted,
            gain_db=placed.gain_db,
            crossfade=placed.crossfade,
            deinterlaced=placed.deinterlaced,
        )


class CutSummary(BaseModel):
    """A cut as the edit screen shows it; ``problem`` is why its recipe cannot be read.

    ``worst`` is null until its checks have run.
    """

    id: uuid.UUID
    before: int
    after: int
    recipe_name: str
    filter_count: int
    version: int
    worst: StatusOut | None
    problem: str | None

    @classmethod
    def of(cls, row: CutRow, status: KnownStatus | None) -> "CutSummary":
        """Return the answer for a row, with what its checks found."""
        window = row.window()
        problem = status.problem if status is not None else row.problem
        return cls(
            id=row.id,
            before=window.before,
            after=window.after,
            recipe_name=row.recipe_name() if problem is None else "Cannot be read",
            filter_count=row.filter_count() if problem is None else 0,
            version=row.version,
            worst=status.worst if status is not None else None,
            problem=problem,
        )


class MusicOut(BaseModel):
    """The music of an edit: it begins ``offset_s`` after the edit's start, or before it."""

    clip: ClipOut
    offset_s: float
    gain_db: float

    @classmethod
    def of(cls, edit: Edit) -> "MusicOut | None":
        """Return the music of an edit; None without one."""
        if edit.music is None:
            return None
        return cls(
            clip=ClipOut.of(edit.music), offset_s=edit.music_offset_s, gain_db=edit.music_gain_db
        )


class EditOut(BaseModel):
    """An edit with its clips in order and the cuts between them.

    ``undo_label`` and ``redo_label`` name the steps that can be undone and redone.
    """

    id: uuid.UUID
    name: str
    width: int
    height: int
    rate: str
    changed_at: datetime
    version: int
    frame_count: int
    beats_per_minute: float | None
    beat_offset_s: float
    beat_times_s: list[float] | None
    music: MusicOut | None
    undo_label: str | None
    redo_label: str | None
    placed: list[PlacedOut]
    cuts: list[CutSummary]

    @classmethod
    def of(cls, state: EditState) -> "EditOut":
        """Return the answer for an edit as it is stored."""
        edit = state.edit
        return cls(
            id=edit.id,
            name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            changed_at=edit.changed_at,
            version=edit.version,
            frame_count=state.frame_count,
            beats_per_minute=edit.beats_per_minute,
            beat_offset_s=edit.beat_offset_s,
            beat_times_s=edit.beat_times_s,
            music=MusicOut.of(edit),
            undo_label=state.labels.undo,
            redo_label=state.labels.redo,
            placed=[
                PlacedOut.of(each, state.rate, state.names[each.id], shown)
                for each, shown in zip(edit.placed, state.played, strict=True)
            ],
            cuts=[CutSummary.of(row, state.statuses.get(row.id)) for row in state.rows],
        )


class MovedOut(BaseModel):
    """The edit, and why cuts stayed where they are."""

    edit: EditOut
    stayed: list[str]
