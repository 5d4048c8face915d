"""How hot loops are compiled: no interpreter lock, kept on disk, fused multiply-add allowed.

With the environment variable ``IDLE_SHIMMER_CHECKED=1`` every access to an array is tested against
its bounds, ours in ``simd`` included: slow, for tests.
"""

import os
from collections.abc import Callable
from typing import Any, TypeVar

import numba

from idle_shimmer.core.compute import jit_cache
from idle_shimmer.core.compute.special_paths import switched_off

CHECKED = os.environ.get("IDLE_SHIMMER_CHECKED") == "1"
_MODE = "-without-".join(filter(None, ("checked" if CHECKED else "plain", switched_off())))
numba.config.CACHE_DIR = jit_cache.prepare(_MODE)

F = TypeVar("F", bound=Callable[..., Any])

# Contraction only: reassociation would let the same recipe differ between machines, and assuming
# finite numbers would turn a fault into a silently wrong picture.
_OPTIONS: dict[str, Any] = {
    "nogil": True,
    "cache": True,
    "fastmath": {"contract"},
    "boundscheck": CHECKED,
}


def kernel(function: F) -> F:
    """Compile ``function`` on its first call with new types, and keep the result on disk."""
    compiled: F = numba.njit(**_OPTIONS)(function)
    return compiled


def inlined(function: F) -> F:
    """Compile ``function`` into every kernel that calls it."""
    compiled: F = numba.njit(**_OPTIONS, inline="always")(function)
    return compiled


@kernel
def copy(source: Any, target: Any) -> None:
    """Copy ``source`` (n,) to ``target`` (n,); Numba's slice assignment takes seven times as long."""
    for n in range(target.shape[0]):
        target[n] = source[n]
