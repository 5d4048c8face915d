"""How hot loops are compiled: no interpreter lock, kept on disk, fused multiply-add allowed.

With the environment variable ``IDLE_SHIMMER_CHECKED=1`` every access to an array is tested against
its bounds, ours in ``simd`` included: slow, for tests.
"""

import os
from collections.abc import Callable
from typing import Any, TypeVar

import numba
from numba.core.caching import FunctionCache
from numba.core.runtime import rtsys

from idle_shimmer.core.compute import jit_cache
from idle_shimmer.core.compute.special_paths import switched_off

CHECKED = os.environ.get("IDLE_SHIMMER_CHECKED") == "1"
_MODE = "-without-".join(filter(None, ("checked" if CHECKED else "plain", switched_off())))
numba.config.CACHE_DIR = jit_cache.prepare(_MODE)
jit_cache.one_writer_at_a_time()

F = TypeVar("F", bound=Callable[..., Any])

# Contraction only: reassociation would let the same recipe differ between machines, and assuming
# finite numbers would turn a fault into a silently wrong picture.
_OPTIONS: dict[str, Any] = {
    "nogil": True,
    "fastmath": {"contract"},
    "boundscheck": CHECKED,
}


class _ReadyKernels(FunctionCache):  # type: ignore[misc]  # Numba has no types.
    """Compiled kernels on disk, loaded without what only compiling needs.

    Numba's own cache first loads all that it can compile, which takes longer than the kernels.
    """

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        """Return the kernel for the types ``sig`` from the disk; None where it is not there."""
        rtsys.initialize(target_context)
        with self._guard_against_spurious_io_errors():
            return self._load_overload(sig, target_context)


def kernel(function: F) -> F:
    """Compile ``function`` on its first call with new types, and keep the result on disk."""
    return _kept(function, numba.njit(**_OPTIONS)(function))


def inlined(function: F) -> F:
    """Compile ``function`` into every kernel that calls it."""
    return _kept(function, numba.njit(**_OPTIONS, inline="always")(function))


def _kept(function: F, dispatcher: Any) -> F:
    # What ``cache=True`` does, with our own way of loading.
    dispatcher._cache = _ReadyKernels(function)
    compiled: F = dispatcher
    return compiled


@kernel
def copy(source: Any, target: Any) -> None:
    """Copy ``source`` (n,) to ``target`` (n,); Numba's slice assignment takes seven times as long."""
    for n in range(target.shape[0]):
        target[n] = source[n]
