"""How hot loops are compiled: no interpreter lock, kept on disk, fused arithmetic allowed."""

from collections.abc import Callable
from typing import Any, TypeVar

import numba

from idle_shimmer.core import kernel_cache

kernel_cache.use(numba.config)

F = TypeVar("F", bound=Callable[..., Any])

# Contraction and reciprocals only: reassociation would let the same recipe differ by machine,
# and assuming finite numbers would turn a fault into a silent wrong picture.
_FASTMATH = {"contract"}


def kernel(function: F) -> F:
    """Compile a row-band kernel on its first call, and keep the result on disk."""
    compiled: F = numba.njit(nogil=True, cache=True, fastmath=_FASTMATH)(function)
    return compiled


def inlined(function: F) -> F:
    """Compile a helper into every kernel that calls it."""
    compiled: F = numba.njit(nogil=True, cache=True, fastmath=_FASTMATH, inline="always")(function)
    return compiled


@kernel
def copy(source: Any, target: Any) -> None:
    """``source`` (n) into ``target`` (n): an assignment of slices takes seven times as long."""
    for n in range(target.shape[0]):
        target[n] = source[n]
