"""What can go wrong between the store and those who use it."""

from idle_shimmer.core.errors import ShimmerError


class NotFound(ShimmerError, LookupError):
    """The thing was deleted meanwhile, or never existed: go back to the list."""


class ChangedMeanwhile(ShimmerError):
    """Load the newer state, then do the change again if it is still wanted."""


class Unreadable(ShimmerError, ValueError):
    """A stored document cannot be read: its raw form can be downloaded, and nothing else fails."""
