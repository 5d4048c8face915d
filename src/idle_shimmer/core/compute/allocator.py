"""Keeps the memory of freed pictures for the next ones.

Every filter allocates a new picture and frees its input. The C library returns blocks of that size
to the system at once, and the system clears each page again before its next use: a third of the time
that a large frame takes.
"""

import ctypes

# From glibc's malloc.h, see mallopt(3).
_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
# The largest threshold that glibc accepts; a picture of 1920×1080 in float32 is smaller.
_MAX_BLOCK_BYTES = 32 * 2**20
_MAX_KEPT_BYTES = 256 * 2**20


def keep_freed_memory() -> None:
    """Keep up to 256 MB of freed memory in this process; without glibc this changes nothing."""
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None:
        mallopt(_MMAP_THRESHOLD, _MAX_BLOCK_BYTES)
        mallopt(_TRIM_THRESHOLD, _MAX_KEPT_BYTES)
