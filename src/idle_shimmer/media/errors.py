"""What is wrong with a media file."""

from idle_shimmer.core.errors import ShimmerError


class MediaError(ShimmerError, ValueError):
    """The file is not one with at least one picture that the installed FFmpeg can decode."""
