"""The limits of what is accepted and of what it may cost, in one place.

Each can be set by an environment variable: ``IDLE_SHIMMER_MAX_UPLOAD_BYTES=…`` and so on. The limits
of recipes (frames of a window, number of filters) are part of the format and stand with it.
"""

from functools import lru_cache

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

MIN_SIDE_PX = 16
MAX_SIDE_PX = 16384
MAX_FRAME = 2**31 - 1


class Limits(BaseSettings):
    """The limits of one server or worker; sizes in bytes, times in seconds."""

    model_config = SettingsConfigDict(env_prefix="IDLE_SHIMMER_", env_file=None)

    # What comes in.
    max_upload_bytes: int = Field(64 << 30, gt=0)
    max_body_bytes: int = Field(20_000_000, gt=0)
    max_address_length: int = Field(4_000, gt=0)
    # Clips.
    max_picture_px: int = Field(16384 * 8640, gt=0)
    max_pictures: int = Field(2_000_000, gt=0)
    max_duration_s: float = Field(24 * 3600, gt=0)
    max_rate: int = Field(1000, gt=0)
    # Edits.
    max_clips_in_edit: int = Field(1000, gt=0)
    max_name_length: int = Field(200, gt=0)
    # Decoders: processes, the memory of each and of all, and the time of one answer.
    max_decoders: int = Field(48, gt=0)
    decoder_memory_bytes: int = Field(4 << 30, gt=0)
    all_decoders_memory_bytes: int = Field(12 << 30, gt=0)
    decoder_answer_s: float = Field(120, gt=0)
    # Live previews, per client address and in all.
    max_previews_per_client: int = Field(24, gt=0)
    max_previews: int = Field(200, gt=0)
    max_preview_message_bytes: int = Field(1 << 20, gt=0)


@lru_cache(maxsize=1)
def limits() -> Limits:
    """Return the limits of this process."""
    return Limits()


def size_text(size_bytes: int) -> str:
    """Return a size for messages, such as ``1.5 GB``."""
    for unit, one in (("GB", 10**9), ("MB", 10**6), ("kB", 10**3)):
        if size_bytes >= one:
            return f"{size_bytes / one:.3g} {unit}"
    return f"{size_bytes} bytes"
