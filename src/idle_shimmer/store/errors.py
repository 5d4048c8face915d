"""The errors of the store."""

from idle_shimmer.core.errors import ShimmerError


class NotFound(ShimmerError, LookupError):
    """The object was deleted, or never existed."""


class ChangedMeanwhile(ShimmerError):
    """The object was changed meanwhile: load the newer version and repeat the change."""


class NameTaken(ShimmerError):
    """Something has this name already: replace it, or choose another name."""


class Unreadable(ShimmerError, ValueError):
    """A stored document cannot be read; its raw form can be downloaded."""
