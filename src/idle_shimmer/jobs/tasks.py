"""The tasks that workers run."""

import json
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TypeVar

import procrastinate
import structlog
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.sound.beats import find_beats
from idle_shimmer.core.subject.strokes import strokes_from_json
from idle_shimmer.edit.snapshot import Snapshot, snapshot_suffix
from idle_shimmer.files.clip_proxies import path_of_proxy
from idle_shimmer.files.kept_files import file_store
from idle_shimmer.files.space import disk_full, is_full
from idle_shimmer.jobs.segmented_render import is_divided, render_in_segments, render_next
from idle_shimmer.jobs.snapshot_render import Cancelled, render_snapshot
from idle_shimmer.media.decode.client import RemoteReader
from idle_shimmer.media.detection import score_cuts
from idle_shimmer.media.previews.picture_cache import PREVIEW_BOX, fitted
from idle_shimmer.media.previews.proxy_video import write_proxy
from idle_shimmer.output.subject.matte_making import make_mattes
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import Claim, ClaimLost
from idle_shimmer.store.clips import beat_detections, cut_detections, subject_mattes
from idle_shimmer.store.clips.clips import path_of, sound_of_clip
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import render_segments, renders
from idle_shimmer.store.tables import Clip

tasks = procrastinate.Blueprint()
_REPORT_EVERY_PICTURES = 25
# A database that restarts is waited for; the work goes on from where it is.
_DATABASE_WAIT_S, _DATABASE_RETRY_S = 300.0, 1.0
_R = TypeVar("_R")
_log = structlog.get_logger(__name__)


class Interrupted(Exception):
    """The worker is stopping: the job is taken up again by the next one."""


_AGAIN = procrastinate.RetryStrategy(wait=0, retry_exceptions={Interrupted})


# Jobs that were deferred under the former name still run.
@tasks.task(name="detect_cuts", aliases=["find_cuts"], pass_context=True, retry=_AGAIN)
def detect_cuts(context: procrastinate.JobContext, clip_id: str) -> None:
    """Score how likely each picture of a finished video begins a new shot."""
    claim = cut_detections.begin(uuid.UUID(clip_id))
    if claim is None:
        return

    def go_on(done: int, total: int) -> None:
        if done % _REPORT_EVERY_PICTURES and done < total:
            return
        if context.should_abort():
            raise Interrupted
        if not _patiently(lambda: cut_detections.report_progress(claim, done)):
            raise Cancelled

    def finish(state: str, message: str) -> None:
        cut_detections.finish(claim, state, message=message)

    with _ending(claim, "detection", finish, cut_detections.release):
        found = score_cuts(path_of(claim.subject), go_on)
        scores = [round(float(each), 3) for each in found]
        _patiently(lambda: cut_detections.finish(claim, "done", scores=scores))


@tasks.task(name="detect_beats", retry=_AGAIN)
def detect_beats(beats_of: str) -> None:
    """Find the beats of a clip's sound; the row has the state, and what was found."""
    clip_id = uuid.UUID(beats_of)
    _patiently(lambda: beat_detections.set_state(clip_id, "running"))
    try:
        found = find_beats(sound_of_clip(beats_of))
        problem = "" if found else "No beat could be found. Tap the tempo, or type it."
    except ShimmerError as error:
        found, problem = None, error.message
    except Exception:
        _log.exception("a job failed", what="beat detection", id=beats_of)
        message = "The detection stopped because of an error in the program. Retry."
        _patiently(lambda: beat_detections.set_state(clip_id, "failed", message=message))
        raise
    state = "failed" if found is None else "done"
    document = None if found is None else asdict(found)
    _patiently(lambda: beat_detections.set_state(clip_id, state, message=problem, found=document))


@tasks.task(name="make_matte", pass_context=True, retry=_AGAIN)
def make_matte(context: procrastinate.JobContext, matte_id: str) -> None:
    """Make the mattes of a subject; the row has the state, and how much they change."""
    claim = subject_mattes.begin(uuid.UUID(matte_id))
    if claim is None:
        return
    file, strokes, first, last = claim.subject
    settings().mattes.mkdir(parents=True, exist_ok=True)
    name = f"{matte_id}-{claim.number}.mkv"

    def go_on(done: int) -> None:
        if context.should_abort():
            raise Interrupted
        if not _patiently(lambda: subject_mattes.report_progress(claim, done)):
            raise Cancelled

    def finish(state: str, message: str) -> None:
        subject_mattes.finish(claim, state, message=message)

    with _ending(claim, "subject", finish, subject_mattes.release):
        out = settings().mattes / name
        part = out.with_suffix(".part")
        try:
            changes = make_mattes(
                path_of(file),
                strokes_from_json(json.dumps(strokes)),
                first,
                last,
                part,
                go_on,
                RemoteReader,
            )
            part.replace(out)
            file_store().keep(out)
        except OSError as error:
            if is_full(error):
                raise disk_full("The subject", None) from error
            raise
        finally:
            part.unlink(missing_ok=True)
        if not _patiently(lambda: subject_mattes.finish(claim, "done", file=name, changes=changes)):
            file_store().delete(out)


@tasks.task(name="make_proxy", pass_context=True, retry=_AGAIN)
def make_proxy(context: procrastinate.JobContext, proxy_of: str) -> None:
    """Make the small copy of a clip whose pictures are slow to decode; nothing waits for it."""
    found = _patiently(lambda: _clip_files(uuid.UUID(proxy_of)))
    if found is None or file_store().has(found[1]):
        return
    clip, out = found
    out.parent.mkdir(parents=True, exist_ok=True)

    def go_on(_: int) -> None:
        if context.should_abort():
            raise Interrupted

    try:
        if write_proxy(clip, out, lambda size: fitted(size, PREVIEW_BOX), go_on):
            file_store().keep(out)
    except (ShimmerError, OSError) as error:
        _log.warning("no proxy was made", clip=proxy_of, reason=str(error))


def _clip_files(clip_id: uuid.UUID) -> tuple[Path, Path] | None:
    """Return the file of a clip and that of its proxy; None for one that was deleted."""
    with session_scope() as session:
        clip = session.get(Clip, clip_id)
        return None if clip is None else (path_of(clip.file), path_of_proxy(clip.sha256))


@tasks.task(name="render", pass_context=True, retry=_AGAIN)
def render(context: procrastinate.JobContext, render_id: str) -> None:
    """Render a snapshot; the row has its state and message."""
    claim = renders.begin(uuid.UUID(render_id))
    if claim is None:
        return
    settings().renders.mkdir(parents=True, exist_ok=True)
    file = settings().renders / renders.file_name(claim, snapshot_suffix(claim.subject))
    done_frames = 0

    def go_on(done: int) -> bool:
        nonlocal done_frames
        done_frames = done
        if context.should_abort():
            raise Interrupted
        return _patiently(lambda: renders.report_progress(claim, done))

    def finish(state: str, message: str) -> None:
        if state == "cancelled":
            render_segments.clear(claim.id)
        renders.finish(claim, state, message=message)

    with _ending(claim, "render", finish, renders.release):
        try:
            snapshot = Snapshot.read(claim.subject)
            if is_divided(snapshot):
                _render_in_segments(claim, snapshot, file, go_on)
            else:
                render_snapshot(claim.subject, file, go_on)
            size = file.stat().st_size
            file_store().keep(file)
        except OSError as error:
            if is_full(error):
                raise disk_full("The render", _needed(claim, file, done_frames)) from error
            raise
        if _patiently(lambda: renders.finish(claim, "done", file=file.name, size=size)):
            _patiently(lambda: render_segments.clear(claim.id))
        else:
            file_store().delete(file)


def _render_in_segments(
    claim: Claim, snapshot: Snapshot, file: Path, go_on: Callable[[int], bool]
) -> None:
    # The queue knows the tasks.
    from idle_shimmer.jobs.worker import defer_help

    def ask_for_help(most: int) -> None:
        _patiently(lambda: defer_help(str(claim.id), most))

    render_in_segments(claim.id, snapshot, file, go_on, ask_for_help, _patiently)


@tasks.task(name="help_render", pass_context=True, retry=_AGAIN)
def help_render(context: procrastinate.JobContext, segments_of: str) -> None:
    """Render segments of a render until none waits; what goes wrong is said by the render itself."""
    render_id = uuid.UUID(segments_of)
    document = _patiently(lambda: renders.snapshot_at_work(render_id))
    if document is None:
        return
    snapshot = Snapshot.read(document)

    def go_on() -> None:
        if context.should_abort():
            raise Interrupted

    try:
        while render_next(render_id, snapshot, go_on, _patiently):
            go_on()
    except (Cancelled, ShimmerError, OSError) as error:
        _log.warning("a segment was not rendered", render=segments_of, reason=str(error))


@contextmanager
def _ending(
    claim: Claim,
    what: str,
    finish: Callable[[str, str], None],
    release: Callable[[Claim], None],
) -> Iterator[None]:
    """Write to the row how a job ended that was not done."""
    try:
        yield
    except Cancelled:
        _patiently(lambda: finish("cancelled", "Cancelled."))
    except Interrupted:
        _patiently(lambda: release(claim))
        raise
    except ClaimLost:
        _log.warning("another worker has taken the job up", what=what, id=str(claim.id))
    except ShimmerError as error:
        message = str(error)
        _patiently(lambda: finish("failed", message))
    except Exception:
        _log.exception("a job failed", what=what, id=str(claim.id))
        message = f"The {what} stopped because of an error in the program; its log has the details. Retry."
        _patiently(lambda: finish("failed", message))
        raise


def _patiently(ask: Callable[[], _R]) -> _R:
    """Return what ``ask`` returns; while the database does not answer, ask again for some minutes."""
    end = time.monotonic() + _DATABASE_WAIT_S
    while True:
        try:
            return ask()
        except (DBAPIError, PoolTimeout, ConnectorException):
            if time.monotonic() > end:
                raise
            _log.warning("waiting for the database")
            time.sleep(_DATABASE_RETRY_S)


def _needed(claim: Claim, file: Path, done_frames: int) -> int | None:
    """Return about how many bytes a render takes, from what it has written so far."""
    total = renders.total_frames_of(claim)
    written = sum(
        each.stat().st_size for each in file.parent.glob(f"*{file.stem}*") if each.is_file()
    )
    return round(written * total / done_frames) if done_frames and written else None
