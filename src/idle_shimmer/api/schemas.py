"""The bodies that the API answers with."""

import uuid
from datetime import datetime
from fractions import Fraction
from typing import Any

from pydantic import BaseModel
from sqlalchemy.orm import Session

from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.recipe import Recipe, recipe_to_json
from idle_shimmer.edit.cut_status import KnownStatus, StatusOut, run_checks
from idle_shimmer.edit.played import played_of
from idle_shimmer.files.file_store import file_store
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.cuts import cuts as cut_store
from idle_shimmer.store.cuts.cut_rows import CutRow, cut_rows
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_of, session_scope
from idle_shimmer.store.edits import edit_history, placed_clips
from idle_shimmer.store.edits import edits as edit_store
from idle_shimmer.store.edits.edit_list import EditRow
from idle_shimmer.store.renders import render_segments
from idle_shimmer.store.renders.renders import file_of
from idle_shimmer.store.tables import Clip, Cut, Edit, PlacedClip, Render

# Checks of a few cuts are ready at once; the page asks for those of many afterwards.
_CHECKED_AT_ONCE_S = 0.25


class ClipOut(BaseModel):
    """An imported clip; ``missing`` where its file is gone. A sound has no pictures, and no size."""

    id: uuid.UUID
    name: str
    width: int
    height: int
    rate: str
    frame_count: int
    duration_s: float
    has_sound: bool
    still: bool
    is_sound: bool
    notes: list[str]
    missing: bool

    @classmethod
    def of(cls, clip: Clip) -> "ClipOut":
        """Return the answer for a row."""
        fields = {name: getattr(clip, name) for name in cls.model_fields if name != "missing"}
        return cls(**fields, missing=not file_store().has(path_of(clip.file)))


class PlacedOut(BaseModel):
    """A placed clip; ``spare_before`` and ``spare_after`` are null where a still is unlimited.

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
    framing: Framing
    muted: bool
    gain_db: float
    crossfade: int

    @classmethod
    def of(cls, placed: PlacedClip, rate: Fraction, name: str, played: PlayedRange) -> "PlacedOut":
        """Return the answer for a row, in an edit at ``rate``, where it shows ``played``."""
        count = edit_store.conformed_count(placed.clip, rate)
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
            spare_before=None if count is None else placed.in_frame,
            spare_after=None if count is None else count - placed.out_frame,
            framing=placed_clips.framing_of(placed),
            muted=placed.muted,
            gain_db=placed.gain_db,
            crossfade=placed.crossfade,
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
    def by_id(cls, edit_id: uuid.UUID) -> "EditOut":
        """Return the answer for an edit as it is stored. Raises NotFound."""
        with session_scope() as session:
            return cls.of(edit_store.edit_by_id(session, edit_id))

    @classmethod
    def of(cls, edit: Edit) -> "EditOut":
        """Return the answer for a row."""
        rate, names = parse_rate(edit.rate), placed_clips.names_in(edit)
        session = session_of(edit)
        rows = cut_rows(session, edit)
        known = run_checks(session, edit, rows, _CHECKED_AT_ONCE_S)
        played = played_of(session, edit, rows)
        labels = edit_history.labels(session, edit.id)
        return cls(
            id=edit.id,
            name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            changed_at=edit.changed_at,
            version=edit.version,
            frame_count=sum(each.frames for each in played),
            beats_per_minute=edit.beats_per_minute,
            beat_offset_s=edit.beat_offset_s,
            beat_times_s=edit.beat_times_s,
            music=_music(edit),
            undo_label=labels.undo,
            redo_label=labels.redo,
            placed=[
                PlacedOut.of(each, rate, names[each.id], shown)
                for each, shown in zip(edit.placed, played, strict=True)
            ],
            cuts=[CutSummary.of(row, known.get(row.id)) for row in rows],
        )


def _music(edit: Edit) -> MusicOut | None:
    if edit.music is None:
        return None
    return MusicOut(
        clip=ClipOut.of(edit.music), offset_s=edit.music_offset_s, gain_db=edit.music_gain_db
    )


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
        kept_until = deleted_at + edit_store.KEPT_DELETED
        return cls(id=edit.id, name=edit.name, deleted_at=deleted_at, kept_until=kept_until)


class CutOut(BaseModel):
    """A cut, complete: what the bench needs. ``recipe`` has every field written out.

    ``problem`` is why the stored recipe cannot be read; ``recipe`` is then a hard cut.
    """

    id: uuid.UUID
    edit_id: uuid.UUID
    edit_name: str
    width: int
    height: int
    rate: str
    beats_per_minute: float | None
    number: int
    of: int
    previous_id: uuid.UUID | None
    next_id: uuid.UUID | None
    edit_frame: int
    most_before: int
    most_after: int
    version: int
    edit_version: int
    undo_label: str | None
    redo_label: str | None
    before: int
    after: int
    recipe: dict[str, Any]
    problem: str | None
    outgoing: PlacedOut
    incoming: PlacedOut

    @classmethod
    def from_row(cls, cut: Cut) -> "CutOut":
        """Return the answer for a row."""
        outgoing, incoming = edit_store.sides_of(cut)
        edit = outgoing.edit
        session = session_of(edit)
        rate, rows = parse_rate(edit.rate), cut_rows(session, edit)
        place = [each.id for each in rows].index(cut.id)
        document, window = cut_store.read_document(rows[place]), rows[place].window()
        recipe = document.recipe if isinstance(document, CutDocument) else Recipe()
        labels = _labels_of(session, cut)
        room = edit_store.room_in(rows, place, (outgoing, incoming))
        names = placed_clips.names_in(edit)
        played = played_of(session, edit, rows)
        return cls(
            id=cut.id,
            edit_id=edit.id,
            edit_name=edit.name,
            width=edit.width,
            height=edit.height,
            rate=edit.rate,
            beats_per_minute=edit.beats_per_minute,
            number=place + 1,
            of=len(rows),
            previous_id=rows[place - 1].id if place > 0 else None,
            next_id=rows[place + 1].id if place + 1 < len(rows) else None,
            edit_frame=sum(each.frames for each in played[: place + 1]),
            most_before=room.before,
            most_after=room.after,
            version=cut.version,
            edit_version=edit.version,
            undo_label=labels.undo,
            redo_label=labels.redo,
            before=window.before,
            after=window.after,
            recipe=recipe_to_json(recipe),
            problem=None if isinstance(document, CutDocument) else document.reason,
            outgoing=PlacedOut.of(outgoing, rate, names[outgoing.id], played[place]),
            incoming=PlacedOut.of(incoming, rate, names[incoming.id], played[place + 1]),
        )


def _labels_of(session: Session, cut: Cut) -> edit_history.Labels:
    """Return what undoing and redoing do: steps of the edit about this cut, or of the cut itself."""
    about = edit_history.labels_about(session, cut)
    steps = cut_store.history(session, cut, (cut.current, cut.current + 1))
    own = {each.number: each.label for each in steps if each.number > 1}
    return edit_history.Labels(
        about.undo or own.get(cut.current), about.redo or own.get(cut.current + 1)
    )


class RenderOut(BaseModel):
    """A render that is queued, running or finished; ``author`` is who asked for it.

    ``what``, ``format`` and ``quality`` are those of ``NewRender``, ``version`` that of the edit or cut;
    null in renders of former versions. ``bytes`` is the size of the finished file. ``workers`` are those that
    are at work on it. Once all its segments are done it ``is_joining`` them: ``done_frames`` are those joined.
    """

    id: uuid.UUID
    edit_id: uuid.UUID | None
    cut_id: uuid.UUID | None
    title: str
    state: str
    done_frames: int
    total_frames: int
    cancel_asked: bool
    message: str
    has_file: bool
    workers: int
    is_joining: bool
    what: str | None
    format: str | None
    quality: str | None
    width: int | None
    height: int | None
    version: int | None
    bytes: int | None
    author: str | None
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None

    @classmethod
    def of(cls, render: Render, segments: render_segments.AtWork | None = None) -> "RenderOut":
        """Return the answer for a row; ``segments`` says how far they are, where it has any."""
        columns = {each.key for each in Render.__table__.columns}
        fields = {
            name: getattr(render, name) if name in columns else render.settings.get(name)
            for name in cls.model_fields
            if name not in ("has_file", "workers", "is_joining")
        }
        alone = render_segments.AtWork(1 if render.state == "running" else 0, is_joining=False)
        found = segments or alone
        return cls(
            **fields,
            has_file=bool(render.file) and file_store().has(file_of(render)),
            workers=found.workers,
            is_joining=found.is_joining,
        )

    @classmethod
    def listed(cls, session: Session, rows: list[Render]) -> "list[RenderOut]":
        """Return the answers for several rows."""
        found = render_segments.at_work(session, rows)
        return [cls.of(each, found.get(each.id)) for each in rows]
