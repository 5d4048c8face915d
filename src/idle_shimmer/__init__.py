"""Idle Shimmer: transitions built out of image filters across the cut between two clips."""

__version__ = "0.1.0"
