"""Keeps the memory of freed pictures for the next ones.

Every step makes a new picture and frees one. The C library gives blocks of that size back to the
system at once, which has to clear each page again before its next use: a third of a large frame's
time.
"""

import ctypes

# From glibc's malloc.h (mallopt(3)).
_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
# The most that glibc takes; a picture of 1920x1080 in float32 is smaller.
_LARGEST_KEPT_BYTES = 32 * 2**20
_MOST_KEPT_BYTES = 256 * 2**20


def keep_freed_memory() -> None:
    """For this process, keep up to 256 MB of freed memory; without glibc, nothing is changed."""
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None:
        mallopt(_MMAP_THRESHOLD, _LARGEST_KEPT_BYTES)
        mallopt(_TRIM_THRESHOLD, _MOST_KEPT_BYTES)
