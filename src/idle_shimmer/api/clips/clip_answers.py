"""What the API answers about a clip."""

import uuid

from pydantic import BaseModel

from idle_shimmer.files.file_store import file_store
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.tables import Clip


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
    interlaced: bool
    notes: list[str]
    missing: bool

    @classmethod
    def of(cls, clip: Clip) -> "ClipOut":
        """Return the answer for a row."""
        fields = {name: getattr(clip, name) for name in cls.model_fields if name != "missing"}
        return cls(**fields, missing=not file_store().has(path_of(clip.file)))
