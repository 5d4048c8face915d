"""Clips: import, list, single pictures."""

import tempfile
import uuid
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import lru_cache
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel

from idle_shimmer.api.clips.clip_answers import ClipOut
from idle_shimmer.api.server.paging import MAX_LISTED, Limit, Offset
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.files.space import disk_full, is_full, require_space
from idle_shimmer.media.decode.client import remote_peaks
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.previews.jpeg import jpeg
from idle_shimmer.media.previews.picture_cache import PREVIEW_BOX, Source, fitted, picture_cache
from idle_shimmer.media.sound.waveform import PEAKS_PER_SECOND
from idle_shimmer.media.write.sequences import join_pictures
from idle_shimmer.settings import settings
from idle_shimmer.store.clips import clips, deleting
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.sweeping import UPLOAD_PREFIX, upload_lock

router = APIRouter(prefix="/api/clips", tags=["clips"])
_MAX_STEM_BYTES, _MAX_ENDING = 120, 12


@router.get("")
def list_clips(
    limit: Limit = MAX_LISTED,
    offset: Offset = 0,
    still: bool | None = None,
    sound: bool = False,
) -> list[ClipOut]:
    """Return imported clips, newest first: ``limit`` of them after the first ``offset``.

    ``still`` chooses pictures or videos alone, ``sound`` sounds instead.
    """
    with session_scope() as session:
        found = clips.listed_clips(session, limit, offset, still=still, sound=sound)
        return [ClipOut.of(clip) for clip in found]


@router.post("", status_code=201)
async def import_clip(
    request: Request, name: Annotated[str, Query(min_length=1, max_length=255)]
) -> ClipOut:
    """Import the file whose bytes are the body; ``name`` is its file name.

    The body is streamed to disk. A file that is not a video or picture is refused; of it, and of an
    interrupted upload, nothing stays.
    """
    plain = _file_name(name)
    async with _received(request, plain) as file:
        return await run_in_threadpool(_register, file, plain)


@router.post("/sequence", status_code=201)
async def import_sequence(
    request: Request, name: Annotated[str, Query(min_length=1, max_length=255)], rate: str
) -> ClipOut:
    """Import a PNG sequence as one clip called ``name``, at ``rate`` pictures per second.

    The body is the PNG files, concatenated in order. They are stored bit for bit.
    """
    frame_rate, plain = parse_rate(rate), f"{_file_name(name)}.mov"
    async with _received(request, "pictures") as pictures:
        clip = pictures.with_name(_short_name(plain))
        await run_in_threadpool(join_pictures, pictures, frame_rate, clip)
        return await run_in_threadpool(_register, clip, plain)


class DeletedOut(BaseModel):
    """How many clips were deleted, and how many bytes their files had."""

    clips: int
    size_bytes: int


@router.delete("/unused")
def delete_unused_clips() -> DeletedOut:
    """Delete every clip that no edit, recipe or unfinished render uses, with its file."""
    with session_scope() as session:
        deleted = deleting.delete_unused_clips(session)
    return DeletedOut(clips=deleted.clips, size_bytes=deleted.size_bytes)


@router.delete("/{clip_id}", status_code=204, response_class=Response)
def delete_clip(clip_id: uuid.UUID) -> None:
    """Delete a clip that nothing uses, with its file."""
    with session_scope() as session:
        deleting.delete_clip(session, clips.clip_by_id(session, clip_id))


@asynccontextmanager
async def _received(request: Request, name: str) -> AsyncIterator[Path]:
    """Return the body as a file of about that name, deleted at the end unless it is moved away."""
    announced = int(request.headers.get("content-length", 0))
    require_space(announced, name)
    settings().media.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix=UPLOAD_PREFIX, dir=settings().media) as folder:
        file = Path(folder) / _short_name(name)
        with upload_lock(Path(folder)):
            try:
                with file.open("wb") as out:
                    async for block in request.stream():
                        await run_in_threadpool(out.write, block)
            except OSError as error:
                if is_full(error):
                    raise disk_full(name, announced or None) from error
                raise
            yield file


def _file_name(name: str) -> str:
    plain = Path(name.replace("\\", "/").replace("\0", "")).name
    if not plain.strip() or plain in (".", "..") or not plain.isprintable():
        raise InvalidValue(f"{name!r} is not a file name: rename the file", field="name")
    return plain


def _short_name(name: str) -> str:
    """Return a name that every file system takes; messages name the file so."""
    path = Path(name)
    stem = path.stem.encode()[:_MAX_STEM_BYTES].decode(errors="ignore")
    return f"{stem}{path.suffix[:_MAX_ENDING]}" if path.suffix.isascii() else stem


def _register(file: Path, name: str) -> ClipOut:
    with session_scope() as session:
        return ClipOut.of(clips.register_clip(session, file, name))


@router.get("/{clip_id}/pictures/{number}.jpg", response_class=Response)
def clip_picture(
    clip_id: uuid.UUID,
    number: int,
    height: Annotated[int, Query(ge=16, le=2160)] = 180,
    near: bool = False,
) -> Response:
    """Return picture ``number`` of the clip's own pictures, as JPEG of at most the given height.

    ``near`` returns the last keyframe at or before it: fast, for filmstrips.
    """
    with session_scope() as session:
        clip = clips.clip_by_id(session, clip_id)
    if not 0 <= number < clip.frame_count:
        raise MediaError(
            f"{clip.name} has pictures 0 to {clip.frame_count - 1}, not {number}", field="number"
        )
    # Decoded at the size of the preview, so that both share the open file and its pictures.
    size = fitted((clip.width, clip.height), PREVIEW_BOX)
    small = fitted(size, (size[0], min(height, size[1])))
    path = clips.path_of(clip.file)
    if near:
        number = picture_cache().reader(Source(path), size).index.keyframe_before(number)
    picture = picture_cache().shrunk(Source(path), size, small, number)
    return Response(
        jpeg(picture),
        media_type="image/jpeg",
        headers={"Cache-Control": "max-age=31536000, immutable"},
    )


class WaveformOut(BaseModel):
    """The peak (0…1) of every 1 / ``peaks_per_second`` seconds; empty without sound."""

    peaks_per_second: int
    peaks: list[float]


@router.get("/{clip_id}/waveform")
def clip_waveform(clip_id: uuid.UUID) -> WaveformOut:
    """Return the waveform of the clip."""
    with session_scope() as session:
        path = clips.path_of(clips.clip_by_id(session, clip_id).file)
    return WaveformOut(peaks_per_second=PEAKS_PER_SECOND, peaks=_peaks(path))


@lru_cache(maxsize=64)
def _peaks(path: Path) -> list[float]:
    return remote_peaks(path)
