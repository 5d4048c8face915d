"""How much space media and renders take, and how much of it can be freed."""

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.files.space import sizes_of, space
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.clips.deleting import unused_clips
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/storage", tags=["storage"])


class StorageOut(BaseModel):
    """What the files take, in bytes; ``unused`` clips are in no edit, recipe or unfinished render."""

    media_bytes: int
    renders_bytes: int
    free_bytes: int
    unused_clips: int
    unused_bytes: int


@router.get("")
def storage() -> StorageOut:
    """Return what is held."""
    held = space()
    with session_scope() as session:
        files = [path_of(clip.file) for clip in unused_clips(session)]
    return StorageOut(
        media_bytes=held.media_bytes,
        renders_bytes=held.renders_bytes,
        free_bytes=held.free_bytes,
        unused_clips=len(files),
        unused_bytes=sizes_of(files),
    )
