"""Idle Shimmer: transitions built out of image filters across the cut between two clips."""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from idle_shimmer.scripting import open_clip, render_transition

__version__ = "0.1.0"
__all__ = ["__version__", "open_clip", "render_transition"]


def __getattr__(name: str) -> Any:
    """Return what is offered to scripts; imported when it is used, so that commands start at once."""
    if name in __all__:
        from idle_shimmer import scripting

        return getattr(scripting, name)
    raise AttributeError(f"module 'idle_shimmer' has no attribute '{name}'")
