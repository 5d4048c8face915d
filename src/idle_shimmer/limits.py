"""The limits of what is accepted and of what it may cost, in one place.

Each can be set by an environment variable: ``IDLE_SHIMMER_MAX_UPLOAD_BYTES=…`` and so on. The limits
of recipes (frames of a window, number of filters) are part of the format and stand with it; those of
edits are constants, because edits are exchanged between installations.
"""

from functools import lru_cache

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

MIN_SIDE_PX = 16
MAX_SIDE_PX = 16384
MAX_FRAME = 2**31 - 1
MAX_CLIPS_IN_EDIT = 1000
MAX_NAME_LENGTH = 200
_GB = 10**9


class Limits(BaseSettings):
    """The limits of one server or worker; sizes in bytes, times in seconds."""

    model_config = SettingsConfigDict(env_prefix="IDLE_SHIMMER_", env_file=None)

    max_upload_bytes: int = Field(100 * _GB, gt=0, description="A file that is imported")
    max_body_bytes: int = Field(20_000_000, gt=0, description="The body of any other request")
    max_address_length: int = Field(4_000, gt=0, description="Characters of an address")
    max_picture_px: int = Field(142_000_000, gt=0, description="Pixels of a clip's picture")
    max_pictures: int = Field(2_000_000, gt=0, description="Pictures of a clip")
    max_duration_s: float = Field(24 * 3600, gt=0, description="Seconds of a clip")
    max_rate: int = Field(1000, gt=0, description="Pictures per second of a clip")
    max_decoders: int = Field(48, gt=0, description="Decoder processes of one server or worker")
    decoder_memory_bytes: int = Field(4 * _GB, gt=0, description="Address space of a decoder")
    all_decoders_memory_bytes: int = Field(
        12 * _GB, gt=0, description="Memory of all decoders of one server or worker"
    )
    decoder_answer_s: float = Field(120, gt=0, description="Seconds for one answer of a decoder")
    cache_bytes: int = Field(
        50 * _GB, gt=0, description="Copies of a shared store's files on one machine"
    )
    max_previews_per_client: int = Field(24, gt=0, description="Previews open from one address")
    max_previews: int = Field(200, gt=0, description="Previews open in all")
    max_preview_message_bytes: int = Field(
        1_000_000, gt=0, description="A message of a page to its preview"
    )


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
