"""The segments of long renders: planned once, each rendered by the worker that holds its newest claim.

A worker that is not heard of for a while has lost its segment: another one takes it up. The number of a
claim is a fencing token, as in ``claims``, and part of the name of the file.
"""

import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import Update, and_, delete, func, or_, select, update
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.files.file_store import file_store
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import MAX_STARTS, ClaimLost
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Render, RenderSegment

# Workers report every few frames; one that is silent for so long is gone, or stopped.
_SILENT = timedelta(seconds=20)


class SegmentFailed(ShimmerError):
    """A segment cannot be rendered."""


@dataclass(frozen=True, slots=True)
class SegmentClaim:
    """The right to render frames ``frames`` of the edit into ``file``; see ``claims``."""

    id: uuid.UUID
    render_id: uuid.UUID
    number: int
    frames: range
    claim: int
    file: Path


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a render in segments is: frames done, segments in each state, workers that have one."""

    done_frames: int
    states: dict[str, int]
    workers: int

    @property
    def is_complete(self) -> bool:
        """Whether every segment is done."""
        return set(self.states) == {"done"}


def plan(render_id: uuid.UUID, parts: Sequence[range]) -> None:
    """Set the segments of a render; those of a former attempt that are done or at work are kept."""
    with session_scope() as session:
        known = {each.number: each for each in _of(session, render_id)}
        for number, frames in enumerate(parts):
            segment = known.pop(number, None)
            if segment is not None and _frames(segment) == frames and _is_kept(segment):
                continue
            if segment is None:
                segment = RenderSegment(render_id=render_id, number=number)
                session.add(segment)
            segment.first_frame, segment.end_frame = frames.start, frames.stop
            segment.state, segment.message, segment.done_frames = "waiting", "", 0
            segment.starts, segment.claim = 0, (segment.claim or 0) + 1
        for segment in known.values():
            session.delete(segment)


def take(render_id: uuid.UUID, worker: str, suffix: str, sound_suffix: str) -> SegmentClaim | None:
    """Claim the next segment that waits, or whose worker is gone; None where there is none.

    Its file ends in ``suffix``, or in ``sound_suffix`` where it is the sound, which has no frames.
    Nothing is taken of a render that is not at work. One that was started too often has failed.
    """
    lost = and_(RenderSegment.state == "running", RenderSegment.seen_at < func.now() - _SILENT)
    wanted = (
        select(RenderSegment)
        .join(Render, Render.id == RenderSegment.render_id)
        .where(RenderSegment.render_id == render_id, Render.state == "running")
        .where(~Render.cancel_asked, or_(RenderSegment.state == "waiting", lost))
        .order_by(RenderSegment.number)
        .limit(1)
        .with_for_update(of=RenderSegment, skip_locked=True)
    )
    with session_scope() as session:
        segment = session.scalar(wanted)
        if segment is None:
            return None
        if segment.starts >= MAX_STARTS:
            segment.state = "failed"
            segment.message = (
                f"Part {segment.number + 1} of the render was started {MAX_STARTS} times and each time"
                " its worker ended before it was done. The log of the worker may say why; then retry."
            )
            return None
        segment.state, segment.done_frames, segment.worker = "running", 0, worker
        segment.claim += 1
        segment.starts += 1
        segment.seen_at = func.now()
        session.flush()
        frames = _frames(segment)
        name = f"{render_id}-{segment.number}-{segment.claim}{suffix if frames else sound_suffix}"
        file = settings().segments / name
        return SegmentClaim(segment.id, render_id, segment.number, frames, segment.claim, file)


def report(claim: SegmentClaim, done_frames: int) -> bool:
    """Store how much is done; return whether to go on. Raises ClaimLost."""
    with session_scope() as session:
        change = _claimed(claim).values(done_frames=done_frames, seen_at=func.now())
        if session.scalar(change.returning(RenderSegment.id)) is None:
            raise ClaimLost
        render = select(Render.cancel_asked, Render.state).where(Render.id == claim.render_id)
        cancelled, state = session.execute(render).one()
        # Where it waits, the worker that has it was stopped: it is taken up again.
        return not cancelled and state in ("running", "waiting")


def finish(claim: SegmentClaim) -> bool:
    """Mark as done; return False where the claim was lost."""
    count = len(claim.frames)
    return _ended(claim, state="done", file=claim.file.name, done_frames=count)


def fail(claim: SegmentClaim, message: str) -> None:
    """Mark as failed: so has the render."""
    _ended(claim, state="failed", message=message)


def release(claim: SegmentClaim) -> None:
    """Put a segment back that was interrupted: it was started, but did not fail."""
    _ended(claim, state="waiting", done_frames=0, starts=RenderSegment.starts - 1)


def progress(render_id: uuid.UUID) -> Progress:
    """Return how far the segments of a render are. Raises SegmentFailed where one has failed."""
    with session_scope() as session:
        segments = _of(session, render_id)
        states: dict[str, int] = {}
        for each in segments:
            states[each.state] = states.get(each.state, 0) + 1
            if each.state == "failed":
                raise SegmentFailed(each.message)
        workers = {each.worker for each in segments if each.state == "running"}
        return Progress(sum(each.done_frames for each in segments), states, len(workers))


@dataclass(frozen=True, slots=True)
class AtWork:
    """How many workers have a segment of a render, and whether all of it is done and being joined."""

    workers: int
    is_joining: bool


def at_work(session: Session, renders: Sequence[Render]) -> dict[uuid.UUID, AtWork]:
    """Return how far those of the renders are that run in segments."""
    ids = [each.id for each in renders if each.state == "running"]
    is_running = RenderSegment.state == "running"
    wanted = (
        select(
            RenderSegment.render_id,
            func.count(RenderSegment.worker.distinct()).filter(is_running),
            func.bool_and(RenderSegment.state == "done"),
        )
        .where(RenderSegment.render_id.in_(ids))
        .group_by(RenderSegment.render_id)
    )
    return {
        render_id: AtWork(max(1, workers), is_joining)
        for render_id, workers, is_joining in session.execute(wanted)
    }


def files(render_id: uuid.UUID) -> list[Path]:
    """Return the files of the segments, in their order; they may have to be brought."""
    with session_scope() as session:
        return [settings().segments / each.file for each in _of(session, render_id)]


def clear(render_id: uuid.UUID) -> None:
    """Delete the segments of a render and their files."""
    with session_scope() as session:
        kept = delete_rows(session, render_id)
    delete_files(render_id, kept)


def delete_rows(session: Session, render_id: uuid.UUID) -> list[Path]:
    """Delete the rows of a render's segments; return their files, for ``delete_files``."""
    wanted = delete(RenderSegment).where(RenderSegment.render_id == render_id)
    names = session.scalars(wanted.returning(RenderSegment.file)).all()
    return [settings().segments / each for each in names if each]


def delete_files(render_id: uuid.UUID, kept: Iterable[Path]) -> None:
    """Delete the files of a render's segments, and what was begun of others."""
    for file in kept:
        file_store().delete(file)
    for file in settings().segments.glob(f"*{render_id}-*"):
        file.unlink(missing_ok=True)


def _of(session: Session, render_id: uuid.UUID) -> list[RenderSegment]:
    wanted = select(RenderSegment).where(RenderSegment.render_id == render_id)
    return list(session.scalars(wanted.order_by(RenderSegment.number)))


def _frames(segment: RenderSegment) -> range:
    return range(segment.first_frame, segment.end_frame)


def _is_kept(segment: RenderSegment) -> bool:
    """Whether another attempt goes on with a segment: done, or at work; ``take`` judges whether it still is."""
    if segment.state == "running":
        return True
    is_done = segment.state == "done"
    return is_done and file_store().has(settings().segments / segment.file)


def _claimed(claim: SegmentClaim) -> Update:
    wanted = update(RenderSegment).where(RenderSegment.id == claim.id)
    return wanted.where(RenderSegment.claim == claim.claim, RenderSegment.state == "running")


def _ended(claim: SegmentClaim, **values: Any) -> bool:
    with session_scope() as session:
        change = _claimed(claim).values(**values)
        return session.scalar(change.returning(RenderSegment.id)) is not None
